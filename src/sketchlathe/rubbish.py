"""When Python looks for rubbish."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager

OFTEN = 10_000, 20, 20  # new things before the youngest are looked through, and so on (Python's own: 700, 10, 10)


@contextmanager
def loading() -> Iterator[None]:
    """While modules are loaded there is none: not looking for it takes a fifth off the time."""
    gc.disable()
    try:
        yield
    finally:
        gc.enable()


def loaded() -> None:
    """Nothing that was loaded so far is rubbish: it is not looked through again. In a web process that took 135 ms and
    in a worker 260 ms each time, during which nobody was answered; and what a worker does not touch it shares with
    those beside it.
    """
    gc.freeze()
    gc.set_threshold(*OFTEN)
