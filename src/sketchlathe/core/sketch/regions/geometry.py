"""Pieces as rows of numbers, and what the compiled arrangement asks of them.

A row is ``[kind, eight numbers, t0, t1]``. Parameters: distance from the start (segment), angle (arc, ellipse; always
counterclockwise), 0 to 1 (Bézier).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np
from numba import njit

from ..curves import ArcPiece, Bezier, EllipsePiece, Piece, Segment

SEGMENT, ARC, ELLIPSE, BEZIER = 0, 1, 2, 3
WIDTH = 11
TURN = 2.0 * math.pi


def rows_of(pieces: Sequence[Piece]) -> np.ndarray:
    """The table (n, 11) of some pieces; arcs run counterclockwise."""
    rows = np.zeros((len(pieces), WIDTH))
    for row, piece in zip(rows, pieces):
        if isinstance(piece, Segment):
            (ax, ay), (bx, by) = piece
            long = math.hypot(bx - ax, by - ay)
            row[:5] = SEGMENT, ax, ay, *(((bx - ax) / long, (by - ay) / long) if long else (1.0, 0.0))
            row[10] = long
        elif isinstance(piece, ArcPiece):
            row[:4] = ARC, *piece.centre, piece.radius
            row[9:] = piece.a0, piece.a1
        elif isinstance(piece, EllipsePiece):
            ux, uy = piece.major
            f = piece.minor / math.hypot(ux, uy)
            row[:7] = ELLIPSE, *piece.centre, ux, uy, -uy * f, ux * f
            row[9:] = piece.a0, piece.a1
        else:
            row[0] = BEZIER
            row[1:9] = [v for p in piece for v in p]
            row[10] = 1.0
    return rows


def without_knots(piece: Piece) -> list[Piece]:
    """A Bézier that turns by more than half a turn may cross itself: it is halved until none does."""
    if not isinstance(piece, Bezier):
        return [piece]
    legs = [(b[0] - a[0], b[1] - a[1]) for a, b in itertools.pairwise(piece) if a != b]
    turn = sum(
        abs(math.atan2(u[0] * v[1] - u[1] * v[0], u[0] * v[0] + u[1] * v[1])) for u, v in itertools.pairwise(legs)
    )
    if turn <= math.pi:
        return [piece]
    return [*without_knots(piece.part(0, 0.5)), *without_knots(piece.part(0.5, 1))]


def part_of(piece: Piece, t0: float, t1: float) -> Piece:
    """The stretch of a piece between two parameters."""
    if isinstance(piece, Segment):
        (ax, ay), (bx, by) = piece
        long = math.hypot(bx - ax, by - ay)
        ux, uy = (bx - ax) / long, (by - ay) / long
        a = piece.a if t0 <= 0 else (ax + ux * t0, ay + uy * t0)
        return Segment(a, piece.b if t1 >= long else (ax + ux * t1, ay + uy * t1))
    if isinstance(piece, Bezier):
        return piece if (t0, t1) == (0.0, 1.0) else piece.part(t0, t1)
    return piece._replace(a0=t0, a1=t1)


@njit(cache=True, error_model="numpy")
def point(row, t):
    """The point at a parameter."""
    kind = row[0]
    if kind == SEGMENT:
        return row[1] + row[3] * t, row[2] + row[4] * t
    if kind == ARC:
        return row[1] + row[3] * math.cos(t), row[2] + row[3] * math.sin(t)
    if kind == ELLIPSE:
        c, s = math.cos(t), math.sin(t)
        return row[1] + row[3] * c + row[5] * s, row[2] + row[4] * c + row[6] * s
    s = 1.0 - t
    a, b, c, d = s * s * s, 3 * s * s * t, 3 * s * t * t, t * t * t
    return a * row[1] + b * row[3] + c * row[5] + d * row[7], a * row[2] + b * row[4] + c * row[6] + d * row[8]


@njit(cache=True, error_model="numpy")
def velocity(row, t):
    """First derivative by the parameter."""
    kind = row[0]
    if kind == SEGMENT:
        return row[3], row[4]
    if kind == ARC:
        return -row[3] * math.sin(t), row[3] * math.cos(t)
    if kind == ELLIPSE:
        c, s = math.cos(t), math.sin(t)
        return -row[3] * s + row[5] * c, -row[4] * s + row[6] * c
    s = 1.0 - t
    a, b, c = 3 * s * s, 6 * s * t, 3 * t * t
    return (
        a * (row[3] - row[1]) + b * (row[5] - row[3]) + c * (row[7] - row[5]),
        a * (row[4] - row[2]) + b * (row[6] - row[4]) + c * (row[8] - row[6]),
    )


@njit(cache=True, error_model="numpy")
def acceleration(row, t):
    """Second derivative by the parameter."""
    kind = row[0]
    if kind == SEGMENT:
        return 0.0, 0.0
    if kind == ARC:
        return -row[3] * math.cos(t), -row[3] * math.sin(t)
    if kind == ELLIPSE:
        c, s = math.cos(t), math.sin(t)
        return -row[3] * c - row[5] * s, -row[4] * c - row[6] * s
    s = 1.0 - t
    return (
        6 * s * (row[5] - 2 * row[3] + row[1]) + 6 * t * (row[7] - 2 * row[5] + row[3]),
        6 * s * (row[6] - 2 * row[4] + row[2]) + 6 * t * (row[8] - 2 * row[6] + row[4]),
    )


@njit(cache=True, error_model="numpy")
def pace(row):
    """The most that a unit of the parameter moves, mm."""
    kind = row[0]
    if kind == SEGMENT:
        return 1.0
    if kind == ARC:
        return row[3]
    if kind == ELLIPSE:
        return max(math.hypot(row[3], row[4]), math.hypot(row[5], row[6]))
    a = math.hypot(row[3] - row[1], row[4] - row[2])
    b = math.hypot(row[5] - row[3], row[6] - row[4])
    c = math.hypot(row[7] - row[5], row[8] - row[6])
    return 3.0 * max(a, max(b, c))


@njit(cache=True, error_model="numpy")
def bulge(row):
    """A bound on the second derivative: a chord over h of parameter is left by at most ``bulge h² / 8``."""
    kind = row[0]
    if kind == SEGMENT:
        return 0.0
    if kind == ARC:
        return row[3]
    if kind == ELLIPSE:
        return max(math.hypot(row[3], row[4]), math.hypot(row[5], row[6]))
    a = math.hypot(row[1] - 2 * row[3] + row[5], row[2] - 2 * row[4] + row[6])
    b = math.hypot(row[3] - 2 * row[5] + row[7], row[4] - 2 * row[6] + row[8])
    return 6.0 * max(a, b)


@njit(cache=True, error_model="numpy")
def box(row, out):
    """A box around the piece (for ellipses and Béziers a little more than it needs): xmin, ymin, xmax, ymax."""
    kind = row[0]
    t0, t1 = row[9], row[10]
    ax, ay = point(row, t0)
    bx, by = point(row, t1)
    out[0], out[2] = min(ax, bx), max(ax, bx)
    out[1], out[3] = min(ay, by), max(ay, by)
    if kind == ARC:
        first = math.ceil(t0 / (math.pi / 2))
        last = math.floor(t1 / (math.pi / 2))
        k = first
        while k <= last:
            x, y = point(row, k * math.pi / 2)
            out[0], out[2] = min(out[0], x), max(out[2], x)
            out[1], out[3] = min(out[1], y), max(out[3], y)
            k += 1
    elif kind == ELLIPSE:
        wide, high = math.hypot(row[3], row[5]), math.hypot(row[4], row[6])
        out[0], out[2] = row[1] - wide, row[1] + wide
        out[1], out[3] = row[2] - high, row[2] + high
    elif kind == BEZIER:
        for k in (3, 5):
            out[0], out[2] = min(out[0], row[k]), max(out[2], row[k])
            out[1], out[3] = min(out[1], row[k + 1]), max(out[3], row[k + 1])


@njit(cache=True, error_model="numpy")
def sweep_area(row, ta, tb):
    """Half the integral of x dy - y dx along the piece from ta to tb (Green's theorem), exact."""
    ax, ay = point(row, ta)
    bx, by = point(row, tb)
    kind = row[0]
    if kind == SEGMENT:
        return (ax * by - bx * ay) / 2
    if kind == ARC:
        return (row[3] * row[3] * (tb - ta) + row[1] * (by - ay) - row[2] * (bx - ax)) / 2
    if kind == ELLIPSE:
        cross = row[3] * row[6] - row[4] * row[5]
        return (cross * (tb - ta) + row[1] * (by - ay) - row[2] * (bx - ax)) / 2
    h = (tb - ta) / 3
    ux, uy = velocity(row, ta)
    vx, vy = velocity(row, tb)
    cx, cy, dx, dy = ax + ux * h, ay + uy * h, bx - vx * h, by - vy * h
    return (
        ax * (6 * cy + 3 * dy + by) - 3 * cx * (2 * ay - dy - by) - 3 * dx * (ay + cy - 2 * by)
        - bx * (ay + 3 * cy + 6 * dy)
    ) / 20  # fmt: skip


@njit(cache=True, error_model="numpy")
def winding(row, ta, tb, x, y):
    """The angle through which the piece is seen to turn from (x, y), which must not lie on it."""
    stack = np.empty((64, 2))
    stack[0, 0], stack[0, 1] = ta, tb
    size = 1
    total = 0.0
    bend = bulge(row)
    while size > 0:
        size -= 1
        a, b = stack[size, 0], stack[size, 1]
        ax, ay = point(row, a)
        bx, by = point(row, b)
        ax -= x
        ay -= y
        bx -= x
        by -= y
        h = b - a
        sag = bend * h * h / 8
        wx, wy = bx - ax, by - ay
        ww = wx * wx + wy * wy
        s = min(max(-(ax * wx + ay * wy) / ww, 0.0), 1.0) if ww > 0 else 0.0
        away = math.hypot(ax + s * wx, ay + s * wy)
        if sag < away or size >= 60 or abs(h) < 1e-9:
            total += math.atan2(ax * by - ay * bx, ax * bx + ay * by)
        else:
            middle = (a + b) / 2
            stack[size, 0], stack[size, 1] = a, middle
            stack[size + 1, 0], stack[size + 1, 1] = middle, b
            size += 2
    return total
