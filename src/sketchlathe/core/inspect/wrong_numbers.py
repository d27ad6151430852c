"""One number typed wrong: found by Newton's method on the first answer, one build an evaluation, then tried as a
round number.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

from ..amounts.answers import actual
from ..amounts.weighing import Weighed
from ..model.knobs import Knob, knobs
from ..quantity.units import UNITS, default_unit, number_text, show
from .searching import Cause, Search

_NEWTON = 6


def other_numbers(search: Search) -> Iterator[Cause]:
    """One number typed wrong."""
    all_knobs = list(knobs(search.model, search.part))
    for number, knob in enumerate(all_knobs):
        search.tell(knob.name, number, len(all_knobs))
        if knob.whole:
            yield from _other_count(search, knob)
        elif abs(knob.value) > 1e-12:
            yield from _other_size(search, knob)


def _other_count(search: Search, knob: Knob) -> Iterator[Cause]:
    now = round(knob.value)
    for n in (now + 1, now - 1, now + 2, now - 2, 2 * now, now // 2):
        if n >= 1 and n != now and search.fits(search.after([knob.turn(str(n))])):
            yield Cause(
                f"as if {knob.name} were {n} instead of {now}", 0.7, "a count read wrong", (knob.turn(str(n)),),
                f"make it {n}", _steps(knob),
            )  # fmt: skip


def _steps(knob: Knob) -> tuple[str, ...]:
    return (knob.step,) if knob.step else ()


def _other_size(search: Search, knob: Knob) -> Iterator[Cause]:
    assert search.has is not None
    unit, word = _shown_in(knob, search)
    answer, m = search.wanted[0]
    goal, slack = m.values, m.slack

    def at(value: float) -> Weighed | None:
        return search.after([knob.turn(f"{value / unit!r} {word}".strip())])

    def short(w: Weighed) -> float:
        """How far the first answer is off; of a box or a centre the side that is off most."""
        offs = [a - e for a, e in zip(actual(answer.what, w), goal)]
        return max(offs, key=abs) if which is None else offs[which]

    which: int | None = None
    if len(goal) > 1:
        offs = [a - e for a, e in zip(actual(answer.what, search.has), goal)]
        which = max(range(len(offs)), key=lambda i: abs(offs[i]))
    small = slack[which or 0]
    x0, f0 = knob.value, short(search.has)
    if abs(f0) <= small:
        return
    x1 = knob.value * 1.01
    w1 = at(x1)
    if w1 is None:
        x1 = knob.value * 0.99
        w1 = at(x1)
    if w1 is None:
        return
    f1 = short(w1)
    slope = (f1 - f0) / (x1 - x0)
    if abs(slope) * abs(knob.value) < 1e-9 * max(abs(goal[which or 0]), 1e-9):
        return
    for _ in range(_NEWTON):
        if f1 == f0:
            return
        slope = (f1 - f0) / (x1 - x0)
        x2 = x1 - f1 / slope
        # not past zero and not out of sight in one go
        x2 = min(max(x2, x1 / 3), x1 * 3) if knob.value > 0 else max(min(x2, x1 / 3), x1 * 3)
        w2 = at(x2)
        if w2 is None:
            return
        x0, f0, x1, f1 = x1, f1, x2, short(w2)
        if abs(f1) <= small / 4 or abs(x1 - x0) < 1e-12 * abs(x1):
            break
        if abs(x1 / knob.value) > 60 or abs(x1 / knob.value) < 1 / 60:
            return
    if abs(f1) > small:
        return
    slope = (f1 - f0) / (x1 - x0) if x1 != x0 else slope
    spread = (small + abs(f1)) / abs(slope) if slope else 0.0
    size, digits = roundest(x1 / unit, spread / unit)
    if search.fits(at(size * unit)):
        cost = 0.55 + 0.3 * digits + _oddness(size, knob.value / unit)
    elif search.fits(at(x1)):
        size, cost = x1 / unit, 2.6
    else:
        return
    new = show(size * unit, knob.dimension, search.model.units, 5)
    old = show(knob.value, knob.dimension, search.model.units, 5)
    if new != old:
        yield Cause(
            f"as if {knob.name} were {new} instead of {old}", cost, _slip(knob, size * unit), (knob.turn(new),),
            f"make it {new}", _steps(knob),
        )  # fmt: skip


def _slip(knob: Knob, right: float) -> str:
    """What sort of slip leads from the right value to the one that stands there."""
    factor = abs(right / knob.value)
    if min(abs(factor - 2), abs(factor - 0.5)) < 1e-6:
        is_round = any(word in knob.name for word in ("diameter", "radius"))
        return "radius for diameter" if is_round else "half or twice a size"
    if any(abs(factor / usual - 1) < 1e-6 for usual in (10.0, 0.1, 25.4, 1 / 25.4)):
        return "another unit"
    return "a size read wrong"


def _shown_in(knob: Knob, search: Search) -> tuple[float, str]:
    word = default_unit(knob.dimension, search.model.units)
    return (UNITS[word][0], word) if word else (1.0, "")


def roundest(value: float, spread: float) -> tuple[float, int]:
    """The roundest number within ``spread`` of a value, and how many digits it takes.

    >>> roundest(5.9987, 0.01), roundest(0.898, 0.004), roundest(12.4991, 0.001)
    ((6.0, 1), (0.9, 1), (12.5, 3))
    """
    if value == 0:
        return 0.0, 0
    power = math.floor(math.log10(abs(value)))
    for digits in range(1, 9):
        step = 10.0 ** (power - digits + 1)
        near = round(round(value / step) * step, 12)
        if abs(near - value) <= max(spread, 1e-9 * abs(value)):
            # tens and hundreds have their zeros for nothing; a number above one has its digits before the point too
            return near, digits
    return value, 9


def _oddness(new: float, old: float) -> float:
    """How unlikely a slip from one number to the other is: halves, doubles and tens are likely, far jumps are not."""
    factor = abs(new / old)
    for usual in (2.0, 0.5, 10.0, 0.1, 25.4, 1 / 25.4):
        if abs(factor / usual - 1) < 1e-6:
            return -0.25
    if sorted(number_text(new, 4).replace(".", "")) == sorted(number_text(old, 4).replace(".", "")):
        return -0.2
    return 0.15 * abs(math.log(factor))
