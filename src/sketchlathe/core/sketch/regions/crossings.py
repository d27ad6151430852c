"""Where two pieces meet, analytically: parameters on each, overlaps and tangencies included.

A segment's parameter is the distance from its start; an arc's is its angle.
"""

from __future__ import annotations

import math

from ..curves import ArcPiece, Piece, Segment

Hit = tuple[float, float]  # parameter on the first, on the second


def crossings(p: Piece, q: Piece, eps: float) -> list[Hit]:
    """All meetings of two pieces, within ``eps`` mm. Overlaps give the ends of the shared stretch."""
    if isinstance(p, Segment):
        if isinstance(q, Segment):
            return _segments(p, q, eps)
        return _segment_arc(p, q, eps)
    if isinstance(q, Segment):
        return [(b, a) for a, b in _segment_arc(q, p, eps)]
    return _arcs(p, q, eps)


def ends(piece: Piece) -> tuple[tuple[float, float], tuple[float, float]]:
    """First and last point of a piece."""
    if isinstance(piece, Segment):
        return piece.a, piece.b
    return piece.at(piece.a0), piece.at(piece.a1)


def parameter_on(piece: Piece, x: float, y: float, eps: float) -> float | None:
    """The parameter of a point on a piece, or None if it is farther than ``eps`` from it."""
    if isinstance(piece, Segment):
        (ax, ay), (bx, by) = piece
        long = math.hypot(bx - ax, by - ay)
        if long < eps:
            return None
        ux, uy = (bx - ax) / long, (by - ay) / long
        t = (x - ax) * ux + (y - ay) * uy
        if abs((y - ay) * ux - (x - ax) * uy) > eps or not -eps <= t <= long + eps:
            return None
        return min(max(t, 0.0), long)
    dx, dy = x - piece.centre[0], y - piece.centre[1]
    if abs(math.hypot(dx, dy) - piece.radius) > eps:
        return None
    return _angle_in(piece, math.atan2(dy, dx), eps)


def _angle_in(arc: ArcPiece, angle: float, eps: float) -> float | None:
    """``angle`` as a parameter of the arc (its turn of 2π chosen), or None outside."""
    slack = eps / arc.radius
    turned = arc.a0 + (angle - arc.a0) % (2 * math.pi)
    if turned <= arc.a1 + slack:
        return min(turned, arc.a1)
    if turned - 2 * math.pi >= arc.a0 - slack:
        return arc.a0
    return None


def _segments(p: Segment, q: Segment, eps: float) -> list[Hit]:
    (ax, ay), (bx, by) = p
    (cx, cy), (dx, dy) = q
    lp, lq = math.hypot(bx - ax, by - ay), math.hypot(dx - cx, dy - cy)
    if lp < eps or lq < eps:
        return []
    ux, uy = (bx - ax) / lp, (by - ay) / lp
    vx, vy = (dx - cx) / lq, (dy - cy) / lq
    cross = ux * vy - uy * vx
    if abs(cross) * min(lp, lq) <= eps:  # parallel as far as the shorter one can tell
        return _shared_ends(p, q, eps)
    s = ((cx - ax) * vy - (cy - ay) * vx) / cross
    t = ((cx - ax) * uy - (cy - ay) * ux) / cross
    slack = eps / min(1.0, abs(cross))
    if -slack <= s <= lp + slack and -slack <= t <= lq + slack:
        return [(min(max(s, 0.0), lp), min(max(t, 0.0), lq))]
    return []


def _shared_ends(p: Piece, q: Piece, eps: float) -> list[Hit]:
    """Ends of each that lie on the other."""
    found: list[Hit] = []
    for x, y in ends(q):
        on_p, on_q = parameter_on(p, x, y, eps), parameter_on(q, x, y, eps)
        if on_p is not None and on_q is not None:
            found.append((on_p, on_q))
    for x, y in ends(p):
        on_p, on_q = parameter_on(p, x, y, eps), parameter_on(q, x, y, eps)
        if on_p is not None and on_q is not None:
            found.append((on_p, on_q))
    return found


def _segment_arc(p: Segment, q: ArcPiece, eps: float) -> list[Hit]:
    (ax, ay), (bx, by) = p
    long = math.hypot(bx - ax, by - ay)
    if long < eps:
        return []
    ux, uy = (bx - ax) / long, (by - ay) / long
    foot = (q.centre[0] - ax) * ux + (q.centre[1] - ay) * uy
    away = abs((q.centre[1] - ay) * ux - (q.centre[0] - ax) * uy)
    if away > q.radius + eps:
        return []
    if abs(away - q.radius) <= eps:
        candidates = [foot]
    else:
        half = math.sqrt(max(q.radius**2 - away**2, 0.0))
        candidates = [foot - half, foot + half]
    found = []
    for s in candidates:
        if not -eps <= s <= long + eps:
            continue
        s = min(max(s, 0.0), long)
        angle = _angle_in(q, math.atan2(ay + s * uy - q.centre[1], ax + s * ux - q.centre[0]), eps)
        if angle is not None:
            found.append((s, angle))
    return _near_shared_end(p, q, found, eps)


def _arcs(p: ArcPiece, q: ArcPiece, eps: float) -> list[Hit]:
    dx, dy = q.centre[0] - p.centre[0], q.centre[1] - p.centre[1]
    apart = math.hypot(dx, dy)
    if apart <= eps and abs(p.radius - q.radius) <= eps:
        return _shared_ends(p, q, eps)
    if apart > p.radius + q.radius + eps or apart < abs(p.radius - q.radius) - eps or apart < 1e-300:
        return []
    ux, uy = dx / apart, dy / apart
    outside, inside = abs(apart - p.radius - q.radius) <= eps, abs(apart - abs(p.radius - q.radius)) <= eps
    if outside or inside:
        sign = -1.0 if inside and q.radius > p.radius else 1.0
        places = [(p.centre[0] + sign * p.radius * ux, p.centre[1] + sign * p.radius * uy)]
    else:
        along = (apart**2 + p.radius**2 - q.radius**2) / (2 * apart)
        half = math.sqrt(max(p.radius**2 - along**2, 0.0))
        mx, my = p.centre[0] + along * ux, p.centre[1] + along * uy
        places = [(mx - half * uy, my + half * ux), (mx + half * uy, my - half * ux)]
    found = []
    for x, y in places:
        on_p = _angle_in(p, math.atan2(y - p.centre[1], x - p.centre[0]), eps)
        on_q = _angle_in(q, math.atan2(y - q.centre[1], x - q.centre[0]), eps)
        if on_p is not None and on_q is not None:
            found.append((on_p, on_q))
    return _near_shared_end(p, q, found, eps)


def _near_shared_end(p: Piece, q: Piece, found: list[Hit], eps: float) -> list[Hit]:
    """Put what lies close to a shared end exactly there: near tangency a root is only good to √eps."""
    shared = _shared_ends(p, q, eps)
    if not shared:
        return found

    def gap(piece: Piece, a: float, b: float) -> float:
        return abs(a - b) * (1.0 if isinstance(piece, Segment) else piece.radius)

    size = max(gap(p, *_range(p)), gap(q, *_range(q)))
    reach = min(math.sqrt(eps * size) * 4, 0.05 * size)
    far = [h for h in found if all(gap(p, h[0], s[0]) > reach or gap(q, h[1], s[1]) > reach for s in shared)]
    return far + shared


def _range(piece: Piece) -> tuple[float, float]:
    return (0.0, math.dist(piece.a, piece.b)) if isinstance(piece, Segment) else (piece.a0, piece.a1)
