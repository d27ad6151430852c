"""A line of text that stands on another curve and follows it.

It keeps a sampling of that curve, so that it can be drawn by itself; a sketch renews it whenever its curves change.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from . import lettering
from .base import XY, Bezier, Curve, Piece, Segment, Snap, Vec
from .text import Text

if TYPE_CHECKING:
    from collections.abc import Callable

    from ..equations.rows import Rows

_STEPS = 384  # in a whole curve


class TextAlong(Text):
    """Text that begins at the place of ``path`` that is nearest to ``at``, each letter upright on it at its middle,
    ``lift`` mm above it; where the curve ends it goes on straight. ``backward``: against the way the curve runs, so on
    its other side.
    """

    kind: Literal["text_along"] = "text_along"  # type: ignore[assignment]
    word: ClassVar[str] = "text"
    points: ClassVar[tuple[str, ...]] = ("at",)
    bend: Literal[""] = ""
    along: str = Field(default="", max_length=20)
    backward: bool = False
    lift: float = Field(default=0.0, ge=0, le=1000, allow_inf_nan=False)
    path: Annotated[tuple[Vec, ...], Field(min_length=2, max_length=2000)]

    def place(self, name: str) -> XY:
        """Its point; ``to``: where it would end if it ran on straight from its first letter."""
        if name != "to":
            return super().place(name)
        way = _Way(self._run)
        start = way.nearest(self.at)
        (x, y), (ux, uy) = way.at(start)
        long = self.length()
        return (x + ux * long, y + uy * long)

    @property
    def _run(self) -> tuple[XY, ...]:
        return self.path[::-1] if self.backward else self.path

    def _contours(self) -> list[lettering.Contour]:
        way = _Way(self._run)
        begin = way.nearest(self.at)
        length = lettering.width_of(self.words, self.font, self.spacing)
        out: list[lettering.Contour] = []
        for found, start in lettering.straight(self.words, self.font, self.spacing):
            left = length - start - found.advance if self.mirrored else start
            (x, y), (ex, ey) = way.at(begin + (left + found.advance / 2) * self.height)
            flip = -1.0 if self.mirrored else 1.0

            def put(p: XY, o: XY = (x, y), e: XY = (ex, ey), half: float = found.advance / 2, f: float = flip) -> XY:
                u, v = f * (p[0] - half) * self.height, p[1] * self.height + self.lift
                return (o[0] + e[0] * u - e[1] * v, o[1] + e[1] * u + e[0] * v)

            for contour in found.contours:
                placed = lettering.mapped(contour, put)
                out.append(lettering.turned_round(placed) if self.mirrored else placed)
        return out

    def snaps(self) -> list[Snap]:
        return [Snap(self.at, "end", f"{self.id}.at")]

    def inner_rows(self, rows: Rows) -> None:
        """Nothing: where it begins is all there is to it."""

    def moved(self, f: Callable[[XY], XY], scale: float = 1.0, *, mirrored: bool = False) -> Curve:
        there = super().moved(f, scale, mirrored=mirrored)
        path = tuple(f(p) for p in self.path)
        return there.model_copy(update={"path": path, "to": f(self.to), "lift": self.lift * scale})

    def turned_over(self) -> TextAlong:
        return self.model_copy(update={"mirrored": not self.mirrored, "backward": not self.backward})

    def apart(self) -> TextAlong:
        """The same as a copy that has lost its curve: it keeps its shape."""
        return self.model_copy(update={"along": ""})


class _Way:
    """Places and directions along a sampled curve by the length from its start, mm."""

    def __init__(self, places: Sequence[XY]) -> None:
        self.places = np.array(places, float)
        steps = np.diff(self.places, axis=0)
        lengths = np.hypot(*steps.T)
        self.marks = np.concatenate([[0.0], np.cumsum(lengths)])
        angles = np.unwrap(np.arctan2(steps[:, 1], steps[:, 0]))
        self.closed = bool(math.dist(places[0], places[-1]) < 1e-9 * max(self.marks[-1], 1e-9))
        # a direction at each place, between those of its steps
        inner = (angles[1:] + angles[:-1]) / 2
        turn = 0.0
        if self.closed:
            turn = math.remainder(angles[0] - angles[-1], 2 * math.pi) / 2
        first = angles[0] - turn if self.closed else angles[0] * 1.5 - angles[min(1, len(angles) - 1)] / 2
        last = angles[-1] + turn if self.closed else angles[-1] * 1.5 - angles[max(-2, -len(angles))] / 2
        self.angles = np.concatenate([[first], inner, [last]])

    def nearest(self, p: XY) -> float:
        """How far along the place nearest to a point is."""
        a, b = self.places[:-1], self.places[1:]
        d = b - a
        t = np.clip(((np.array(p) - a) * d).sum(axis=1) / np.maximum((d * d).sum(axis=1), 1e-300), 0, 1)
        i = int(np.argmin(np.hypot(*(a + t[:, None] * d - p).T)))
        return float(self.marks[i] + t[i] * (self.marks[i + 1] - self.marks[i]))

    def at(self, long: float) -> tuple[XY, XY]:
        """The place and the unit direction there; straight on beyond an open curve's ends."""
        whole = float(self.marks[-1])
        over = 0.0
        if self.closed:
            long %= whole
        elif long > whole:
            long, over = whole, long - whole
        angle = float(np.interp(long, self.marks, self.angles))
        e = (math.cos(angle), math.sin(angle))
        x, y = (float(np.interp(long, self.marks, self.places[:, k])) for k in (0, 1))
        return (x + e[0] * over, y + e[1] * over), e


@lru_cache(maxsize=256)
def sampled(curve: Curve) -> tuple[XY, ...]:
    """Places along a curve, near enough to each other for letters to stand on."""
    pieces: list[Piece] = curve.pieces()
    each = max(8, _STEPS // len(pieces))
    out: list[XY] = []
    for piece in pieces:
        steps = 1 if isinstance(piece, Segment) else each
        out += [_at(piece, k / steps) for k in range(steps)]
    out.append(_at(pieces[-1], 1.0))
    if len(pieces) == 1 and curve.end_points is None:
        out[-1] = out[0]
    return tuple(out[:: max(1, len(out) // 1900)]) if len(out) > 2000 else tuple(out)


def _at(piece: Piece, share: float) -> XY:
    if isinstance(piece, Segment):
        (ax, ay), (bx, by) = piece.a, piece.b
        return (ax + (bx - ax) * share, ay + (by - ay) * share)
    if isinstance(piece, Bezier):
        return piece.at(share)
    return piece.at(piece.a0 + (piece.a1 - piece.a0) * share)


def with_texts_along(curves: tuple[Any, ...]) -> tuple[Any, ...]:
    """Curves with those texts renewed whose curve is another now; the same tuple where none is."""
    if TextAlong not in set(map(type, curves)):
        return curves
    known = {c.id: c for c in curves}
    out = []
    for curve in curves:
        path = known.get(curve.along) if isinstance(curve, TextAlong) else None
        if path is not None and isinstance(curve, TextAlong) and (places := sampled(path)) != curve.path:
            curve = curve.model_copy(update={"path": places})
        out.append(curve)
    return curves if all(a is b for a, b in zip(curves, out)) else tuple(out)
