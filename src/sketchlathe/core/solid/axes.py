"""Axes of edges and faces: straight edges along themselves, round ones about their centre."""

from __future__ import annotations

from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Line, GeomAbs_Sphere, GeomAbs_Torus
from OCP.TopoDS import TopoDS

from .edges import NamedEdge, edge_shape
from .frames import Triple
from .kernel import FACE, mapped
from .naming import Body

Axis = tuple[Triple, Triple]


def _triple(p: object) -> Triple:
    return (p.X(), p.Y(), p.Z())  # type: ignore[attr-defined]


def of_edge(edge: NamedEdge) -> Axis | None:
    """A point and unit direction; None for other curves."""
    curve = BRepAdaptor_Curve(edge_shape(edge))
    if curve.GetType() == GeomAbs_Line:
        line = curve.Line()
        return _triple(line.Location()), _triple(line.Direction())
    if curve.GetType() == GeomAbs_Circle:
        circle = curve.Circle()
        return _triple(circle.Location()), _triple(circle.Axis().Direction())
    return None


def circle_of(edge: NamedEdge) -> Axis | None:
    """Centre and unit normal of a circular edge or arc; None for other curves."""
    return of_edge(edge) if BRepAdaptor_Curve(edge_shape(edge)).GetType() == GeomAbs_Circle else None


def of_face(body: Body, index: int) -> Axis | None:
    """The axis of a round face (0-based index); None for others."""
    surface = BRepAdaptor_Surface(TopoDS.Face(mapped(body.shape, FACE).FindKey(index + 1)), False)
    get = {
        GeomAbs_Cylinder: "Cylinder", GeomAbs_Cone: "Cone", GeomAbs_Torus: "Torus", GeomAbs_Sphere: "Sphere",
    }.get(surface.GetType())  # fmt: skip
    if get is None:
        return None
    round_ = getattr(surface, get)()
    axis = round_.Axis() if get != "Sphere" else round_.Position().Axis()
    return _triple(axis.Location()), _triple(axis.Direction())
