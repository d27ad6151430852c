"""Holes as turned profiles, and where there is material to drill into."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from typing import Any

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeFace
from OCP.BRepClass3d import BRepClass3d_SolidClassifier
from OCP.BRepTools import BRepTools
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Line
from OCP.gp import gp_Dir, gp_Lin, gp_Pnt
from OCP.IntCurvesFace import IntCurvesFace_ShapeIntersector
from OCP.TopAbs import TopAbs_IN
from OCP.TopoDS import TopoDS

from ..errors import CannotBuild
from ..frames import Frame, Triple, dot
from ..sketch.curves import ArcPiece, Piece, Segment
from ..sketch.regions import Profile
from .axes import of_edge
from .edges import NamedEdge, edge_shape
from .kernel import EDGE, FACE, each, mapped, private
from .measuring import area_and_centre, rough_box
from .naming import Body
from .primitives import cylinder, revolved
from .shapes import cut, prism


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


def roofed(
    step: str,
    frame: Frame,
    place: tuple[float, float],
    into: float,
    radius: float,
    depth: float,
    up: tuple[float, float, float],
    *,
    flat: bool,
) -> Body:
    """A round hole that closes above itself at 45°, to a point or to a flat roof as high as its radius, so that it
    prints lying without support. Names: ``wall``, ``left``, ``right``, ``roof``. Raises ``CannotBuild`` where it stands
    upright.
    """
    u, v = dot(up, frame.x), dot(up, frame.y)
    if math.hypot(u, v) < 0.2:
        raise CannotBuild("This hole stands upright when it is printed: it needs no roof.", where="roof")
    tilt = math.atan2(v, u)

    def at(angle: float, r: float) -> tuple[float, float]:
        return place[0] + r * math.cos(tilt + angle), place[1] + r * math.sin(tilt + angle)

    wall = ArcPiece(place, radius, tilt + math.pi / 4, tilt + 7 * math.pi / 4)
    first, last = wall.last, wall.first
    chain: list[tuple[Piece, str]] = [(wall, "wall")]
    if flat:
        half = math.sqrt(2) - 1
        near, far = (at(sign * math.atan(half), radius * math.hypot(1, half)) for sign in (-1, 1))
        chain += [(Segment(first, near), "right"), (Segment(near, far), "roof"), (Segment(far, last), "left")]
    else:
        tip = at(0.0, math.sqrt(2) * radius)
        chain += [(Segment(first, tip), "right"), (Segment(tip, last), "left")]
    low, high = (0.0, depth) if into > 0 else (-depth, 0.0)
    return prism(step, Profile(tuple(chain), ()), frame, low, high)


def with_layer(
    step: str,
    hole: Body,
    frame: Frame,
    place: tuple[float, float],
    into: float,
    deep: float,
    thick: float,
    radius: float,
) -> list[Body]:
    """A counterbored hole in two: its seat, and its bore from ``thick`` below the seat on."""
    n = frame.normal
    at = Frame(frame.place(*place, into * deep), frame.x, (n[0] * into, n[1] * into, n[2] * into))
    return cut(hole, [cylinder(step, at, radius * 1.01, thick)], step)


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


def way_out(bodies: Sequence[Body], origin: Triple, way: Triple) -> float | None:
    """How far from a place along a direction material ends first, mm; None where there is none."""
    found = []
    for body in bodies:
        rays = IntCurvesFace_ShapeIntersector()
        rays.Load(private(body.shape, mesh=False), 1e-7)
        rays.Perform(gp_Lin(gp_Pnt(*origin), gp_Dir(*way)), 1e-6, 1e6)
        places = sorted(rays.WParameter(i) for i in range(1, rays.NbPnt() + 1))
        crossed = [p for p, q in itertools.pairwise([*places, math.inf]) if q - p > 1e-6]
        # inside already where an odd number of walls lies ahead
        at = 0 if len(crossed) % 2 else 1
        if at < len(crossed):
            found.append(crossed[at])
    return min(found, default=None)


def place_on_face(
    body: Body, index: int, frame: Frame, away: Sequence[tuple[float, NamedEdge]] = ()
) -> tuple[float, float]:
    """A place on a flat face in its plane: its middle (a round face's centre), or at distances
    from two of its edges.
    """
    face = TopoDS.Face(mapped(body.shape, FACE).FindKey(index + 1))
    outline = BRepTools.OuterWire_s(face)
    rims = list(each(outline, EDGE))
    curve = BRepAdaptor_Curve(rims[0])
    if len(rims) == 1 and curve.GetType() == GeomAbs_Circle:
        middle = _flat(curve.Circle().Location(), frame)
    else:
        filled = BRepBuilderAPI_MakeFace(TopoDS.Wire(private(outline)), True).Face()
        middle = _flat(gp_Pnt(*area_and_centre(filled)[1]), frame)
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
