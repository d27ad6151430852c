"""Thin walls along outlines and open chains: the profiles they are extruded from."""

from __future__ import annotations

import math
from collections.abc import Sequence

from ..errors import CannotBuild
from .curves import ArcPiece, Piece, Segment
from .regions import Profile

Chain = tuple[tuple[Piece, str], ...]


def walled(profile: Profile, thickness: float) -> list[Profile]:
    """Walls of some thickness within a profile: along its outline, and round each of its holes."""
    along = Profile(profile.outer, (_backwards(_inner(_moved_left(profile.outer, thickness))),))
    # a hole runs clockwise, so what lies to its left is material
    round_holes = [Profile(_backwards(_inner(_moved_left(hole, thickness))), (hole,)) for hole in profile.holes]
    return [along, *round_holes]


def wall_along(chain: Chain, thickness: float) -> Profile:
    """A wall with its middle on an open chain, square at both ends (named ``first`` and ``last``)."""
    right = _moved_left(chain, -thickness / 2, closed=False)
    left = _inner(_backwards(_moved_left(chain, thickness / 2, closed=False)))
    end = Segment(right[-1][0].last, left[0][0].first)
    start = Segment(left[-1][0].last, right[0][0].first)
    return Profile((*right, (end, "last"), *left, (start, "first")), ())


def _inner(chain: Chain) -> Chain:
    """The second side of a wall: its faces are named apart from the first one's."""
    return tuple((piece, f"{owner}~") for piece, owner in chain)


def _backwards(chain: Chain) -> Chain:
    return tuple((piece.reversed(), owner) for piece, owner in reversed(chain))


def _moved_left(chain: Sequence[tuple[Piece, str]], d: float, *, closed: bool = True) -> Chain:
    """A chain of lines and arcs moved to its left by ``d``; neighbours meet again."""
    moved: list[tuple[Piece, str]] = []
    for piece, owner in chain:
        if isinstance(piece, Segment):
            (ax, ay), (bx, by) = piece
            long = math.dist(piece.a, piece.b)
            nx, ny = -(by - ay) / long * d, (bx - ax) / long * d
            moved.append((Segment((ax + nx, ay + ny), (bx + nx, by + ny)), owner))
        elif isinstance(piece, ArcPiece):
            radius = piece.radius - d if piece.a1 > piece.a0 else piece.radius + d
            if radius < 1e-6:
                raise CannotBuild("This wall is thicker than a rounding of the outline; make it thinner.", where="wall")
            moved.append((piece._replace(radius=radius), owner))
        else:
            raise CannotBuild("A thin wall can follow lines and arcs; this outline has other curves.", where="wall")
    if len(moved) == 1:
        return tuple(moved)
    ends = [_meeting(moved[i - 1][0], moved[i][0]) for i in range(len(moved))]
    if not closed:
        ends[0] = moved[0][0].first
        ends.append(moved[-1][0].last)
    out: list[tuple[Piece, str]] = []
    for i, (piece, owner) in enumerate(moved):
        a, b = ends[i], ends[(i + 1) % len(ends)]
        if isinstance(piece, Segment):
            out.append((Segment(a, b), owner))
            if (b[0] - a[0]) * (piece.b[0] - piece.a[0]) + (b[1] - a[1]) * (piece.b[1] - piece.a[1]) <= 0:
                raise CannotBuild(
                    "This wall is too thick for a short side of the outline; make it thinner.", where="wall"
                )
        else:
            assert isinstance(piece, ArcPiece)
            a0 = math.atan2(a[1] - piece.centre[1], a[0] - piece.centre[0])
            a1 = math.atan2(b[1] - piece.centre[1], b[0] - piece.centre[0])
            turn = 2 * math.pi
            a1 = a0 + (a1 - a0) % turn if piece.a1 > piece.a0 else a0 - (a0 - a1) % turn
            out.append((piece._replace(a0=a0, a1=a1), owner))
    return tuple(out)


def _meeting(p: Piece, q: Piece) -> tuple[float, float]:
    """Where two neighbours (extended) meet, nearest to where they met before."""
    near = p.last
    if isinstance(p, Segment) and isinstance(q, Segment):
        ux, uy = p.b[0] - p.a[0], p.b[1] - p.a[1]
        vx, vy = q.b[0] - q.a[0], q.b[1] - q.a[1]
        cross = ux * vy - uy * vx
        if abs(cross) < 1e-9 * math.hypot(ux, uy) * math.hypot(vx, vy):
            return p.b
        t = ((q.a[0] - p.a[0]) * vy - (q.a[1] - p.a[1]) * vx) / cross
        return (p.a[0] + t * ux, p.a[1] + t * uy)
    places = _round_meetings(p, q)
    if not places:
        raise CannotBuild(
            "At this thickness neighbours of the outline do not meet; make the wall thinner.", where="wall"
        )
    return min(places, key=lambda r: math.dist(r, near))


def _round_meetings(p: Piece, q: Piece) -> list[tuple[float, float]]:
    """Crossings of the full circles and lines of two pieces (tangency counts once)."""
    if isinstance(q, Segment):
        p, q = q, p
    assert isinstance(q, ArcPiece)
    (cx, cy), r = q.centre, q.radius
    if isinstance(p, Segment):
        long = math.dist(p.a, p.b)
        ux, uy = (p.b[0] - p.a[0]) / long, (p.b[1] - p.a[1]) / long
        foot = (cx - p.a[0]) * ux + (cy - p.a[1]) * uy
        away = (cy - p.a[1]) * ux - (cx - p.a[0]) * uy
        half2 = r * r - away * away
        if half2 < -1e-9 * r * r - 1e-12:
            return []
        half = math.sqrt(max(half2, 0.0))
        return [(p.a[0] + ux * s, p.a[1] + uy * s) for s in (foot - half, foot + half)]
    assert isinstance(p, ArcPiece)
    dx, dy = cx - p.centre[0], cy - p.centre[1]
    apart = math.hypot(dx, dy)
    if apart < 1e-12:
        return [p.last]
    along = (apart * apart + p.radius**2 - r * r) / (2 * apart)
    half2 = p.radius**2 - along * along
    if half2 < -1e-9 * p.radius**2:
        return []
    half = math.sqrt(max(half2, 0.0))
    mx, my = p.centre[0] + along * dx / apart, p.centre[1] + along * dy / apart
    return [(mx - half * dy / apart, my + half * dx / apart), (mx + half * dy / apart, my - half * dx / apart)]
