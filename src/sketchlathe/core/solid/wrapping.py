"""Regions wrapped round a cylinder, raised or engraved: lengths along the plane become lengths along the surface."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepFill import BRepFill
from OCP.BRepLib import BRepLib
from OCP.collections import Array1_gp_Pnt2d
from OCP.Convert import Convert_QuasiAngular
from OCP.Geom import Geom_CylindricalSurface
from OCP.Geom2d import Geom2d_BezierCurve, Geom2d_BSplineCurve, Geom2d_Circle, Geom2d_Ellipse, Geom2d_TrimmedCurve
from OCP.Geom2dConvert import Geom2dConvert
from OCP.GeomAbs import GeomAbs_Cylinder
from OCP.gp import gp_Ax2d, gp_Ax3, gp_Ax22d, gp_Dir, gp_Dir2d, gp_Pnt, gp_Pnt2d
from OCP.ShapeFix import ShapeFix_Face
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import TopoDS

from ..errors import CannotBuild
from ..frames import Frame, Triple, cross, dot, unit
from ..sketch.curves import ArcPiece, Bezier, EllipsePiece, Piece, Segment
from ..sketch.curves.pieces import box_of_piece
from ..sketch.regions import Profile
from .kernel import FACE, Shape, mapped
from .measuring import area_and_centre, volume
from .naming import Body
from .sewing import sewn
from .shapes import profile_face

_SEW = 1e-4  # mm


@dataclass(frozen=True)
class Drum:
    """A cylinder to wrap round: a frame whose normal is its axis and whose x points to where the plane's x axis of the
    wrap begins; the places of the plane (along, up) that lie there; the radius; whether its material lies outside.
    """

    frame: Frame
    along: Triple
    radius: float
    hollow: bool
    origin: tuple[float, float]


def drum_of(body: Body, index: int, plane: Frame) -> Drum | None:
    """The drum of a round face (0-based) for regions of a plane; None for other faces. The plane must stand along the
    axis: what lies straight before the axis stays there.
    """
    face = TopoDS.Face(mapped(body.shape, FACE).FindKey(index + 1))
    surface = BRepAdaptor_Surface(face, False)
    if surface.GetType() != GeomAbs_Cylinder:
        return None
    round_ = surface.Cylinder()
    at, way = round_.Axis().Location(), round_.Axis().Direction()
    axis: Triple = (way.X(), way.Y(), way.Z())
    if abs(dot(axis, plane.normal)) > 1e-9:
        raise CannotBuild(
            "The sketch must lie along the axis of the round face: draw it on a plane beside it.", where="face"
        )
    if dot(axis, plane.y) < -1e-9 or (abs(dot(axis, plane.y)) < 1e-9 and dot(axis, plane.x) < 0):
        axis = (-axis[0], -axis[1], -axis[2])
    base: Triple = (at.X(), at.Y(), at.Z())
    frame = Frame(base, plane.normal, axis)
    along = cross(axis, plane.normal)
    hollow = (face.Orientation() == TopAbs_REVERSED) == round_.Direct()
    # the plane's own origin in the drum's measure: along the surface, and up the axis
    off = tuple(o - b for o, b in zip(plane.origin, base))
    return Drum(frame, unit(along), round_.Radius(), hollow, (dot(off, unit(along)), dot(off, axis)))  # type: ignore[arg-type]


def wrapped(step: str, profile: Profile, plane: Frame, drum: Drum, low: float, high: float) -> Body:
    """The solid over a wrapped profile between two distances from the drum's axis, mm; one of them is its radius, at
    which areas stay as they are: its volume is the profile's area times (high² - low²) / 2 R, which is checked. Faces
    are named ``start`` (at the drum), ``end`` and side with the curve.
    """
    face, _ = profile_face(profile, plane)
    area, _ = area_and_centre(face)
    own = drum.radius
    problem = CannotBuild("This outline cannot be wrapped: it may be too wide for the round face.", where="regions")
    faces: list[tuple[Shape, str]] = []
    rims: list[list[tuple[Shape, str]]] = []
    for radius in (low, high):
        axes = gp_Ax3(gp_Pnt(*drum.frame.origin), gp_Dir(*drum.frame.normal), gp_Dir(*drum.frame.x))
        surface = Geom_CylindricalSurface(axes, radius)
        wires, rim = [], []
        for chain in (profile.outer, *profile.holes):
            maker = BRepBuilderAPI_MakeWire()
            for piece, owner in _halved(chain):
                edge = BRepBuilderAPI_MakeEdge(_laid(piece, plane, drum), surface).Edge()
                BRepLib.BuildCurves3d_s(edge, 1e-7)
                maker.Add(edge)
                if not maker.IsDone():
                    raise problem
                rim.append((maker.Edge(), owner))
            wires.append(maker.Wire())
        rims.append(rim)
        made = BRepBuilderAPI_MakeFace(surface, wires[0], True)
        for wire in wires[1:]:
            made.Add(wire)
        if not made.IsDone():
            raise problem
        fixer = ShapeFix_Face(made.Face())
        fixer.FixOrientation()
        faces.append((fixer.Face(), "start" if abs(radius - own) < 1e-12 else "end"))
    for (inner, owner), (outer, _) in zip(*rims):
        faces.append((BRepFill.Face_s(inner, outer), f"side:{owner}"))
    named_ = [(face, frozenset({f"{step}:{role}"})) for face, role in faces]
    made = sewn(step, named_, f"{step}:side", _SEW, problem)
    expected = area * (high * high - low * low) / (2 * own)
    if abs(volume(made.shape) - expected) > 1e-5 * expected:
        raise problem
    return made


def _halved(chain: Sequence[tuple[Piece, str]]) -> list[tuple[Piece, str]]:
    """Without curves that are closed by themselves: between two such the kernel makes no sound wall."""
    out: list[tuple[Piece, str]] = []
    for piece, owner in chain:
        if isinstance(piece, ArcPiece | EllipsePiece) and piece.whole:
            middle = (piece.a0 + piece.a1) / 2
            out += [(piece._replace(a1=middle), owner), (piece._replace(a0=middle), owner)]
        else:
            out.append((piece, owner))
    return out


def reach(profile: Profile, plane: Frame, drum: Drum) -> tuple[float, float]:
    """From where to where a profile goes along the drum's surface, mm."""
    places = [p for piece, _ in profile.outer for p in box_of_piece(piece)]
    corners = [(x, y) for x in {p[0] for p in places} for y in {p[1] for p in places}]
    ax, ay = (dot(drum.along, v) for v in (plane.x, plane.y))
    along = [drum.origin[0] + x * ax + y * ay for x, y in corners]
    return min(along), max(along)


def _laid(piece: Piece, plane: Frame, drum: Drum) -> Geom2d_BSplineCurve:
    """A piece as a curve of the cylinder's parameters: turn (rad) and height (mm). The map is affine, so it moves
    poles.
    """
    # evenly run: where a curve runs unevenly the kernel's integrals over walls are off by a thousandth
    curve = Geom2dConvert.CurveToBSplineCurve_s(_flat(piece), Convert_QuasiAngular)
    ax, ay = (dot(drum.along, v) for v in (plane.x, plane.y))
    bx, by = (dot(drum.frame.normal, v) for v in (plane.x, plane.y))
    for i in range(1, curve.NbPoles() + 1):
        p = curve.Pole(i)
        along = drum.origin[0] + p.X() * ax + p.Y() * ay
        up = drum.origin[1] + p.X() * bx + p.Y() * by
        curve.SetPole(i, gp_Pnt2d(along / drum.radius, up))
    return curve


def _flat(piece: Piece) -> object:
    """The kernel's plane curve of a piece, run its way."""
    if isinstance(piece, Segment | Bezier):
        points = list(piece)
        poles = Array1_gp_Pnt2d(1, len(points))
        for i, p in enumerate(points, 1):
            poles.SetValue(i, gp_Pnt2d(*p))
        return Geom2d_BezierCurve(poles)
    low, high = min(piece.a0, piece.a1), max(piece.a0, piece.a1)
    if isinstance(piece, ArcPiece):
        whole: object = Geom2d_Circle(gp_Ax2d(gp_Pnt2d(*piece.centre), gp_Dir2d(1, 0)), piece.radius)
    else:
        whole, low, high = _ellipse(piece, low, high)
    curve = Geom2d_TrimmedCurve(whole, low, high)
    if piece.a1 < piece.a0:
        curve.Reverse()
    return curve


def _ellipse(piece: EllipsePiece, low: float, high: float) -> tuple[object, float, float]:
    """The kernel wants the longer half axis first."""
    ux, uy = piece.major
    long = math.hypot(ux, uy)
    if long < piece.minor:
        axes = gp_Ax22d(gp_Pnt2d(*piece.centre), gp_Dir2d(-uy, ux), gp_Dir2d(-ux, -uy))
        return Geom2d_Ellipse(axes, piece.minor, long), low - math.pi / 2, high - math.pi / 2
    axes = gp_Ax22d(gp_Pnt2d(*piece.centre), gp_Dir2d(ux, uy), gp_Dir2d(-uy, ux))
    return Geom2d_Ellipse(axes, long, piece.minor), low, high
