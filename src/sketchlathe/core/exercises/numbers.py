"""Sets of numbers that differ for everybody: drawn from what a maker allows, and only those that can be told apart."""

from __future__ import annotations

import itertools
import math
import random
from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from ..amounts.answers import What, actual
from ..amounts.weighing import Weighed
from ..model.document import Model
from .terms import Asked, Change, Terms, as_typed, values_of

Numbers = dict[str, str]
"""Parameters by name, each with its value as typed."""
Figures = dict[What, list[float]]
"""What a part comes to (mm, mm², mm³, g), by what is asked; a box from its smallest side to its largest."""

ALL_OF = 2000  # combinations that are listed and shuffled; of more, some are drawn


def candidates(terms: Terms, model: Model, seed: int) -> Iterator[Numbers]:
    """Sets of numbers in an order that ``seed`` shuffles, each once; one empty set where nothing differs.

    A set that has a number the *then* asks for is left out: that change would be none.
    """
    names = [v.parameter for v in terms.varying]
    ranges = [values_of(v, model) for v in terms.varying]
    draw = random.Random(seed)
    after = {c.parameter: c.value for c in terms.then}
    for values in _drawn(ranges, draw):
        numbers = {n: as_typed(n, v, model) for n, v in zip(names, values)}
        if not after or any(numbers.get(n, as_typed(n, model.table[n].value, model)) != t for n, t in after.items()):
            yield numbers


def _drawn(ranges: Sequence[Sequence[float]], draw: random.Random) -> Iterator[tuple[float, ...]]:
    if math.prod(map(len, ranges)) <= ALL_OF:
        every = list(itertools.product(*ranges))
        draw.shuffle(every)
        yield from every
        return
    seen: set[tuple[float, ...]] = set()
    while len(seen) < ALL_OF:
        chosen = tuple(draw.choice(values) for values in ranges)
        if chosen not in seen:
            seen.add(chosen)
            yield chosen


def edits_of(numbers: Mapping[str, str]) -> list[dict[str, Any]]:
    """The edits that give a model these numbers."""
    return [{"kind": "set_parameter", "name": name, "formula": text} for name, text in numbers.items()]


def changed_by(then: Sequence[Change], numbers: Mapping[str, str]) -> Numbers:
    """A set of numbers with what is asked afterwards."""
    return {**numbers, **{c.parameter: c.value for c in then}}


def figures_of(asked: Sequence[Asked], weighed: Weighed) -> Figures:
    """What a part comes to of what is asked."""
    return {a.what: list(actual(a.what, weighed)) for a in asked}


def slack_of(asked: Asked, values: Sequence[float]) -> float:
    """How far each value may be off: a share of the largest of them; of a centre at nought, a thousandth of a mm."""
    return max(asked.within / 100 * max(abs(v) for v in values), 1e-3 if asked.what in ("centre", "box") else 1e-9)


def same_answer(asked: Sequence[Asked], one: Figures, other: Figures) -> bool:
    """Whether what is right for one set would be taken for right in another: by every figure that is asked."""
    return all(
        all(abs(a - b) <= 2 * slack_of(f, one[f.what]) for a, b in zip(one[f.what], other[f.what])) for f in asked
    )
