"""An ellipse, whole or an arc of it. ``tip`` is one end of its long (or short) axis, ``minor`` the other half axis."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, ClassVar, Literal

from .base import XY, Curve, EllipsePiece, Piece, Size, Snap, Vec

if TYPE_CHECKING:
    from ..equations.rows import Rows


class _Elliptic(Curve):
    """What both share."""

    sizes: ClassVar[tuple[str, ...]] = ("minor",)
    centre: Vec
    tip: Vec
    minor: Size

    @property
    def major(self) -> XY:
        """The half axis as a vector from the centre to the tip."""
        return (self.tip[0] - self.centre[0], self.tip[1] - self.centre[1])

    def parameter(self, p: XY) -> float:
        """The parameter at which a point (about) on the ellipse lies."""
        ux, uy = self.major
        long = math.hypot(ux, uy) or 1e-300
        dx, dy = p[0] - self.centre[0], p[1] - self.centre[1]
        return math.atan2((ux * dy - uy * dx) / long / self.minor, (ux * dx + uy * dy) / long / long)

    def _span(self) -> tuple[float, float]:
        return 0.0, 2 * math.pi

    def pieces(self) -> list[Piece]:
        return [EllipsePiece(self.centre, self.major, self.minor, *self._span())]

    def anchor(self) -> tuple[XY, XY]:
        a0, a1 = self._span()
        t = a0 + 0.125 * (a1 - a0)
        piece = self.pieces()[0]
        assert isinstance(piece, EllipsePiece)
        ux, uy = self.major
        long = math.hypot(ux, uy) or 1.0
        c, s = math.cos(t) * self.minor, math.sin(t) * long
        nx, ny = (ux * c - uy * s) / long, (uy * c + ux * s) / long
        size = math.hypot(nx, ny) or 1.0
        return piece.at(t), (nx / size, ny / size)

    def turned_over(self) -> Curve:
        return self


class Ellipse(_Elliptic):
    """A whole ellipse."""

    kind: Literal["ellipse"] = "ellipse"
    word: ClassVar[str] = "ellipse"
    points: ClassVar[tuple[str, ...]] = ("centre", "tip")
    tags: ClassVar[frozenset[str]] = frozenset({"centred", "elliptic"})

    def snaps(self) -> list[Snap]:
        piece = self.pieces()[0]
        assert isinstance(piece, EllipsePiece)
        quadrants = [piece.at(k * math.pi / 2) for k in (1, 2, 3)]
        return [
            Snap(self.centre, "centre", f"{self.id}.centre"),
            Snap(self.tip, "end", f"{self.id}.tip"),
            *(Snap(q, "quadrant", None) for q in quadrants),
        ]


class EllipseArc(_Elliptic):
    """An arc of an ellipse, counterclockwise from ``start`` to ``end``."""

    kind: Literal["ellipse_arc"] = "ellipse_arc"
    word: ClassVar[str] = "elliptical arc"
    points: ClassVar[tuple[str, ...]] = ("centre", "tip", "start", "end")
    tags: ClassVar[frozenset[str]] = frozenset({"centred", "elliptic", "open"})
    start: Vec
    end: Vec

    def _span(self) -> tuple[float, float]:
        a0, a1 = self.parameter(self.start), self.parameter(self.end)
        while a1 <= a0 + 1e-12:
            a1 += 2 * math.pi
        return a0, a1

    def snaps(self) -> list[Snap]:
        return [
            Snap(self.start, "end", f"{self.id}.start"),
            Snap(self.end, "end", f"{self.id}.end"),
            Snap(self.centre, "centre", f"{self.id}.centre"),
        ]

    def turned_over(self) -> EllipseArc:
        return self.model_copy(update={"start": self.end, "end": self.start})

    def twin_point(self, name: str) -> str:
        return {"start": "end", "end": "start"}.get(name, name)

    def inner_rows(self, rows: Rows) -> None:
        rows.on_ellipse(f"{self.id}.start", self.id)
        rows.on_ellipse(f"{self.id}.end", self.id)
