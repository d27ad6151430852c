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
from . import answers, requests
from .builds import body_facts, reference_facts
from .jobs import Desk, handles
from .keeping import CACHE, colour_of, measured, remember, stuff_of, told_by


@handles(requests.MeasureThings)
def measure_things(asked: requests.MeasureThings, desk: Desk) -> dict[str, Any]:
    """One or two picked things measured."""
    _, _, built = desk.built(asked.document, asked.part)
    return measure([Thing.model_validate(t) for t in asked.things], built.bodies)


@handles(requests.CutSection)
def cut_section(asked: requests.CutSection, desk: Desk) -> dict[str, Any]:
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


@handles(requests.ExplainAnswers)
def explain_answers(asked: requests.ExplainAnswers, desk: Desk) -> list[dict[str, Any]]:
    """What single slip would account for a part's difference from its answers, likeliest first."""
    model = desk.model(asked.document)
    part = model.part(asked.part)

    def progress(text: str, number: int, count: int) -> None:
        desk.say(f"trying {text}", number, count)

    return [c.as_json() for c in explain(model, asked.part, part.answers, CACHE, progress)]


_PROBES: OrderedDict[str, Probe] = OrderedDict()


@handles(requests.TryEdits)
def try_edits(asked: requests.TryEdits, desk: Desk) -> dict[str, Any]:
    """Whether a part still is what it is with some edits. What was found out once is kept on disk for all workers."""
    kept = answers.key_of(asked.document, asked.part, asked.edits)
    known = desk.blobs.kept(kept)
    if known is not None:
        return dict(known)
    key = digest_of([asked.document, asked.part])
    if key not in _PROBES:
        model = desk.model(asked.document)
        remember(_PROBES, key, Probe(model, asked.part, CACHE, desk.barred, progress=told_by(model, desk)), 4)
    told = asdict(_PROBES[key].try_edits(asked.edits, desk.barred))
    if told["why"] not in desk.barred.values():
        desk.blobs.keep(told, kept)
    return told


@handles(requests.ComparePart)
def compare_part(asked: requests.ComparePart, desk: Desk) -> dict[str, Any]:
    """What is gone and what has come from one part to another: bodies with meshes among the blobs, volumes."""
    _, _, before = desk.built(asked.document, asked.part)
    _, _, after = desk.built(asked.other, asked.other_part)
    desk.say("Comparing", 0, 1)
    found = compared(before.bodies, after.bodies)
    key = digest_of(["compare", before.solid_key, after.solid_key])
    if found.exact and not before.references and not after.references:
        return {
            "gone": [body_facts(b, key, desk.blobs) for b in found.gone],
            "come": [body_facts(b, key, desk.blobs) for b in found.come],
            "volumes": [found.gone_volume, found.come_volume],
            "exact": True,
        }
    sides = [_surface(b) for b in (before, after)]
    gone, come = triangles_compared(*sides)
    told: dict[str, Any] = {"volumes": [gone.volume, come.volume], "exact": False}
    for word, surface in (("gone", gone), ("come", come)):
        told[word] = [reference_facts(word, f"{key}{word}", surface, desk.blobs)] if len(surface.triangles) else []
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


@handles(requests.SeekValue)
def seek_value(asked: requests.SeekValue, desk: Desk) -> dict[str, Any]:
    """The value of a parameter at which a part comes to something."""
    model = desk.model(asked.document)

    def progress(text: str, number: int, count: int) -> None:
        desk.say(f"trying {text}", number - 1, count)

    wanted = figure_of(asked.figure, model, model.part(asked.part))
    goal_value = goal_of(wanted, asked.goal, model)
    found = come_to(model, asked.part, asked.parameter, wanted, goal_value, CACHE, progress)
    unit = model.table[asked.parameter].dimension
    _, best = min(found.tried, key=lambda t: abs(t[1] - goal_value))
    return {
        "formulas": {asked.parameter: found.formula},
        "builds": found.builds,
        "goal": goal_value,
        "tried": [[show(p, unit, model.units, 3), p, v] for p, v in found.tried],
        "says": wanted.say(best, model),
    }


@handles(requests.Lighten)
def lighten(asked: requests.Lighten, desk: Desk) -> dict[str, Any]:
    """The values of some parameters at which a part is lightest and still as it must be."""
    model = desk.model(asked.document)

    def progress(text: str, number: int, count: int) -> None:
        desk.say(f"trying {text}", number - 1, count)

    must = Must.of(model, asked.still)
    found = lightest(model, asked.part, asked.parameters, must, CACHE, progress)
    return {
        "formulas": found.formulas,
        "builds": found.builds,
        "says": f"{Units(model.units, 'oz' if model.units == 'in' else 'g').mass_of(found.mass)}",
        "held": found.held,
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
        [(body_title(model, b.id), _in_short(w, units)) for b, w in zip(built.bodies, found)] if len(found) > 1 else [],
        [(p.name, _parameter(model, p.name, p.formula)) for p in model.parameters],
        [words for _, words in built.afterwards],
    )
    return handin.pdf(sheet) if asked.form == "pdf" else handin.png(sheet)
