"""Names of edges: the faces on both sides and what meets at the ends, in the sense of the first face.

Two edges between the same two faces differ at their ends; which end comes first is told by the direction in which
the face with the smaller name runs along the edge.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Curve2d
from OCP.BRepGProp import BRepGProp_Face
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS

from ..frames import Triple, dot
from .digest import _ancestors, faces_of_edges, first_face, name_text, normalised, runs_forward
from .kernel import EDGE, FACE, VERTEX, Shape, each, mapped
from .measuring import rough_box
from .naming import Body, FaceName

Ends = tuple[frozenset[str], frozenset[str]]


@dataclass(frozen=True)
class NamedEdge:
    """One edge of a body (0-based index) by the faces it separates and what meets at its ends."""

    body: Body
    index: int
    first: FaceName
    second: FaceName
    ends: Ends
    centre: Triple  # normalised in the body's box


def edge_shape(edge: NamedEdge) -> Shape:
    """The kernel's edge."""
    return TopoDS.Edge(mapped(edge.body.shape, EDGE).FindKey(edge.index + 1))


def middle_of(edge: Shape) -> Triple:
    """The point half way along an edge."""
    if BRep_Tool.Degenerated_s(edge):
        p = BRep_Tool.Pnt_s(TopExp.FirstVertex_s(edge, True))
        return (p.X(), p.Y(), p.Z())
    curve = BRepAdaptor_Curve(edge)
    a, b = curve.FirstParameter(), curve.LastParameter()
    half = GCPnts_AbscissaPoint.Length_s(curve) / 2
    t = GCPnts_AbscissaPoint(curve, half, a).Parameter() if math.isfinite(half) and half > 0 else (a + b) / 2
    p = curve.Value(t)
    return (p.X(), p.Y(), p.Z())


def named_edges(body: Body, wanted: Sequence[int] | None = None) -> list[NamedEdge]:
    """The edges of a body (or some of them) with their names, in the kernel's order."""
    shape = body.shape
    edge_faces = faces_of_edges(shape)
    edges, faces, vertices = mapped(shape, EDGE), mapped(shape, FACE), mapped(shape, VERTEX)
    at_vertex = [frozenset(name_text(body.names[f]) for f in around) for around in _ancestors(shape, VERTEX)]
    low, high = rough_box(shape)
    runs: dict[int, dict[int, bool]] = {}
    out = []
    for index in range(edges.Size()) if wanted is None else wanted:
        around = edge_faces[index]
        if not around:
            continue
        edge = TopoDS.Edge(edges.FindKey(index + 1))
        owner = first_face(body.names, around)
        first, second = body.names[owner], max((body.names[f] for f in around), key=name_text)
        if owner not in runs:
            runs[owner] = runs_forward(faces.FindKey(owner + 1), edges)
        a = vertices.FindIndex(TopExp.FirstVertex_s(edge, True)) - 1
        b = vertices.FindIndex(TopExp.LastVertex_s(edge, True)) - 1
        own = {name_text(first), name_text(second)}
        ends = (at_vertex[a] - own, at_vertex[b] - own) if a >= 0 and b >= 0 else (frozenset(), frozenset())
        if not runs[owner].get(index + 1, True):
            ends = (ends[1], ends[0])
        out.append(NamedEdge(body, index, first, second, ends, normalised(middle_of(edge), low, high)))
    return out


def runs_as_named(edge: NamedEdge) -> bool:
    """Whether the kernel runs an edge from the end that its name gives first."""
    owner = first_face(edge.body.names, faces_of_edges(edge.body.shape)[edge.index])
    face = mapped(edge.body.shape, FACE).FindKey(owner + 1)
    return runs_forward(face, mapped(edge.body.shape, EDGE)).get(edge.index + 1, True)


def smooth_seams(body: Body) -> set[int]:
    """Edges (0-based) between two faces of one name that run on smoothly: the spans of a spline's wall, the stretches
    of a thread. They say nothing to a person.
    """
    edges, faces = mapped(body.shape, EDGE), mapped(body.shape, FACE)
    found = set()
    for index, around in enumerate(faces_of_edges(body.shape)):
        if len(around) != 2 or around[0] == around[1] or body.names[around[0]] != body.names[around[1]]:
            continue
        edge = TopoDS.Edge(edges.FindKey(index + 1))
        if BRep_Tool.Degenerated_s(edge):
            continue
        normals = [normal_on(TopoDS.Face(faces.FindKey(f + 1)), edge) for f in around]
        if all(n is not None for n in normals) and dot(normals[0], normals[1]) > _SMOOTH:  # type: ignore[arg-type]
            found.add(index)
    return found


_SMOOTH = math.cos(math.radians(1))


def normal_on(face: Shape, edge: Shape) -> Triple | None:
    """The outward unit normal of a face half way along one of its edges."""
    rim = BRepAdaptor_Curve2d(edge, face)
    at = rim.Value((rim.FirstParameter() + rim.LastParameter()) / 2)
    point, normal = gp_Pnt(), gp_Vec()
    BRepGProp_Face(face).Normal(at.X(), at.Y(), point, normal)
    size = normal.Magnitude()
    return None if size < 1e-12 else (normal.X() / size, normal.Y() / size, normal.Z() / size)


def pick_of(edge: NamedEdge, all_edges: Sequence[NamedEdge]) -> dict[str, Any]:
    """What a step stores of a picked edge."""
    siblings = [
        [sorted(e) for e in other.ends]
        for other in all_edges
        if other.index != edge.index and (other.first, other.second) == (edge.first, edge.second)
    ]
    return {
        "first": sorted(edge.first),
        "second": sorted(edge.second),
        "ends": [sorted(e) for e in edge.ends],
        "siblings": siblings[:500],
        "centre": [round(v, 6) for v in edge.centre],
    }


def picks_of(edges: Sequence[NamedEdge]) -> dict[int, dict[str, Any]]:
    """What a step stores of each of a body's edges (0-based)."""
    alike: dict[tuple[FaceName, FaceName], list[NamedEdge]] = {}
    for edge in edges:
        alike.setdefault((edge.first, edge.second), []).append(edge)
    return {edge.index: pick_of(edge, alike[edge.first, edge.second]) for edge in edges}


def corner_near(body: Body, at: Triple) -> Triple:
    """The corner of a body that is nearest to a place (0-1 in its box)."""
    low, high = rough_box(body.shape)
    goal = [l + a * (h - l) for a, l, h in zip(at, low, high)]
    places = [(p.X(), p.Y(), p.Z()) for p in (BRep_Tool.Pnt_s(TopoDS.Vertex(v)) for v in each(body.shape, VERTEX))]
    return min(places, key=lambda p: math.dist(p, goal))
