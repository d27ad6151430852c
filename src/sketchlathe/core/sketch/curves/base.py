"""What every curve kind declares."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, NamedTuple

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, SerializeAsAny

from ...registry import Registry
from .pieces import XY, ArcPiece, Bezier, EllipsePiece, Piece, Segment, piece_length, piece_path

if TYPE_CHECKING:
    from ..equations.rows import Rows

LIMIT = 1e6  # mm; nothing printable is a kilometre wide

Coordinate = Annotated[float, Field(ge=-LIMIT, le=LIMIT, allow_inf_nan=False)]
Vec = tuple[Coordinate, Coordinate]
Size = Annotated[float, Field(gt=0, le=LIMIT, allow_inf_nan=False)]


class Snap(NamedTuple):
    """A place on a curve that a pointer may snap to: where, in which word, and the reference it implies."""

    at: XY
    word: str
    ref: str | None


class Curve(BaseModel):
    """One curve of a sketch. Subclasses declare their points and sizes; all else follows from these.

    ``points`` can be grabbed and constrained; ``inner`` are places that the curve's own equations settle.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    kind: str = ""
    word: ClassVar[str]  # what a person calls it
    points: ClassVar[tuple[str, ...]] = ()  # names of points, in drawing order (a property where it depends)
    inner: ClassVar[tuple[str, ...]] = ()
    sizes: ClassVar[tuple[str, ...]] = ()  # fields that are radii and the like
    tags: ClassVar[frozenset[str]] = frozenset()  # what constraints may take it as

    id: str = Field(min_length=1, max_length=20)
    construction: bool = False
    taken: bool = False  # from the solid: it follows the solid and cannot be moved here

    @classmethod
    def __pydantic_init_subclass__(cls, **_: Any) -> None:
        if cls.model_fields["kind"].default:
            CURVES.add(cls)

    @property
    def end_points(self) -> tuple[str, str] | None:
        """The names of the two points where an open curve ends, None if it has no ends."""
        return ("start", "end") if "open" in self.tags else None

    def place(self, name: str) -> XY:
        """Where one of its points is, mm."""
        x, y = getattr(self, name)
        return (x, y)

    def with_scalars(self, update: Mapping[str, Any]) -> Curve:
        """The curve with points (x, y) and sizes as given by name."""
        return self.model_copy(update=dict(update))

    @property
    def scalars(self) -> dict[str, Any]:
        """Every point and size by name."""
        out: dict[str, Any] = {name: self.place(name) for name in (*self.points, *self.inner)}
        out.update({name: getattr(self, name) for name in self.sizes})
        return out

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

    def anchor(self) -> tuple[XY, XY]:
        """Where marks beside the curve belong: a point on it and the unit normal there."""
        raise NotImplementedError

    def inner_rows(self, rows: Rows) -> None:
        """Equations the curve itself needs (an arc's ends lie on its circle)."""

    def moved(self, f: Callable[[XY], XY], scale: float = 1.0, *, mirrored: bool = False) -> Curve:
        """The curve with every point mapped by ``f`` and every size scaled; ``mirrored`` when
        ``f`` turns things over.
        """
        update: dict[str, Any] = {name: f(self.place(name)) for name in (*self.points, *self.inner)}
        update.update({name: getattr(self, name) * scale for name in self.sizes})
        moved = self.with_scalars(update)
        return moved.turned_over() if mirrored else moved

    def turned_over(self) -> Curve:
        """What a mirror makes of it beyond moving its points (an arc swaps its ends to stay counterclockwise)."""
        return self

    def apart(self) -> Curve:
        """What a copy of it is like: by itself, whatever it hung on."""
        return self

    def twin_point(self, name: str) -> str:
        """The name that a point has on the mirrored copy."""
        return name


CURVES: Registry[Curve] = Registry("curve", "sketchlathe.core.sketch.curves")

AnyCurve = Annotated[SerializeAsAny[Curve], BeforeValidator(CURVES.parse)]

__all__ = [
    "CURVES", "LIMIT", "XY", "AnyCurve", "ArcPiece", "Bezier", "Coordinate", "Curve", "EllipsePiece", "Piece",
    "Segment",
    "Size", "Snap", "Vec", "piece_length", "piece_path",
]  # fmt: skip
