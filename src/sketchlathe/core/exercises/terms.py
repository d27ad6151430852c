"""What an exercise asks: figures of a part, numbers that differ, what is to be changed when it is right."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from ..amounts.answers import KINDS, What
from ..errors import BadInput
from ..model.document import Model
from ..quantity import Quantity, evaluate, names_in
from ..quantity.units import default_unit, number_text, show

MOST_SETS = 60
"""Sets of numbers of one exercise: more than a class has people, so that neighbours have different ones."""

Text = Annotated[str, Field(min_length=1, max_length=60)]


class _Frozen(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class Varying(_Frozen):
    """A parameter whose value differs: from ``low`` to ``high`` in steps, each as it was typed."""

    parameter: Text
    low: Text
    high: Text
    step: Text


class Asked(_Frozen):
    """A figure that is asked, and how far off it may be, in percent of what it should be."""

    what: What
    within: float = Field(default=0.1, gt=0, le=20)


class Change(_Frozen):
    """A number that is to be made another when all is right, to see whether the part follows."""

    parameter: Text
    value: Text


class Terms(_Frozen):
    """What an exercise asks of whoever does it.

    ``tries``: how often an answer may be tried, 0 for as often as one likes. ``off_after``, ``why_after``: after how
    many wrong tries it is said by how much it is off, and why.
    """

    part: str = Field(max_length=20)
    asked: tuple[Asked, ...] = Field(min_length=1, max_length=5)
    varying: tuple[Varying, ...] = Field(default=(), max_length=8)
    then: tuple[Change, ...] = Field(default=(), max_length=4)
    tries: int = Field(default=0, ge=0, le=99)
    off_after: int = Field(default=1, ge=0, le=99)
    why_after: int = Field(default=2, ge=0, le=99)


def check(terms: Terms, model: Model) -> None:
    """Whether an exercise can be made of a model. Raises ``BadInput`` in words, with the field it is about."""
    part = model.part(terms.part)
    if part.sort != "part" or not part.steps:
        raise BadInput(f"“{part.name}” has no steps of its own: choose a part that somebody can make.", where="part")
    if len({a.what for a in terms.asked}) != len(terms.asked):
        raise BadInput("Each figure can be asked once.", where="asked")
    for names in ([v.parameter for v in terms.varying], [c.parameter for c in terms.then]):
        if len(set(names)) != len(names):
            raise BadInput("Each parameter can be named once.", where="varying")
    for varying in terms.varying:
        values_of(varying, model)
    for change in terms.then:
        _value(change.value, _plain(change.parameter, model), model, f"then-{change.parameter}")


def _plain(name: str, model: Model) -> Quantity:
    """The value of a parameter that stands by itself: one that follows from others cannot be given a value."""
    parameter = next((p for p in model.parameters if p.name == name), None)
    if parameter is None:
        raise BadInput(f"There is no parameter {name} in “{model.name}”.", where=f"low-{name}")
    if names_in(parameter.formula):
        raise BadInput(f"{name} follows from {parameter.formula}: let that differ instead.", where=f"low-{name}")
    return model.table[name]


def _value(text: str, like: Quantity, model: Model, where: str) -> float:
    try:
        return evaluate(text, {}, wanted=like.dimension, length_unit=model.units).value
    except BadInput as problem:
        raise BadInput(problem.message, where=where) from None


def values_of(varying: Varying, model: Model) -> list[float]:
    """The values that a parameter may have (mm, rad, plain). Raises ``BadInput``."""
    name = varying.parameter
    like = _plain(name, model)
    low = _value(varying.low, like, model, f"low-{name}")
    high = _value(varying.high, like, model, f"high-{name}")
    step = _value(varying.step, like, model, f"step-{name}")
    if high < low:
        raise BadInput(
            f"{name} goes from {varying.low} to {varying.high}: the first is the larger.", where=f"low-{name}"
        )
    if step <= 0:
        raise BadInput(f"{name} needs a step above nought.", where=f"step-{name}")
    count = math.floor((high - low) / step + 1e-9) + 1
    if count > 1000:
        raise BadInput(f"{name} would have {count} values: take a larger step.", where=f"step-{name}")
    return [low + k * step for k in range(count)]


def as_typed(name: str, value: float, model: Model) -> str:
    """A value of a parameter as a person would type it."""
    dimension = model.table[name].dimension
    unit = default_unit(dimension, model.units)
    return show(value, dimension, model.units) if unit else number_text(value)


def words_of(asked: Sequence[Asked]) -> str:
    """The figures that are asked, as a list.

    >>> words_of([Asked(what="volume"), Asked(what="centre")])
    'volume, centre of mass'
    """
    return ", ".join(KINDS[a.what] for a in asked)
