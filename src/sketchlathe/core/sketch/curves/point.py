"""A point by itself: a place for a hole, a centre to build on."""

from __future__ import annotations

from typing import ClassVar, Literal

from .base import Curve, Piece, Snap, Vec


class Point(Curve):
    """A free-standing point."""

    kind: Literal["point"] = "point"
    word: ClassVar[str] = "point"
    points: ClassVar[tuple[str, ...]] = ("at",)
    at: Vec

    def pieces(self) -> list[Piece]:
        return []

    def snaps(self) -> list[Snap]:
        return [Snap(self.at, "point", f"{self.id}.at")]

    def anchor(self) -> tuple[tuple[float, float], tuple[float, float]]:
        return self.at, (0.0, 1.0)
