"""A parameter made to come to something: the value at which a part weighs so much, or is so wide."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from ..errors import BadInput, Refused
from ..making.results import BuildCache
from ..model.document import Model
from ..quantity import Quantity, evaluate, show
from .figures import Figure, Given
from .searching import Progress, Search

MOST_BUILDS = 24


@dataclass(frozen=True)
class Found:
    """``formula``: what the parameter is to be; ``tried``: (value of the parameter in its own measure, figure), by
    value; ``goal`` in the figure's measure; how many builds it took.
    """

    formula: str
    tried: tuple[tuple[float, float], ...]
    goal: float
    builds: int


def come_to(
    model: Model,
    part_id: str,
    name: str,
    figure: Figure,
    goal: float,
    cache: BuildCache,
    progress: Progress | None = None,
) -> Found:
    """The value of a parameter at which a part's figure is ``goal``, as near as the figure asks: the nearest to its
    value now that is found by following the figure. Raises ``Refused`` where it has no influence, or the goal is not
    reached.

    Secant steps with quadratic interpolation (Muller 1956) while they come nearer, bisection where they do not; where
    the part cannot be built the step is halved.
    """
    if name not in model.table.values:
        raise BadInput(f"There is no parameter called “{name}”.", where="parameter")
    now = model.table[name]
    search = Search(model, part_id, (), cache, places=figure.places)
    tried: dict[float, float] = {}
    builds = 0

    def at(value: float) -> float | None:
        nonlocal builds
        if value in tried:
            return tried[value] - goal
        if builds >= MOST_BUILDS:
            raise Refused(f"After {MOST_BUILDS} builds it has not come to that: start from another value of {name}.")
        builds += 1
        if progress is not None:
            progress(f"{name} = {_said(value, now, model)}", builds, MOST_BUILDS)
        changed = search.with_edits([{"kind": "set_parameter", "name": name, "formula": _said(value, now, model, 12)}])
        weighed = None if changed is None else search.weigh(changed)
        if changed is None or weighed is None or weighed.volume <= 0:
            return None
        read = figure.read(Given(changed, changed.part(part_id), search.built(changed), weighed))
        if read is None:
            return None
        tried[value] = read
        return read - goal

    start = now.value
    off = at(start)
    if off is None:
        raise Refused(f"The {figure.word} of the part cannot be had as it is now: put that right first.")
    value = _solved(at, start, off, figure.close * (abs(goal) or 1.0), name)
    return Found(_short(value, now, model), tuple(sorted(tried.items())), goal, builds)


def _solved(at: Callable[[float], float | None], start: float, off: float, near: float, name: str) -> float:
    known = [(start, off)]
    if abs(off) <= near:
        return start
    step = 0.05 * abs(start) if start else 1.0
    second = _built(at, start, start + step)
    if second is None:
        second = _built(at, start, start - step)
    if second is None:
        raise Refused(f"The part cannot be built with another value of {name} near this one.")
    known.append(second)
    if abs(second[1] - off) <= 1e-3 * near:
        raise Refused(f"{name} makes no difference to that: choose another parameter.")
    while abs(known[-1][1]) > near:
        guess = _next(known)
        found = _built(at, known[-1][0], guess)
        if found is None:
            raise Refused(
                f"Towards that the part cannot be built any more: the farthest {name} goes here falls short of it."
            )
        if abs(found[0] - known[-1][0]) < 1e-12 * max(1.0, abs(found[0])):
            raise Refused(f"{name} does not bring it to that: the figure jumps past it, or stops before.")
        known.append(found)
    return known[-1][0]


def _built(at: Callable[[float], float | None], good: float, wanted: float) -> tuple[float, float] | None:
    """The figure at a value, or as near to it from a good one as the part can be built (halving
    at most eight times).
    """
    for _ in range(8):
        found = at(wanted)
        if found is not None:
            return wanted, found
        wanted = (good + wanted) / 2
    return None


def _next(known: list[tuple[float, float]]) -> float:
    """Where the figure is to be looked at next. Known values bracket the goal, or the last two lead on to it."""
    (x2, f2), (x1, f1) = known[-1], known[-2]
    below = max((k for k in known if k[1] < 0), key=lambda k: k[1], default=None)
    above = min((k for k in known if k[1] > 0), key=lambda k: k[1], default=None)
    guess = x2 - f2 * (x2 - x1) / (f2 - f1) if f2 != f1 else (x1 + x2) / 2
    if len(known) > 2:
        quadratic = _inverse_quadratic(known[-3:])
        guess = quadratic if quadratic is not None else guess
    if below is not None and above is not None:
        low, high = sorted((below[0], above[0]))
        if not low < guess < high:
            guess = x2 - f2 * (x2 - x1) / (f2 - f1) if f2 != f1 else guess
        if not low < guess < high:
            guess = (low + high) / 2
        return guess
    # no bracket yet: at most twice as far as all that is known
    spread = max(k[0] for k in known) - min(k[0] for k in known)
    reach = max(2 * spread, 0.5 * abs(known[0][0]))
    return min(max(guess, x2 - reach), x2 + reach)


def _inverse_quadratic(known: list[tuple[float, float]]) -> float | None:
    """Where a parabola for the value as a function of the figure passes the goal."""
    (a, fa), (b, fb), (c, fc) = known
    if len({fa, fb, fc}) < 3:
        return None
    first = a * fb * fc / ((fa - fb) * (fa - fc))
    second = b * fa * fc / ((fb - fa) * (fb - fc))
    return first + second + c * fa * fb / ((fc - fa) * (fc - fb))


def _said(value: float, like: Quantity, model: Model, digits: int = 5) -> str:
    return show(value, like.dimension, model.units, digits)


def _short(value: float, like: Quantity, model: Model) -> str:
    """The value with no more digits than it needs."""
    for digits in (4, 5, 6, 7, 8, 10):
        text = _said(value, like, model, digits)
        got = evaluate(text, {}, wanted=like.dimension, length_unit=model.units).value
        if math.isclose(got, value, rel_tol=2e-7):
            return text
    return _said(value, like, model, 12)
