"""From a sketch to its equations, and back to a sketch."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np

from ...remembering import once_each
from ..constraints.copies import followers
from ..equations.rows import Layout, Rows
from .system import System, compile_rows

if TYPE_CHECKING:
    from ..document import AnySketch, Sketch


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


def with_scalars(sketch: AnySketch, system: System, scalars: np.ndarray) -> AnySketch:
    """The sketch that the system was compiled from with its curves where ``scalars`` (mm) put them.

    Curves that did not move are shared.
    """
    layout = system.rows.layout
    moved, values = moved_spans(layout, scalars, layout.values), scalars.tolist()
    after = sketch.with_curves(
        [
            c.with_scalars(places(c.scalars, values, layout.spans[c.id][0])) if c.id in moved else c
            for c in sketch.curves
        ]
    )
    if moved.isdisjoint(k.id for k in sketch.constraints):
        return after
    return after.with_constraints(
        [
            k.model_copy(update=places(k.unknowns, values, layout.spans[k.id][0])) if k.id in moved else k
            for k in sketch.constraints
        ]
    )


@once_each
def _filled(layout: Layout) -> tuple[list[str], np.ndarray]:
    """Curves and constraints that have scalars, by their ids, and the first scalar of each."""
    spans = {id: first for id, (first, last) in layout.spans.items() if last > first}
    return list(spans), np.array(list(spans.values()), np.int64)


def moved_spans(layout: Layout, scalars: np.ndarray, before: np.ndarray, unseen: float = 0.0) -> set[str]:
    """Ids of curves and constraints of which a scalar is farther than ``unseen`` from where it was."""
    ids, firsts = _filled(layout)
    if not ids:
        return set()
    moved = ~(np.abs(scalars - before) <= unseen)  # so that what is no number has moved
    any_moved = np.logical_or.reduceat(moved, firsts)  # one span ends where the next begins
    return {ids[i] for i in np.flatnonzero(any_moved).tolist()}


def places(named: Mapping[str, Any], values: Sequence[float], at: int) -> dict[str, tuple[float, float] | float]:
    """Places (x, y) and sizes by the names of ``named``, as the values from ``at`` on have them."""
    found: dict[str, tuple[float, float] | float] = {}
    for name, old in named.items():
        if isinstance(old, tuple):
            found[name] = (values[at], values[at + 1])
            at += 2
        else:
            found[name] = values[at]
            at += 1
    return found
