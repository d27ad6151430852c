"""Axes of edges and faces: straight edges along themselves, round ones about their centre."""

from __future__ import annotations

import math
from typing import Any

from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Cone, GeomAbs_Cylinder, GeomAbs_Line, GeomAbs_Sphere, GeomAbs_Torus
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import TopoDS

from ..frames import Triple
from ..together.grips import Grip
from .digest import face_frame, faces_of_edges
from .edges import NamedEdge, edge_shape, middle_of
from .kernel import EDGE, FACE, each, mapped
from .measuring import area_and_centre
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


def grip_of_face(body: Body, index: int, by_axis: bool = False) -> Grip | None:
    """What a face (0-based) is placed by: its plane, its axis with the radius, its centre; None for free forms.

    ``by_axis``: a flat face between circles about one centre (a disc, a ring) stands for its axis.
    """
    face = TopoDS.Face(mapped(body.shape, FACE).FindKey(index + 1))
    frame = face_frame(face)
    if frame is not None:
        centre = _one_centre(face) if by_axis else None
        # what is turned over by a face is turned about where it is, not about where its sketch began
        return Grip("line", centre, frame.normal) if centre else Grip("plane", area_and_centre(face)[1], frame.normal)
    found = of_face(body, index)
    if found is None:
        return None
    at, way = found
    surface = BRepAdaptor_Surface(face, False)
    if surface.GetType() == GeomAbs_Cylinder:
        cylinder = surface.Cylinder()
        # its normal points away from the axis where its frame is right-handed; a reversed face turns that round
        inside = (face.Orientation() == TopAbs_REVERSED) == bool(cylinder.Position().Direct())
        return Grip("cylinder", at, way, float(cylinder.Radius()), inside)
    if surface.GetType() == GeomAbs_Sphere:
        ball = surface.Sphere()
        inside = (face.Orientation() == TopAbs_REVERSED) == bool(ball.Position().Direct())
        return Grip("ball", _triple(ball.Location()), None, float(ball.Radius()), inside)
    return Grip("line", at, way)


def grip_of_edge(edge: NamedEdge) -> Grip | None:
    """What an edge is placed by: itself if straight, its axis if round; None for others."""
    found = of_edge(edge)
    return None if found is None else Grip("line", *found)


def spot_of(edge: NamedEdge, spot: str) -> Triple | None:
    """The point half way along an edge ("middle"), or its circle's "centre"; None where it has none."""
    if spot == "middle":
        return middle_of(edge_shape(edge))
    found = circle_of(edge)
    return None if found is None else found[0]


def flat_beside(edge: NamedEdge) -> Grip | None:
    """The plane of the one flat face that an edge bounds; None where there is none, or more than one."""
    beside = faces_of_edges(edge.body.shape)[edge.index]
    flat = [f for f in (grip_of_face(edge.body, i) for i in beside) if f and f.form == "plane"]
    return flat[0] if len(flat) == 1 else None


def _one_centre(face: Any) -> Triple | None:
    """The centre that all edges of a face, circles or arcs, have in common."""
    centres = []
    for edge in each(face, EDGE):
        curve = BRepAdaptor_Curve(TopoDS.Edge(edge))
        if curve.GetType() != GeomAbs_Circle:
            return None
        centres.append(_triple(curve.Circle().Location()))
    return centres[0] if centres and all(math.dist(c, centres[0]) < 1e-6 for c in centres) else None
