"""How much of what was asked for works, where all of it does not."""

from __future__ import annotations

import time
from collections.abc import Callable

from ..errors import CannotBuild

_ROUNDS = 12
_PATIENCE = 8.0  # s that nothing has worked yet: attempts that take seconds are not made for long


def largest_that_works(attempt: Callable[[float], object], wanted: float) -> float:
    """The largest value between nought and ``wanted`` at which an attempt raises nothing, to a four-thousandth of what
    was wanted (bisection); nought where none was found.
    """
    low, high, began = 0.0, wanted, time.monotonic()
    for _ in range(_ROUNDS):
        middle = (low + high) / 2
        try:
            attempt(middle)
            low = middle
        except CannotBuild:
            high = middle
        if low == 0.0 and time.monotonic() - began > _PATIENCE:
            break
    return low
