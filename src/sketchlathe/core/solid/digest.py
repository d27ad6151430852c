"""What is next to what: names of edges and vertices, neighbours of faces, and picks to store.

An edge is the pair of faces it separates with its two ends; a vertex is the set of faces that meet there. Nothing
here is stored in a body: it is made for states that are shown or picked from.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.collections import (
    IndexedDataMap_TopoDS_Shape_List_TopoDS_Shape_TopTools_ShapeMapHasher as AncestorMap,
)
from OCP.GeomAbs import (
    GeomAbs_Circle,
    GeomAbs_Cone,
    GeomAbs_Cylinder,
    GeomAbs_Line,
    GeomAbs_Plane,
    GeomAbs_Sphere,
    GeomAbs_Torus,
)
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS

from ..frames import Frame, Triple, frame_on
from .kernel import EDGE, FACE, VERTEX, Shape, ShapeMap, each, listed, mapped
from .measuring import area_and_centre, rough_box
from .naming import Body, FaceName

_FORMS = {
    GeomAbs_Plane: "flat",
    GeomAbs_Cylinder: "cylindrical",
    GeomAbs_Cone: "conical",
    GeomAbs_Sphere: "spherical",
    GeomAbs_Torus: "ring-shaped",
}
_CURVE_FORMS = {GeomAbs_Line: "straight", GeomAbs_Circle: "circular"}


def name_text(name: FaceName) -> str:
    """A face's name as one string, the same whatever the order of its atoms."""
    return "+".join(sorted(name))


def faces_of_edges(shape: Shape) -> list[list[int]]:
    """For every edge in order, the faces (0-based) that it bounds."""
    return _ancestors(shape, EDGE)


def _ancestors(shape: Shape, kind: Any) -> list[list[int]]:
    faces, around, order = mapped(shape, FACE), AncestorMap(), mapped(shape, kind)
    TopExp.MapShapesAndUniqueAncestors_s(shape, kind, FACE, around, False)
    found = []
    for i in range(1, order.Size() + 1):
        parents = around.FindFromKey(order.FindKey(i))
        found.append([faces.FindIndex(f) - 1 for f in listed(parents)])
    return found


@dataclass(frozen=True)
class FaceFacts:
    """One face: its form, a point of balance, area (mm²), its plane if flat, the names around it."""

    name: FaceName
    form: str
    centre: Triple
    area: float
    frame: Frame | None
    neighbours: frozenset[str]
    radius: float | None


@dataclass(frozen=True)
class EdgeFacts:
    """One edge: its form, length (mm), the faces (0-based) and vertices (0-based, in the first face's sense)."""

    form: str
    length: float
    faces: tuple[int, ...]
    ends: tuple[int, int]
    radius: float | None
    forward: bool = True  # whether the face with the smaller name runs along it from its first end to its last


@dataclass(frozen=True)
class Digest:
    """Everything of one body that can be pointed at."""

    faces: tuple[FaceFacts, ...]
    edges: tuple[EdgeFacts, ...]
    vertices: tuple[Triple, ...]
    vertex_faces: tuple[tuple[int, ...], ...]


def face_frame(face: Shape) -> Frame | None:
    """The frame of a flat face, its normal out of the material; None for others."""
    surface = BRepAdaptor_Surface(face, False)
    if surface.GetType() != GeomAbs_Plane:
        return None
    plane = surface.Plane()
    at, d = plane.Location(), plane.Axis().Direction()
    sign = 1.0 if plane.Position().Direct() else -1.0
    if face.Orientation() == TopAbs_REVERSED:
        sign = -sign
    return frame_on((at.X(), at.Y(), at.Z()), (sign * d.X(), sign * d.Y(), sign * d.Z()))


def _radius_of(surface: BRepAdaptor_Surface) -> float | None:
    kind = surface.GetType()
    if kind == GeomAbs_Cylinder:
        return float(surface.Cylinder().Radius())
    if kind == GeomAbs_Sphere:
        return float(surface.Sphere().Radius())
    return None


def digest(body: Body) -> Digest:
    """Facts of every face, edge and vertex of a body, in the kernel's order."""
    shape = body.shape
    edge_faces = faces_of_edges(shape)
    near: list[set[str]] = [set() for _ in body.names]
    for around in edge_faces:
        for i in around:
            near[i].update(name_text(body.names[j]) for j in around if j != i)
    faces = []
    area_and_centre(shape)  # all faces together are measured sooner than one by one
    for i, face in enumerate(each(shape, FACE)):
        surface = BRepAdaptor_Surface(face, False)
        area, centre = area_and_centre(face)
        form = _FORMS.get(surface.GetType(), "curved")
        frame = face_frame(face) if form == "flat" else None
        faces.append(
            FaceFacts(
                body.names[i],
                form,
                centre,
                area,
                frame,
                frozenset(near[i]),
                _radius_of(surface),
            )
        )
    vertex_order = mapped(shape, VERTEX)
    senses = _senses(shape, body.names, edge_faces)
    edges = [
        _edge_facts(edge, around, vertex_order, forward)
        for edge, around, forward in zip(each(shape, EDGE), edge_faces, senses)
    ]
    places = []
    for vertex in each(shape, VERTEX):
        p = BRep_Tool.Pnt_s(vertex)
        places.append((p.X(), p.Y(), p.Z()))
    return Digest(tuple(faces), tuple(edges), tuple(places), tuple(tuple(v) for v in _ancestors(shape, VERTEX)))


def runs_forward(face: Shape, order: ShapeMap) -> dict[int, bool]:
    """For the edges of a face (1-based index), whether the face runs along them from first to last vertex."""
    found: dict[int, bool] = {}
    explorer = TopExp_Explorer(face, EDGE)
    while explorer.More():
        edge = explorer.Current()
        found.setdefault(order.FindIndex(edge), edge.Orientation() != TopAbs_REVERSED)
        explorer.Next()
    return found


def first_face(names: Sequence[FaceName], around: Sequence[int]) -> int:
    """Of the faces beside an edge, the one whose name comes first."""
    return min(around, key=lambda f: name_text(names[f]))


def _senses(shape: Shape, names: Sequence[FaceName], edge_faces: Sequence[Sequence[int]]) -> list[bool]:
    edges = mapped(shape, EDGE)
    runs = [runs_forward(face, edges) for face in each(shape, FACE)]
    return [runs[first_face(names, around)].get(i + 1, True) if around else True for i, around in enumerate(edge_faces)]


def _edge_facts(edge: Shape, around: list[int], vertices: Any, forward: bool) -> EdgeFacts:
    first = vertices.FindIndex(TopExp.FirstVertex_s(edge, True)) - 1
    last = vertices.FindIndex(TopExp.LastVertex_s(edge, True)) - 1
    if BRep_Tool.Degenerated_s(edge):
        return EdgeFacts("point", 0.0, tuple(around), (first, last), None, forward)
    curve = BRepAdaptor_Curve(TopoDS.Edge(edge))
    form = _CURVE_FORMS.get(curve.GetType(), "curved")
    mass = GProp_GProps()
    BRepGProp.LinearProperties_s(edge, mass)
    radius = float(curve.Circle().Radius()) if form == "circular" else None
    return EdgeFacts(form, float(mass.Mass()), tuple(around), (first, last), radius, forward)


def around_faces(body: Body, indices: Sequence[int]) -> list[tuple[int, frozenset[str], Triple]]:
    """For some faces: index, names around it, centre normalised in the body's box (for picks)."""
    shape = body.shape
    near: dict[int, set[str]] = {i: set() for i in indices}
    for around in faces_of_edges(shape):
        for i in around:
            if i in near:
                near[i].update(name_text(body.names[j]) for j in around if j != i)
    low, high = rough_box(shape)
    order = mapped(shape, FACE)
    found = []
    for i in indices:
        centre = area_and_centre(order.FindKey(i + 1))[1]
        found.append((i, frozenset(near[i]), normalised(centre, low, high)))
    return found


def normalised(p: Triple, low: Triple, high: Triple) -> Triple:
    """A point as fractions of a box."""
    x, y, z = ((p[i] - low[i]) / max(high[i] - low[i], 1e-9) for i in range(3))
    return (x, y, z)


def frame_of_face(body: Body, index: int) -> Frame | None:
    """The frame of one face of a body (0-based) if it is flat."""
    return face_frame(TopoDS.Face(mapped(body.shape, FACE).FindKey(index + 1)))


def centre_of_face(body: Body, index: int) -> Triple:
    """The point of balance of one face (0-based), mm."""
    return area_and_centre(mapped(body.shape, FACE).FindKey(index + 1))[1]


def pick_of_face(body: Body, index: int) -> dict[str, Any]:
    """What a step stores of a picked face (0-based)."""
    name = body.names[index]
    same = [i for i, n in enumerate(body.names) if n == name]
    around = {i: (neighbours, centre) for i, neighbours, centre in around_faces(body, same)}
    return {
        "atoms": sorted(name),
        "neighbours": sorted(around[index][0]),
        "siblings": [sorted(around[i][0]) for i in same if i != index],
        "centre": [round(v, 6) for v in around[index][1]],
    }


def flat_faces(body: Body) -> list[tuple[Triple, float]]:
    """The flat faces of a body: outward normal, and how far along it the face lies from the origin (mm)."""
    found = []
    for face in each(body.shape, FACE):
        frame = face_frame(face)
        if frame is not None:
            found.append((frame.normal, sum(a * b for a, b in zip(frame.normal, frame.origin))))
    return found
