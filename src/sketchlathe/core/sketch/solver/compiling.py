"""From a sketch to its equations, and back to a sketch."""

from __future__ import annotations

from collections.abc import Collection
from typing import TYPE_CHECKING

import numpy as np

from ..constraints.copies import followers
from ..equations.rows import Layout, Rows
from .system import System, compile_rows

if TYPE_CHECKING:
    from ..constraints import Constraint
    from ..document import Sketch


def gather(sketch: Sketch) -> Rows:
    """Everything a sketch's curves and constraints say."""
    rows = Rows(Layout(sketch))
    copies = followers(sketch.constraints)  # everything about a copy follows from its original
    for curve in sketch.curves:
        if curve.id not in copies and not curve.taken:
            rows.owner = curve.id
            curve.inner_rows(rows)
    for constraint in sketch.constraints:
        rows.owner = constraint.id
        constraint.say(rows, sketch)
    return rows


def compile_sketch(sketch: Sketch, *, merge: bool = True, apart: Collection[str] = ()) -> System:
    """The compiled system of a sketch, at its size. ``apart``: constraints whose equalities stay equations."""
    return compile_rows(gather(sketch), sketch.size, merge=merge, apart=apart)


def with_scalars(sketch: Sketch, system: System, scalars: np.ndarray) -> Sketch:
    """The sketch with its curves where ``scalars`` (mm) put them. Curves that did not move are shared."""
    layout = system.rows.layout
    old = layout.values
    moved = scalars != old
    curves = [
        c.with_scalars(_named(scalars, *layout.spans[c.id], (*c.points, *c.inner), c.sizes))
        if moved[slice(*layout.spans[c.id])].any()
        else c
        for c in sketch.curves
    ]
    after = sketch.with_curves(curves)
    constraints = [
        k.model_copy(update=_unknowns(k, scalars, layout.spans[k.id][0]))
        if k.id in layout.spans and moved[slice(*layout.spans[k.id])].any()
        else k
        for k in sketch.constraints
    ]
    if any(a is not b for a, b in zip(constraints, sketch.constraints)):
        after = after.with_constraints(constraints)
    return after


def _unknowns(constraint: Constraint, scalars: np.ndarray, at: int) -> dict[str, object]:
    out: dict[str, object] = {}
    for name, value in constraint.unknowns.items():
        wide = 2 if isinstance(value, tuple) else 1
        out[name] = tuple(scalars[at : at + 2].tolist()) if wide == 2 else float(scalars[at])
        at += wide
    return out


def _named(
    scalars: np.ndarray, first: int, last: int, points: tuple[str, ...], sizes: tuple[str, ...]
) -> dict[str, object]:
    values = scalars[first:last].tolist()
    out: dict[str, object] = {name: (values[2 * i], values[2 * i + 1]) for i, name in enumerate(points)}
    out.update(zip(sizes, values[2 * len(points) :]))
    return out
