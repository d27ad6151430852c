"""Trying what would be: other numbers, other parts beside this one, what explains a wrong answer."""

from __future__ import annotations

from collections import OrderedDict
from typing import cast

import numpy as np

from ..core.amounts.weighing import Units
from ..core.forms import CauseTold
from ..core.inspect.explaining import explain
from ..core.inspect.figures import figure_of, goal_of
from ..core.inspect.flexing import Probe
from ..core.inspect.lightening import Must, lightest
from ..core.inspect.seeking import come_to
from ..core.making.results import PartBuild
from ..core.mesh.booleans import triangles_compared
from ..core.mesh.surface import Surface
from ..core.plain_json import digest_of
from ..core.quantity import show
from ..core.solid import meshing
from ..core.solid.comparing import compared
from . import answers, kept_answers, requests
from .builds import body_facts, reference_facts
from .caches import CACHE, remember, told_by
from .jobs import Desk, handles


@handles(requests.ExplainAnswers)
def explain_answers(asked: requests.ExplainAnswers, desk: Desk) -> list[CauseTold]:
    """What single slip would account for a part's difference from its answers, likeliest first."""
    model = desk.model(asked.document)
    part = model.part(asked.part)

    def progress(text: str, number: int, count: int) -> None:
        desk.say(f"trying {text}", number, count)

    return [c.as_json() for c in explain(model, asked.part, part.answers, CACHE, progress)]


_PROBES: OrderedDict[str, Probe] = OrderedDict()


@handles(requests.TryEdits)
def try_edits(asked: requests.TryEdits, desk: Desk) -> answers.HeldUp:
    """Whether a part still is what it is with some edits. What was found out once is kept on disk for all workers."""
    kept = kept_answers.key_of(asked.document, asked.part, asked.edits)
    known = desk.blobs.kept(kept)
    if known is not None:
        return cast(answers.HeldUp, known)
    key = digest_of([asked.document, asked.part])
    if key not in _PROBES:
        model = desk.model(asked.document)
        remember(_PROBES, key, Probe(model, asked.part, CACHE, desk.barred, progress=told_by(model, desk)), 4)
    came = _PROBES[key].try_edits(asked.edits, desk.barred)
    told: answers.HeldUp = {"holds": came.holds, "step": came.step, "why": came.why, "same": came.same}
    if told["why"] not in desk.barred.values():
        desk.blobs.keep(told, kept)
    return told


@handles(requests.ComparePart)
def compare_part(asked: requests.ComparePart, desk: Desk) -> answers.Compared:
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

    def shown(word: str, surface: Surface) -> list[answers.BodyFacts | answers.ReferenceFacts]:
        return [reference_facts(word, f"{key}{word}", surface, desk.blobs)] if len(surface.triangles) else []

    return {
        "gone": shown("gone", gone), "come": shown("come", come), "volumes": [gone.volume, come.volume],
        "exact": False,
    }  # fmt: skip


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
def seek_value(asked: requests.SeekValue, desk: Desk) -> answers.Sought:
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
        "tried": [(show(p, unit, model.units, 3), p, v) for p, v in found.tried],
        "says": wanted.say(best, model),
        "others": list(found.others),
    }


@handles(requests.Lighten)
def lighten(asked: requests.Lighten, desk: Desk) -> answers.Lightest:
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
