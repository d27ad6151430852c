"""What is seen of solids from one side, and what is behind them: exact lines in a plane that they are looked at on.

The lines are those of the solid's edges and, of round faces, where they turn away from the eye. Whether a place of a
line is seen is asked of the triangles (``mesh.cover``): a place just outside the solid there, by a little more than
what triangles are off by, is hidden where a triangle is above it. Where a line goes behind something is found by
halving. So it takes about as long as meshing, whatever the faces are. (The kernel's own way took minutes for a thread.)
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from itertools import pairwise
from typing import Any, Literal, NamedTuple, TypeAlias

import numpy as np
from cachetools import LRUCache
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Plane, GeomAbs_Sphere, GeomAbs_Torus
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS

from ..frames import Frame
from ..mesh.cover import Cover
from ..sketch.curves.pieces import ArcPiece, Bezier, EllipsePiece, Piece, Segment
from . import meshing
from .digest import faces_of_edges
from .dropping import Dropped
from .edges import normal_on
from .kernel import EDGE, FACE, Shape, mapped, private
from .measuring import rough_box
from .naming import Body

Sort: TypeAlias = Literal["edge", "smooth", "outline"]
XY: TypeAlias = tuple[float, float]
_SMOOTH = math.cos(math.radians(1))
_EDGE_ON = 1e-6
_SAMPLES = 300  # along what is as long as the whole
_HALVINGS = 15
_SAME = 1e-5  # mm
FINER = 4.0  # than the triangles that are shown: where a line ends is off by less than its own width


class Seen(NamedTuple):
    """A line of a view: where it is (mm, in the view's plane), whether nothing is before it, and what it is of: an
    ``edge``, a ``smooth`` one, or the ``outline`` of a round face. ``face``: one that it belongs to, as body and index.
    """

    piece: Piece
    visible: bool
    sort: Sort
    face: tuple[str, int] = ("", 0)


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
    return tuple(_once(_told_apart(lines, cover, size)))


class _Edge(NamedTuple):
    """An edge of a meshed shape: the faces beside it, the ways out of the solid along it (n, 3), its length (mm), and
    the normals of the faces in its middle, where they have some.
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
        self.edges = list(self._edges())

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
            out = normals[nodes[0][:shared]] + normals[nodes[1][:shared]]
            out /= np.maximum(np.linalg.norm(out, axis=1), 1e-9)[:, None]
            long = float(np.linalg.norm(np.diff(positions[nodes[0]], axis=0), axis=1).sum())
            exact = tuple(np.array(n) for f in around[:2] if (n := normal_on(self.faces[f], edge)) is not None)
            smooth = len(exact) == 2 and float(exact[0] @ exact[1]) > _SMOOTH
            yield _Edge(edge, tuple(around), out, long, exact, smooth)


_lately: LRUCache[tuple[int, float], _Meshed] = LRUCache(8)


def _meshed(shape: Shape, chord: float) -> _Meshed:
    """It, the same for one view after the other."""
    key = (id(shape), chord)
    if key not in _lately or _lately[key].of is not shape:
        _lately[key] = _Meshed(shape, chord)
    return _lately[key]


class _Line(NamedTuple):
    """A line that may be seen: where it is by its parameter, what is drawn of it from one to another, and at which
    places (n, 3) around its own it is asked for, evenly along it.
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
                edge_on = any(abs(float(n @ self._axes[2])) < _EDGE_ON for n in edge.normals)
                sort = "outline" if edge_on else "smooth"
            beside = edge.out @ self._axes.T * off
            yield _Line(Dropped(edge.shape, self.frame), beside, edge.length, sort, (self.body.id, edge.faces[0]))
        for index, face in enumerate(self._meshed.faces):
            surface = BRepAdaptor_Surface(face)
            if surface.GetType() != GeomAbs_Plane:
                for line, ways in self._turning(index, surface):
                    places = line.places(np.linspace(line.first, line.last, len(ways)))
                    length = float(np.linalg.norm(np.diff(places, axis=0), axis=1).sum())
                    if length > off:
                        yield _Line(line, ways * off, length, "outline", (self.body.id, index))

    def _turning(self, index: int, surface: BRepAdaptor_Surface) -> Iterator[tuple[Any, np.ndarray]]:
        """Where a round face turns away from the eye: lines, and the way out of the solid along them."""
        first, count = self.mesh.faces[index]
        triangles = self.mesh.triangles[first : first + count].astype(np.int64)
        low, high = int(triangles.min()), int(triangles.max()) + 1
        points, normals = self.points[low:high], self.normals[low:high]
        form = None if surface.GetType() not in _FORMS else _Round(surface, self._axes, np.array(self.frame.origin))
        if form is not None:
            exact = form.normals(points)
            normals = exact if float((exact * normals).sum()) > 0 else -exact
        towards = normals[:, 2]
        towards = np.where(np.abs(towards) < _EDGE_ON, _EDGE_ON, towards)
        corners = triangles - low
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
                yield _Arc(form, places), ways
            else:
                yield _Polyline(places if form is None else form.put_right(places, ways)), ways


_FORMS = (GeomAbs_Cylinder, GeomAbs_Cone, GeomAbs_Sphere, GeomAbs_Torus)


class _Round:
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


class _Arc:
    """The outline of a ball, or a part of it."""

    def __init__(self, ball: _Round, places: np.ndarray) -> None:
        self._centre, self._radius = ball.at, ball.radius
        angles = np.unwrap(np.arctan2(places[:, 1] - ball.at[1], places[:, 0] - ball.at[0]))
        self.first, self.last = float(angles[0]), float(angles[-1])
        if abs(abs(self.last - self.first) - 2 * math.pi) < 1e-6:
            self.last = self.first + math.copysign(2 * math.pi, self.last - self.first)

    def at(self, t: float) -> np.ndarray:
        """A place of it."""
        return self._centre + self._radius * np.array([math.cos(t), math.sin(t), 0.0])

    def places(self, ts: np.ndarray) -> np.ndarray:
        """Places of it (n, 3) at parameters (n)."""
        return np.asarray(self._centre + self._radius * np.column_stack([np.cos(ts), np.sin(ts), np.zeros(len(ts))]))

    def pieces(self, low: float, high: float) -> Iterator[Piece]:
        """It as one arc."""
        yield ArcPiece((float(self._centre[0]), float(self._centre[1])), self._radius, low, high)


class _Polyline:
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
        cover.covers(np.concatenate([_asked(line, t) for line, t in zip(lines, middles)])),
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
    """Places just outside the solid, at parameters."""
    span = line.dropped.last - line.dropped.first
    index = np.rint((at - line.dropped.first) / span * (len(line.beside) - 1)).astype(np.int64)
    return np.asarray(line.dropped.places(at) + line.beside[index])


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
        places = np.concatenate([_asked(lines[n], half[k : k + 1]) for k, (n, _) in enumerate(turns)])
        same = cover.covers(places) == before
        low, high = np.where(same, half, low), np.where(same, high, half)
    return [float(t) for t in (low + high) / 2]


# --- each place of a line once

Carrier: TypeAlias = tuple[object, ...]
Spans: TypeAlias = list[tuple[float, float]]


def _once(lines: Iterable[Seen]) -> Iterator[Seen]:
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
        return ("ellipse", _rounded(piece.centre), round(piece.minor, 4), *_rounded((low, high))), low, high
    return ("free", *sorted((_rounded(piece.p0), _rounded(piece.p3))), _rounded(_middle(piece))), 0.0, 1.0


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
