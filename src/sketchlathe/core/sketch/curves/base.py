"""What every curve kind declares, and the exact pieces that regions and solids are made from."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, NamedTuple

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, SerializeAsAny

from ...registry import Registry

if TYPE_CHECKING:
    from ..solver.rows import Rows

LIMIT = 1e6  # mm; nothing printable is a kilometre wide

Coordinate = Annotated[float, Field(ge=-LIMIT, le=LIMIT, allow_inf_nan=False)]
Vec = tuple[Coordinate, Coordinate]
Size = Annotated[float, Field(gt=0, le=LIMIT, allow_inf_nan=False)]


class Segment(NamedTuple):
    """A straight piece from ``a`` to ``b``."""

    a: tuple[float, float]
    b: tuple[float, float]


class ArcPiece(NamedTuple):
    """A circular piece about ``centre``, from angle ``a0`` counterclockwise to ``a1 > a0`` (full turn: 2π)."""

    centre: tuple[float, float]
    radius: float
    a0: float
    a1: float

    def at(self, angle: float) -> tuple[float, float]:
        """The point at an angle."""
        return (
            self.centre[0] + self.radius * math.cos(angle),
            self.centre[1] + self.radius * math.sin(angle),
        )

    @property
    def whole(self) -> bool:
        """Whether this is a full circle."""
        return self.a1 - self.a0 >= 2 * math.pi - 1e-12


Piece = Segment | ArcPiece


class Snap(NamedTuple):
    """A place on a curve that a pointer may snap to: where, in which word, and the reference it implies."""

    at: tuple[float, float]
    word: str
    ref: str | None


class Curve(BaseModel):
    """One curve of a sketch. Subclasses declare their points and radii; all else follows from these."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    kind: str = ""
    word: ClassVar[str]  # what a person calls it
    points: ClassVar[tuple[str, ...]] = ()  # fields that are points, in drawing order
    sizes: ClassVar[tuple[str, ...]] = ()  # fields that are radii
    tags: ClassVar[frozenset[str]] = frozenset()  # what constraints may take it as

    id: str = Field(min_length=1, max_length=20)
    construction: bool = False

    @classmethod
    def __pydantic_init_subclass__(cls, **_: Any) -> None:
        if cls.model_fields["kind"].default:
            CURVES.add(cls)

    def pieces(self) -> list[Piece]:
        """The exact pieces, in the curve's direction."""
        raise NotImplementedError

    def svg(self) -> str:
        """The curve as SVG path data (y up; the view flips it)."""
        return piece_path(self.pieces())

    def snaps(self) -> list[Snap]:
        """Places a pointer may snap to."""
        raise NotImplementedError

    def length(self) -> float:
        """Length in mm."""
        return sum(piece_length(p) for p in self.pieces())

    def anchor(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """Where marks beside the curve belong: a point on it and the unit normal there."""
        raise NotImplementedError

    def inner_rows(self, rows: Rows) -> None:
        """Equations the curve itself needs (an arc's ends lie on its circle)."""

    def moved(self, f: Callable[[tuple[float, float]], tuple[float, float]], scale: float = 1.0) -> Curve:
        """The curve with every point mapped by ``f`` and every radius scaled."""
        update: dict[str, object] = {name: f(getattr(self, name)) for name in self.points}
        update.update({name: getattr(self, name) * scale for name in self.sizes})
        return self.model_copy(update=update)


CURVES: Registry[Curve] = Registry("curve", "sketchlathe.core.sketch.curves")

AnyCurve = Annotated[SerializeAsAny[Curve], BeforeValidator(CURVES.parse)]


def piece_length(piece: Piece) -> float:
    """Length of a piece in mm."""
    if isinstance(piece, Segment):
        return math.dist(piece.a, piece.b)
    return piece.radius * (piece.a1 - piece.a0)


def _n(value: float) -> str:
    return f"{value:.6g}" if abs(value) < 1e5 else f"{value:.1f}"


def piece_path(pieces: list[Piece]) -> str:
    """SVG path data for consecutive pieces.

    >>> piece_path([Segment((0, 0), (3, 4))])
    'M0 0L3 4'
    """
    out: list[str] = []
    pen: tuple[float, float] | None = None
    for piece in pieces:
        start = piece.a if isinstance(piece, Segment) else piece.at(piece.a0)
        if pen is None or math.dist(pen, start) > 1e-9:
            out.append(f"M{_n(start[0])} {_n(start[1])}")
        if isinstance(piece, Segment):
            pen = piece.b
            out.append(f"L{_n(pen[0])} {_n(pen[1])}")
            continue
        r = _n(piece.radius)
        steps = 2 if piece.a1 - piece.a0 > math.pi * 0.999 else 1
        for i in range(1, steps + 1):
            pen = piece.at(piece.a0 + (piece.a1 - piece.a0) * i / steps)
            out.append(f"A{r} {r} 0 0 1 {_n(pen[0])} {_n(pen[1])}")
    return "".join(out)
