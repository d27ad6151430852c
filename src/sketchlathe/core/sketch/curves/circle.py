"""A full circle."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from .base import ArcPiece, Curve, Piece, Size, Snap, Vec


class Circle(Curve):
    """A circle about ``centre``."""

    kind: Literal["circle"] = "circle"
    word: ClassVar[str] = "circle"
    points: ClassVar[tuple[str, ...]] = ("centre",)
    sizes: ClassVar[tuple[str, ...]] = ("radius",)
    tags: ClassVar[frozenset[str]] = frozenset({"centred", "round"})
    centre: Vec
    radius: Size

    def pieces(self) -> list[Piece]:
        return [ArcPiece(self.centre, self.radius, 0.0, 2 * math.pi)]

    def snaps(self) -> list[Snap]:
        (x, y), r = self.centre, self.radius
        quadrants = [(x + r, y), (x, y + r), (x - r, y), (x, y - r)]
        return [
            Snap(self.centre, "centre", f"{self.id}.centre"),
            *(Snap(q, "quadrant", None) for q in quadrants),
        ]

    def anchor(self) -> tuple[tuple[float, float], tuple[float, float]]:
        d = math.sqrt(0.5)
        return (self.centre[0] + self.radius * d, self.centre[1] + self.radius * d), (d, d)
