"""What is still free to move: random directions projected on the motions that keep every equation, and their number."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from .compiling import compile_sketch
from .system import System

if TYPE_CHECKING:
    from ..document import Sketch

HELD_BELOW = 1e-8  # measured: held entries stay under 1e-11, free ones above 3e-6


@dataclass(frozen=True)
class Freedom:
    """``count`` independent motions remain; ``free`` lists the references (points, curves) that can move."""

    count: int
    free: frozenset[str]


SHOWN = 8  # random motions that tell what is free: each moves everything that can move


def motions(system: System, x: np.ndarray) -> tuple[int, np.ndarray]:
    """The number of free motions, and a (count, 8) block of random ones.

    The number is unknowns less independent equations; dependent ones, which are few, are counted in the left null
    space.
    """
    n, m = system.count, len(system.kind)
    rng = np.random.default_rng(20)
    if n == 0:
        return 0, np.zeros((0, 1))
    block = system.null_block(x, rng.standard_normal((n, min(SHOWN, n))))
    return max(n - m + left_null(system, x, rng).shape[1], 0), block


def left_null(system: System, x: np.ndarray, rng: np.random.Generator) -> np.ndarray:
    """Combinations (rows, k) of equations that say nothing at ``x``: k equations follow from the others."""
    m = len(system.kind)
    if m == 0:
        return np.zeros((0, 0))
    width = min(8, m)
    while True:
        block = system.silent_block(x, rng.standard_normal((m, width)))
        across, singular, _ = np.linalg.svd(block, full_matrices=False)
        rank = int(np.sum(singular > 1e-4))
        if rank < width or width == m:
            return across[:, :rank]  # type: ignore[no-any-return]
        width = min(2 * width, m)


def freedom(sketch: Sketch) -> Freedom:
    """Count and name what is free in a solved sketch; found once for it, since lists ask for it again and again."""
    found: Freedom = sketch.found("freedom", lambda s: freedom_in(compile_sketch(s), s))
    return found


def freedom_in(system: System, sketch: Sketch) -> Freedom:
    """The same for a sketch whose equations are compiled already, found anew."""
    layout = system.rows.layout
    x = system.start(layout.values)
    count, block = motions(system, x)
    if count == 0:
        return Freedom(0, frozenset())
    moving = np.zeros(len(system.roots), bool)
    moving[: system.count] = np.max(np.abs(block), axis=1) > HELD_BELOW
    scalar_moves = moving[system.variable]
    free: set[str] = set()
    for curve in sketch.curves:
        first, last = layout.spans[curve.id]
        if not scalar_moves[first:last].any():
            continue
        free.add(curve.id)
        for i, name in enumerate(curve.points):
            if scalar_moves[first + 2 * i : first + 2 * i + 2].any():
                free.add(f"{curve.id}.{name}")
    return Freedom(count, frozenset(free))
