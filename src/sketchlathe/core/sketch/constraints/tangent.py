"""Tangency of a line and a round curve, or of two round curves, at a shared end or not."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any, ClassVar, Literal

from ..solver import residuals as kinds
from .base import Constraint, Mark

if TYPE_CHECKING:
    from ..document import Sketch
    from ..solver.rows import Rows

_NEAR = 1e-6  # ends closer than this (of the sketch's size) are one place


class Tangent(Constraint):
    """Smooth contact. Side and branch are the drawing's.

    At a shared end the equation is an angle there: the distance form would lose rank (its gradient vanishes
    against the two on-circle equations).
    """

    kind: Literal["tangent"] = "tangent"
    word: ClassVar[str] = "tangent"
    symbol: ClassVar[str] = "⌒"
    chord: ClassVar[str] = "kt"
    order: ClassVar[int] = 7
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("line", "round"), ("round", "round"))
    hint: ClassVar[str] = "It takes a line and a circle or arc, or two circles or arcs."

    shared: tuple[str, str] | None = None
    side: float = 1.0
    other: float = 1.0

    @classmethod
    def branch(cls, sketch: Sketch, refs: tuple[str, ...]) -> dict[str, Any]:
        a, b = refs
        shared = _shared_end(sketch, a, b)
        if "line" in sketch.tags_of(a):
            (x0, y0), (x1, y1) = sketch.ends(a)
            cx, cy = sketch.point(f"{b}.centre")
            cross = (x1 - x0) * (cy - y0) - (y1 - y0) * (cx - x0)
            return {"shared": shared, "side": 1.0 if cross >= 0 else -1.0}
        (ax, ay), (bx, by) = sketch.point(f"{a}.centre"), sketch.point(f"{b}.centre")
        ra, rb = sketch.radius(a), sketch.radius(b)
        apart = math.hypot(bx - ax, by - ay)
        choices = {(1.0, 1.0): ra + rb, (1.0, -1.0): ra - rb, (-1.0, 1.0): rb - ra}
        side, other = min(choices, key=lambda k: abs(choices[k] - apart))
        if shared:
            px, py = sketch.point(shared[0])
            inward = (px - ax) * (px - bx) + (py - ay) * (py - by) > 0
            side, other = (0.0, 0.0) if inward else (math.pi, 0.0)
        return {"shared": shared, "side": side, "other": other}

    def say(self, rows: Rows, sketch: Sketch) -> None:
        a, b = self.on
        layout = rows.layout
        centre_b = layout.xy(f"{b}.centre")
        if "line" in sketch.tags_of(a):
            ends = layout.ends(a)
            if self.shared:
                at = layout.xy(self.shared[1])
                rows.add(kinds.ANGLE, (*ends, *at, *centre_b), (self.side * math.pi / 2, 0.0))
            else:
                rows.add(kinds.TANGENT_LINE, (*centre_b, *ends, layout.size(b)), (self.side,))
            return
        centre_a = layout.xy(f"{a}.centre")
        if self.shared:
            at = layout.xy(self.shared[0])
            rows.add(kinds.ANGLE, (*centre_a, *at, *centre_b, *at), (self.side, 0.0))
        else:
            variables = (*centre_a, *centre_b, layout.size(a), layout.size(b))
            rows.add(kinds.TANGENT_ROUND, variables, (self.side, self.other))

    def marks(self, sketch: Sketch) -> list[Mark]:
        if self.shared:
            return [Mark(sketch.point(self.shared[0]), sketch.anchor(self.on[1])[1])]
        return [Mark(*sketch.anchor(self.on[1]))]


def _shared_end(sketch: Sketch, a: str, b: str) -> tuple[str, str] | None:
    """The pair of ends at which two curves meet, if they do."""
    near = _NEAR * sketch.size
    for p in ("start", "end"):
        for q in ("start", "end"):
            first, second = f"{a}.{p}", f"{b}.{q}"
            if first in sketch and second in sketch and math.dist(sketch.point(first), sketch.point(second)) <= near:
                return first, second
    return None
