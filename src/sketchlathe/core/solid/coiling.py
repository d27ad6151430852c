"""Coils: a wire wound about an axis, evenly, on a cylinder, a cone or a plane; regions that turn and rise."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely
import shapely.affinity
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeWire, BRepBuilderAPI_Transform
from OCP.BRepLib import BRepLib
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipeShell
from OCP.collections import HArray1_gp_Pnt
from OCP.GCPnts import GCPnts_AbscissaPoint
from OCP.Geom import Geom_ConicalSurface, Geom_CylindricalSurface
from OCP.Geom2d import Geom2d_Line
from OCP.GeomAPI import GeomAPI_Interpolate
from OCP.gp import gp_Ax3, gp_Dir, gp_Dir2d, gp_Pnt, gp_Pnt2d, gp_Vec

from ..advice import Advice
from ..errors import CannotBuild
from ..frames import Frame, Triple, dot
from ..sketch.curves import ArcPiece, Piece, Segment
from ..sketch.regions import Profile
from .along import built, caps, outline
from .kernel import FACE, Shape, each, listed, mapped, private
from .matching import at_share
from .measuring import area_and_centre, volume
from .naming import Body, FaceName, named
from .sewing import sewn
from .shapes import profile_face
from .transforms import rotation, translation

_FLAT = 0.1  # a spiral that rises less than this share of how it widens is no curve of a cone for the kernel
_PLACES = 96  # in a turn of such a spiral
_MOST = 10  # turns in one edge; of more the curve of the kernel strays from the helix (measured: 40 by 1e-3 mm)


def helix(frame: Frame, start: float, end: float, pitch: float, turns: float, left: bool) -> list[Shape]:
    """Edges of a helix about a frame's normal that begins at ``start`` mm out along its x and
    ends at radius ``end``.
    """
    axes = gp_Ax3(gp_Pnt(*frame.origin), gp_Dir(*frame.normal), gp_Dir(*frame.x))
    if pitch * turns < _FLAT * abs(end - start):
        return [_spiral(frame, start, end, pitch, turns, left)]
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


def _spiral(frame: Frame, start: float, end: float, pitch: float, turns: float, left: bool) -> Shape:
    """An edge of a spiral that rises little or not, through places so near to each other that it is right to 1e-6 of
    its radius (a cubic is off by h⁴/384 of the fourth derivative).
    """
    count = math.ceil(turns * _PLACES)
    places = HArray1_gp_Pnt(1, count + 1)
    for k in range(count + 1):
        share = k / count
        r, angle = start + (end - start) * share, 2 * math.pi * turns * share * (-1 if left else 1)
        places.SetValue(k + 1, gp_Pnt(*frame.place(r * math.cos(angle), r * math.sin(angle), pitch * turns * share)))
    curve = GeomAPI_Interpolate(places, False, 1e-9)
    curve.Perform()
    return BRepBuilderAPI_MakeEdge(curve.Curve()).Edge()


def wound(
    step: str,
    profile: Profile,
    plane: Frame,
    axis: tuple[Triple, Triple],
    pitch: float,
    turns: float,
    left: bool,
) -> Body:
    """A profile of a plane through the axis (a place, a unit direction) turned about it while it rises by ``pitch`` mm
    a turn. Its volume is that of the same turn without rising (a shear along the axis changes none), which is checked.
    """
    origin, way = axis
    face, _ = profile_face(profile, plane)
    area, middle = area_and_centre(face)
    rise = dot(tuple(m - o for m, o in zip(middle, origin)), way)  # type: ignore[arg-type]
    foot = tuple(o + rise * w for o, w in zip(origin, way))
    radius = math.dist(middle, foot)
    if abs(plane.height(origin)) > 1e-6 or abs(dot(plane.normal, way)) > 1e-9:
        raise CannotBuild("Draw the regions in a plane in which the axis lies.", where="regions")
    _check_beside(profile, plane, axis, pitch if turns > 1 else math.inf)
    out = tuple((m - f) / radius for m, f in zip(middle, foot))
    frame = Frame(foot, out, way)  # type: ignore[arg-type]
    spine = BRepBuilderAPI_MakeWire()
    for edge in helix(frame, radius, radius, pitch, turns, left):
        spine.Add(edge)
    whole = _round_about(step, profile.outer, plane, spine.Wire(), way)
    if profile.holes:
        holes = [_round_about(step, hole, plane, spine.Wire(), way) for hole in profile.holes]
        whole = _hollow(step, face, [whole, *holes], axis, pitch * turns, 2 * math.pi * turns * (-1 if left else 1))
    wanted = 2 * math.pi * turns * radius * area
    if abs(volume(whole.shape) - wanted) > 1e-5 * wanted:
        raise CannotBuild("With these sizes the coil does not come out right: change the pitch.", where="pitch")
    return whole


def _check_beside(profile: Profile, plane: Frame, axis: tuple[Triple, Triple], pitch: float) -> None:
    """Raises where a profile lies across its axis, or runs into its own next turn."""
    origin, way = axis
    foot, tip = plane.flat(origin), plane.flat(tuple(o + w for o, w in zip(origin, way)))  # type: ignore[arg-type]
    along = (tip[0] - foot[0], tip[1] - foot[1])
    places = np.array([at_share(p, k / 24) for p, _ in profile.outer for k in range(24)])
    off = (places - foot) @ np.array([-along[1], along[0]])
    if off.min() < 1e-6 and off.max() > -1e-6:
        raise CannotBuild("The regions must lie beside the axis, without touching it.", where="regions")
    if math.isfinite(pitch) and pitch < (least := least_pitch(places, along)):
        raised = CannotBuild(
            f"Its turns would run into each other: the pitch must be above {least:.4g} mm.", where="pitch"
        )
        text = f"{math.ceil(least * 100 + 1) / 100:g} mm"
        raised.fixes = (Advice(raised.message, f"make it {text}", {"pitch": text}),)
        raise raised


def _hollow(
    step: str, section: Shape, whole: Sequence[Body], axis: tuple[Triple, Triple], rise: float, turn: float
) -> Body:
    """The sides of what is round a hole and of the hole, closed by the section at both ends (booleans between the faces
    of coils take seconds).
    """
    origin, way = axis
    up = translation(tuple(rise * w for w in way))  # type: ignore[arg-type]
    end = BRepBuilderAPI_Transform(section, up.Multiplied(rotation(origin, way, turn)), True).Shape()
    faces: list[tuple[Shape, FaceName]] = [
        (private(f, mesh=False), name)
        for body in whole
        for f, name in zip(each(body.shape, FACE), body.names)
        if any(":side:" in atom for atom in name)
    ]
    ends = [(section, frozenset({f"{step}:start"})), (end, frozenset({f"{step}:end"}))]
    problem = CannotBuild("With these sizes the coil does not come out right: change the pitch.", where="pitch")
    return sewn(step, [*faces, *ends], f"{step}:side", 1e-4, problem)


def least_pitch(places: np.ndarray, along: tuple[float, float]) -> float:
    """How far (mm) an outline must be shifted so that it never meets itself from there on."""
    own = shapely.Polygon(places)
    low, high = 0.0, float(np.ptp(places @ np.array(along)))
    for _ in range(24):
        middle = (low + high) / 2
        if own.intersects(shapely.affinity.translate(own, middle * along[0], middle * along[1]).buffer(1e-4)):
            low = middle
        else:
            high = middle
    return high


def _round_about(step: str, chain: Sequence[tuple[Piece, str]], plane: Frame, spine: Shape, way: Triple) -> Body:
    maker = BRepOffsetAPI_MakePipeShell(spine)
    maker.SetMode(gp_Dir(*way))
    section, owned = outline(chain, plane)
    maker.Add(section, False, False)
    return _named(step, maker, built(maker, "pitch", clear=True), owned)


def _named(step: str, maker: BRepOffsetAPI_MakePipeShell, solid: Shape, owned: Sequence[tuple[Shape, str]]) -> Body:
    faces = mapped(solid, FACE)
    names: dict[int, FaceName] = {}
    for edge, owner in owned:
        for shape in listed(maker.Generated(edge)):
            if at := faces.FindIndex(shape):
                names[at] = frozenset({f"{step}:side:{owner}"})
    return named(step, solid, names | caps(step, maker, faces), f"{step}:side")


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
    return _named(step, maker, solid, owned)


def _square_to(x: tuple[float, float, float], n: tuple[float, float, float]) -> tuple[float, float, float]:
    along = sum(a * b for a, b in zip(x, n))
    rest = [a - along * b for a, b in zip(x, n)]
    size = math.hypot(*rest)
    return (rest[0] / size, rest[1] / size, rest[2] / size)
