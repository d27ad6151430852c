"""What triangles cover places behind them: looked at along z, from above.

The triangles are put into the cells of a grid over x and y, so that a place asks only those about it.
"""

from __future__ import annotations

import math

import numpy as np
from numba import njit


@njit(cache=True, error_model="numpy")
def _spans(points, triangles, low, cell, across, up):
    """The cells that each triangle touches: first and last column and row."""
    out = np.empty((len(triangles), 4), np.int64)
    for t in range(len(triangles)):
        for k, most in ((0, across), (1, up)):
            a, b, c = points[triangles[t, 0], k], points[triangles[t, 1], k], points[triangles[t, 2], k]
            out[t, k] = min(most - 1, max(0, int((min(a, b, c) - low[k]) / cell)))
            out[t, k + 2] = min(most - 1, max(0, int((max(a, b, c) - low[k]) / cell)))
    return out


@njit(cache=True, error_model="numpy")
def _sorted_in(spans, across, count):
    """The triangles by cell, one list after the other, and where each begins."""
    starts = np.zeros(count + 1, np.int64)
    for t in range(len(spans)):
        for row in range(spans[t, 1], spans[t, 3] + 1):
            for column in range(spans[t, 0], spans[t, 2] + 1):
                starts[row * across + column + 1] += 1
    for k in range(count):
        starts[k + 1] += starts[k]
    filled, members = starts[:-1].copy(), np.empty(starts[count], np.int64)
    for t in range(len(spans)):
        for row in range(spans[t, 1], spans[t, 3] + 1):
            for column in range(spans[t, 0], spans[t, 2] + 1):
                cell = row * across + column
                members[filled[cell]] = t
                filled[cell] += 1
    return starts, members


@njit(cache=True, error_model="numpy")
def _covered(points, triangles, starts, members, low, cell, across, up, places):
    out = np.zeros(len(places), np.bool_)
    for k in range(len(places)):
        x, y, z = places[k, 0], places[k, 1], places[k, 2]
        column, row = math.floor((x - low[0]) / cell), math.floor((y - low[1]) / cell)
        if column < 0 or row < 0 or column >= across or row >= up:
            continue
        at = row * across + column
        for m in range(starts[at], starts[at + 1]):
            t = members[m]
            a, b, c = points[triangles[t, 0]], points[triangles[t, 1]], points[triangles[t, 2]]
            if a[2] <= z and b[2] <= z and c[2] <= z:
                continue
            whole = (b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1])
            if whole == 0.0:
                continue
            v = ((x - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (y - a[1])) / whole
            w = ((b[0] - a[0]) * (y - a[1]) - (x - a[0]) * (b[1] - a[1])) / whole
            if v >= 0.0 and w >= 0.0 and v + w <= 1.0 and a[2] + v * (b[2] - a[2]) + w * (c[2] - a[2]) > z:
                out[k] = True
                break
    return out


class Cover:
    """Triangles that places may lie behind: points (n, 3), triangles (t, 3), z towards whoever looks."""

    def __init__(self, points: np.ndarray, triangles: np.ndarray) -> None:
        self._points = np.ascontiguousarray(points, np.float64)
        self._triangles = np.ascontiguousarray(triangles, np.int64)
        self._low = self._points[:, :2].min(axis=0)
        extent = self._points[:, :2].max(axis=0) - self._low
        self._cell = max(math.sqrt(extent[0] * extent[1] / (len(triangles) + 16)), float(extent.max()) / 1000, 1e-9)
        self._across, self._up = (int(e / self._cell) + 1 for e in extent)
        spans = _spans(self._points, self._triangles, self._low, self._cell, self._across, self._up)
        self._starts, self._members = _sorted_in(spans, self._across, self._across * self._up)

    def covers(self, places: np.ndarray) -> np.ndarray:
        """Whether something is above each of the places (k, 3)."""
        return np.asarray(
            _covered(
                self._points, self._triangles, self._starts, self._members, self._low, self._cell, self._across,
                self._up, np.ascontiguousarray(places, np.float64),
            )
        )  # fmt: skip
