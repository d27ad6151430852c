"""Holes as turned profiles, and where there is material to drill into."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepGProp import BRepGProp
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Line
from OCP.gp import gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_IN
from OCP.TopoDS import TopoDS

from ..errors import CannotBuild
from ..sketch.curves import Piece, Segment
from ..sketch.regions import Profile
from .axes import of_edge
from .blocks import revolved
from .edges import NamedEdge, edge_shape
from .frames import Frame, dot
from .kernel import EDGE, FACE, each, mapped, private
from .measuring import rough_box
from .naming import Body


def drill(
    step: str,
    frame: Frame,
    place: tuple[float, float],
    into: float,
    radius: float,
    depth: float,
    *,
    tip: float | None,
    seat: tuple[float, float, float],
    form: str,
) -> Body:
    """The shape of a hole at a place of a plane, along ``into`` times its normal (mm, rad).

    Names: ``wall``, ``tip`` or ``floor``, ``seat``, ``step`` by the owners of the profile's pieces.
    """
    wide, deep, angle = seat
    n = frame.normal
    down = (n[0] * into, n[1] * into, n[2] * into)
    origin = frame.place(*place)
    # a plane through the hole's axis: x outwards, y into the material
    side = Frame(origin, frame.x, _cross(frame.x, down))
    points: list[tuple[float, float, str]] = [(0.0, 0.0, "mouth")]
    if form == "counterbored":
        points += [(wide, 0.0, "seat"), (wide, deep, "step"), (radius, deep, "wall")]
    elif form == "countersunk":
        points += [(wide, 0.0, "seat"), (radius, (wide - radius) / math.tan(angle / 2), "wall")]
    else:
        points += [(radius, 0.0, "wall")]
    if tip is None:
        points += [(radius, depth, "floor"), (0.0, depth, "axis")]
    else:
        points += [(radius, depth, "tip"), (0.0, depth + radius / math.tan(tip / 2), "axis")]
    chain: list[tuple[Piece, str]] = []
    for (ax, ay, name), (bx, by, _) in zip(points, [*points[1:], points[0]]):
        if math.dist((ax, ay), (bx, by)) > 1e-9:
            chain.append((Segment((ax, ay), (bx, by)), name))
    return revolved(step, Profile(tuple(chain), ()), side, origin, down, 0.0, 2 * math.pi)


def _cross(a: tuple[float, float, float], b: tuple[float, float, float]) -> tuple[float, float, float]:
    return (a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0])


def material_on(bodies: Sequence[Body], frame: Frame, place: tuple[float, float], side: float) -> float:
    """About how much of the way along the normal (``side`` ±1) from a place runs through material, mm."""
    total = 0.0
    for body in bodies:
        low, high = rough_box(body.shape)
        reach = math.dist(low, high)
        test = BRepClass3d_SolidClassifier(body.shape)
        for i in range(24):
            # denser near the plane: what matters is where the hole begins
            h = side * reach * ((i + 0.5) / 24) ** 2
            test.Perform(gp_Pnt(*frame.place(place[0], place[1], h)), 1e-7)
            if test.State() == TopAbs_IN:
                total += reach * (((i + 1) / 24) ** 2 - (i / 24) ** 2)
    return total


def place_on_face(
    body: Body, index: int, frame: Frame, away: Sequence[tuple[float, NamedEdge]] = ()
) -> tuple[float, float]:
    """A place on a flat face in its plane: its middle (a round face's centre), or at distances from two of its edges."""
    face = TopoDS.Face(mapped(body.shape, FACE).FindKey(index + 1))
    outline = BRepTools.OuterWire_s(face)
    rims = list(each(outline, EDGE))
    curve = BRepAdaptor_Curve(rims[0])
    if len(rims) == 1 and curve.GetType() == GeomAbs_Circle:
        middle = _flat(curve.Circle().Location(), frame)
    else:
        mass = GProp_GProps()
        BRepGProp.SurfaceProperties_s(BRepBuilderAPI_MakeFace(TopoDS.Wire(private(outline)), True).Face(), mass)
        middle = _flat(mass.CentreOfMass(), frame)
    if not away:
        return middle
    lines = []
    for distance, edge in away:
        found = of_edge(edge)
        curve = BRepAdaptor_Curve(edge_shape(edge))
        if found is None or curve.GetType() != GeomAbs_Line:
            raise CannotBuild("Distances are measured from straight edges: pick another edge.", where="first_edge")
        at, way = _flat(gp_Pnt(*found[0]), frame), (dot(found[1], frame.x), dot(found[1], frame.y))
        long = math.hypot(*way)
        if long < 1e-9:
            raise CannotBuild("This edge does not lie along the face: pick another.", where="first_edge")
        nx, ny = -way[1] / long, way[0] / long
        inwards = math.copysign(1.0, (middle[0] - at[0]) * nx + (middle[1] - at[1]) * ny)
        lines.append((nx, ny, at[0] * nx + at[1] * ny + inwards * distance))
    (a, b, c), (d, e, f) = lines
    det = a * e - b * d
    if abs(det) < 1e-9:
        raise CannotBuild("These two edges are parallel; pick two that are not.", where="second_edge")
    return (c * e - b * f) / det, (a * f - c * d) / det


def _flat(p: Any, frame: Frame) -> tuple[float, float]:
    away = (p.X() - frame.origin[0], p.Y() - frame.origin[1], p.Z() - frame.origin[2])
    return dot(away, frame.x), dot(away, frame.y)
