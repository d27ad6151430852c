"""Coils: a wire wound about an axis, evenly, on a cylinder or a cone."""

from __future__ import annotations

import math

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeWire
from OCP.BRepLib import BRepLib
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipeShell
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.Geom import Geom_ConicalSurface, Geom_CylindricalSurface
from OCP.Geom2d import Geom2d_Line
from OCP.gp import gp_Ax3, gp_Dir, gp_Dir2d, gp_Pnt, gp_Pnt2d, gp_Vec

from ..errors import CannotBuild
from ..sketch.curves import ArcPiece, Piece, Segment
from .along import built, caps, outline
from .frames import Frame
from .kernel import FACE, Shape, listed, mapped
from .measuring import volume
from .naming import Body, FaceName, named

_MOST = 10  # turns in one edge; of more the curve of the kernel strays from the helix (measured: 40 by 1e-3 mm)


def helix(frame: Frame, start: float, end: float, pitch: float, turns: float, left: bool) -> list[Shape]:
    """Edges of a helix about a frame's normal that begins at ``start`` mm out along its x and
    ends at radius ``end``.
    """
    axes = gp_Ax3(gp_Pnt(*frame.origin), gp_Dir(*frame.normal), gp_Dir(*frame.x))
    lean = math.atan2(end - start, pitch * turns)
    surface = Geom_CylindricalSurface(axes, start) if abs(lean) < 1e-9 else Geom_ConicalSurface(axes, lean, start)
    along = pitch / math.cos(lean)  # of the surface's v in one turn
    sense = -1.0 if left else 1.0
    pieces = math.ceil(turns / _MOST - 1e-9)
    edges = []
    for k in range(pieces):
        a, b = turns * k / pieces, turns * (k + 1) / pieces
        line = Geom2d_Line(
            gp_Pnt2d(sense * 2 * math.pi * a, along * a), gp_Dir2d(sense * 2 * math.pi, along)
        )  # fmt: skip
        edge = BRepBuilderAPI_MakeEdge(line, surface, 0.0, (b - a) * math.hypot(2 * math.pi, along)).Edge()
        BRepLib.BuildCurves3d_s(edge, 1e-7)
        edges.append(edge)
    return edges


def coil(
    step: str,
    frame: Frame,
    start: float,
    end: float,
    pitch: float,
    turns: float,
    left: bool,
    wire: tuple[float, float],
    round_: bool,
) -> Body:
    """A wire of a width (outwards) and a height (along the axis) wound about a frame's normal, mm. Its volume is the
    section times the length of the helix (Pappus), which is checked.
    """
    edges = helix(frame, start, end, pitch, turns, left)
    spine = BRepBuilderAPI_MakeWire()
    for edge in edges:
        spine.Add(edge)
    begin, way = gp_Pnt(), gp_Vec()
    curve = BRepAdaptor_Curve(edges[0])
    curve.D1(curve.FirstParameter(), begin, way)
    long = way.Magnitude()
    across = Frame(
        (begin.X(), begin.Y(), begin.Z()), _square_to(frame.x, (way.X() / long, way.Y() / long, way.Z() / long)),
        (way.X() / long, way.Y() / long, way.Z() / long),
    )  # fmt: skip
    w, h = wire
    chain: tuple[tuple[Piece, str], ...]
    if round_:
        chain = ((ArcPiece((0.0, 0.0), w / 2, 0.0, 2 * math.pi), "wire"),)
        area = math.pi * w * w / 4
    else:
        corners = [(-w / 2, -h / 2), (w / 2, -h / 2), (w / 2, h / 2), (-w / 2, h / 2)]
        sides = ("below", "outside", "above", "inside")
        chain = tuple((Segment(a, b), s) for a, b, s in zip(corners, [*corners[1:], corners[0]], sides))
        area = w * h
    maker = BRepOffsetAPI_MakePipeShell(spine.Wire())
    maker.SetMode(True)
    section, owned = outline(chain, across)
    maker.Add(section, False, False)
    solid = built(maker, "pitch", clear=True)
    length = sum(float(GCPnts_AbscissaPoint.Length_s(BRepAdaptor_Curve(e))) for e in edges)
    if abs(volume(solid) - area * length) > 1e-3 * area * length:
        raise CannotBuild("With these sizes the coil does not come out right: take a thinner wire.", where="wire")
    faces = mapped(solid, FACE)
    names: dict[int, FaceName] = {}
    for edge, owner in owned:
        for shape in listed(maker.Generated(edge)):
            if at := faces.FindIndex(shape):
                names[at] = frozenset({f"{step}:side:{owner}"})
    return named(step, solid, names | caps(step, maker, faces), f"{step}:side")


def _square_to(x: tuple[float, float, float], n: tuple[float, float, float]) -> tuple[float, float, float]:
    along = sum(a * b for a, b in zip(x, n))
    rest = [a - along * b for a, b in zip(x, n)]
    size = math.hypot(*rest)
    return (rest[0] / size, rest[1] / size, rest[2] / size)
