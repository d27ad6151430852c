"""The mesh of one body laid over another that differs only in its sizes.

Where a number is dragged, the kernel cannot build twenty times a second. But between two exact builds of one form every
node of the mesh has its place in both: on an edge at the same share of it, on a face at the same share of its patch.
What lies between the two builds is then drawn by going from one place to the other.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepTools import BRepTools
from OCP.TopAbs import TopAbs_EDGE
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS

from .digest import faces_of_edges
from .kernel import EDGE, FACE, VERTEX, Shape, each, mapped
from .naming import Body


def alike(one: Body, other: Body) -> bool:
    """Whether two bodies have the same faces, by name and kind, meeting in the same edges, in the same order."""
    if one.names != other.names:
        return False
    kinds = ([BRepAdaptor_Surface(f, False).GetType() for f in each(b.shape, FACE)] for b in (one, other))
    return bool(next(kinds) == next(kinds) and _edges(one.shape) == _edges(other.shape))


def _edges(shape: Shape) -> list[Any]:
    vertices = mapped(shape, VERTEX)
    return [
        (around, BRep_Tool.Degenerated_s(e), vertices.FindIndex(TopExp.FirstVertex_s(e)),
         vertices.FindIndex(TopExp.LastVertex_s(e)))
        for e, around in zip(each(shape, EDGE), faces_of_edges(shape))
    ]  # fmt: skip


def followed(shape: Shape, other: Shape) -> tuple[np.ndarray, np.ndarray]:
    """Where the nodes of a tessellated shape lie on another that is ``alike``: (n, 3) and the points of its edge lines
    (k, 3), float32, in the order of ``meshing.extract``.
    """
    edges = mapped(shape, EDGE)
    curves = [_Curve(a, b) for a, b in zip(each(shape, EDGE), each(other, EDGE))]
    places, triangulations = [], []
    for face, target in zip(each(shape, FACE), each(other, FACE)):
        location = TopLoc_Location()
        triangulation = BRep_Tool.Triangulation_s(face, location)
        triangulations.append((triangulation, location))
        places.append(_on_face(face, target, triangulation, location, edges, curves))
    lines = []
    for edge, around in zip(each(shape, EDGE), faces_of_edges(shape)):
        if around and not BRep_Tool.Degenerated_s(edge):
            polygon = BRep_Tool.PolygonOnTriangulation_s(edge, *triangulations[around[0]])
            if polygon is not None:
                lines.append(places[around[0]][[polygon.Node(i) - 1 for i in range(1, polygon.NbNodes() + 1)]])
    flat = np.concatenate(lines) if lines else np.zeros((0, 3))
    return np.concatenate(places).astype(np.float32), flat.astype(np.float32)


class _Curve:
    """An edge and the one that it follows."""

    def __init__(self, edge: Any, target: Any) -> None:
        self.real = not BRep_Tool.Degenerated_s(edge)
        if self.real:
            self._from, self._to = BRepAdaptor_Curve(edge), BRepAdaptor_Curve(target)

    def at(self, t: float) -> tuple[float, float, float]:
        """The place on the target at the same share of it."""
        a, b = self._from.FirstParameter(), self._from.LastParameter()
        c, d = self._to.FirstParameter(), self._to.LastParameter()
        p = self._to.Value(c + (t - a) * (d - c) / (b - a))
        return p.X(), p.Y(), p.Z()


def _on_face(
    face: Any, target: Any, triangulation: Any, location: TopLoc_Location, edges: Any, curves: list[_Curve]
) -> np.ndarray:
    found = np.zeros((triangulation.NbNodes(), 3))
    known = np.zeros(len(found), bool)
    walk = TopExp_Explorer(face, TopAbs_EDGE)
    while walk.More():
        edge = TopoDS.Edge(walk.Current())
        curve = curves[edges.FindIndex(edge) - 1]
        polygon = BRep_Tool.PolygonOnTriangulation_s(edge, triangulation, location) if curve.real else None
        if polygon is not None and polygon.HasParameters():
            for i in range(1, polygon.NbNodes() + 1):
                node = polygon.Node(i) - 1
                found[node], known[node] = curve.at(polygon.Parameter(i)), True
        walk.Next()
    rest = np.flatnonzero(~known)
    if len(rest) and triangulation.HasUVNodes():
        u0, u1, v0, v1 = BRepTools.UVBounds_s(face)
        a0, a1, b0, b1 = BRepTools.UVBounds_s(target)
        surface = BRepAdaptor_Surface(target)
        for node in rest:
            uv = triangulation.UVNode(int(node) + 1)
            p = surface.Value(
                a0 + (uv.X() - u0) * (a1 - a0) / (u1 - u0 or 1.0), b0 + (uv.Y() - v0) * (b1 - b0) / (v1 - v0 or 1.0)
            )
            found[node] = p.X(), p.Y(), p.Z()
    return found
