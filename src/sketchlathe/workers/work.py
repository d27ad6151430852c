"""What runs inside a worker: builds, previews, exports. Plain data in and out; meshes go to the blob folder."""

from __future__ import annotations

import gzip
import json
import os
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from ..core.errors import CannotBuild, Trouble
from ..core.exchange.base import FORMATS, Export, separately
from ..core.inspect.materials import key_for, material_of
from ..core.inspect.picture import picture
from ..core.mesh.showing import pack_surface
from ..core.mesh.surface import Surface
from ..core.model.advice import Advice
from ..core.model.advising import advise
from ..core.model.building import BuildCache, PartBuild, StepResult, build, digest_of
from ..core.model.document import Model, Part, read_model
from ..core.model.measurements import Thing, measure
from ..core.model.references import find_faces
from ..core.solid import kernel, meshing
from ..core.solid.digest import digest, pick_of_face
from ..core.solid.frames import Frame
from ..core.solid.measuring import Measures, measures, volume
from ..core.solid.naming import Body
from ..core.solid.packing import pack
from ..core.steps.base import full_sentence
from . import answers
from .jobs import blob_path

_CACHE = BuildCache()
_MEASURED: OrderedDict[str, Measures] = OrderedDict()
_MODELS: OrderedDict[str, Model] = OrderedDict()
_SOLID: OrderedDict[str, None] = OrderedDict()  # keys of the solids this worker has built


def prepare() -> None:
    """Before the fork: silence the kernel; importing this module has loaded what jobs need."""
    kernel.silence()


def _remember(store: OrderedDict[str, Any], key: str, value: Any, limit: int) -> None:
    store[key] = value
    store.move_to_end(key)
    while len(store) > limit:
        store.popitem(last=False)


def _model(document: str) -> Model:
    """The model of a JSON text; the last few are kept."""
    key = digest_of(document)
    if key not in _MODELS:
        _remember(_MODELS, key, read_model(json.loads(document)), 8)
    return _MODELS[key]


def _built(document: str, part_id: str, barred: dict[str, str], note: str) -> tuple[Model, Part, PartBuild]:
    model = _model(document)
    part = model.part(part_id)

    def progress(step: str, key: str, number: int, count: int) -> None:
        _write_note(note, {"step": step, "key": key, "number": number, "count": count})

    built = build(model, part, _CACHE, progress=progress, barred=barred)
    _remember(_SOLID, built.solid_key, None, 100)
    return model, part, built


def _write_note(path: str, content: dict[str, Any]) -> None:
    """Say where the work is, so that whoever watches knows it after a crash."""
    if path:
        temporary = f"{path}.{os.getpid()}"
        Path(temporary).write_text(json.dumps(content))
        os.replace(temporary, path)


def build_part(document: str, part_id: str, blobs: str, barred: dict[str, str], note: str) -> dict[str, Any]:
    """Build a part and put its meshes into ``blobs``.

    What was answered once is kept there too, for all workers: a part opened again is shown from that, without the
    kernel. ``cold`` in the answer tells that this worker has not the solids themselves yet (see ``warm_part``).
    """
    path = answers.path_of(blobs, document, part_id, barred)
    kept = answers.read(path, blobs)
    if kept is not None:
        return {**kept, "cold": kept["key"] not in _SOLID}
    result = _build(document, part_id, blobs, barred, "", note)
    answers.write(path, result)
    return {**result, "cold": False}


def warm_up(note: str) -> None:
    """Nothing: whoever waits for it knows that the worker is there."""


def warm_part(document: str, part_id: str, barred: dict[str, str], note: str) -> None:
    """Build a part for what will be asked about it next."""
    _built(document, part_id, barred, note)


def build_draft(
    document: str, part_id: str, blobs: str, barred: dict[str, str], draft: str, note: str
) -> dict[str, Any]:
    """Build a part with a draft step in it, and tell of that step by itself too."""
    return _build(document, part_id, blobs, barred, draft, note)


def _build(document: str, part_id: str, blobs: str, barred: dict[str, str], draft: str, note: str) -> dict[str, Any]:
    model, part, built = _built(document, part_id, barred, note)
    _write_note(note, {"step": "", "key": "", "number": len(part.steps), "count": len(part.steps)})
    advised = {} if draft else advise(model, part, built)
    bodies = [_body_facts(body, built.solid_key, blobs, _stuff(model, part, body)) for body in built.bodies]
    result: dict[str, Any] = {
        "part": part.id,
        "key": built.solid_key,
        "steps": [_step_facts(r, advised.get(r.step, ())) for r in built.steps],
        "bodies": bodies,
        "references": [_reference_facts(*r, blobs) for r in built.references],
        "paints": _paints(part, built.bodies),
        "measurements": [_taken(m.id, m.things, built.bodies) for m in part.measurements],
        "totals": _totals(bodies),
    }
    if draft:
        result["preview"] = _preview(next(r for r in built.steps if r.step == draft), built, blobs)
    return result


def _paints(part: Part, bodies: Sequence[Body]) -> list[dict[str, Any]]:
    """Colours where they belong now: [{"body", "colour", "face" (0-based) or None}]; lost faces have none."""
    found: list[dict[str, Any]] = [{"body": p.body, "face": None, "colour": p.colour} for p in part.paints if p.body]
    for paint in part.paints:
        if paint.face is not None:
            try:
                faces = find_faces(paint.face, bodies).faces
            except CannotBuild:
                continue
            found += [{"body": f.body.id, "face": f.index, "colour": paint.colour} for f in faces]
    return found


def _step_facts(result: StepResult, more: Sequence[Advice] = ()) -> dict[str, Any]:
    facts: dict[str, Any] = {
        "id": result.step,
        "status": result.status,
        "message": result.message,
        "where": result.where,
        "advice": [a.as_json() for a in (*result.advice, *more)],
        "blame": [b for b in result.blame if isinstance(b, dict) and "at" in b],
    }
    if result.sketch is not None:
        facts["frame"] = result.sketch.frame.as_json()
    elif result.datum is not None:
        d = result.datum
        facts["datum"] = {
            **(d.frame.as_json() if d.frame else {"origin": list(d.origin)}),
            **({"direction": list(d.direction)} if d.direction else {}),
        }
    if result.moved:
        facts["moved"] = dict(result.moved)
    return facts


def _measured(body: Body, key: str) -> Measures:
    if key not in _MEASURED:
        _remember(_MEASURED, key, measures(body.shape), 2000)
    return _MEASURED[key]


def _stuff(model: Model, part: Part, body: Body) -> dict[str, Any]:
    """What a body is made of."""
    key = key_for(part, body.id)
    material = material_of(model, key)
    return {"material": key, "density": material.density}


def _body_facts(body: Body, solid_key: str, blobs: str, stuff: Mapping[str, Any] | None = None) -> dict[str, Any]:
    key = digest_of(["body", solid_key, body.id])
    m = _measured(body, key)
    path = blob_path(blobs, key)
    if not path.exists():
        size = max(h - l for l, h in zip(*m.box))
        meshing.tessellate(body.shape, meshing.view_tolerance(size))
        _put_blob(path, pack(body, meshing.extract(body.shape), digest(body)))
    return {
        "id": body.id, "key": key, "volume": m.volume, "area": m.area, "centre": m.centre, "box": m.box,
        "moments": m.moments, **(stuff or {}),
    }  # fmt: skip


def _taken(id: str, things: Sequence[Thing], bodies: Sequence[Body]) -> dict[str, Any]:
    """A kept measurement as it is now, or why it cannot be taken."""
    try:
        return {"id": id, **measure(things, bodies)}
    except Trouble as problem:
        return {"id": id, "rows": [], "lines": [], "problem": problem.message}


def measure_things(
    document: str, part_id: str, things: list[dict[str, Any]], barred: dict[str, str], note: str
) -> dict[str, Any]:
    """One or two picked things measured."""
    _, _, built = _built(document, part_id, barred, note)
    return measure([Thing.model_validate(t) for t in things], built.bodies)


def _reference_facts(step: str, key: str, surface: Surface, blobs: str) -> dict[str, Any]:
    """A surface beside the part: where its triangles are, what it amounts to."""
    mesh_key = digest_of(["reference", key])
    path = blob_path(blobs, mesh_key)
    if not path.exists():
        _put_blob(path, pack_surface(surface, step))
    return {
        "id": step, "key": mesh_key, "volume": surface.volume, "area": surface.area, "box": surface.box,
        "triangles": len(surface.triangles), "closed": surface.closed, "reference": True,
    }  # fmt: skip


def read_file(name: str, data: bytes, note: str) -> dict[str, Any]:
    """What a file has in it, to be brought in."""
    from dataclasses import asdict

    from ..core import bringing

    return asdict(bringing.read_file(data, name))


def _totals(bodies: list[dict[str, Any]]) -> dict[str, Any]:
    total = sum(b["volume"] for b in bodies)
    low = [min((b["box"][0][i] for b in bodies), default=0.0) for i in range(3)]
    high = [max((b["box"][1][i] for b in bodies), default=0.0) for i in range(3)]
    centre = [sum(b["centre"][i] * b["volume"] for b in bodies) / total if total else 0.0 for i in range(3)]
    return {
        "volume": total,
        "area": sum(b["area"] for b in bodies),
        "mass": sum(b["volume"] * b["density"] / 1000.0 for b in bodies),
        "centre": centre,
        "box": [low, high],
    }


def _preview(result: StepResult, built: PartBuild, blobs: str) -> dict[str, Any]:
    """The new shape by itself, its handle, and how much it adds or takes away."""
    at = [r.step for r in built.steps].index(result.step)
    before = built.steps[at - 1].bodies if at else ()
    change = 0.0
    if result.status == "ok":
        was, now = (sum(volume(b.shape) for b in bodies) for bodies in (before, result.bodies))
        change = now - was if abs(now - was) > 1e-9 * max(was, now) else 0.0
    tools = [_body_facts(body, f"tool-{result.key}", blobs) for body in result.tools]
    return {
        "status": result.status,
        "message": result.message,
        "where": result.where,
        "handle": result.handle,
        "change": change,
        "tools": tools,
        "before": [_body_facts(body, built.steps[at - 1].solid_key, blobs) for body in before] if at else [],
    }


def cut_section(
    document: str, part_id: str, frame: dict[str, list[float]], barred: dict[str, str], note: str
) -> dict[str, Any]:
    """A part cut by a plane: for each body that is met its area and outline, triangles and lines to draw."""
    from ..core.solid.sectioning import section, surface_section

    _, _, built = _built(document, part_id, barred, note)
    plane = Frame(*(tuple(frame[name]) for name in ("origin", "x", "normal")))  # type: ignore[arg-type]
    found = [made for body in built.bodies if (made := section(body, plane)) is not None]
    found += [made for id, _, surface in built.references if (made := surface_section(id, surface, plane)) is not None]
    return {
        "area": sum(s.area for s in found),
        "outline": sum(s.outline for s in found),
        "bodies": [
            {
                "id": s.body,
                "area": s.area,
                "positions": [round(float(v), 5) for v in s.positions.ravel()],
                "triangles": [int(v) for v in s.triangles.ravel()],
                "lines": [[round(float(v), 5) for v in line.ravel()] for line in s.lines],
            }
            for s in found
        ],
    }


def explain_answers(document: str, part_id: str, barred: dict[str, str], note: str) -> list[dict[str, Any]]:
    """What single slip would account for a part's difference from its answers, likeliest first."""
    from ..core.inspect.explaining import explain

    model = _model(document)
    part = model.part(part_id)

    def progress(text: str, number: int, count: int) -> None:
        _write_note(note, {"title": f"trying {text}", "number": number, "count": count})

    return [c.as_json() for c in explain(model, part_id, part.answers, _CACHE, progress)]


def settle_draft(document: str, part_id: str, step_id: str, touched: list[str], note: str) -> dict[str, Any]:
    """Better defaults for blanks of a draft step that nobody has touched (which way there is material)."""
    _, part, built = _built(document, part_id, {}, note)
    at = part.index(step_id)
    before = built.steps[at - 1].bodies if at else ()
    return part.steps[at].better_defaults(before, {r.step: r for r in built.steps}, touched)


def find_takeable(document: str, part_id: str, step_id: str, barred: dict[str, str], note: str) -> list[dict[str, Any]]:
    """What an open sketch may take from the solids before it."""
    from ..core.solid.taking import takeable

    _, part, built = _built(document, part_id, barred, note)
    at = part.index(step_id)
    state = built.steps[at].sketch
    bodies = built.steps[at - 1].bodies if at else ()
    if state is None or not bodies:
        return []
    found = takeable(bodies, state.frame)
    by_id = {b.id: b for b in bodies}
    for entry in found:
        section = entry.pop("section", None)
        if section is not None:
            entry["face"] = pick_of_face(by_id[section["body"]], section["face"])
    return found


def _put_blob(path: Path, data: bytes) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    temporary = path.with_suffix(f".{os.getpid()}")
    temporary.write_bytes(gzip.compress(data, 5, mtime=0))
    os.replace(temporary, path)


def _colour(model: Model, part: Part, body: Body) -> str:
    """A body's colour: the one it was given, or its material's."""
    own = next((p.colour for p in part.paints if p.body == body.id), None)
    return own or material_of(model, key_for(part, body.id)).colour


def draw_part(document: str, part_id: str, width: int, height: int, barred: dict[str, str], note: str) -> bytes:
    """A PNG picture of a part, ``width`` x ``height`` pixels."""
    model, part, built = _built(document, part_id, barred, note)
    meshes = []
    for body in built.bodies:
        size = max(h - l for l, h in zip(*_measured(body, digest_of(["body", built.solid_key, body.id])).box))
        meshing.tessellate(body.shape, meshing.view_tolerance(size))
        meshes.append(meshing.extract(body.shape))
    return picture(meshes, width, height, [_colour(model, part, b) for b in built.bodies])


def hand_in_part(
    document: str, part_id: str, kind: str, person: str, revision: int, barred: dict[str, str], note: str
) -> bytes:
    """The hand-in sheet of a part, as ``pdf`` or ``png``."""
    from datetime import date

    from ..core.inspect import handin
    from ..core.inspect.answers import KINDS, verdict
    from ..core.inspect.weighing import Units, rows, together, weighed

    model, part, built = _built(document, part_id, barred, note)
    if not built.bodies:
        raise Trouble(f"“{part.name}” has no solid yet: there is nothing to hand in.")
    found = []
    for body in built.bodies:
        m = _measured(body, digest_of(["body", built.solid_key, body.id]))
        found.append(weighed(m.volume, m.area, m.centre, m.box, m.moments, _stuff(model, part, body)["density"]))
    whole, units = together(found), Units(model.units, "oz" if model.units == "in" else "g")
    verdicts = [(a, verdict(a, whole, units)) for a in part.answers]
    limit = len(part.steps) if part.now is None else part.now
    sheet = handin.Sheet(
        model.name if len(model.parts) == 1 else f"{model.name}: {part.name}",
        person,
        date.today(),
        revision,
        material_of(model, part.material).name,
        draw_part(document, part_id, 960, 540, barred, note),
        [(r.what, r.text) for r in rows(whole, units) if not r.detail],
        [
            (KINDS[a.what], a.text + (f" ± {a.tolerance.lstrip('± ')}" if a.tolerance else ""), v.text)
            for a, v in verdicts
        ],
        [full_sentence(s, model) + (" (skipped)" if s.skipped else "") for s in part.steps[:limit]],
    )
    return handin.pdf(sheet) if kind == "pdf" else handin.png(sheet)


def export_part(
    document: str,
    part_id: str,
    format_kind: str,
    how: dict[str, Any],
    barred: dict[str, str],
    note: str,
) -> bytes:
    """A part as a file of some format.

    ``how``: ``chord`` and ``angle`` of the mesh; ``separate`` for one file a body in a zip; for drawings what is drawn:
    ``sketch`` (a step's id), ``face`` (a pick) or ``section`` (a frame).
    """
    from ..core.exchange import outlines
    from ..core.steps.blanks import FacePick

    model, part, built = _built(document, part_id, barred, note)
    _write_note(note, {"title": "Writing the file", "number": 0, "count": 1})
    format_class = FORMATS[format_kind]
    if format_class.needs_solid:
        bad = next((r for r in built.steps if r.status == "failed"), None)
        if bad is not None and not built.bodies:
            raise Trouble(f"{model.title_of(bad.step)} could not be built, so there is no solid: {bad.message}")
    outline = None
    if how.get("sketch"):
        outline = outlines.of_sketch(built, how["sketch"], model.title_of(how["sketch"]))
    elif how.get("face"):
        outline = outlines.of_face(built.bodies, FacePick.model_validate(how["face"]), f"{part.name}, a face")
    elif how.get("section"):
        frame = how["section"]
        plane = Frame(*(tuple(frame[n]) for n in ("origin", "x", "normal")))  # type: ignore[arg-type]
        outline = outlines.of_section(built.bodies, plane, f"{part.name}, a section")
    export = Export(model, part, built.bodies, how["chord"], how["angle"], outline, built)
    if how.get("separate"):
        return separately(format_class(), export)
    return format_class().write(export)


def count_triangles(
    document: str, part_id: str, chord: float, angle: float, barred: dict[str, str], note: str
) -> dict[str, Any]:
    """How many triangles a mesh of some fineness has, how far its volume is from the exact one (share), a picture of it."""
    import base64

    import numpy as np

    model, part, built = _built(document, part_id, barred, note)
    count, meshed, exact, shown = 0, 0.0, 0.0, []
    for body in built.bodies:
        mesh = meshing.for_export(body.shape, chord, angle)
        a, b, c = (mesh.positions[mesh.triangles[:, i]].astype(np.float64) for i in range(3))
        meshed += float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum()) / 6
        exact += _measured(body, digest_of(["body", built.solid_key, body.id])).volume
        count += len(mesh.triangles)
        shown.append(meshing.faceted(mesh))
    seen = picture(shown, 400, 190, [_colour(model, part, b) for b in built.bodies], samples=2)
    return {
        "triangles": count, "off": (meshed - exact) / exact if exact else 0.0,
        "picture": f"data:image/png;base64,{base64.b64encode(seen).decode('ascii')}",
    }  # fmt: skip


def check_print(
    document: str, part_id: str, blobs: str, process: dict[str, Any], lay: str, barred: dict[str, str], note: str
) -> dict[str, Any]:
    """Whether a part prints as laid, ways to lay it, estimate; its triangles and layers are put into ``blobs``."""
    from ..core.printing import layers, laying, printable, readiness, remedies
    from ..core.printing.process import process_of

    model, part, built = _built(document, part_id, barred, note)
    if not built.bodies:
        raise Trouble(f"“{part.name}” has no solid yet: there is nothing to print.")
    how = process_of(process)
    _write_note(note, {"title": "Meshing", "number": 0, "count": 4})
    raw = printable.printable(built.bodies)
    _write_note(note, {"title": "Trying how to lay it", "number": 1, "count": 4})
    ways = laying.layings(raw, how)
    chosen = next((w for w in ways if w.name == lay), next(w for w in ways if w.name == "as modelled"))
    laid = raw.laid(chosen.matrix)
    job = readiness.Job(laid, how)
    _write_note(note, {"title": "Cutting layers", "number": 2, "count": 4})
    cut = job.layers
    _write_note(note, {"title": "Looking for what could go wrong", "number": 3, "count": 4})
    found = [f for one in readiness.CHECKS for f in one(job)]
    mean = sum(m.volume for m in (_measured(b, digest_of(["body", built.solid_key, b.id])) for b in built.bodies))
    density = sum(
        _measured(b, digest_of(["body", built.solid_key, b.id])).volume * _stuff(model, part, b)["density"]
        for b in built.bodies
    ) / max(mean, 1e-12)  # fmt: skip
    takes = layers.estimate(cut, how, density)
    key = digest_of(["print", built.solid_key, how.model_dump(), chosen.name])
    mesh, drawn = blob_path(blobs, key), blob_path(blobs, digest_of(["layers", key]))
    if not mesh.exists():
        _put_blob(mesh, pack_surface(laid.surface, part.id))
    if not drawn.exists():
        _put_blob(drawn, json.dumps(layers.outlines(cut), separators=(",", ":")).encode())
    return {
        "mesh": key,
        "layers": digest_of(["layers", key]),
        "heights": [round(float(h), 3) for h in cut.heights],
        "chosen": chosen.name,
        "layings": [
            {"name": w.name, "support": w.support, "height": w.height, "footing": w.footing, "fits": w.fits} for w in ways
        ],
        "findings": [
            {**f.as_json(), "titles": [model.title_of(s) for s in f.steps], "remedy": remedies.remedy(model, part, f)}
            for f in found
        ],
        "estimate": {
            "seconds": takes.seconds, "grams": takes.grams, "metres": takes.metres, "cost": takes.cost,
            "layers": len(cut.areas), "material": material_of(model, part.material).name,
        },
        "process": how.model_dump(),
        "box": laid.surface.box,
    }  # fmt: skip


def print_program(
    document: str, part_id: str, process: dict[str, Any], lay: str, revision: int, barred: dict[str, str], note: str
) -> bytes:
    """The program for the printer."""
    from ..core.printing import gcode, layers, laying, printable
    from ..core.printing.process import process_of

    model, part, built = _built(document, part_id, barred, note)
    if not built.bodies:
        raise Trouble(f"“{part.name}” has no solid yet: there is nothing to print.")
    how = process_of(process)
    raw = printable.printable(built.bodies)
    ways = laying.layings(raw, how)
    chosen = next((w for w in ways if w.name == lay), next(w for w in ways if w.name == "as modelled"))
    if not chosen.fits:
        raise Trouble("The part does not fit the bed as it lies, so it is not sent to the printer.")
    cut = layers.slice_up(raw.laid(chosen.matrix).surface, how)
    name = model.name if len(model.parts) == 1 else f"{model.name}, {part.name}"
    return gcode.gcode(cut, how, f"{name}, revision {revision}").encode("ascii")
