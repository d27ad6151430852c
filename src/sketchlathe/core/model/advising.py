"""Advice that needs the whole part: what to look at in its steps, each with a one-click remedy.

A rule is a function from a built part to (step id, advice); a new one is added to ``RULES``.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

from ..advice import Advice
from ..errors import BadInput
from ..names import head
from ..quantity import evaluate, names_in
from ..quantity.units import LENGTH, NUMBER
from ..saying import opens
from .edits.steps import standings

if TYPE_CHECKING:
    from ..making.results import PartBuild
    from ..steps.base import Step
    from .document import Model, Part

Found = Iterator[tuple[str, Advice]]


def advise(model: Model, part: Part, built: PartBuild) -> dict[str, list[Advice]]:
    """Advice by step, of all rules."""
    found: dict[str, list[Advice]] = {}
    for rule in RULES:
        for step, advice in rule(model, part, built):
            found.setdefault(step, []).append(advice)
    return found


def beyond(model: Model, part: Part, built: PartBuild) -> dict[str, str]:
    """By step, what is said of its numbers that are beyond the limits that somebody gave them: before anything else
    that may be wrong with it.
    """
    return {step: advice.text for step, advice in _outside_limits(model, part, built)}


def _cut_into(model: Model, part: Part, built: PartBuild) -> Found:
    """A rounding or bevel that a later shape cuts into belongs behind that shape."""
    places = standings(part)
    for at, result in enumerate(built.steps):
        if result.status != "ok" or not result.with_tools:
            continue
        before, after = result.was_dressed, result.dressed
        hurt = {head(atom) for atom, count in before.items() if after.get(atom, 0) != count}
        for step in sorted(hurt):
            if step not in places:
                continue
            word = "rounding" if any(a.startswith(f"{step}:blend") for a in before) else "bevel"
            later = model.title_of(result.step)
            if places[step].last >= at:
                edits = ({"kind": "move_step", "step": step, "to": at},)
                yield step, Advice(f"{later} cuts into this {word}.", f"move it behind {later}", edits=edits)
            else:
                yield step, Advice(f"{later} cuts into this {word}; it may break when sizes change.")


def _same_lengths(model: Model, part: Part, built: PartBuild) -> Found:
    """Two main lengths of one sort typed alike are perhaps one: linked by a parameter they change together."""
    seen: dict[tuple[str, float], tuple[Step, str]] = {}
    for step, result in zip(part.steps, built.steps):
        field = next((n for n, b in step.blanks().items() if b.main and b.type == "length"), None)
        if field is None or result.status != "ok" or field not in step.formulas():
            continue
        text = getattr(step, field)
        if text == type(step).model_fields[field].default:
            continue
        try:
            if names_in(text):
                continue
            value = round(evaluate(text, {}, wanted=LENGTH, length_unit=model.units).value, 9)
            alike = step.blanks()[field].label, value
        except BadInput:
            continue
        if alike not in seen:
            seen[alike] = (step, field)
            continue
        other, other_field = seen[alike]
        label = step.blanks()[field].label.replace(" ", "_")
        name = next(n for n in _names(label) if n not in {p.name for p in model.parameters})
        yield (
            step.id,
            Advice(
                f"{model.title_of(other.id)} has the same {other.blanks()[other_field].label}, {text}.",
                "link them",
                edits=(
                    {"kind": "add_parameter", "name": name, "formula": text},
                    {"kind": "set_fields", "step": other.id, "fields": {other_field: name}},
                    {"kind": "set_fields", "step": step.id, "fields": {field: name}},
                ),
            ),
        )


def _names(label: str) -> Iterator[str]:
    yield f"common_{label}"
    number = 2
    while True:
        yield f"common_{label}_{number}"
        number += 1


def _outside_limits(model: Model, part: Part, built: PartBuild) -> Found:
    """A number beyond the limits that somebody gave it."""
    from .knobs import knobs

    known = {k.knob: k for k in model.limits}
    if not known:
        return
    for knob in knobs(model, part):
        limits = known.get(knob.id)
        if limits is None:
            continue
        for text, sense, word in ((limits.low, -1, "below"), (limits.high, 1, "above")):
            try:
                wanted = None if knob.dimension == NUMBER else knob.dimension
                end = evaluate(text, model.table.values, wanted=wanted, length_unit=model.units).value if text else None
            except BadInput:
                continue
            if end is None or (knob.value - end) * sense <= 1e-9 * max(1.0, abs(end)):
                continue
            at = knob.step or next((s.id for s in part.steps if knob.title in _names_in(s)), "")
            if at:
                said = f"{opens(knob.name)} is {knob.said(knob.value, model, 5)}, {word} its limit of {text}."
                yield at, Advice(said, f"make it {text}", edits=(dict(knob.turned(end, model)),))


def _names_in(step: Step) -> set[str]:
    """The parameters that a step's formulas and dimensions use."""
    from .edits.parameters import formulas_of

    found: set[str] = set()
    for formula in formulas_of(step):
        try:
            found |= names_in(formula)
        except BadInput:
            continue
    return found


RULES: tuple[Callable[[Model, Part, PartBuild], Found], ...] = (_cut_into, _same_lengths, _outside_limits)
