"""Full rounds: the whole width of a narrow face made round, tangent to the two faces beside it.

No kernel call does this. Between flat faces the round is a cylinder that touches all three planes
(n·c - d = -r for each of the three outward normals); on the rim of a tube it is a half round turned about the axis.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Cylinder
from OCP.GProp import GProp_GProps
from OCP.TopoDS import TopoDS

from ..errors import CannotBuild
from ..frames import Frame, Triple, cross, dot, unit
from ..sketch.curves import ArcPiece, Piece, Segment
from ..sketch.regions import Profile
from .digest import face_frame, name_text
from .kernel import EDGE, FACE, VERTEX, Shape, each, mapped
from .measuring import volume
from .naming import Body
from .primitives import revolved
from .shapes import cut, prism

_WHERE = "middle"


def full_round(body: Body, index: int, step: str, sides: Sequence[int] = ()) -> Body:
    """The body with one face (0-based) rounded over its whole width. ``sides``: the two faces beside it, else found."""
    faces = list(each(body.shape, FACE))
    first, second = sides if len(sides) == 2 else _sides(body, index)
    source = f"[{name_text(body.names[index])}]"
    flat = face_frame(faces[index])
    if flat is None:
        raise CannotBuild("A full rounding needs a flat face in the middle: pick another.", where=_WHERE)
    planes = [face_frame(faces[i]) for i in (first, second)]
    if planes[0] is not None and planes[1] is not None:
        tools = _between_planes(faces[index], flat, planes[0], planes[1], step)
    else:
        tools = _on_a_rim(faces[index], flat, faces[first], faces[second], step)
    tools = [Body(t.id, t.shape, tuple(_blend(name, step, source) for name in t.names)) for t in tools]
    left = cut(body, tools, step)
    if len(left) != 1 or volume(left[0].shape) >= volume(body.shape):
        raise CannotBuild("This face cannot be rounded over its whole width.", where=_WHERE)
    return left[0]


def _blend(name: frozenset[str], step: str, source: str) -> frozenset[str]:
    return frozenset(f"{step}:blend:{source}" if a.endswith(":blend") else a for a in name)


def _sides(body: Body, index: int) -> tuple[int, int]:
    """The two faces across the longest edges of a face that do not meet each other."""
    face = TopoDS.Face(mapped(body.shape, FACE).FindKey(index + 1))
    order = mapped(body.shape, EDGE)
    from .digest import faces_of_edges

    around = faces_of_edges(body.shape)
    edges = []
    for edge in each(face, EDGE):
        across = [f for f in around[order.FindIndex(edge) - 1] if f != index]
        mass = GProp_GProps()
        BRepGProp.LinearProperties_s(edge, mass)
        if across:
            edges.append((mass.Mass(), mapped(edge, VERTEX), across[0]))
    edges.sort(key=lambda e: -e[0])
    for i, (_, corners, across) in enumerate(edges):
        for _, other_corners, other in edges[i + 1 :]:
            meets = any(other_corners.FindIndex(corners.FindKey(k)) for k in range(1, corners.Size() + 1))
            if not meets and other != across:
                return across, other
    raise CannotBuild("This face has no two sides across from each other to round between.", where=_WHERE)


def _between_planes(face: Shape, middle: Frame, first: Frame, second: Frame, step: str) -> list[Body]:
    axis = cross(first.normal, middle.normal)
    if math.sqrt(dot(axis, axis)) < 1e-6 or abs(dot(unit(axis), second.normal)) > 1e-6:
        raise CannotBuild("The faces beside this one do not run along it; they cannot be rounded over.", where=_WHERE)
    along = unit(axis)
    # across the strip: u to the right, v out of the material
    frame = Frame(middle.origin, cross(middle.normal, along), along)
    flat_planes = [(dot(p.normal, frame.x), dot(p.normal, frame.y), _offset(p, frame)) for p in (first, middle, second)]
    matrix = np.array([[u, v, 1.0] for u, v, _ in flat_planes])
    if abs(np.linalg.det(matrix)) < 1e-9:
        raise CannotBuild("No round fits between these three faces.", where=_WHERE)
    cu, cv, r = np.linalg.solve(matrix, [d for _, _, d in flat_planes])
    if r <= 1e-6:
        raise CannotBuild("No round fits between these three faces.", where=_WHERE)
    corners = [_meeting(flat_planes[0], flat_planes[1]), _meeting(flat_planes[1], flat_planes[2])]
    touches = [(cu + r * u, cv + r * v) for u, v, _ in (flat_planes[0], flat_planes[2])]
    heights = [frame.height(p) for p in _corners(face)]
    top = (cu, cv + r)
    return [
        prism(step, _corner((cu, cv), r, touch, corner, top), frame, min(heights), max(heights))
        for touch, corner in zip(touches, corners)
    ]


def _offset(plane: Frame, frame: Frame) -> float:
    away = tuple(p - o for p, o in zip(plane.origin, frame.origin))
    return dot(away, plane.normal)  # type: ignore[arg-type]


def _meeting(a: tuple[float, float, float], b: tuple[float, float, float]) -> tuple[float, float]:
    u, v = np.linalg.solve(np.array([a[:2], b[:2]]), np.array([a[2], b[2]]))
    return float(u), float(v)


def _corner(
    centre: tuple[float, float],
    r: float,
    touch: tuple[float, float],
    corner: tuple[float, float],
    top: tuple[float, float],
) -> Profile:
    """What a full round takes away on one side: between where it touches the side, the corner, and the top."""
    a0, a1 = (math.atan2(p[1] - centre[1], p[0] - centre[0]) for p in (top, touch))
    a1 = a0 + math.remainder(a1 - a0, 2 * math.pi)
    chain: list[tuple[Piece, str]] = [
        (Segment(touch, corner), "part"),
        (Segment(corner, top), "part"),
        (ArcPiece(centre, r, a0, a1), "blend"),
    ]
    twice = (corner[0] - touch[0]) * (top[1] - touch[1]) - (corner[1] - touch[1]) * (top[0] - touch[0])
    if twice < 0:
        chain = [(piece.reversed(), owner) for piece, owner in reversed(chain)]
    return Profile(tuple(chain), ())


def _corners(face: Shape) -> list[Triple]:
    from OCP.BRep import BRep_Tool

    places = [BRep_Tool.Pnt_s(v) for v in each(face, VERTEX)]
    return [(p.X(), p.Y(), p.Z()) for p in places]


def _on_a_rim(face: Shape, middle: Frame, first: Shape, second: Shape, step: str) -> list[Body]:
    """The flat rim between two cylinders with one axis."""
    radii = []
    axis = None
    for side in (first, second):
        surface = BRepAdaptor_Surface(TopoDS.Face(side), False)
        if surface.GetType() != GeomAbs_Cylinder:
            raise CannotBuild("A full rounding works between two flat faces, or on the rim of a tube.", where=_WHERE)
        cylinder = surface.Cylinder()
        radii.append(float(cylinder.Radius()))
        axis = cylinder.Axis()
    whole = all(
        BRepAdaptor_Curve(e).GetType() == GeomAbs_Circle
        and abs(BRepAdaptor_Curve(e).LastParameter() - BRepAdaptor_Curve(e).FirstParameter()) > 2 * math.pi - 1e-6
        for e in each(face, EDGE)
    )
    assert axis is not None
    d, at = axis.Direction(), axis.Location()
    if not whole or abs(dot((d.X(), d.Y(), d.Z()), middle.normal)) < 1 - 1e-9 or abs(radii[0] - radii[1]) < 1e-6:
        raise CannotBuild("A full rounding of a rim needs a whole flat ring between two cylinders.", where=_WHERE)
    up = middle.normal
    base = (at.X(), at.Y(), at.Z())
    lift = -middle.height(base)
    origin: Triple = (base[0] + up[0] * lift, base[1] + up[1] * lift, base[2] + up[2] * lift)
    inner, outer = sorted(radii)
    r = (outer - inner) / 2
    # in the half plane beside the axis: u away from it, v up
    side_frame = Frame(origin, middle.x, cross(middle.x, up))
    centre, top = ((inner + outer) / 2, -r), ((inner + outer) / 2, 0.0)
    return [
        revolved(step, _corner(centre, r, (u, -r), (u, 0.0), top), side_frame, origin, up, 0.0, 2 * math.pi)
        for u in (outer, inner)
    ]
