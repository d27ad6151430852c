"""A circular arc, counterclockwise from ``start`` to ``end``."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, ClassVar, Literal

from .base import ArcPiece, Curve, Piece, Size, Snap, Vec

if TYPE_CHECKING:
    from ..equations.rows import Rows


class Arc(Curve):
    """An arc about ``centre``; its two ends are kept on the circle by equations of its own."""

    kind: Literal["arc"] = "arc"
    word: ClassVar[str] = "arc"
    points: ClassVar[tuple[str, ...]] = ("centre", "start", "end")
    sizes: ClassVar[tuple[str, ...]] = ("radius",)
    tags: ClassVar[frozenset[str]] = frozenset({"centred", "round", "arc", "open"})
    centre: Vec
    start: Vec
    end: Vec
    radius: Size

    def angles(self) -> tuple[float, float]:
        """Start angle and end angle, the end above the start by the sweep in (0, 2π]."""
        a0 = math.atan2(self.start[1] - self.centre[1], self.start[0] - self.centre[0])
        a1 = math.atan2(self.end[1] - self.centre[1], self.end[0] - self.centre[0])
        while a1 <= a0 + 1e-12:
            a1 += 2 * math.pi
        return a0, a1

    def pieces(self) -> list[Piece]:
        return [ArcPiece(self.centre, self.radius, *self.angles())]

    def snaps(self) -> list[Snap]:
        return [
            Snap(self.start, "end", f"{self.id}.start"),
            Snap(self.end, "end", f"{self.id}.end"),
            Snap(self.centre, "centre", f"{self.id}.centre"),
        ]

    def anchor(self) -> tuple[tuple[float, float], tuple[float, float]]:
        a0, a1 = self.angles()
        a = (a0 + a1) / 2
        n = (math.cos(a), math.sin(a))
        return (self.centre[0] + self.radius * n[0], self.centre[1] + self.radius * n[1]), n

    def turned_over(self) -> Arc:
        return self.model_copy(update={"start": self.end, "end": self.start})

    def twin_point(self, name: str) -> str:
        return {"start": "end", "end": "start"}.get(name, name)

    def inner_rows(self, rows: Rows) -> None:
        rows.on_circle(f"{self.id}.start", self.id)
        rows.on_circle(f"{self.id}.end", self.id)
