"""A surface of triangles: how much it encloses, whether it is closed, its sharp edges."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..errors import BadInput

SHARP = math.radians(28)


@dataclass(frozen=True)
class Surface:
    """``positions`` (n, 3) mm, float64; ``triangles`` (t, 3), counterclockwise seen from outside."""

    positions: np.ndarray
    triangles: np.ndarray

    @cached_property
    def corners(self) -> np.ndarray:
        """(t, 3, 3): the three corners of each triangle."""
        return self.positions[self.triangles]  # type: ignore[no-any-return]

    @cached_property
    def crosses(self) -> np.ndarray:
        """(t, 3): outward normals as long as twice the areas."""
        c = self.corners
        return np.cross(c[:, 1] - c[:, 0], c[:, 2] - c[:, 0])

    @cached_property
    def normals(self) -> np.ndarray:
        """(t, 3): outward unit normals; nought for triangles without area."""
        long = np.linalg.norm(self.crosses, axis=1)
        return self.crosses / np.maximum(long, 1e-30)[:, None]  # type: ignore[no-any-return]

    @property
    def volume(self) -> float:
        """By the divergence theorem, mm³; right for closed surfaces."""
        return float(np.einsum("ij,ij->", self.corners[:, 0], self.crosses)) / 6

    @property
    def area(self) -> float:
        """mm²."""
        return float(np.linalg.norm(self.crosses, axis=1).sum()) / 2

    @property
    def centre(self) -> tuple[float, float, float]:
        """Centre of what is enclosed; of the box where that is nothing."""
        c, volume = self.corners, self.volume
        if abs(volume) < 1e-12:
            low, high = self.box
            return tuple((l + h) / 2 for l, h in zip(low, high))  # type: ignore[return-value]
        each = np.einsum("ij,ij->i", c[:, 0], self.crosses)
        x, y, z = (each[:, None] * c.sum(axis=1)).sum(axis=0) / (24 * volume)
        return float(x), float(y), float(z)

    @property
    def box(self) -> tuple[tuple[float, ...], tuple[float, ...]]:
        """Lowest and highest corner."""
        if not len(self.positions):
            return (0.0, 0.0, 0.0), (0.0, 0.0, 0.0)
        low, high = self.positions.min(axis=0), self.positions.max(axis=0)
        return tuple(float(v) for v in low), tuple(float(v) for v in high)

    @cached_property
    def edges(self) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Each edge once: its two ends (e, 2), the triangles at it (e, 2; -1 where there is none), how many there are
        (e).
        """
        t = self.triangles
        directed = np.concatenate([t[:, [0, 1]], t[:, [1, 2]], t[:, [2, 0]]])
        owner = np.tile(np.arange(len(t)), 3)
        ends = np.sort(directed, axis=1)
        unique, where, counts = np.unique(ends, axis=0, return_inverse=True, return_counts=True)
        order = np.argsort(where.reshape(-1), kind="stable")
        first = np.concatenate([[0], np.cumsum(counts)])[:-1]
        around = np.full((len(unique), 2), -1, np.int64)
        around[:, 0] = owner[order[first]]
        two = counts >= 2
        around[two, 1] = owner[order[first[two] + 1]]
        return unique, around, counts

    @cached_property
    def open_edges(self) -> np.ndarray:
        """(k, 2): edges at which not exactly two triangles meet, or two that do not agree which side is out."""
        unique, _, counts = self.edges
        t = self.triangles
        directed = np.concatenate([t[:, [0, 1]], t[:, [1, 2]], t[:, [2, 0]]])
        forward = directed[:, 0] < directed[:, 1]
        where = np.unique(np.sort(directed, axis=1), axis=0, return_inverse=True)[1].reshape(-1)
        balance = np.bincount(where, np.where(forward, 1, -1), len(unique))
        return unique[(counts % 2 != 0) | (balance != 0)]  # type: ignore[no-any-return]

    @property
    def closed(self) -> bool:
        """Whether it is watertight, with one side out."""
        return bool(len(self.triangles)) and not len(self.open_edges)

    def sharp_edges(self) -> np.ndarray:
        """(k, 2): edges at which the surface turns sharply, or ends."""
        unique, around, counts = self.edges
        a, b = self.normals[around[:, 0]], self.normals[around[:, 1]]
        turns = np.einsum("ij,ij->i", a, b) < math.cos(SHARP)
        return unique[(counts != 2) | turns]  # type: ignore[no-any-return]

    def pieces(self) -> list[np.ndarray]:
        """Connected pieces, as indices of triangles."""
        from scipy.sparse import coo_array
        from scipy.sparse.csgraph import connected_components

        t = self.triangles
        n = len(self.positions)
        links = coo_array(
            (np.ones(2 * len(t)), (np.concatenate([t[:, 0], t[:, 1]]), np.concatenate([t[:, 1], t[:, 2]]))), (n, n)
        )
        count, label = connected_components(links, directed=False)
        mine = label[t[:, 0]]
        return [np.flatnonzero(mine == i) for i in range(count) if (mine == i).any()]

    def moved(self, matrix: np.ndarray, shift: np.ndarray | None = None) -> Surface:
        """Turned by a (3, 3) matrix, then shifted."""
        return Surface(self.positions @ matrix.T + (0 if shift is None else shift), self.triangles)


def same_places(points: np.ndarray, tolerance: float) -> tuple[np.ndarray, np.ndarray]:
    """Which points (n, 3) lie at one place on a grid: the first of each place, and for each point its place."""
    grid = np.round(points / tolerance).astype(np.int64)
    grid -= grid.min(axis=0)
    span = grid.max(axis=0) + 1
    if float(span[0]) * float(span[1]) * float(span[2]) < 9e18:
        # one number a place sorts many times faster than three
        keys = (grid[:, 0] * span[1] + grid[:, 1]) * span[2] + grid[:, 2]
        _, first, where = np.unique(keys, return_index=True, return_inverse=True)
    else:
        _, first, where = np.unique(grid, axis=0, return_index=True, return_inverse=True)
    return first, where.reshape(-1)


def welded(corners: np.ndarray, tolerance: float = 1e-5) -> Surface:
    """A surface from loose triangles (t, 3, 3): corners at one place become one, triangles without area go."""
    flat = corners.reshape(-1, 3)
    if not len(flat):
        return Surface(np.zeros((0, 3)), np.zeros((0, 3), np.int64))
    first, where = same_places(flat, tolerance)
    triangles = where.reshape(-1, 3)
    a, b, c = triangles.T
    return Surface(flat[first].astype(np.float64), triangles[(a != b) & (b != c) & (c != a)].astype(np.int64))


def together(surfaces: list[Surface]) -> Surface:
    """Several as one."""
    shifts = np.cumsum([0, *(len(s.positions) for s in surfaces)])
    if not surfaces:
        raise BadInput("There are no triangles.")
    return Surface(
        np.concatenate([s.positions for s in surfaces]),
        np.concatenate([s.triangles + n for s, n in zip(surfaces, shifts)]),
    )


def crowded_edges(corners: np.ndarray, near: float = 1e-5) -> int:
    """How many edges have more than two faces, corners (3 t, 3) nearer than ``near`` mm taken as one.

    So a reader that joins equal corners sees a file in which bodies, or walls of one, touch along an edge.
    """
    _, where = same_places(corners, near)
    triangles = where.reshape(-1, 3)
    a, b, c = triangles.T
    triangles = triangles[(a != b) & (b != c) & (c != a)]
    directed = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    _, counts = np.unique(np.sort(directed, axis=1), axis=0, return_counts=True)
    return int(np.sum(counts > 2))
