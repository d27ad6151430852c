"""The numbers that somebody typed: parameters, blanks of steps, driving dimensions. What is a formula follows from
them.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from typing import Any

from ..errors import NotFound, Trouble
from ..forms import Pulled
from ..quantity import evaluate, names_in, show
from ..quantity.units import ANGLE, LENGTH, NUMBER, UNITS, Dimension, default_unit
from ..sketch.constraints.dimension import Dimensional
from ..steps.sketch import SketchStep
from .document import Model, Part

_WANTED: dict[str, Dimension] = {"length": LENGTH, "angle": ANGLE, "count": NUMBER}
PLACE = "{value}"
Turn = Callable[[str], Mapping[str, Any]]


@dataclass(frozen=True)
class Knob:
    """A number that somebody typed: what it is called, its value (mm, rad, plain), and the edit that changes it.

    ``id`` stays the same as long as the number is there: ``p:NAME``, ``f:STEP:BLANK``, ``d:SKETCH:CONSTRAINT``.
    ``title``: the name by itself, for lists.
    """

    id: str
    name: str
    title: str
    value: float
    dimension: Dimension
    turn: Turn = field(repr=False)
    step: str = ""
    whole: bool = False

    def said(self, value: float, model: Model, digits: int = 12) -> str:
        """A value of it as it is typed."""
        return str(round(value)) if self.whole else show(value, self.dimension, model.units, digits)

    def pulled(self, model: Model) -> Pulled:
        """What a hand that drags it needs: the edit with ``PLACE`` where the value goes, the unit that is written
        behind a value, what a value (mm, rad, plain) is divided by before, whether it is whole.
        """
        unit = default_unit(self.dimension, model.units)
        return {
            "edit": dict(self.turn(PLACE)), "unit": unit, "per": UNITS[unit][0] if unit else 1.0, "whole": self.whole,
        }  # fmt: skip

    def turned(self, value: float, model: Model) -> Mapping[str, Any]:
        """The edit that gives it a value."""
        return self.turn(self.said(value, model))


def knobs(model: Model, part: Part) -> Iterator[Knob]:
    """Every plain number in the part, parameters of the model first."""
    for p in model.parameters:
        if not names_in(p.formula):
            value = model.table[p.name]
            yield Knob(
                f"p:{p.name}", f"the parameter {p.name}", p.name, value.value, value.dimension,
                lambda text, n=p.name: {"kind": "set_parameter", "name": n, "formula": text},  # type: ignore[misc]
            )  # fmt: skip
    for step in part.steps:
        if step.skipped:
            continue
        title = model.title_of(step.id)
        for name, formula in step.formulas().items():
            blank = step.blanks()[name]
            if names_in(formula):
                continue
            found = _value(formula, _WANTED[blank.type], model)
            if found is not None:
                yield Knob(
                    f"f:{step.id}:{name}", f"the {blank.label} of {title}", f"{blank.label} of {title}",
                    found, _WANTED[blank.type],
                    lambda text, s=step.id, n=name: {"kind": "set_fields", "step": s, "fields": {n: text}},  # type: ignore[misc]
                    step.id, blank.type == "count",
                )  # fmt: skip
        if isinstance(step, SketchStep):
            for k in step.sketch.constraints:
                if isinstance(k, Dimensional) and k.driving and k.value and not names_in(k.value):
                    found = _value(k.value, k.measures, model)
                    if found is not None:
                        yield Knob(
                            f"d:{step.id}:{k.id}", f"the {k.word} in {title}", f"{k.prefix()}{k.value} in "
                                f"{title}", found, k.measures,
                            lambda text, s=step.id, c=k.id: {  # type: ignore[misc]
                                "kind": "set_dimension", "sketch": s, "id": c, "value": text
                            },
                            step.id,
                        )  # fmt: skip


def knob_of(model: Model, part: Part, id: str) -> Knob:
    """The number with this id. Raises ``NotFound``."""
    for knob in knobs(model, part):
        if knob.id == id:
            return knob
    raise NotFound("That number is not in this part (any more), or it follows from a formula now.", where=id)


def _value(formula: str, wanted: Dimension, model: Model) -> float | None:
    try:
        return evaluate(formula, {}, wanted=wanted, length_unit=model.units).value
    except Trouble:
        return None
