"""Bodies cut apart: by a plane, by a chain of curves swept at right angles to its plane, by a face carried on.

Each answers with what lies in front (of the plane; to the left of the chain, seen straight on; outside the face) and
what lies behind.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepAlgoAPI import BRepAlgoAPI_Splitter
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakePrism
from OCP.BRepTools import BRepTools
from OCP.collections import List_TopoDS_Shape
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt, gp_Vec
from OCP.TopAbs import TopAbs_REVERSED
from OCP.TopoDS import TopoDS

from ..errors import CannotBuild
from ..frames import Frame, Triple, dot
from ..sketch.curves import Bezier, Piece, Segment
from .digest import face_frame
from .kernel import FACE, Shape, each, is_sound, listed, mapped, solids_in
from .measuring import rough_box, volume
from .naming import Body, apart, carried, named
from .shapes import common, cut, edge_of
from .sweeping import whole_surface

Sides = tuple[list[Body], list[Body]]


def by_plane(step: str, body: Body, frame: Frame) -> Sides:
    """In front of a plane, and behind it."""
    block = _half_space(step, frame, body)
    return common(body, [block], step), cut(body, [block], step)


def behind_plane(step: str, body: Body, frame: Frame) -> list[Body]:
    """What is behind a plane."""
    return cut(body, [_half_space(step, frame, body)], step)


def by_chain(step: str, body: Body, frame: Frame, chain: Sequence[tuple[Piece, str]]) -> Sides:
    """To the left of a chain (its ends carried on straight), and to its right."""
    low, high = rough_box(body.shape)
    corners = [(x, y, z) for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])]
    heights = [frame.height(c) for c in corners]
    bottom, top = min(heights) - 1.0, max(heights) + 1.0
    pieces = [piece for piece, _ in chain]
    if math.dist(pieces[0].first, pieces[-1].last) > 1e-6:
        reach = 2 * (math.dist(low, high) + max(math.dist(frame.origin, c) for c in corners)) + 10.0
        (a, into), (b, out) = ends_of(pieces)
        before, after = (a[0] - into[0] * reach, a[1] - into[1] * reach), (b[0] + out[0] * reach, b[1] + out[1] * reach)
        pieces = [Segment(before, a), *pieces, Segment(b, after)]
    pieces = _without_seams(pieces)
    rise = gp_Vec(*(n * (top - bottom) for n in frame.normal))
    base = Frame(frame.place(0, 0, bottom), frame.x, frame.normal)
    walls = [_only_face(BRepPrimAPI_MakePrism(edge_of(piece, base), rise).Shape()) for piece in pieces]
    senses = [_towards_left(wall, piece, frame) for wall, piece in zip(walls, pieces)]
    return _split(step, body, walls, senses, "curve")


def _without_seams(pieces: Sequence[Piece]) -> list[Piece]:
    """Segments that go straight on are one: a cut along them has no seam where they meet."""
    out: list[Piece] = []
    for piece in pieces:
        last = out[-1] if out else None
        if isinstance(last, Segment) and isinstance(piece, Segment) and _straight_on(last, piece):
            out[-1] = Segment(last.a, piece.b)
        else:
            out.append(piece)
    return out


def _straight_on(one: Segment, next: Segment) -> bool:
    (px, py), (qx, qy) = _direction(one, first=False), _direction(next, first=True)
    return abs(px * qy - py * qx) < 1e-9 and px * qx + py * qy > 0 and math.dist(one.b, next.a) < 1e-9


def _only_face(shape: Shape) -> Shape:
    return next(iter(each(shape, FACE)))


def _towards_left(wall: Shape, piece: Piece, frame: Frame) -> float:
    """1 if the surface of a wall over a piece has its normal to the left of the piece, else -1."""
    p, n = _normal(wall)
    away = tuple(a - o for a, o in zip(p, frame.origin))
    at = (dot(away, frame.x), dot(away, frame.y))  # type: ignore[arg-type]
    near = min(range(40), key=lambda i: math.dist(_at(piece, (i + 0.5) / 40), at))
    q, r = _at(piece, near / 40), _at(piece, (near + 1) / 40)
    left = tuple(-(r[1] - q[1]) * x + (r[0] - q[0]) * y for x, y in zip(frame.x, frame.y))
    return 1.0 if dot(n, left) > 0 else -1.0  # type: ignore[arg-type]


def _normal(face: Shape) -> tuple[Triple, Triple]:
    """A point amid a face, and the normal of its surface there (whichever way the face itself is turned)."""
    surface = BRepAdaptor_Surface(TopoDS.Face(face), True)
    u0, u1, v0, v1 = BRepTools.UVBounds_s(TopoDS.Face(face))
    p, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    surface.D1(u0 + (u1 - u0) * 0.4837, v0 + (v1 - v0) * 0.5129, p, du, dv)
    n = du.Crossed(dv)
    return (p.X(), p.Y(), p.Z()), (n.X(), n.Y(), n.Z())


def _at(piece: Piece, t: float) -> tuple[float, float]:
    """The point of a piece at a fraction of its parameters."""
    if isinstance(piece, Segment):
        return (piece.a[0] + (piece.b[0] - piece.a[0]) * t, piece.a[1] + (piece.b[1] - piece.a[1]) * t)
    if isinstance(piece, Bezier):
        return piece.at(t)
    return piece.at(piece.a0 + (piece.a1 - piece.a0) * t)


def _direction(piece: Piece, *, first: bool) -> tuple[float, float]:
    """The unit direction of a piece at its first or last point."""
    p, q = (_at(piece, 0.0), _at(piece, 1e-6)) if first else (_at(piece, 1 - 1e-6), _at(piece, 1.0))
    long = math.dist(p, q)
    return ((q[0] - p[0]) / long, (q[1] - p[1]) / long)


def ends_of(pieces: Sequence[Piece]) -> tuple[tuple[tuple[float, float], ...], tuple[tuple[float, float], ...]]:
    """Where a chain begins and ends, each with the unit direction it runs in there."""
    return (
        (pieces[0].first, _direction(pieces[0], first=True)),
        (pieces[-1].last, _direction(pieces[-1], first=False)),
    )


def by_face(step: str, body: Body, owner: Body, index: int) -> Sides:
    """Outside a face carried on beyond its edges, and inside it."""
    face = TopoDS.Face(mapped(owner.shape, FACE).FindKey(index + 1))
    flat = face_frame(face)
    if flat is not None:
        return by_plane(step, body, flat)
    surface = whole_surface(face, math.dist(*rough_box(body.shape)))
    # the carried-on face has the same surface: only the sense in which it bounds its body counts
    return _split(step, body, [surface], [-1.0 if face.Orientation() == TopAbs_REVERSED else 1.0], "face")


def _split(step: str, body: Body, surfaces: Sequence[Shape], senses: Sequence[float], where: str) -> Sides:
    """The pieces of a body between surfaces; a sense of 1: the front is where the surface's normal points."""
    body = apart(body)
    arguments, tools = List_TopoDS_Shape(), List_TopoDS_Shape()
    arguments.Append(body.shape)
    for surface in surfaces:
        tools.Append(surface)
    splitter = BRepAlgoAPI_Splitter()
    splitter.SetArguments(arguments)
    splitter.SetTools(tools)
    splitter.SetRunParallel(False)
    splitter.Build()
    pieces = solids_in(splitter.Shape()) if splitter.IsDone() else []
    whole = volume(body.shape)
    if not pieces or abs(sum(volume(p) for p in pieces) - whole) > 1e-6 * whole:
        raise CannotBuild("This does not divide the body soundly; pick something else to cut along.", where=where)
    cuts = [[*listed(splitter.Modified(surface)), surface] for surface in surfaces]
    front: list[Body] = []
    back: list[Body] = []
    for piece in sorted(pieces, key=lambda p: -volume(p)):
        if not is_sound(piece, [body.shape]):
            raise CannotBuild("This does not divide the body soundly; pick something else to cut along.", where=where)
        faces = mapped(piece, FACE)
        made = named(body.id, piece, carried([body], splitter, faces), f"{step}:cut")
        # a piece in front has its own normals, which point out of it, against the front
        out = sum(
            sense * (-1.0 if faces.FindKey(faces.FindIndex(image)).Orientation() == TopAbs_REVERSED else 1.0)
            for images, sense in zip(cuts, senses)
            for image in images
            if faces.FindIndex(image)
        )
        (front if out < 0 else back).append(made)
    return front, back


def _half_space(step: str, frame: Frame, body: Body) -> Body:
    """A block in front of a plane that covers a body; its face in the plane is named ``cut``."""
    low, high = rough_box(body.shape)
    centre = tuple((a + b) / 2 for a, b in zip(low, high))
    reach = 2 * math.dist(low, high) + 2 * abs(frame.height(centre)) + 1.0  # type: ignore[arg-type]
    u, v = (sum((c - o) * d for c, o, d in zip(centre, frame.origin, axis)) for axis in (frame.x, frame.y))
    corner = frame.place(u - reach, v - reach)
    axes = gp_Ax2(gp_Pnt(*corner), gp_Dir(*frame.normal), gp_Dir(*frame.x))
    solid = solids_in(BRepPrimAPI_MakeBox(axes, 2 * reach, 2 * reach, reach).Shape())[0]
    count = mapped(solid, FACE).Size()
    return Body(step, solid, tuple(frozenset({f"{step}:cut"}) for _ in range(count)))
