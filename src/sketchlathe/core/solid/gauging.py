"""Measuring one or two picked things: lengths, radii, areas, angles, smallest and centre
distance, with lines to draw.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepExtrema import BRepExtrema_DistShapeShape
from OCP.BRepGProp import BRepGProp
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
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE
from OCP.TopoDS import TopoDS

from ..frames import Triple, dot
from .kernel import VERTEX, Shape, each
from .measuring import area_and_centre


class Row(NamedTuple):
    """One measured value; ``dimension``: "length", "area" or "angle" (mm, mm², rad)."""

    what: str
    value: float
    dimension: str = "length"


@dataclass(frozen=True)
class Gauge:
    """What was measured, and lines that show it: [(from, to, which row)]."""

    rows: tuple[Row, ...]
    lines: tuple[tuple[Triple, Triple, int], ...]


class _Facts(NamedTuple):
    """What a thing has that can be measured against another."""

    centre: Triple | None  # of a point, a circle, a ball; a place on an axis
    axis: Triple | None  # of a circle, a cylinder: centres are measured across it
    direction: Triple | None  # of a line, or a face's normal
    flat: bool


def _triple(p: Any) -> Triple:
    return (p.X(), p.Y(), p.Z())


def _facts(shape: Shape) -> _Facts:
    if shape.ShapeType() == TopAbs_FACE:
        surface = BRepAdaptor_Surface(TopoDS.Face(shape))
        form = surface.GetType()
        if form == GeomAbs_Plane:
            return _Facts(None, None, _triple(surface.Plane().Axis().Direction()), True)
        if form == GeomAbs_Sphere:
            return _Facts(_triple(surface.Sphere().Location()), None, None, False)
        round_ = {GeomAbs_Cylinder: "Cylinder", GeomAbs_Cone: "Cone", GeomAbs_Torus: "Torus"}.get(form)
        if round_:
            axis = getattr(surface, round_)().Axis()
            return _Facts(_triple(axis.Location()), _triple(axis.Direction()), _triple(axis.Direction()), False)
        return _Facts(None, None, None, False)
    if shape.ShapeType() == TopAbs_EDGE:
        curve = BRepAdaptor_Curve(TopoDS.Edge(shape))
        if curve.GetType() == GeomAbs_Line:
            return _Facts(None, None, _triple(curve.Line().Direction()), False)
        if curve.GetType() == GeomAbs_Circle:
            return _Facts(_triple(curve.Circle().Location()), None, None, False)
        return _Facts(None, None, None, False)
    return _Facts(place(shape), None, None, False)


def place(vertex: Shape) -> Triple:
    from OCP.BRep import BRep_Tool

    return _triple(BRep_Tool.Pnt_s(TopoDS.Vertex(vertex)))


def touch(a: Shape, b: Shape, gap: float) -> bool:
    """Whether two shapes meet: overlap, or come nearer than ``gap`` mm."""
    extrema = BRepExtrema_DistShapeShape(a, b)
    return bool(extrema.IsDone() and (extrema.InnerSolution() or extrema.Value() <= gap))


def gauge(things: Sequence[Shape]) -> Gauge:
    """Measure one or two faces, edges or vertices."""
    if len(things) == 1:
        return Gauge(tuple(_alone(things[0])), ())
    return _between(things[0], things[1])


def _alone(shape: Shape) -> list[Row]:
    if shape.ShapeType() == TopAbs_FACE:
        rim = GProp_GProps()
        BRepGProp.LinearProperties_s(shape, rim)
        rows = [Row("area", area_and_centre(shape)[0], "area"), Row("outline", float(rim.Mass()))]
        surface = BRepAdaptor_Surface(TopoDS.Face(shape))
        form = surface.GetType()
        if form in (GeomAbs_Cylinder, GeomAbs_Sphere):
            radius = float((surface.Cylinder() if form == GeomAbs_Cylinder else surface.Sphere()).Radius())
            rows += [Row("radius", radius), Row("diameter", 2 * radius)]
        if form == GeomAbs_Cone:
            rows.append(Row("cone angle", 2 * abs(float(surface.Cone().SemiAngle())), "angle"))
        if form == GeomAbs_Torus:
            rows += [
                Row("ring radius", float(surface.Torus().MajorRadius())),
                Row("tube radius", float(surface.Torus().MinorRadius())),
            ]
        return rows
    if shape.ShapeType() == TopAbs_EDGE:
        mass = GProp_GProps()
        BRepGProp.LinearProperties_s(shape, mass)
        rows = [Row("length", float(mass.Mass()))]
        curve = BRepAdaptor_Curve(TopoDS.Edge(shape))
        if curve.GetType() == GeomAbs_Circle:
            radius, sweep = float(curve.Circle().Radius()), curve.LastParameter() - curve.FirstParameter()
            rows += [Row("radius", radius), Row("diameter", 2 * radius)]
            if sweep < 2 * math.pi - 1e-9:
                rows.append(Row("arc", float(sweep), "angle"))
        return rows
    return [Row(axis, v) for axis, v in zip("xyz", place(shape))]


def _between(a: Shape, b: Shape) -> Gauge:
    extrema = BRepExtrema_DistShapeShape(a, b)
    rows: list[Row] = []
    lines: list[tuple[Triple, Triple, int]] = []
    if extrema.IsDone() and extrema.NbSolution() > 0:
        p, q = _triple(extrema.PointOnShape1(1)), _triple(extrema.PointOnShape2(1))
        rows.append(Row("smallest distance", float(extrema.Value())))
        lines.append((p, q, 0))
        away = [abs(u - v) for u, v in zip(p, q)]
        if sum(v > 1e-9 for v in away) > 1:
            rows += [Row(f"along {axis}", v) for axis, v in zip("xyz", away)]
    one, two = _facts(a), _facts(b)
    if one.centre and two.centre:
        p, q = one.centre, two.centre
        if one.axis or two.axis:
            p, q = _across(one, two)
        rows.append(Row("distance of centres", math.dist(p, q)))
        lines.append((p, q, len(rows) - 1))
    if one.direction and two.direction:
        between = math.acos(min(1.0, abs(dot(one.direction, two.direction))))
        angle = between if one.flat == two.flat else math.pi / 2 - between
        rows.append(Row("angle", angle, "angle"))
        if one.flat and two.flat and between < 1e-9:
            first, second = next(each(a, VERTEX), None), next(each(b, VERTEX), None)
            if first is not None and second is not None:
                gap = abs(dot(tuple(u - v for u, v in zip(place(first), place(second))), one.direction))  # type: ignore[arg-type]
                rows.append(Row("distance of planes", gap))
    return Gauge(tuple(rows), tuple(lines))


def _across(one: _Facts, two: _Facts) -> tuple[Triple, Triple]:
    """The nearest places of two centres of which at least one may lie anywhere along its axis."""
    assert one.centre and two.centre
    p, q = one.centre, two.centre
    d = tuple(v - u for u, v in zip(p, q))
    u, v = one.axis, two.axis
    if u and v:
        c = dot(u, v)
        if abs(c) > 1 - 1e-12:
            s = dot(d, u)  # type: ignore[arg-type]
            return tuple(x + s * y for x, y in zip(p, u)), q  # type: ignore[return-value]
        s = (dot(d, u) - c * dot(d, v)) / (1 - c * c)  # type: ignore[arg-type]
        t = (c * dot(d, u) - dot(d, v)) / (1 - c * c)  # type: ignore[arg-type]
        return tuple(x + s * y for x, y in zip(p, u)), tuple(x + t * y for x, y in zip(q, v))  # type: ignore[return-value]
    axis, at, to, sign = (u, p, q, 1) if u else (v, q, p, -1)
    s = sign * dot(d, axis)  # type: ignore[arg-type]
    foot = tuple(x + s * y for x, y in zip(at, axis))  # type: ignore[arg-type]
    return (foot, to) if u else (to, foot)  # type: ignore[return-value]
