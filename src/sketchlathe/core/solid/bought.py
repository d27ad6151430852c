"""Bought parts as solids: exact outside, threads left smooth at their nominal diameter."""

from __future__ import annotations

import math
from collections.abc import Sequence

from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.GeomAbs import GeomAbs_Circle
from OCP.TopoDS import TopoDS

from ..frames import Frame, Triple, cross, dot
from ..sketch.curves.pieces import ArcPiece, Piece, Segment
from ..sketch.regions import Profile
from .kernel import EDGE, each
from .naming import Body
from .primitives import revolved
from .shapes import cut, fuse, prism


def _upright(frame: Frame, place: tuple[float, float], into: float) -> tuple[Frame, Triple]:
    """A plane through the axis of a thing at a place, x outwards, y along ``into`` times the normal; and that way."""
    n = frame.normal
    way = (n[0] * into, n[1] * into, n[2] * into)
    return Frame(frame.place(*place), frame.x, cross(frame.x, way)), way


def turned(
    step: str, frame: Frame, place: tuple[float, float], into: float, outline: Sequence[tuple[float, float, str]],
    bulge: float = 0.0,
) -> Body:  # fmt: skip
    """What turns about the axis: ``outline`` (r, height, name of the piece that begins there), mm, heights along
    ``into`` times the normal. ``bulge``: the radius of the first piece, round about the axis; 0: straight.
    """
    side, way = _upright(frame, place, into)
    chain: list[tuple[Piece, str]] = []
    for (ar, ah, name), (br, bh, _) in zip(outline, [*outline[1:], outline[0]]):
        if math.dist((ar, ah), (br, bh)) < 1e-9:
            continue
        if bulge and not chain:
            middle = (0.0, ah + bulge)
            ends = (math.atan2(ah - middle[1], ar), math.atan2(bh - middle[1], br))
            chain.append((ArcPiece(middle, bulge, *ends), name))
        else:
            chain.append((Segment((ar, ah), (br, bh)), name))
    return revolved(step, Profile(tuple(chain), ()), side, side.origin, way, 0.0, 2 * math.pi)


def hexagon(
    step: str, frame: Frame, place: tuple[float, float], into: float, across: float, low: float, high: float
) -> Body:
    """A hexagonal prism between two heights along ``into`` times the normal, mm."""
    radius, (x, y) = across / math.sqrt(3), place
    corners = [(x + radius * math.cos(k * math.pi / 3), y + radius * math.sin(k * math.pi / 3)) for k in range(6)]
    chain = tuple((Segment(a, b), f"flat{k}") for k, (a, b) in enumerate(zip(corners, [*corners[1:], corners[0]])))
    return prism(step, Profile(chain, ()), frame, *sorted((low * into, high * into)))


def without_room(body: Body, room: Body, step: str) -> Body:
    """A part with room in it: for a key, for a thread."""
    return cut(body, [room], step)[0]


def with_head(shank: Body, head: Body, step: str) -> Body:
    """A shank and a head that stand on each other, as one."""
    return fuse([head], [shank], step)[0]


def rounds_about(
    bodies: Sequence[Body], frame: Frame, place: tuple[float, float], into: float
) -> list[tuple[float, float]]:
    """The round edges about the axis through a place, across the plane: how deep (along ``into`` times the normal) and
    of which radius, mm; from above down, the wider first.
    """
    axis, n = frame.place(*place), frame.normal
    found = []
    for curve in (BRepAdaptor_Curve(TopoDS.Edge(edge)) for body in bodies for edge in each(body.shape, EDGE)):
        if curve.GetType() != GeomAbs_Circle:
            continue
        circle = curve.Circle()
        centre, way = circle.Location(), circle.Axis().Direction()
        if abs(dot((way.X(), way.Y(), way.Z()), n)) < 1 - 1e-9:
            continue
        a, b, c = centre.X() - axis[0], centre.Y() - axis[1], centre.Z() - axis[2]
        deep = dot((a, b, c), n)
        if math.hypot(a - deep * n[0], b - deep * n[1], c - deep * n[2]) < 1e-6:
            found.append((round(deep * into, 6), circle.Radius()))
    return sorted(found, key=lambda r: (r[0], -r[1]))


def seat_below(rounds: Sequence[tuple[float, float]], head: float, shank: float) -> float:
    """How deep a head of a radius sinks before it sits: to the first round edge, from the place on, that is narrower
    than it and lets the shank through; 0 where it sits at once or nowhere. ``rounds`` as of ``rounds_about``.
    """
    for deep, radius in rounds:
        if deep < -1e-6 or radius >= head - 1e-6:
            continue
        return deep if radius >= shank - 1e-6 else 0.0
    return 0.0
