"""What is seen of solids from one side, and what is behind them: exact lines in a plane that they are looked at on.

The lines are those of the solid's edges and, of round faces, where they turn away from the eye. Whether a place of a
line is seen is asked of the triangles (``mesh.cover``): a place just outside the solid there, by a little more than
what triangles are off by, is hidden where a triangle is above it. Where a line goes behind something is found by
halving. So it takes about as long as meshing, whatever the faces are. (The kernel's own way took minutes for a thread.)
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from itertools import pairwise
from typing import Any, NamedTuple

import numpy as np
from cachetools import LRUCache
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_Plane
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS

from ..frames import Frame
from ..mesh.cover import Cover
from . import meshing
from .digest import faces_of_edges
from .dropping import Dropped
from .edges import normal_on
from .kernel import EDGE, FACE, Shape, mapped, private
from .measuring import rough_box
from .naming import Body
from .overlaid import Seen, Sort, once
from .turning import EDGE_ON, turning

_SMOOTH = math.cos(math.radians(1))
_SAMPLES = 300  # along what is as long as the whole
_HALVINGS = 15
FINER = 4.0  # than the triangles that are shown: where a line ends is off by less than its own width


def seen(bodies: Sequence[Body], frame: Frame) -> tuple[Seen, ...]:
    """The lines of ``bodies`` looked at against the normal of ``frame``, in its coordinates."""
    if not bodies:
        return ()
    boxes = [rough_box(b.shape) for b in bodies]
    size = max(max(h[i] for _, h in boxes) - min(low[i] for low, _ in boxes) for i in range(3))
    chord = meshing.view_tolerance(size) / FINER
    solids = [_Solid(body, frame, chord) for body in bodies]
    points, triangles, count = [], [], 0
    for solid in solids:
        points.append(solid.points)
        triangles.append(solid.mesh.triangles.astype(np.int64) + count)
        count += len(solid.points)
    cover = Cover(np.concatenate(points), np.concatenate(triangles))
    lines = [line for solid in solids for line in solid.lines(2.5 * chord)]
    return tuple(once(_told_apart(lines, cover, size)))


class _Edge(NamedTuple):
    """An edge of a meshed shape: the faces beside it, ways out of the solid along it (k, n, 3), its length (mm), the
    normals of the faces in its middle, where they have some.
    """

    shape: Shape
    faces: tuple[int, ...]
    out: np.ndarray
    length: float
    normals: tuple[np.ndarray, ...]
    smooth: bool


class _Meshed:
    """A copy of a shape with finer triangles than are shown, and what of it is the same from all sides. (The shape
    itself keeps the triangles that it has: others hold it too.)
    """

    def __init__(self, shape: Shape, chord: float) -> None:
        self.of, self.shape = shape, private(shape, mesh=False)
        meshing.tessellate(self.shape, chord)
        self.mesh = meshing.extract(self.shape, edges=False)
        faces = mapped(self.shape, FACE)
        self.faces = [TopoDS.Face(faces.FindKey(i + 1)) for i in range(faces.Size())]
        self.edges, self.count = list(self._edges()), len(self.mesh.triangles)

    def _edges(self) -> Iterator[_Edge]:
        rims, first, count = [], [], 0
        for face in self.faces:
            location = TopLoc_Location()
            triangulation = BRep_Tool.Triangulation_s(face, location)
            first.append(count)
            rims.append((triangulation, location))
            count += triangulation.NbNodes()
        positions, normals = self.mesh.positions.astype(np.float64), self.mesh.normals.astype(np.float64)
        edges = mapped(self.shape, EDGE)
        for index, around in enumerate(faces_of_edges(self.shape)):
            edge = TopoDS.Edge(edges.FindKey(index + 1))
            if len(around) < 2 or BRep_Tool.Degenerated_s(edge):
                continue
            nodes = []
            for f in around[:2]:
                polygon = BRep_Tool.PolygonOnTriangulation_s(edge, *rims[f])
                if polygon is not None:
                    nodes.append(np.array([polygon.Node(i) - 1 for i in range(1, polygon.NbNodes() + 1)]) + first[f])
            if len(nodes) < 2 or not min(map(len, nodes)):
                continue
            shared = min(map(len, nodes))
            first_way, second_way = (normals[n[:shared]] for n in nodes)
            between = first_way + second_way
            between /= np.maximum(np.linalg.norm(between, axis=1), 1e-9)[:, None]
            long = float(np.linalg.norm(np.diff(positions[nodes[0]], axis=0), axis=1).sum())
            exact = tuple(np.array(n) for f in around[:2] if (n := normal_on(self.faces[f], edge)) is not None)
            smooth = len(exact) == 2 and float(exact[0] @ exact[1]) > _SMOOTH
            out = np.stack([between] if smooth else [between, first_way, second_way])
            yield _Edge(edge, tuple(around), out, long, exact, smooth)


_KEPT = 400_000  # triangles
_lately: LRUCache[tuple[int, float], _Meshed] = LRUCache(_KEPT, getsizeof=lambda m: min(m.count, _KEPT // 2))


def _meshed(shape: Shape, chord: float) -> _Meshed:
    """It, the same for one view after the other."""
    key = (id(shape), chord)
    if key not in _lately or _lately[key].of is not shape:
        _lately[key] = _Meshed(shape, chord)
    return _lately[key]


class _Line(NamedTuple):
    """A line that may be seen: where it is by its parameter, what is drawn of it from one to another, and at which
    places (k, n, 3) around its own it is asked for, evenly along it: it is hidden where all k are.
    """

    dropped: Any  # places(ts), pieces(low, high), first, last
    beside: np.ndarray
    length: float
    sort: Sort
    face: tuple[str, int]


class _Solid:
    """A body with its triangles, as it is looked at."""

    def __init__(self, body: Body, frame: Frame, chord: float) -> None:
        self.body, self.frame = body, frame
        self._meshed = _meshed(body.shape, chord)
        self.mesh = self._meshed.mesh
        self._axes = np.array([frame.x, frame.y, frame.normal])
        self.points = (self.mesh.positions.astype(np.float64) - np.array(frame.origin)) @ self._axes.T
        self.normals = self.mesh.normals.astype(np.float64) @ self._axes.T

    def lines(self, off: float) -> Iterator[_Line]:
        """Its edges, then the outlines of its round faces. ``off``: how far outside it they are asked for, mm."""
        for edge in self._meshed.edges:
            sort: Sort = "edge"
            if edge.smooth:
                edge_on = any(abs(float(n @ self._axes[2])) < EDGE_ON for n in edge.normals)
                sort = "outline" if edge_on else "smooth"
            beside = edge.out @ self._axes.T * off + self._towards(off)
            yield _Line(Dropped(edge.shape, self.frame), beside, edge.length, sort, (self.body.id, edge.faces[0]))
        for index, face in enumerate(self._meshed.faces):
            surface = BRepAdaptor_Surface(face)
            if surface.GetType() != GeomAbs_Plane:
                for line, ways in self._outlines(index, surface):
                    places = line.places(np.linspace(line.first, line.last, len(ways)))
                    length = float(np.linalg.norm(np.diff(places, axis=0), axis=1).sum())
                    if length > off:
                        beside = (ways * off + self._towards(off))[None]
                        yield _Line(line, beside, length, "outline", (self.body.id, index))

    def _towards(self, off: float) -> np.ndarray:
        """A little to the eye: what lies on another body is not behind it."""
        return np.array([0.0, 0.0, 0.02 * off])

    def _outlines(self, index: int, surface: BRepAdaptor_Surface) -> Iterator[tuple[Any, np.ndarray]]:
        first, count = self.mesh.faces[index]
        triangles = self.mesh.triangles[first : first + count].astype(np.int64)
        low, high = int(triangles.min()), int(triangles.max()) + 1
        origin = np.array(self.frame.origin)
        return turning(surface, self.points[low:high], self.normals[low:high], triangles - low, self._axes, origin)


# --- what is seen of a line


def _told_apart(lines: Sequence[_Line], cover: Cover, size: float) -> list[Seen]:
    """What of the lines is seen and what is behind something: seen ones first, edges before outlines."""
    if not lines:
        return []
    cuts: list[np.ndarray] = []
    for line in lines:
        count = int(min(max(_SAMPLES * line.length / size, 8), 400))
        cuts.append(np.linspace(line.dropped.first, line.dropped.last, count + 1))
    middles = [(c[:-1] + c[1:]) / 2 for c in cuts]
    hidden = np.split(
        _covered(cover, [_asked(line, t) for line, t in zip(lines, middles)]),
        np.cumsum([len(m) for m in middles])[:-1],
    )
    turns = [(n, int(i)) for n, h in enumerate(hidden) for i in np.flatnonzero(h[1:] != h[:-1])]
    at = _turned(lines, middles, hidden, turns, cover)
    by_line: dict[int, list[float]] = {}
    for (n, _), t in zip(turns, at):
        by_line.setdefault(n, []).append(t)
    found = []
    for n, (line, h) in enumerate(zip(lines, hidden)):
        state = bool(h[0])
        for low, high in pairwise([line.dropped.first, *by_line.get(n, ()), line.dropped.last]):
            found += [Seen(p, not state, line.sort, line.face) for p in line.dropped.pieces(low, high)]
            state = not state
    return sorted(found, key=lambda s: (not s.visible, s.sort != "edge", s.sort == "smooth"))


def _asked(line: _Line, at: np.ndarray) -> np.ndarray:
    """Places just outside the solid (k, n, 3), at parameters (n)."""
    span = line.dropped.last - line.dropped.first
    index = np.rint((at - line.dropped.first) / span * (line.beside.shape[1] - 1)).astype(np.int64)
    return np.asarray(line.dropped.places(at) + line.beside[:, index])


def _covered(cover: Cover, asked: Sequence[np.ndarray]) -> np.ndarray:
    """Whether all that is asked for a place is behind something, for places one after the other."""
    found = cover.covers(np.concatenate([a.reshape(-1, 3) for a in asked]))
    out, at = [], 0
    for a in asked:
        k, n, _ = a.shape
        out.append(found[at : at + k * n].reshape(k, n).all(axis=0))
        at += k * n
    return np.concatenate(out)


def _turned(
    lines: Sequence[_Line], middles: Sequence[np.ndarray], hidden: Sequence[np.ndarray],
    turns: Sequence[tuple[int, int]], cover: Cover,
) -> list[float]:  # fmt: skip
    """The parameters at which lines go behind something or come out, all of them halved at a time."""
    low = np.array([middles[n][i] for n, i in turns])
    high = np.array([middles[n][i + 1] for n, i in turns])
    before = np.array([hidden[n][i] for n, i in turns], bool)
    for _ in range(_HALVINGS if turns else 0):
        half = (low + high) / 2
        asked = [_asked(lines[n], half[k : k + 1]) for k, (n, _) in enumerate(turns)]
        same = _covered(cover, asked) == before
        low, high = np.where(same, half, low), np.where(same, high, half)
    return [float(t) for t in (low + high) / 2]
