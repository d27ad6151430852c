"""Looking closer at a part: measuring, cutting, explaining answers, pictures, the hand-in sheet."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import asdict
from datetime import date
from typing import Any

import numpy as np

from ..core.errors import Trouble
from ..core.inspect import handin
from ..core.inspect.answers import KINDS, verdict
from ..core.inspect.explaining import explain
from ..core.inspect.figures import figure_of, goal_of
from ..core.inspect.flexing import Probe
from ..core.inspect.lightening import Must, lightest
from ..core.inspect.materials import made_of
from ..core.inspect.picture import picture
from ..core.inspect.seeking import come_to
from ..core.inspect.weighing import Units, Weighed, rows, together, weighed
from ..core.mesh.booleans import triangles_compared
from ..core.mesh.surface import Surface
from ..core.model.document import Model, body_title
from ..core.model.measurements import Thing, measure
from ..core.model.results import PartBuild, digest_of
from ..core.quantity import is_plain, show
from ..core.solid import meshing
from ..core.solid.comparing import compared
from ..core.solid.frames import Frame
from ..core.solid.sectioning import section, surface_section
from ..core.steps.base import full_sentence
from . import answers
from .builds import body_facts, reference_facts
from .jobs import job
from .keeping import CACHE, built_part, colour_of, measured, model_of, remember, stuff_of, told_by, write_note


@job
def measure_things(
    document: str, part_id: str, things: list[dict[str, Any]], barred: dict[str, str], note: str
) -> dict[str, Any]:
    """One or two picked things measured."""
    _, _, built = built_part(document, part_id, barred, note)
    return measure([Thing.model_validate(t) for t in things], built.bodies)


@job
def cut_section(
    document: str, part_id: str, frame: dict[str, list[float]], barred: dict[str, str], note: str
) -> dict[str, Any]:
    """A part cut by a plane: for each body that is met its area and outline, triangles and lines to draw."""
    _, _, built = built_part(document, part_id, barred, note)
    plane = Frame(*(tuple(frame[name]) for name in ("origin", "x", "normal")))  # type: ignore[arg-type]
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


@job
def explain_answers(document: str, part_id: str, barred: dict[str, str], note: str) -> list[dict[str, Any]]:
    """What single slip would account for a part's difference from its answers, likeliest first."""
    model = model_of(document)
    part = model.part(part_id)

    def progress(text: str, number: int, count: int) -> None:
        write_note(note, {"title": f"trying {text}", "number": number, "count": count})

    return [c.as_json() for c in explain(model, part_id, part.answers, CACHE, progress)]


_PROBES: OrderedDict[str, Probe] = OrderedDict()


@job
def try_edits(
    document: str, part_id: str, blobs: str, edits: list[dict[str, Any]], barred: dict[str, str], note: str
) -> dict[str, Any]:
    """Whether a part still is what it is with some edits. What was found out once is kept on disk for all workers."""
    path = answers.path_of(blobs, document, part_id, edits)
    known = answers.read(path)
    if known is not None:
        return known
    key = digest_of([document, part_id])
    if key not in _PROBES:
        model = model_of(document)
        remember(_PROBES, key, Probe(model, part_id, CACHE, barred, progress=told_by(model, note)), 4)
    told = asdict(_PROBES[key].try_edits(edits, barred))
    if told["why"] not in barred.values():
        answers.write(path, told)
    return told


@job
def compare_parts(
    document: str, part_id: str, other: str, other_part: str, blobs: str, barred: dict[str, str], note: str
) -> dict[str, Any]:
    """What is gone and what has come from one part to another: bodies whose meshes are put into ``blobs``, volumes."""
    _, _, before = built_part(document, part_id, barred, note)
    _, _, after = built_part(other, other_part, barred, note)
    write_note(note, {"title": "Comparing", "number": 0, "count": 1})
    found = compared(before.bodies, after.bodies)
    key = digest_of(["compare", before.solid_key, after.solid_key])
    if found.exact and not before.references and not after.references:
        return {
            "gone": [body_facts(b, key, blobs) for b in found.gone],
            "come": [body_facts(b, key, blobs) for b in found.come],
            "volumes": [found.gone_volume, found.come_volume],
            "exact": True,
        }
    sides = [_surface(b) for b in (before, after)]
    gone, come = triangles_compared(*sides)
    told: dict[str, Any] = {"volumes": [gone.volume, come.volume], "exact": False}
    for word, surface in (("gone", gone), ("come", come)):
        told[word] = [reference_facts(word, f"{key}{word}", surface, blobs)] if len(surface.triangles) else []
    return told


def _surface(built: PartBuild) -> Surface:
    """All triangles of a part, those of what was only brought as a reference too."""
    meshes = [meshing.for_export(b.shape, 0.02, 0.2) for b in built.bodies]
    pieces = [(m.positions.astype(np.float64), m.triangles) for m in meshes]
    pieces += [(s.positions, s.triangles) for _, _, s in built.references]
    if not pieces:
        return Surface(np.zeros((0, 3)), np.zeros((0, 3), np.int64))
    shift = np.cumsum([0, *(len(p) for p, _ in pieces)])[:-1]
    triangles = [t.astype(np.int64) + by for (_, t), by in zip(pieces, shift)]
    return Surface(np.concatenate([p for p, _ in pieces]), np.concatenate(triangles))


@job
def seek_value(
    document: str, part_id: str, name: str, figure: str, goal: str, barred: dict[str, str], note: str
) -> dict[str, Any]:
    """The value of a parameter at which a part comes to something."""
    model = model_of(document)

    def progress(text: str, number: int, count: int) -> None:
        write_note(note, {"title": f"trying {text}", "number": number - 1, "count": count})

    wanted = figure_of(figure, model, model.part(part_id))
    goal_value = goal_of(wanted, goal, model)
    found = come_to(model, part_id, name, wanted, goal_value, CACHE, progress)
    unit = model.table[name].dimension
    _, best = min(found.tried, key=lambda t: abs(t[1] - goal_value))
    return {
        "formulas": {name: found.formula},
        "builds": found.builds,
        "goal": goal_value,
        "tried": [[show(p, unit, model.units, 3), p, v] for p, v in found.tried],
        "says": wanted.say(best, model),
    }


@job
def lighten(
    document: str, part_id: str, names: list[str], still: dict[str, Any], barred: dict[str, str], note: str
) -> dict[str, Any]:
    """The values of some parameters at which a part is lightest and still as it must be."""
    model = model_of(document)

    def progress(text: str, number: int, count: int) -> None:
        write_note(note, {"title": f"trying {text}", "number": number - 1, "count": count})

    must = Must.of(model, still)
    found = lightest(model, part_id, names, must, CACHE, progress)
    return {
        "formulas": found.formulas,
        "builds": found.builds,
        "says": f"{Units(model.units, 'oz' if model.units == 'in' else 'g').mass_of(found.mass)}",
        "held": found.held,
    }


@job
def draw_part(document: str, part_id: str, width: int, height: int, barred: dict[str, str], note: str) -> bytes:
    """A PNG picture of a part, ``width`` x ``height`` pixels."""
    model, part, built = built_part(document, part_id, barred, note)
    meshes = []
    for body in built.bodies:
        size = max(h - l for l, h in zip(*measured(body, built.solid_key).box))
        meshing.tessellate(body.shape, meshing.view_tolerance(size))
        meshes.append(meshing.extract(body.shape))
    return picture(meshes, width, height, [colour_of(model, part, b) for b in built.bodies])


def _in_short(one: Weighed, units: Units) -> str:
    """Volume and mass of one body."""
    return ", ".join(r.text for r in rows(together([one]), units) if r.what in ("volume", "mass"))


def _parameter(model: Model, name: str, formula: str) -> str:
    value = show(model.table[name].value, model.table[name].dimension, model.units, 3)
    return value if is_plain(formula) else f"{formula} = {value}"


@job
def hand_in_part(
    document: str, part_id: str, kind: str, person: str, revision: int, barred: dict[str, str], note: str
) -> bytes:
    """The hand-in sheet of a part, as ``pdf`` or ``png``."""
    model, part, built = built_part(document, part_id, barred, note)
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
        person,
        date.today(),
        revision,
        made_of(model, part, built.bodies),
        draw_part(document, part_id, 960, 540, barred, note),
        [(r.what, r.text) for r in rows(whole, units) if not r.detail],
        [
            (KINDS[a.what], a.text + (f" ± {a.tolerance.lstrip('± ')}" if a.tolerance else ""), v.text)
            for a, v in verdicts
        ],
        [full_sentence(s, model) + (" (skipped)" if s.skipped else "") for s in part.steps[:limit]],
        [(body_title(model, b.id), _in_short(w, units)) for b, w in zip(built.bodies, found)] if len(found) > 1 else [],
        [(p.name, _parameter(model, p.name, p.formula)) for p in model.parameters],
    )
    return handin.pdf(sheet) if kind == "pdf" else handin.png(sheet)
