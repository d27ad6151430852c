"""A parameter made to come to something: the value at which a part weighs so much, or is so wide."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable
from dataclasses import dataclass

from ..errors import BadInput, Refused
from ..making.results import BuildCache
from ..model.document import Model
from ..quantity import Quantity, evaluate, show
from .figures import CLOSE, Figure, Given
from .searching import Progress, Search

MOST_BUILDS = 24
_TO_BE_NEAREST = 10  # builds more, to say how near it comes where it does not come to it
_ELSEWHERE = (0.25, 0.5, 0.75, 1.5, 2.0, 3.0)  # of the value found: where others are looked for


@dataclass(frozen=True)
class Found:
    """``formula``: what the parameter is to be; ``tried``: (value of the parameter in its own measure, figure), by
    value; ``goal`` in the figure's measure; how many builds it took; ``others``: other formulas that bring it to the
    same.
    """

    formula: str
    tried: tuple[tuple[float, float], ...]
    goal: float
    builds: int
    others: tuple[str, ...] = ()


class _Stuck(Exception):
    """The goal is not reached, and why."""


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
    value now that is found by following the figure, and others that are met farther off. Raises ``Refused`` where it
    has no influence, or the goal is not reached: then with the nearest that is, and what bounds it.

    Secant steps with quadratic interpolation (Muller 1956) while they come nearer, bisection where they do not; where
    the part cannot be built the step is halved.
    """
    if name not in model.table.values:
        raise BadInput(f"There is no parameter called “{name}”.", where="parameter")
    now = model.table[name]
    search = Search(model, part_id, (), cache, places=figure.places)
    tried: dict[float, float] = {}
    failed: set[float] = set()
    builds, most = 0, MOST_BUILDS

    def at(value: float) -> float | None:
        nonlocal builds
        if value in tried:
            return tried[value] - goal
        if builds >= most:
            raise _Stuck("nothing nearer was found")
        builds += 1
        if progress is not None:
            progress(f"{name} = {_said(value, now, model)}", builds, most)
        changed = search.with_edits([{"kind": "set_parameter", "name": name, "formula": _said(value, now, model, 12)}])
        weighed = None if changed is None else search.weigh(changed)
        if changed is None or weighed is None or weighed.volume <= 0:
            failed.add(value)
            return None
        read = figure.read(Given(changed, changed.part(part_id), search.built(changed), weighed))
        if read is None:
            failed.add(value)
            return None
        tried[value] = read
        return read - goal

    start = now.value
    off = at(start)
    if off is None:
        raise Refused(f"The {figure.word} of the part cannot be had as it is now: put that right first.")
    near = figure.close * (abs(goal) or 1.0)
    try:
        value = _solved(at, start, off, near, name)
    except _Stuck as stuck:
        most = builds + _TO_BE_NEAREST
        best, why = _nearest(at, tried, failed, goal, str(stuck))
        raise Refused(
            f"It does not come to {figure.say(goal, model)}: the nearest is {figure.say(tried[best], model)}, at "
            f"{name} = {_short(best, now, model)}; {why}."
        ) from stuck
    needed, most = builds, builds + 2 * MOST_BUILDS
    others = _others(at, tried, value, near) if figure.close <= CLOSE and needed > 1 else []
    texts = [_short(v, now, model) for v in others]
    return Found(_short(value, now, model), tuple(sorted(tried.items())), goal, needed, tuple(texts))


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
    if abs(second[1] - off) <= 1e-9 * abs(off):
        raise Refused(f"{name} makes no difference to that: choose another parameter.")
    while abs(known[-1][1]) > near:
        guess = _next(known)
        found = _built(at, known[-1][0], guess)
        if found is None:
            raise _Stuck("beyond that the part cannot be built")
        if abs(found[0] - known[-1][0]) < 1e-12 * max(1.0, abs(found[0])):
            raise _Stuck("there the figure jumps past it, or stops")
        known.append(found)
    return known[-1][0]


def _nearest(
    at: Callable[[float], float | None], tried: dict[float, float], failed: set[float], goal: float, why: str
) -> tuple[float, str]:
    """Of all values the one that comes nearest to the goal, and what bounds it there, in words. Where values on both
    sides are worse it is looked for between them (a parabola through three, else the middle of the wider side).
    """

    def off(value: float) -> float:
        return abs(tried[value] - goal)

    turning = False
    while True:
        values = sorted(tried)
        i = min(range(len(values)), key=lambda k: off(values[k]))
        if not 0 < i < len(values) - 1:
            break
        a, b, c = values[i - 1 : i + 2]
        turning = (tried[a] - goal) * (tried[c] - goal) > 0
        p, q = (b - a) ** 2 * (off(b) - off(c)), (b - c) ** 2 * (off(b) - off(a))
        under = 2 * ((b - a) * (off(b) - off(c)) - (b - c) * (off(b) - off(a)))
        guess = b - (p - q) / under if abs(under) > 1e-300 else (a + b) / 2
        if not a < guess < c or min(abs(guess - v) for v in (a, b, c)) < 1e-7 * (c - a):
            guess = (a + b) / 2 if b - a > c - b else (b + c) / 2
        if c - a < 1e-6 * max(abs(b), 1.0):
            break
        try:
            if at(guess) is None:
                break
        except _Stuck:
            break
    best = min(tried, key=off)
    if turning:
        return best, "there the figure turns round"
    if failed and any(f > best for f in failed) and best == max(tried):
        return best, "above that the part cannot be built"
    if failed and any(f < best for f in failed) and best == min(tried):
        return best, "below that the part cannot be built"
    return best, why


def _others(at: Callable[[float], float | None], tried: dict[float, float], value: float, near: float) -> list[float]:
    """Other values that come to the same: looked for farther off, where the figure passes the goal once more."""
    found: list[float] = []
    try:
        for share in _ELSEWHERE:
            at(share * value)
        values = sorted(v for v in tried if v != value)
        for a, b in itertools.pairwise(values):
            fa, fb = at(a), at(b)
            if fa is None or fb is None or fa * fb > 0 or a < value < b:
                continue
            known = [(a, fa), (b, fb)]
            while abs(known[-1][1]) > near and abs(known[-1][0] - known[-2][0]) > 1e-12 * max(1.0, abs(b)):
                guess = _next(known)
                off = at(guess)
                if off is None:
                    break
                known.append((guess, off))
            if abs(known[-1][1]) <= near and all(abs(known[-1][0] - v) > 1e-6 * abs(v) for v in (value, *found)):
                found.append(known[-1][0])
    except _Stuck:
        pass
    return found


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
    for digits in (4, 5, 6, 7, 8, 9, 10, 11):
        text = _said(value, like, model, digits)
        got = evaluate(text, {}, wanted=like.dimension, length_unit=model.units).value
        if math.isclose(got, value, rel_tol=1e-10):
            return text
    return _said(value, like, model, 12)
