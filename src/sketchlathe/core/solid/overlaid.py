"""Lines of a view that lie on each other: each place is drawn once, and what is behind a seen line is not drawn."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from typing import Literal, NamedTuple, TypeAlias

from ..sketch.curves.pieces import ArcPiece, Bezier, EllipsePiece, Piece, Segment

Sort: TypeAlias = Literal["edge", "smooth", "outline"]
XY: TypeAlias = tuple[float, float]
_SAME = 1e-5  # mm


class Seen(NamedTuple):
    """A line of a view: where it is (mm, in the view's plane), whether nothing is before it, and what it is of: an
    ``edge``, a ``smooth`` one, or the ``outline`` of a round face. ``face``: one that it belongs to, as body and index.
    """

    piece: Piece
    visible: bool
    sort: Sort
    face: tuple[str, int] = ("", 0)


Carrier: TypeAlias = tuple[object, ...]
Spans: TypeAlias = list[tuple[float, float]]


def once(lines: Iterable[Seen]) -> Iterator[Seen]:
    """The lines without what lies on one that came before."""
    taken: dict[Carrier, Spans] = {}
    for line in lines:
        carrier, low, high = _carrier(line.piece)
        there = taken.setdefault(carrier, [])
        if isinstance(line.piece, Segment | ArcPiece):
            shortest = _SAME / (line.piece.radius if isinstance(line.piece, ArcPiece) else 1.0)
            turns = (0.0, -2 * math.pi, 2 * math.pi) if isinstance(line.piece, ArcPiece) else (0.0,)
            for a, b in _less((low, high), [(c + t, d + t) for c, d in there for t in turns]):
                if b - a > shortest:
                    yield line._replace(piece=_part(line.piece, a, b))
        elif not there:
            yield line
        there.append((low, high))


def _rounded(p: XY) -> XY:
    return round(p[0], 4) + 0.0, round(p[1], 4) + 0.0


def _carrier(piece: Piece) -> tuple[Carrier, float, float]:
    """What a piece runs along, and from where to where: mm along a line, rad round a circle; of others which it is."""
    if isinstance(piece, Segment):
        u = _way(piece)
        off = piece.a[1] * u[0] - piece.a[0] * u[1]
        low, high = sorted(p[0] * u[0] + p[1] * u[1] for p in (piece.a, piece.b))
        return ("line", round(u[0], 5) + 0.0, round(u[1], 5) + 0.0, round(off, 3) + 0.0), low, high
    if isinstance(piece, ArcPiece):
        low, high = sorted((piece.a0, piece.a1))
        start = low % (2 * math.pi)
        start = 0.0 if 2 * math.pi - start < 1e-9 else start
        return ("circle", *_rounded(piece.centre), round(piece.radius, 4)), start, start + high - low
    if isinstance(piece, EllipsePiece):
        low, high = sorted((piece.a0, piece.a1))
        # by places on it: the same one may be told from either of its tips
        on = [_on_ellipse(piece, t) for t in (low, (low + high) / 2, high)]
        return ("ellipse", _rounded(piece.centre), round(piece.minor, 4), on[1], *sorted((on[0], on[2]))), low, high
    return ("free", *sorted((_rounded(piece.p0), _rounded(piece.p3))), _rounded(_middle(piece))), 0.0, 1.0


def _on_ellipse(piece: EllipsePiece, t: float) -> XY:
    long = math.hypot(*piece.major)
    u, v = piece.major, (-piece.major[1] / long * piece.minor, piece.major[0] / long * piece.minor)
    c, s = math.cos(t), math.sin(t)
    return _rounded((piece.centre[0] + c * u[0] + s * v[0], piece.centre[1] + c * u[1] + s * v[1]))


def _middle(piece: Bezier) -> XY:
    p, q, r, s = piece
    return (p[0] + 3 * q[0] + 3 * r[0] + s[0]) / 8, (p[1] + 3 * q[1] + 3 * r[1] + s[1]) / 8


def _way(piece: Segment) -> XY:
    """The direction of a line, the same whichever way it was drawn."""
    long = math.dist(piece.a, piece.b)
    u = ((piece.b[0] - piece.a[0]) / long, (piece.b[1] - piece.a[1]) / long)
    return (-u[0], -u[1]) if u[0] < -1e-6 or (abs(u[0]) <= 1e-6 and u[1] < 0) else u


def _less(span: tuple[float, float], taken: Iterable[tuple[float, float]]) -> Spans:
    """A span without those that are taken."""
    left = [span]
    for low, high in taken:
        left = [(c, d) for a, b in left for c, d in ((a, min(b, low)), (max(a, high), b)) if d - c > 1e-9]
    return left


def _part(piece: Piece, low: float, high: float) -> Piece:
    if isinstance(piece, ArcPiece):
        return piece._replace(a0=low, a1=high)
    assert isinstance(piece, Segment)
    ux, uy = _way(piece)
    along = piece.a[0] * ux + piece.a[1] * uy
    foot = (piece.a[0] - along * ux, piece.a[1] - along * uy)
    return Segment((foot[0] + low * ux, foot[1] + low * uy), (foot[0] + high * ux, foot[1] + high * uy))
