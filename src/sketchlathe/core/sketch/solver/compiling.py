"""From a sketch to its equations, and back to a sketch."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from .rows import Layout, Rows
from .system import System, compile_rows

if TYPE_CHECKING:
    from ..document import Sketch


def gather(sketch: Sketch) -> Rows:
    """Everything a sketch's curves and constraints say."""
    rows = Rows(Layout(sketch))
    for curve in sketch.curves:
        rows.owner = curve.id
        curve.inner_rows(rows)
    for constraint in sketch.constraints:
        rows.owner = constraint.id
        constraint.say(rows, sketch)
    return rows


def compile_sketch(sketch: Sketch, *, merge: bool = True) -> System:
    """The compiled system of a sketch, at its size."""
    return compile_rows(gather(sketch), sketch.size, merge=merge)


def with_scalars(sketch: Sketch, system: System, scalars: np.ndarray) -> Sketch:
    """The sketch with its curves where ``scalars`` (mm) put them. Curves that did not move are shared."""
    curves = []
    old = system.rows.layout.values
    for curve in sketch.curves:
        first, last = system.rows.layout.spans[curve.id]
        if np.array_equal(scalars[first:last], old[first:last]):
            curves.append(curve)
            continue
        update: dict[str, object] = {}
        at = first
        for name in curve.points:
            update[name] = (float(scalars[at]), float(scalars[at + 1]))
            at += 2
        for name in curve.sizes:
            update[name] = float(scalars[at])
            at += 1
        curves.append(curve.model_copy(update=update))
    return sketch.with_curves(curves)
