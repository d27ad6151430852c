"""Triangles on long free faces: threads, coils, sweeps along splines.

The kernel's mesher takes seconds over such faces (a screw of 16 turns 11 s, three hundred thousand triangles). Where a
face is its surface's whole patch, a grid over it does: rows across, as many along as the longest edges need, and the
ends as the faces beside them have them, so that the mesh stays closed.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from OCP.BRep import BRep_Builder, BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d, BRepAdaptor_Surface
from OCP.collections import Array1_int
from OCP.GCPnts import GCPnts_TangentialDeflection
from OCP.GeomAbs import GeomAbs_BSplineSurface
from OCP.gp import gp_Pnt
from OCP.Poly import Poly_PolygonOnTriangulation, Poly_Triangle, Poly_Triangulation
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Compound

from .digest import faces_of_edges
from .kernel import EDGE, FACE, Shape, each, mapped

_SPANS = 4  # knots along a face from which on it counts as long
_NEAR = 1e-6  # of a patch's size


@dataclass(frozen=True)
class _Ribbon:
    """A face that is a whole patch: ``along`` 0 if it runs in u, 1 in v; bounds; its edges by side: the two that run
    along it (at the low and high end across), the two ends.
    """

    face: Shape
    along: int
    bounds: tuple[float, float, float, float]
    sides: tuple[Shape, Shape]
    ends: tuple[Shape, Shape]


def tessellate_ribbons(shape: Shape, chord: float, angle: float, mesh_others: Callable[[Shape], None]) -> bool:
    """Triangles on a shape's long free faces, chord error about ``chord`` mm, turn at most ``angle`` rad; the other
    faces are meshed by ``mesh_others(compound)`` first. False where it has none, or something of them is not as
    expected (then nothing is done to them).
    """
    ribbons = _alone([r for r in map(_ribbon, each(shape, FACE)) if r is not None], shape)
    if not ribbons:
        return False
    if all(_done(r.face, chord) for r in ribbons):
        return True
    builder, rest = BRep_Builder(), TopoDS_Compound()
    builder.MakeCompound(rest)
    taken = [r.face for r in ribbons]
    for face in each(shape, FACE):
        if not any(face.IsSame(t) for t in taken):
            builder.Add(rest, face)
    mesh_others(rest)
    known = _Nodes(shape, rest, chord, angle, [side for r in ribbons for side in r.sides])
    for ribbon in ribbons:
        _lay(builder, ribbon, known, chord)
    return True


def _alone(ribbons: list[_Ribbon], shape: Shape) -> list[_Ribbon]:
    """Those whose long edges bound no faces but such: nodes along them are theirs to choose."""
    edges, faces = mapped(shape, EDGE), mapped(shape, FACE)
    around = faces_of_edges(shape)
    while True:
        own = {faces.FindIndex(r.face) - 1 for r in ribbons}
        kept = [r for r in ribbons if all(set(around[edges.FindIndex(s) - 1]) <= own for s in r.sides)]
        if len(kept) == len(ribbons):
            return kept
        ribbons = kept


def _done(face: Shape, chord: float) -> bool:
    there = BRep_Tool.Triangulation_s(face, TopLoc_Location())
    return there is not None and there.Deflection() <= chord * (1 + 1e-9)


def _ribbon(face: Shape) -> _Ribbon | None:
    face = TopoDS.Face(face)
    surface = BRepAdaptor_Surface(face, False)
    if surface.GetType() != GeomAbs_BSplineSurface or max(surface.NbUKnots(), surface.NbVKnots()) < _SPANS:
        return None
    bounds = (surface.FirstUParameter(), surface.LastUParameter(), surface.FirstVParameter(), surface.LastVParameter())
    found: dict[tuple[int, int], Shape] = {}
    for edge in each(face, EDGE):
        # a seam bounds both sides
        for turned in (edge, TopoDS.Edge(edge.Reversed())) if BRep_Tool.IsClosed_s(edge, face) else (edge,):
            side = _side(turned, face, bounds)
            if side is None or side in found:
                return None
            found[side] = turned
    if len(found) != 4:
        return None
    u = max(_length(found[1, 0]), _length(found[1, 1]))  # at constant v: runs in u
    v = max(_length(found[0, 0]), _length(found[0, 1]))
    along = 0 if u > v else 1
    knots = surface.NbUKnots() if along == 0 else surface.NbVKnots()
    if max(u, v) < 4 * min(u, v) or knots < _SPANS:
        return None
    across = 1 - along
    return _Ribbon(face, along, bounds, (found[across, 0], found[across, 1]), (found[along, 0], found[along, 1]))


def _side(edge: Shape, face: Shape, bounds: tuple[float, float, float, float]) -> tuple[int, int] | None:
    """Which border of the patch an edge runs along: (0: constant u, 1: constant v; 0: low, 1: high)."""
    rim = BRepAdaptor_Curve2d(edge, face)
    a, b = rim.FirstParameter(), rim.LastParameter()
    places = [rim.Value(a + (b - a) * s) for s in (0.0, 0.3, 0.7, 1.0)]
    for axis, values in ((0, [p.X() for p in places]), (1, [p.Y() for p in places])):
        low, high = bounds[2 * axis], bounds[2 * axis + 1]
        for end, at in ((0, low), (1, high)):
            if max(abs(v - at) for v in values) < _NEAR * (high - low) + 1e-9:
                return axis, end
    return None


def _length(edge: Shape) -> float:
    curve = BRepAdaptor_Curve(edge)
    a, b = curve.FirstParameter(), curve.LastParameter()
    places = [curve.Value(a + (b - a) * k / 64) for k in range(65)]
    return float(sum(p.Distance(q) for p, q in itertools.pairwise(places)))


class _Nodes:
    """Parameters of the nodes on edges, the same for both faces beside each: as meshed faces have them; those along
    ribbons evenly, as many as the most bent needs.
    """

    def __init__(self, shape: Shape, meshed: Shape, chord: float, angle: float, sides: list[Shape]) -> None:
        self._edges = mapped(shape, EDGE)
        self._known: dict[int, np.ndarray] = {}
        for face in each(meshed, FACE):
            where = TopLoc_Location()
            triangles = BRep_Tool.Triangulation_s(face, where)
            if triangles is None:
                continue
            for edge in each(face, EDGE):
                polygon = BRep_Tool.PolygonOnTriangulation_s(edge, triangles, where)
                if polygon is not None and polygon.HasParameters():
                    values = [polygon.Parameter(i) for i in range(1, polygon.NbNodes() + 1)]
                    self._known[self._edges.FindIndex(edge)] = np.array(values)
        self._chord, self._angle = chord, angle
        self.count = max(2, *(self._needed(side) for side in sides))
        self._along = {self._edges.FindIndex(side) for side in sides}

    def _needed(self, edge: Shape) -> int:
        return int(GCPnts_TangentialDeflection(BRepAdaptor_Curve(edge), self._angle, self._chord).NbPoints()) - 1

    def of(self, edge: Shape) -> np.ndarray:
        """Parameters on an edge's curve, ascending."""
        index = self._edges.FindIndex(edge)
        if index not in self._known:
            curve = BRepAdaptor_Curve(edge)
            a, b = curve.FirstParameter(), curve.LastParameter()
            count = self.count if index in self._along else max(1, self._needed(edge))
            self._known[index] = a + (b - a) * np.arange(count + 1) / count
        return self._known[index]


def _lay(builder: BRep_Builder, ribbon: _Ribbon, known: _Nodes, chord: float) -> None:
    """The grid of one ribbon: rows across it from end to end, the first and last with the nodes of the ends."""
    face, (u0, u1, v0, v1) = ribbon.face, ribbon.bounds
    surface = BRepAdaptor_Surface(face, False)
    low, high = (u0, u1) if ribbon.along == 0 else (v0, v1)
    count = known.count

    def shares(edge: Shape) -> tuple[np.ndarray, np.ndarray, bool]:
        """Of an end: edge parameters, shares across, whether they run up across."""
        t = known.of(edge)
        rim = BRepAdaptor_Curve2d(edge, face)
        places = [rim.Value(x) for x in t]
        raw = np.array([p.Y() if ribbon.along == 0 else p.X() for p in places])
        a, b = (v0, v1) if ribbon.along == 0 else (u0, u1)
        s = (raw - a) / (b - a)
        return t, s, bool(s[-1] > s[0])

    rows: list[list[int]] = []
    nodes: list[tuple[float, float, float]] = []

    def put(p: gp_Pnt) -> int:
        nodes.append((p.X(), p.Y(), p.Z()))
        return len(nodes)

    side_t = [known.of(e) for e in ribbon.sides]
    side_c = [BRepAdaptor_Curve(e) for e in ribbon.sides]
    side_up = []
    for edge, t in zip(ribbon.sides, side_t):
        rim = BRepAdaptor_Curve2d(edge, face)
        a, b = rim.Value(t[0]), rim.Value(t[-1])
        side_up.append((b.X() - a.X() if ribbon.along == 0 else b.Y() - a.Y()) > 0)
    end_facts = [shares(e) for e in ribbon.ends]
    inner = end_facts[0][1] if end_facts[0][2] else end_facts[0][1][::-1]
    row_shares: list[np.ndarray] = []
    for k in range(count + 1):
        if k in (0, count):
            t, s, up = end_facts[0 if k == 0 else 1]
            curve = BRepAdaptor_Curve(ribbon.ends[0 if k == 0 else 1])
            order = range(len(t)) if up else range(len(t) - 1, -1, -1)
            rows.append([put(curve.Value(t[i])) for i in order])
            row_shares.append(s if up else s[::-1])
            continue
        at = low + (high - low) * k / count
        row = []
        for i, s in enumerate(inner):
            if i in (0, len(inner) - 1):
                side = 0 if i == 0 else 1
                j = k if side_up[side] else count - k
                row.append(put(side_c[side].Value(side_t[side][j])))
            else:
                across = (v0 + (v1 - v0) * s) if ribbon.along == 0 else (u0 + (u1 - u0) * s)
                row.append(put(surface.Value(at, across) if ribbon.along == 0 else surface.Value(across, at)))
        rows.append(row)
        row_shares.append(inner)
    triangles: list[tuple[int, int, int]] = []
    for (r, s), (q, w) in itertools.pairwise(zip(rows, row_shares)):
        i = j = 0
        while i + 1 < len(r) or j + 1 < len(q):
            if j + 1 >= len(q) or (i + 1 < len(r) and s[i + 1] <= w[j + 1] + 1e-12):
                triangles.append((r[i], r[i + 1], q[j]))
                i += 1
            else:
                triangles.append((r[i], q[j + 1], q[j]))
                j += 1
    if ribbon.along == 0:  # across is v: the other way round
        triangles = [(a, c, b) for a, b, c in triangles]
    made = Poly_Triangulation(len(nodes), len(triangles), False)
    for i, p in enumerate(nodes, 1):
        made.SetNode(i, gp_Pnt(*p))
    for i, t3 in enumerate(triangles, 1):
        made.SetTriangle(i, Poly_Triangle(*t3))
    made.Deflection(chord)
    builder.UpdateFace(face, made)
    columns = [[row[0] for row in rows], [row[-1] for row in rows]]
    polygons = [
        _polygon(c if up else c[::-1]) for c, up in zip(columns, side_up)
    ]  # fmt: skip
    if ribbon.sides[0].IsSame(ribbon.sides[1]):
        builder.UpdateEdge(ribbon.sides[0], polygons[0], polygons[1], made)
    else:
        for edge, polygon in zip(ribbon.sides, polygons):
            builder.UpdateEdge(edge, polygon, made, TopLoc_Location())
    for edge, row, (_, _, up) in zip(ribbon.ends, (rows[0], rows[-1]), end_facts):
        builder.UpdateEdge(edge, _polygon(row if up else row[::-1]), made, TopLoc_Location())


def _polygon(indices: list[int]) -> Poly_PolygonOnTriangulation:
    array = Array1_int(1, len(indices))
    for i, index in enumerate(indices, 1):
        array.SetValue(i, index)
    return Poly_PolygonOnTriangulation(array)
