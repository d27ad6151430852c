"""The exact pieces that curves consist of, and that regions and solids are made from.

A piece runs from its first point to its last; one run backwards has its parameters (or points) swapped.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

XY = tuple[float, float]


class Segment(NamedTuple):
    """A straight piece from ``a`` to ``b``."""

    a: XY
    b: XY

    def reversed(self) -> Segment:
        """The same piece the other way."""
        return Segment(self.b, self.a)

    @property
    def first(self) -> XY:
        """Where it begins."""
        return self.a

    @property
    def last(self) -> XY:
        """Where it ends."""
        return self.b


class ArcPiece(NamedTuple):
    """A circular piece about ``centre``, from angle ``a0`` to ``a1`` (counterclockwise if ``a1
    > a0``; full turn: 2π).
    """

    centre: XY
    radius: float
    a0: float
    a1: float

    def at(self, angle: float) -> XY:
        """The point at an angle."""
        return (
            self.centre[0] + self.radius * math.cos(angle),
            self.centre[1] + self.radius * math.sin(angle),
        )

    @property
    def whole(self) -> bool:
        """Whether this is a full circle."""
        return abs(self.a1 - self.a0) >= 2 * math.pi - 1e-12

    def reversed(self) -> ArcPiece:
        """The same piece the other way."""
        return ArcPiece(self.centre, self.radius, self.a1, self.a0)

    @property
    def first(self) -> XY:
        """Where it begins."""
        return self.at(self.a0)

    @property
    def last(self) -> XY:
        """Where it ends."""
        return self.at(self.a1)


class EllipsePiece(NamedTuple):
    """Part of an ellipse: ``centre + major cos t + minor n sin t``, n the unit normal left of ``major``; t from a0 to
    a1.
    """

    centre: XY
    major: XY  # the vector from the centre to the tip
    minor: float
    a0: float
    a1: float

    def at(self, t: float) -> XY:
        """The point at a parameter."""
        long = math.hypot(*self.major)
        wx, wy = -self.major[1] / long * self.minor, self.major[0] / long * self.minor
        c, s = math.cos(t), math.sin(t)
        return (
            self.centre[0] + self.major[0] * c + wx * s,
            self.centre[1] + self.major[1] * c + wy * s,
        )

    @property
    def whole(self) -> bool:
        """Whether this is a full ellipse."""
        return abs(self.a1 - self.a0) >= 2 * math.pi - 1e-12

    def reversed(self) -> EllipsePiece:
        """The same piece the other way."""
        return self._replace(a0=self.a1, a1=self.a0)

    @property
    def first(self) -> XY:
        """Where it begins."""
        return self.at(self.a0)

    @property
    def last(self) -> XY:
        """Where it ends."""
        return self.at(self.a1)


class Bezier(NamedTuple):
    """A cubic Bézier piece."""

    p0: XY
    p1: XY
    p2: XY
    p3: XY

    def at(self, t: float) -> XY:
        """The point at a parameter from 0 to 1."""
        s = 1 - t
        a, b, c, d = s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t
        return (
            a * self.p0[0] + b * self.p1[0] + c * self.p2[0] + d * self.p3[0],
            a * self.p0[1] + b * self.p1[1] + c * self.p2[1] + d * self.p3[1],
        )

    def reversed(self) -> Bezier:
        """The same piece the other way."""
        return Bezier(self.p3, self.p2, self.p1, self.p0)

    @property
    def first(self) -> XY:
        """Where it begins."""
        return self.p0

    @property
    def last(self) -> XY:
        """Where it ends."""
        return self.p3

    def part(self, t0: float, t1: float) -> Bezier:
        """The stretch between two parameters (de Casteljau's blossom)."""

        def blossom(u: float, v: float, w: float) -> XY:
            pts = list(self)
            for t in (u, v, w):
                pts = [(a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t) for a, b in itertools.pairwise(pts)]
            return pts[0]

        return Bezier(blossom(t0, t0, t0), blossom(t0, t0, t1), blossom(t0, t1, t1), blossom(t1, t1, t1))


Piece = Segment | ArcPiece | EllipsePiece | Bezier

_NODES, _WEIGHTS = np.polynomial.legendre.leggauss(24)


def piece_length(piece: Piece) -> float:
    """Length of a piece in mm (Gauss-Legendre quadrature where there is no closed form).

    >>> piece_length(ArcPiece((0, 0), 2, 0, math.pi)) / math.pi
    2.0
    """
    if isinstance(piece, Segment):
        return math.dist(piece.a, piece.b)
    if isinstance(piece, ArcPiece):
        return piece.radius * abs(piece.a1 - piece.a0)
    total = 0.0
    low, high = (piece.a0, piece.a1) if isinstance(piece, EllipsePiece) else (0.0, 1.0)
    for i in range(8):
        a, b = low + (high - low) * i / 8, low + (high - low) * (i + 1) / 8
        t = (a + b) / 2 + (b - a) / 2 * _NODES
        total += abs(b - a) / 2 * float(np.sum(_WEIGHTS * _speed(piece, t)))
    return total


def _speed(piece: EllipsePiece | Bezier, t: np.ndarray) -> np.ndarray:
    if isinstance(piece, EllipsePiece):
        long = math.hypot(*piece.major)
        return np.asarray(np.hypot(long * np.sin(t), piece.minor * np.cos(t)))
    p = np.array(piece)
    d = 3 * np.diff(p, axis=0)
    s = 1 - t
    v = np.outer(s * s, d[0]) + np.outer(2 * s * t, d[1]) + np.outer(t * t, d[2])
    return np.asarray(np.hypot(v[:, 0], v[:, 1]))


def _n(value: float) -> str:
    return f"{value:.7g}" if abs(value) < 1e5 else f"{value:.1f}"


def segment_path(start: XY, end: XY) -> str:
    """SVG path data of one straight line: what ``piece_path`` gives, without its questions."""
    return f"M{_n(start[0])} {_n(start[1])}L{_n(end[0])} {_n(end[1])}"


def piece_path(pieces: Sequence[Piece]) -> str:
    """SVG path data for consecutive pieces.

    >>> piece_path([Segment((0, 0), (3, 4))])
    'M0 0L3 4'
    """
    out: list[str] = []
    pen: XY | None = None
    for piece in pieces:
        start = piece.first
        if pen is None or math.dist(pen, start) > 1e-7 * (1 + abs(start[0]) + abs(start[1])):
            out.append(f"M{_n(start[0])} {_n(start[1])}")
        pen = piece.last
        if isinstance(piece, Segment):
            out.append(f"L{_n(pen[0])} {_n(pen[1])}")
        elif isinstance(piece, Bezier):
            out.append("C" + " ".join(f"{_n(x)} {_n(y)}" for x, y in piece[1:]))
        else:
            out.extend(_turned(piece))
    return "".join(out)


def _turned(piece: ArcPiece | EllipsePiece) -> list[str]:
    """SVG arc commands: two where one could be read as the other way round."""
    if isinstance(piece, ArcPiece):
        shape = f"{_n(piece.radius)} {_n(piece.radius)} 0"
    else:
        turn = math.degrees(math.atan2(piece.major[1], piece.major[0]))
        shape = f"{_n(math.hypot(*piece.major))} {_n(piece.minor)} {_n(turn)}"
    sweep = 1 if piece.a1 > piece.a0 else 0
    steps = 2 if abs(piece.a1 - piece.a0) > math.pi * 0.999 else 1
    places = (piece.at(piece.a0 + (piece.a1 - piece.a0) * i / steps) for i in range(1, steps + 1))
    return [f"A{shape} 0 {sweep} {_n(x)} {_n(y)}" for x, y in places]


def box_of_piece(piece: Piece) -> tuple[XY, XY]:
    """Corners of a box round a piece: never too small, exact for segments and whole circles."""
    if isinstance(piece, Segment | Bezier):
        points: list[XY] = list(piece)
    else:
        # ends, and the places where it turns back in x or y
        low, high = sorted((piece.a0, piece.a1))
        if isinstance(piece, ArcPiece):
            turns = [0.0, math.pi / 2]
        else:
            ux, uy = piece.major
            k = piece.minor / math.hypot(ux, uy)
            turns = [math.atan2(-uy * k, ux), math.atan2(ux * k, uy)]
        points = [piece.at(low), piece.at(high)]
        for turn in turns:
            first = math.ceil((low - turn) / math.pi - 1e-12)
            while turn + first * math.pi <= high + 1e-12:
                points.append(piece.at(turn + first * math.pi))
                first += 1
    xs, ys = zip(*points)
    return (min(xs), min(ys)), (max(xs), max(ys))
