"""Level cuts through a surface of triangles: closed loops at many heights at once.

Each triangle that a level passes gives one directed piece, from the edge where its outline goes down through the
level to the one where it goes up; the solid is on the left. Pieces are chained over shared edges, so loops of a
closed surface close exactly. A corner at just the level's height counts as above it, which keeps every case an
ordinary one.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit

from .surface import Surface


@dataclass(frozen=True)
class Loop:
    """A closed outline (n, 2), not repeated at its end; counterclockwise around material. ``triangles`` (n): whose
    piece starts there.
    """

    points: np.ndarray
    triangles: np.ndarray

    @property
    def area(self) -> float:
        """Signed: positive around material, negative around a hollow."""
        x, y = self.points[:, 0], self.points[:, 1]
        return float(np.dot(x, np.roll(y, -1)) - np.dot(np.roll(x, -1), y)) / 2

    @property
    def length(self) -> float:
        """Its circumference."""
        return float(np.linalg.norm(np.diff(self.points, axis=0, append=self.points[:1]), axis=1).sum())


@njit(cache=True, error_model="numpy")
def _cut(points, triangles, tri_edges, edge_ends, active, level, next_edge, owner, out_points, out_owner, starts):
    """Chains at one level. Returns the number of loops and of points; open chains are left out."""
    touched = np.empty(len(active), np.int64)
    count = 0
    for k in range(len(active)):
        t = active[k]
        low_to, high_to = -1, -1
        for j in range(3):
            a = points[triangles[t, j], 2] >= level
            b = points[triangles[t, (j + 1) % 3], 2] >= level
            if a and not b:
                low_to = tri_edges[t, j]
            elif b and not a:
                high_to = tri_edges[t, j]
        if low_to >= 0 and high_to >= 0:
            next_edge[low_to] = high_to
            owner[low_to] = t
            touched[count] = low_to
            count += 1
    loops, used = 0, 0
    for k in range(count):
        first = touched[k]
        if next_edge[first] < 0:
            continue
        begin, e, closed = used, first, False
        while next_edge[e] >= 0:
            i, j = edge_ends[e, 0], edge_ends[e, 1]
            zi, zj = points[i, 2], points[j, 2]
            s = (level - zi) / (zj - zi)
            out_points[used, 0] = points[i, 0] + s * (points[j, 0] - points[i, 0])
            out_points[used, 1] = points[i, 1] + s * (points[j, 1] - points[i, 1])
            out_owner[used] = owner[e]
            used += 1
            follow = next_edge[e]
            next_edge[e] = -1
            e = follow
            if e == first:
                closed = True
                break
        if closed and used - begin >= 3:
            starts[loops] = begin
            loops += 1
        else:
            used = begin
    starts[loops] = used
    return loops, used


class Slicer:
    """A surface prepared for cutting at any heights."""

    def __init__(self, surface: Surface) -> None:
        self.surface = surface
        self._points = np.ascontiguousarray(surface.positions, np.float64)
        self._triangles = np.ascontiguousarray(surface.triangles, np.int64)
        t = self._triangles
        directed = np.concatenate([t[:, [0, 1]], t[:, [1, 2]], t[:, [2, 0]]]) if len(t) else np.zeros((0, 2), np.int64)
        ends, where = np.unique(np.sort(directed, axis=1), axis=0, return_inverse=True)
        self._edge_ends = np.ascontiguousarray(ends, np.int64).reshape(-1, 2)
        self._tri_edges = np.ascontiguousarray(where.reshape(3, -1).T) if len(t) else np.zeros((0, 3), np.int64)
        self._next = np.full(max(len(ends), 1), -1, np.int64)
        self._owner = np.zeros(max(len(ends), 1), np.int64)
        heights = self._points[:, 2][t] if len(t) else np.zeros((0, 3))
        self._low, self._high = heights.min(axis=1, initial=np.inf), heights.max(axis=1, initial=-np.inf)
        self._by_low = np.argsort(self._low, kind="stable")
        self._sorted_low = self._low[self._by_low]

    def at(self, level: float) -> list[Loop]:
        """The loops at one height."""
        # triangles that begin below the level and end at or above it
        begun = self._by_low[: np.searchsorted(self._sorted_low, level, side="left")]
        active = begun[self._high[begun] >= level]
        return self._loops(active, level)

    def levels(self, heights: Sequence[float]) -> list[list[Loop]]:
        """The loops at many heights."""
        return [self.at(float(h)) for h in heights]

    def _loops(self, active: np.ndarray, level: float) -> list[Loop]:
        n = len(active)
        if not n:
            return []
        points, owners, starts = np.empty((n + 1, 2)), np.empty(n + 1, np.int64), np.empty(n + 2, np.int64)
        loops, _ = _cut(
            self._points, self._triangles, self._tri_edges, self._edge_ends, np.ascontiguousarray(active), level,
            self._next, self._owner, points, owners, starts,
        )  # fmt: skip
        return [Loop(points[starts[i] : starts[i + 1]], owners[starts[i] : starts[i + 1]]) for i in range(loops)]


def polygons(loops: Sequence[Loop]) -> Any:
    """Loops as areas with holes (a shapely geometry): where more loops go round to the left than to the right."""
    import shapely

    rings = np.array([shapely.Polygon(loop.points) for loop in loops], dtype=object)
    if not len(rings):
        return shapely.Polygon()
    out = np.array([loop.area > 0 for loop in loops])
    valid = rings if shapely.is_valid(rings).all() else shapely.make_valid(rings)
    area = shapely.union_all(valid[out])
    return shapely.difference(area, shapely.union_all(valid[~out])) if not out.all() else area


def plane_section(surface: Surface, origin: np.ndarray, x: np.ndarray, normal: np.ndarray) -> list[Loop]:
    """The loops in which a plane cuts a surface, in the plane's own coordinates (``x`` and ``normal`` unit vectors)."""
    y = np.cross(normal, x)
    turned = surface.moved(np.stack([x, y, normal]), -np.stack([x, y, normal]) @ origin)
    return Slicer(turned).at(0.0)
