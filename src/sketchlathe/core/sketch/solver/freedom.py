"""What is still free to move, by projecting random directions on the motions that keep every equation."""

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


def motions(system: System, x: np.ndarray) -> tuple[int, np.ndarray]:
    """The number of free motions and a (count, width) block of random ones (width above the number)."""
    if system.count == 0:
        return 0, np.zeros((0, 1))
    width = min(16, system.count + 1)
    rng = np.random.default_rng(20)
    while True:
        block = system.null_block(x, rng.standard_normal((system.count, width)))
        singular = np.linalg.svd(block, compute_uv=False)
        rank = int(np.sum(singular > HELD_BELOW * np.sqrt(width)))
        if rank < width or width > system.count:
            return rank, block
        width = min(2 * width, system.count + 1)


def freedom(sketch: Sketch, system: System | None = None) -> Freedom:
    """Count and name what is free in a solved sketch."""
    system = system or compile_sketch(sketch)
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
