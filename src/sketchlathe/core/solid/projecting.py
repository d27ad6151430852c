"""Edges and sections of solids as curves in a sketch's plane."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepAlgoAPI import BRepAlgoAPI_Section
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Line
from OCP.gp import gp_Ax3, gp_Dir, gp_Pln, gp_Pnt
from OCP.TopoDS import TopoDS, TopoDS_Shape

from ..frames import Frame, Triple, dot
from .edges import NamedEdge, edge_shape, named_edges, pick_of
from .kernel import EDGE, FACE, Shape, each, mapped, private
from .naming import Body

Raw = dict[str, Any]  # a curve's data without its id
_TINY = 1e-7
_POINTS = 17


def _flat(p: Any, frame: Frame) -> tuple[float, float]:
    q: Triple = (p.X() - frame.origin[0], p.Y() - frame.origin[1], p.Z() - frame.origin[2])
    return (_clean(dot(q, frame.x)), _clean(dot(q, frame.y)))


def _clean(v: float) -> float:
    return round(v, 12) + 0.0


def curve_of(edge: Shape, frame: Frame) -> Raw | None:
    """An edge dropped onto a plane; None when it becomes a point."""
    curve = BRepAdaptor_Curve(edge)
    first, last = curve.FirstParameter(), curve.LastParameter()
    a, b = _flat(curve.Value(first), frame), _flat(curve.Value(last), frame)
    if curve.GetType() == GeomAbs_Line:
        return {"kind": "line", "start": a, "end": b} if math.dist(a, b) > _TINY else None
    if curve.GetType() == GeomAbs_Circle:
        circle = curve.Circle()
        d = circle.Axis().Direction()
        along = dot((d.X(), d.Y(), d.Z()), frame.normal)
        if abs(along) > 1 - 1e-9:
            centre, radius = _flat(circle.Location(), frame), float(circle.Radius())
            if last - first > 2 * math.pi - 1e-9:
                return {"kind": "circle", "centre": centre, "radius": radius}
            start, end = (a, b) if along > 0 else (b, a)
            return {"kind": "arc", "centre": centre, "start": start, "end": end, "radius": radius}
    long = GCPnts_AbscissaPoint.Length_s(curve)
    if not math.isfinite(long) or long <= _TINY:
        return None
    places = [_flat(curve.Value(first + (last - first) * i / (_POINTS - 1)), frame) for i in range(_POINTS)]
    spread = max(math.dist(places[0], p) for p in places)
    if spread <= _TINY:
        return None
    off = max(_away(p, places[0], places[-1]) for p in places)
    if off < 1e-9 * max(spread, 1.0):
        reach = sorted(places)
        return {"kind": "line", "start": reach[0], "end": reach[-1]}
    return {"kind": "spline", "through": places}


def _away(p: tuple[float, float], a: tuple[float, float], b: tuple[float, float]) -> float:
    long = math.dist(a, b)
    if long < 1e-12:
        return math.dist(p, a)
    return abs((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0])) / long


def takeable(bodies: Sequence[Body], frame: Frame, most: int = 400) -> list[dict[str, Any]]:
    """What a sketch may take: edges dropped onto its plane (those in the plane first), then its
    section of the bodies.
    """
    found: list[tuple[float, dict[str, Any]]] = []
    for body in bodies:
        edges = named_edges(body)
        for edge in edges:
            shape = edge_shape(edge)
            raw = curve_of(shape, frame)
            if raw is None or edge.first == edge.second:
                continue
            height = _height(shape, frame)
            words = "edge" if height < 1e-6 else "edge, dropped onto the plane"
            found.append((height, {"curve": raw, "edge": pick_of(edge, edges), "words": words}))
        for index, raw in sections(body, frame):
            found.append((0.5e-6, {"curve": raw, "section": {"body": body.id, "face": index}, "words": "section"}))
    found.sort(key=lambda item: item[0])
    return [entry for _, entry in found[:most]]


def _height(edge: Shape, frame: Frame) -> float:
    curve = BRepAdaptor_Curve(edge)
    ends = (curve.Value(curve.FirstParameter()), curve.Value(curve.LastParameter()))
    middle = curve.Value((curve.FirstParameter() + curve.LastParameter()) / 2)
    return max(abs(frame.height((p.X(), p.Y(), p.Z()))) for p in (*ends, middle))


def sections(body: Body, frame: Frame) -> list[tuple[int, Raw]]:
    """The curves in which a plane cuts a body, each with the face (0-based) it runs on; not those along its edges."""
    o, n, x = frame.origin, frame.normal, frame.x
    plane = gp_Pln(gp_Ax3(gp_Pnt(*o), gp_Dir(*n), gp_Dir(*x)))
    own = private(body.shape, mesh=False)
    operation = BRepAlgoAPI_Section(own, plane, False)
    operation.ComputePCurveOn1(False)
    operation.Approximation(False)
    operation.Build()
    if not operation.IsDone():
        return []
    faces = mapped(own, FACE)
    out = []
    for edge in each(operation.Shape(), EDGE):
        face = TopoDS_Shape()
        if not operation.HasAncestorFaceOn1(edge, face):
            continue
        raw = curve_of(TopoDS.Edge(edge), frame)
        at = faces.FindIndex(face)
        if raw is not None and at:
            out.append((at - 1, raw))
    return out


def retaken(edge: NamedEdge, frame: Frame) -> Raw | None:
    """A taken edge as it is now."""
    return curve_of(edge_shape(edge), frame)
