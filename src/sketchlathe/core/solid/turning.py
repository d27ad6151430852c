"""Where round faces turn away from the eye: the outlines that no edge has."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import pairwise
from typing import Any

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Sphere, GeomAbs_Torus

from ..sketch.curves.pieces import ArcPiece, Piece, Segment

EDGE_ON = 1e-6
_SAME = 1e-5  # mm
_FORMS = (GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_Sphere, GeomAbs_Torus)


def turning(
    surface: BRepAdaptor_Surface, points: np.ndarray, normals: np.ndarray, corners: np.ndarray, axes: np.ndarray,
    origin: np.ndarray,
) -> Iterator[tuple[Arc | Polyline, np.ndarray]]:  # fmt: skip
    """Where a round face turns away from the eye: lines, and the way out of the solid along them (n, 3). ``points`` and
    ``normals`` (n, 3) of its mesh as it is looked at, ``corners`` (t, 3) of its triangles, ``axes`` and ``origin`` of
    the plane it is looked at on.
    """
    form = Round(surface, axes, origin) if surface.GetType() in _FORMS else None
    if form is not None:
        exact = form.normals(points)
        normals = exact if float((exact * normals).sum()) > 0 else -exact
    towards = normals[:, 2]
    towards = np.where(np.abs(towards) < EDGE_ON, EDGE_ON, towards)
    mixed = np.ptp(np.sign(towards[corners]), axis=1) > 0
    links: dict[tuple[int, int], list[tuple[int, int]]] = {}
    for a, b, c in corners[mixed]:
        ends = [tuple(sorted((p, q))) for p, q in ((a, b), (b, c), (c, a)) if towards[p] * towards[q] < 0]
        for this, other in (ends, ends[::-1]):
            links.setdefault(this, []).append(other)  # type: ignore[arg-type]
    for chain in _chains(links):
        crossed = np.array(chain)
        a, b = crossed[:, 0], crossed[:, 1]
        k = (towards[a] / (towards[a] - towards[b]))[:, None]
        places, ways = points[a] + k * (points[b] - points[a]), normals[a] + k * (normals[b] - normals[a])
        ways[:, 2] = 0.0
        ways /= np.maximum(np.linalg.norm(ways, axis=1), 1e-12)[:, None]
        if form is not None and form.sort == GeomAbs_Sphere:
            yield Arc(form, places), ways
        else:
            yield Polyline(places if form is None else form.put_right(places, ways)), ways


class Round:
    """A round surface as it is looked at: where it turns away from the eye is known, not only between its triangles."""

    def __init__(self, surface: BRepAdaptor_Surface, axes: np.ndarray, origin: np.ndarray) -> None:
        self.sort = surface.GetType()
        form = {
            GeomAbs_Cylinder: surface.Cylinder, GeomAbs_Cone: surface.Cone, GeomAbs_Sphere: surface.Sphere,
            GeomAbs_Torus: surface.Torus,
        }[self.sort]()  # fmt: skip
        self.at = axes @ (_triple(form.Location()) - origin)
        self.axis = axes @ _triple(form.Position().Direction())
        self.radius = float(form.RefRadius() if self.sort == GeomAbs_Cone else
                            form.MajorRadius() if self.sort == GeomAbs_Torus else form.Radius())  # fmt: skip
        self.small = float(form.MinorRadius()) if self.sort == GeomAbs_Torus else 0.0
        self.lean = float(form.SemiAngle()) if self.sort == GeomAbs_Cone else 0.0

    def _about(self, points: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """How high points lie along the axis, and their directions away from it."""
        from_ = points - self.at
        height = from_ @ self.axis
        radial = from_ - height[:, None] * self.axis
        return height, radial / np.maximum(np.linalg.norm(radial, axis=1), 1e-12)[:, None]

    def normals(self, points: np.ndarray) -> np.ndarray:
        """Directions square to the surface; those of triangles are off by half a facet at a face's rim."""
        height, radial = self._about(points)
        if self.sort == GeomAbs_Cylinder:
            return radial
        if self.sort == GeomAbs_Cone:
            sense = np.sign(self.radius + height * math.tan(self.lean) + 1e-300)
            return np.asarray(radial * math.cos(self.lean) - self.axis * (math.sin(self.lean) * sense)[:, None])
        out = points - self.at - (radial * self.radius if self.sort == GeomAbs_Torus else 0.0)
        return np.asarray(out / np.maximum(np.linalg.norm(out, axis=1), 1e-12)[:, None])

    def put_right(self, places: np.ndarray, ways: np.ndarray) -> np.ndarray:
        """Places found between triangles, on the surface where it is square to the eye. ``ways``: out of the solid."""
        height, radial = self._about(places)
        if self.sort == GeomAbs_Torus:
            ring = self.at + radial * self.radius
            out = places - ring
            return np.asarray(ring + ways * np.sign((out * ways).sum(axis=1))[:, None] * self.small)
        # the way to the wall, square to the axis, whose normal is square to the eye: one to the left, one to the right
        eye = np.array([0.0, 0.0, 1.0])
        flat = eye - self.axis[2] * self.axis
        long = float(np.linalg.norm(flat))
        if long < 1e-9:
            return places
        u = flat / long
        v = np.cross(self.axis, u)
        wide = self.radius + height * math.tan(self.lean)
        cosine = np.clip(math.tan(self.lean) * self.axis[2] / long * np.sign(wide + 1e-300), -1.0, 1.0)
        sine = np.sqrt(1 - cosine**2) * np.sign(radial @ v)
        right = cosine[:, None] * u + sine[:, None] * v
        return np.asarray(self.at + height[:, None] * self.axis + np.abs(wide)[:, None] * right)


class Arc:
    """The outline of a ball, or a part of it."""

    def __init__(self, ball: Round, places: np.ndarray) -> None:
        self._centre, self._radius = ball.at, ball.radius
        angles = np.unwrap(np.arctan2(places[:, 1] - ball.at[1], places[:, 0] - ball.at[0]))
        self.first, self.last = float(angles[0]), float(angles[-1])
        if abs(abs(self.last - self.first) - 2 * math.pi) < 1e-6:
            self.last = self.first + math.copysign(2 * math.pi, self.last - self.first)

    def places(self, ts: np.ndarray) -> np.ndarray:
        """Places of it (n, 3) at parameters (n)."""
        return np.asarray(self._centre + self._radius * np.column_stack([np.cos(ts), np.sin(ts), np.zeros(len(ts))]))

    def pieces(self, low: float, high: float) -> Iterator[Piece]:
        """It as one arc."""
        yield ArcPiece((float(self._centre[0]), float(self._centre[1])), self._radius, low, high)


class Polyline:
    """A line by places along it (n, 3)."""

    def __init__(self, places: np.ndarray) -> None:
        self._places, self.first, self.last = places, 0.0, float(len(places) - 1)

    def at(self, t: float) -> np.ndarray:
        """A place of it."""
        i = min(int(t), len(self._places) - 2)
        return np.asarray(self._places[i] + (t - i) * (self._places[i + 1] - self._places[i]))

    def places(self, ts: np.ndarray) -> np.ndarray:
        """Places of it (n, 3) at parameters (n)."""
        i = np.minimum(ts.astype(np.int64), len(self._places) - 2)
        return np.asarray(self._places[i] + (ts - i)[:, None] * (self._places[i + 1] - self._places[i]))

    def pieces(self, low: float, high: float) -> Iterator[Piece]:
        """Straight pieces; one where they run straight on."""
        cuts = [low, *range(math.floor(low) + 1, math.ceil(high)), high]
        places = [(float(p[0]), float(p[1])) for p in map(self.at, cuts)]
        start, end = places[0], places[-1]
        long = math.dist(start, end)
        if long > _SAME:
            u = ((end[0] - start[0]) / long, (end[1] - start[1]) / long)
            off = max(abs((p[0] - start[0]) * u[1] - (p[1] - start[1]) * u[0]) for p in places)
            along = [(p[0] - start[0]) * u[0] + (p[1] - start[1]) * u[1] for p in places]
            if off < 1e-4 and all(a <= b + 1e-9 for a, b in pairwise(along)):
                yield Segment(start, end)
                return
        for p, q in pairwise(places):
            if math.dist(p, q) > 1e-9:
                yield Segment(p, q)


def _chains(links: dict[tuple[int, int], list[tuple[int, int]]]) -> Iterator[list[tuple[int, int]]]:
    """What hangs together, end to end; a closed one ends where it begins."""
    left = dict(links)
    while left:
        start = next((k for k, to in left.items() if len(to) == 1), next(iter(left)))
        chain, before = [start], None
        while True:
            now = chain[-1]
            nexts = [k for k in left.pop(now, ()) if k != before]
            before = now
            onward = next((k for k in nexts if k in left), None)
            if onward is None:
                if len(chain) > 2 and start in nexts:
                    chain.append(start)
                break
            chain.append(onward)
        if len(chain) > 1:
            yield chain


def _triple(p: Any) -> np.ndarray:
    return np.array([p.X(), p.Y(), p.Z()])
