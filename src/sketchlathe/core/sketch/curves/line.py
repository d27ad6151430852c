"""A straight line between two ends."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from .base import Curve, Piece, Segment, Snap, Vec
from .pieces import segment_path


class Line(Curve):
    """A line from ``start`` to ``end``."""

    kind: Literal["line"] = "line"
    word: ClassVar[str] = "line"
    points: ClassVar[tuple[str, ...]] = ("start", "end")
    tags: ClassVar[frozenset[str]] = frozenset({"line", "open"})
    start: Vec
    end: Vec

    def pieces(self) -> list[Piece]:
        return [Segment(self.start, self.end)]

    def svg(self) -> str:
        return segment_path(self.start, self.end)

    def middle(self) -> tuple[float, float]:
        """The point half way."""
        return ((self.start[0] + self.end[0]) / 2, (self.start[1] + self.end[1]) / 2)

    def snaps(self) -> list[Snap]:
        return [
            Snap(self.start, "end", f"{self.id}.start"),
            Snap(self.end, "end", f"{self.id}.end"),
            Snap(self.middle(), "middle", None),
        ]

    def anchor(self) -> tuple[tuple[float, float], tuple[float, float]]:
        dx, dy = self.end[0] - self.start[0], self.end[1] - self.start[1]
        long = math.hypot(dx, dy) or 1.0
        return self.middle(), (-dy / long, dx / long)
