"""Files: what one has in it, a part as one."""

from __future__ import annotations

import base64

import numpy as np

from ..core import bringing
from ..core.blanks import FacePick
from ..core.errors import Trouble
from ..core.exchange import outlines
from ..core.exchange.base import FORMATS, Export, separately
from ..core.frames import Frame
from ..core.inspect.picture import picture
from ..core.mesh.surface import crowded_edges
from ..core.model.made_of import printed
from ..core.saying import not_whole
from ..core.solid import meshing
from . import answers, requests
from .caches import colour_of, measured
from .jobs import Desk, handles
from .sheets import mass_on


@handles(requests.ReadFile)
def read_file(asked: requests.ReadFile, desk: Desk) -> answers.FileRead:
    """What a file has in it, to be brought in."""
    found = bringing.read_file(desk.blobs.bytes_of(asked.data), asked.name)
    return {
        "gives": found.gives, "step": found.step, "fields": found.fields, "data": found.data, "notes": found.notes,
    }  # fmt: skip


@handles(requests.ExportPart)
def export_part(asked: requests.ExportPart, desk: Desk) -> bytes:
    """A part as a file of some format."""
    how = asked.how
    model, part, built = desk.built(asked.document, asked.part)
    desk.say("Writing the file", 0, 1)
    format_class = FORMATS[asked.format]
    if format_class.needs_solid:
        bad = next(iter(built.failed), None)
        if bad is not None and not built.bodies:
            raise Trouble(f"{model.title_of(bad.step)} could not be built, so there is no solid: {bad.message}")
    outline = None
    if how.get("sketch"):
        outline = outlines.of_sketch(built, how["sketch"], model.title_of(how["sketch"]))
    elif how.get("face"):
        outline = outlines.of_face(built.bodies, FacePick.model_validate(how["face"]), f"{part.name}, a face")
    elif how.get("section"):
        frame = how["section"]
        plane = Frame(*(tuple(frame[n]) for n in ("origin", "x", "normal")))
        outline = outlines.of_section(built.bodies, plane, f"{part.name}, a section")
    bodies = built.bodies
    if how.get("body"):
        bodies = tuple(b for b in bodies if b.id == how["body"])
        if not bodies:
            raise Trouble("That body is not in the part any more.")
    if how.get("printed"):
        bodies = tuple(printed(model, part, bodies))
    if (format_class.of == "sheet") != (part.sort == "sheet"):
        raise Trouble(f"{format_class.word} cannot hold this: choose another format.")
    weighed = part.sort == "sheet" and how.get("weighed", True)
    mass = mass_on(desk, asked.document, built) if weighed else ""
    export = Export(model, part, bodies, how["chord"], how["angle"], outline, built, mass)
    if how.get("separate"):
        return separately(format_class(), export)
    return format_class().write(export)


@handles(requests.CountTriangles)
def count_triangles(asked: requests.CountTriangles, desk: Desk) -> answers.Triangles:
    """How many triangles a mesh of some fineness has, how far its volume is from the exact one (share), a picture of
    it.
    """
    model, part, built = desk.built(asked.document, asked.part)
    count, meshed, exact, shown = 0, 0.0, 0.0, []
    together: list[np.ndarray] = []
    for body in built.bodies:
        mesh = meshing.for_export(body.shape, asked.chord, asked.angle)
        a, b, c = (mesh.positions[mesh.triangles[:, i]].astype(np.float64) for i in range(3))
        meshed += float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum()) / 6
        exact += measured(body, built.solid_key).volume
        count += len(mesh.triangles)
        together.append(mesh.positions[mesh.triangles].astype(np.float64).reshape(-1, 3))
        shown.append(meshing.faceted(mesh))
    seen = picture(shown, 400, 190, [colour_of(model, part, b) for b in built.bodies], samples=2)
    return {
        "lacks": not_whole([model.title_of(r.step) for r in built.failed]),
        "crowded": crowded_edges(np.concatenate(together)) if together else 0, "bodies": len(built.bodies),
        "triangles": count, "off": (meshed - exact) / exact if exact else 0.0,
        "picture": f"data:image/png;base64,{base64.b64encode(seen).decode('ascii')}",
    }  # fmt: skip
