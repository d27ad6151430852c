"""What was worked out of something frozen, kept as long as that is there."""

from __future__ import annotations

import functools
import weakref
from collections.abc import Callable
from typing import Any, TypeVar

Thing = TypeVar("Thing")
Found = TypeVar("Found")


def once_each(find: Callable[[Thing], Found]) -> Callable[[Thing], Found]:
    """Work something out of each thing once. Things are told apart by what they are, not by what they say, so one that
    is equal to another is asked by itself, and a copy never has what was found about its original. What is found must
    not be changed by whoever gets it.
    """
    known: dict[int, tuple[weakref.ref[Any], Found]] = {}

    @functools.wraps(find)
    def asked(thing: Thing) -> Found:
        key = id(thing)
        hit = known.get(key)
        if hit is not None and hit[0]() is thing:
            return hit[1]
        found = find(thing)
        known[key] = weakref.ref(thing, lambda _: known.pop(key, None)), found
        return found

    return asked
