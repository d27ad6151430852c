"""Curves of space as they are seen from one side: lines stay lines, circles become circles, ellipses or lines."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import pairwise
from typing import Any, TypeAlias

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Ellipse, GeomAbs_Line
from OCP.gp import gp_Pnt, gp_Vec

from ..frames import Frame
from ..sketch.curves.pieces import ArcPiece, Bezier, EllipsePiece, Piece, Segment
from .kernel import Shape

XY: TypeAlias = tuple[float, float]
_TINY = 1e-7  # mm
_STRAIGHT = 1e-6


class Dropped:
    """An edge looked at against the normal of a frame."""

    def __init__(self, edge: Shape, frame: Frame) -> None:
        self._curve = BRepAdaptor_Curve(edge)
        self.first, self.last = self._curve.FirstParameter(), self._curve.LastParameter()
        self._axes = np.array([frame.x, frame.y, frame.normal])
        self._origin = np.array(frame.origin)

    def at(self, t: float) -> np.ndarray:
        """A place of it: in the frame, and its height there."""
        return np.asarray(self._axes @ (_triple(self._curve.Value(t)) - self._origin))

    def places(self, ts: np.ndarray) -> np.ndarray:
        """Places of it (n, 3) at parameters (n)."""
        sort = self._curve.GetType()
        if sort == GeomAbs_Line:
            a, b = self.at(self.first), self.at(self.last)
            return np.asarray(a + ((ts - self.first) / (self.last - self.first))[:, None] * (b - a))
        if sort == GeomAbs_Circle:
            circle = self._curve.Circle()
            centre = self._axes @ (_triple(circle.Location()) - self._origin)
            u, v = (self._axes @ _triple(a.Direction()) * circle.Radius() for a in (circle.XAxis(), circle.YAxis()))
            return np.asarray(centre + np.cos(ts)[:, None] * u + np.sin(ts)[:, None] * v)
        return np.array([self.at(float(t)) for t in ts])

    def pieces(self, low: float, high: float) -> Iterator[Piece]:
        """What is seen of it from one parameter to another; nothing where it is a point."""
        sort = self._curve.GetType()
        if sort == GeomAbs_Line:
            a, b = (_xy(self.at(t)) for t in (low, high))
            if math.dist(a, b) > _TINY:
                yield Segment(a, b)
        elif sort == GeomAbs_Circle:
            circle = self._curve.Circle()
            yield from self._round(circle, circle.Radius(), circle.Radius(), low, high)
        elif sort == GeomAbs_Ellipse:
            ellipse = self._curve.Ellipse()
            yield from self._round(ellipse, ellipse.MajorRadius(), ellipse.MinorRadius(), low, high)
        else:
            yield from self._free(low, high)

    def _round(self, conic: Any, first: float, second: float, low: float, high: float) -> Iterator[Piece]:
        """``centre + cos t u + sin t v`` with u and v as they are seen; their ellipse has its tips where t turns by
        half the angle whose tangent is 2 u·v / (u² - v²).
        """
        centre = _xy(self._axes @ (_triple(conic.Location()) - self._origin))
        u, v = (
            (self._axes @ _triple(axis.Direction()))[:2] * size
            for axis, size in ((conic.XAxis(), first), (conic.YAxis(), second))
        )
        shift = math.atan2(2 * float(u @ v), float(u @ u - v @ v)) / 2
        major, minor = u * math.cos(shift) + v * math.sin(shift), v * math.cos(shift) - u * math.sin(shift)
        long, short = float(np.hypot(*major)), float(np.hypot(*minor))
        turn = 1.0 if major[0] * minor[1] - major[1] * minor[0] > 0 else -1.0
        if long - short < 1e-9 * long:
            start = math.atan2(major[1], major[0])
            yield ArcPiece(centre, long, start + turn * (low - shift), start + turn * (high - shift))
        elif short > 1e-7 * long:
            yield EllipsePiece(centre, _xy(major), short, turn * (low - shift), turn * (high - shift))
        else:  # from its side: to and fro on a line
            first_turn, last_turn = math.ceil((low - shift) / math.pi), math.floor((high - shift) / math.pi)
            turns = [k * math.pi + shift for k in range(first_turn, last_turn + 1)]
            cuts = [low, *(t for t in turns if low < t < high), high]
            for a, b in pairwise(math.cos(t - shift) for t in cuts):
                if abs(a - b) * long > _TINY:
                    yield Segment(
                        (centre[0] + a * float(major[0]), centre[1] + a * float(major[1])),
                        (centre[0] + b * float(major[0]), centre[1] + b * float(major[1])),
                    )

    def _free(self, low: float, high: float) -> Iterator[Piece]:
        """Cubic pieces with the places and directions of the curve at their ends."""
        count = max(1, math.ceil(16 * (high - low) / (self.last - self.first)))
        h, point, way = (high - low) / count, gp_Pnt(), gp_Vec()
        ends = []
        for i in range(count + 1):
            self._curve.D1(low + i * h, point, way)
            seen = self._axes @ np.array([way.X(), way.Y(), way.Z()])
            ends.append((_xy(self._axes @ (_triple(point) - self._origin)), _xy(seen)))
        start, end = ends[0][0], ends[-1][0]
        long = math.dist(start, end)
        if long > _TINY:
            across = ((end[1] - start[1]) / long, (start[0] - end[0]) / long)
            along = [(p[0] - start[0]) * -across[1] + (p[1] - start[1]) * across[0] for p, _ in ends]
            off = max(abs((p[0] - start[0]) * across[0] + (p[1] - start[1]) * across[1]) for p, _ in ends)
            if off < _STRAIGHT and all(a <= b for a, b in pairwise(along)):
                yield Segment(start, end)
                return
        for (p, d), (q, e) in pairwise(ends):
            if math.dist(p, q) > _TINY:
                yield Bezier(
                    p, (p[0] + d[0] * h / 3, p[1] + d[1] * h / 3), (q[0] - e[0] * h / 3, q[1] - e[1] * h / 3), q
                )


def _triple(p: Any) -> np.ndarray:
    return np.array([p.X(), p.Y(), p.Z()])


def _xy(p: Any) -> XY:
    return float(p[0]), float(p[1])
