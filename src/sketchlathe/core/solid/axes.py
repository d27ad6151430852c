"""Axes of edges and faces: straight edges along themselves, round ones about their centre."""

from __future__ import annotations

from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Line, GeomAbs_Sphere, GeomAbs_Torus
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import TopoDS

from ..together.features import Feature
from .digest import face_frame
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


def feature_of_face(body: Body, index: int) -> Feature | None:
    """What a face (0-based) is placed by: its plane, its axis with the radius, its centre; None for free forms."""
    face = TopoDS.Face(mapped(body.shape, FACE).FindKey(index + 1))
    frame = face_frame(face)
    if frame is not None:
        return Feature("plane", frame.origin, frame.normal)
    found = of_face(body, index)
    if found is None:
        return None
    at, way = found
    surface = BRepAdaptor_Surface(face, False)
    if surface.GetType() == GeomAbs_Cylinder:
        cylinder = surface.Cylinder()
        # its normal points away from the axis where its frame is right-handed; a reversed face turns that round
        inside = (face.Orientation() == TopAbs_REVERSED) == bool(cylinder.Position().Direct())
        return Feature("cylinder", at, way, float(cylinder.Radius()), inside)
    if surface.GetType() == GeomAbs_Sphere:
        ball = surface.Sphere()
        inside = (face.Orientation() == TopAbs_REVERSED) == bool(ball.Position().Direct())
        return Feature("ball", _triple(ball.Location()), None, float(ball.Radius()), inside)
    return Feature("line", at, way)


def feature_of_edge(edge: NamedEdge) -> Feature | None:
    """What an edge is placed by: itself if straight, its axis if round; None for others."""
    found = of_edge(edge)
    return None if found is None else Feature("line", *found)
