"""Looking closer at a part: measuring, cutting, pictures, the hand-in sheet."""

from __future__ import annotations

from datetime import date

from ..core.amounts.answers import KINDS, verdict
from ..core.amounts.weighing import Units, Weighed, rows, together, weighed
from ..core.errors import Trouble
from ..core.forms import Measured
from ..core.frames import Frame
from ..core.inspect import handin
from ..core.inspect.picture import picture
from ..core.model.document import Model
from ..core.model.made_of import made_of
from ..core.model.measurements import Thing, measure
from ..core.quantity import is_plain, show
from ..core.solid import meshing
from ..core.solid.sectioning import section, surface_section
from ..core.steps.base import full_sentence
from . import answers, requests
from .caches import colour_of, measured, stuff_of
from .jobs import Desk, handles


@handles(requests.MeasureThings)
def measure_things(asked: requests.MeasureThings, desk: Desk) -> Measured:
    """One or two picked things measured."""
    _, _, built = desk.built(asked.document, asked.part)
    return measure([Thing.model_validate(t) for t in asked.things], built.bodies)


@handles(requests.CutSection)
def cut_section(asked: requests.CutSection, desk: Desk) -> answers.SectionCut:
    """A part cut by a plane: for each body that is met its area and outline, triangles and lines to draw."""
    _, _, built = desk.built(asked.document, asked.part)
    plane = Frame(*(tuple(asked.frame[name]) for name in ("origin", "x", "normal")))  # type: ignore[arg-type]
    found = [made for body in built.bodies if (made := section(body, plane)) is not None]
    found += [made for id, _, surface in built.references if (made := surface_section(id, surface, plane)) is not None]
    return {
        "bodies": [
            {
                "id": s.body,
                "area": s.area,
                "outline": s.outline,
                "positions": [round(float(v), 5) for v in s.positions.ravel()],
                "triangles": [int(v) for v in s.triangles.ravel()],
                "lines": [[round(float(v), 5) for v in line.ravel()] for line in s.lines],
            }
            for s in found
        ],
    }


@handles(requests.DrawPart)
def draw_part(asked: requests.DrawPart, desk: Desk) -> bytes:
    """A PNG picture of a part."""
    model, part, built = desk.built(asked.document, asked.part)
    meshes = []
    for body in built.bodies:
        size = max(h - l for l, h in zip(*measured(body, built.solid_key).box))
        meshing.tessellate(body.shape, meshing.view_tolerance(size))
        meshes.append(meshing.extract(body.shape))
    return picture(meshes, asked.width, asked.height, [colour_of(model, part, b) for b in built.bodies])


def _in_short(one: Weighed, units: Units) -> str:
    """Volume and mass of one body."""
    return ", ".join(r.text for r in rows(together([one]), units) if r.what in ("volume", "mass"))


def _parameter(model: Model, name: str, formula: str) -> str:
    value = show(model.table[name].value, model.table[name].dimension, model.units, 3)
    return value if is_plain(formula) else f"{formula} = {value}"


@handles(requests.HandInPart)
def hand_in_part(asked: requests.HandInPart, desk: Desk) -> bytes:
    """The hand-in sheet of a part, as ``pdf`` or ``png``."""
    model, part, built = desk.built(asked.document, asked.part)
    if not built.bodies:
        raise Trouble(f"“{part.name}” has no solid yet: there is nothing to hand in.")
    found = []
    for body in built.bodies:
        m = measured(body, built.solid_key)
        found.append(weighed(m.volume, m.area, m.centre, m.box, m.moments, stuff_of(model, part, body)["density"]))
    whole, units = together(found), Units(model.units, "oz" if model.units == "in" else "g")
    verdicts = [(a, verdict(a, whole, units)) for a in part.answers]
    limit = len(part.steps) if part.now is None else part.now
    sheet = handin.Sheet(
        model.name if len(model.there) == 1 else f"{model.name}: {part.name}",
        asked.person,
        date.today(),
        asked.revision,
        made_of(model, part, built.bodies),
        draw_part(requests.DrawPart(document=asked.document, part=asked.part, width=960, height=540), desk),
        [(r.what, r.text) for r in rows(whole, units) if not r.detail],
        [
            (KINDS[a.what], a.text + (f" ± {a.tolerance.lstrip('± ')}" if a.tolerance else ""), v.text)
            for a, v in verdicts
        ],
        [full_sentence(s, model) + (" (skipped)" if s.skipped else "") for s in part.steps[:limit]],
        [(model.title_of_body(b.id), _in_short(w, units)) for b, w in zip(built.bodies, found)]
        if len(found) > 1
        else [],
        [(p.name, _parameter(model, p.name, p.formula)) for p in model.parameters],
        [words for _, words in built.afterwards],
    )
    return handin.pdf(sheet) if asked.form == "pdf" else handin.png(sheet)
