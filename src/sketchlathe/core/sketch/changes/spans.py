"""Stretches of curves: where others cross them, and what a curve is between two places along it.

A place along a curve is a number: distance (line), angle (circle, arc, ellipse), piece number plus parameter (spline).
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np

from ...errors import BadInput
from ..curves import ArcPiece, Bezier, Curve, EllipsePiece, Segment
from ..curves.arc import Arc
from ..curves.controlled import ControlSpline
from ..curves.ellipse import Ellipse, EllipseArc
from ..curves.line import Line
from ..curves.spline import Spline
from ..document import Sketch
from ..regions.geometry import part_of, rows_of
from ..regions.meeting import MOST_HITS, locate, meet

XY = tuple[float, float]


class Cut(NamedTuple):
    """A place along a curve where another one crosses it."""

    place: float
    other: str
    at: XY


def is_closed(curve: Curve) -> bool:
    """Whether it closes on itself (circle, ellipse)."""
    return "centred" in curve.tags and "open" not in curve.tags


def limits(curve: Curve) -> tuple[float, float]:
    """First and last place along a curve."""
    pieces = curve.pieces()
    if "spline" in curve.tags:
        return 0.0, float(len(pieces))
    piece = pieces[0]
    if isinstance(piece, ArcPiece | EllipsePiece):
        return piece.a0, piece.a1
    return 0.0, curve.length()


def at(curve: Curve, place: float) -> XY:
    """The point at a place along a curve."""
    pieces = curve.pieces()
    if "spline" in curve.tags:
        i = min(max(int(place), 0), len(pieces) - 1)
        return pieces[i].at(place - i)  # type: ignore[union-attr]
    piece = pieces[0]
    if isinstance(piece, Segment):
        long = math.dist(piece.a, piece.b) or 1.0
        f = place / long
        return (piece.a[0] + (piece.b[0] - piece.a[0]) * f, piece.a[1] + (piece.b[1] - piece.a[1]) * f)
    assert not isinstance(piece, Bezier)
    return piece.at(place)


def nearest(curve: Curve, p: XY) -> float:
    """The place along a curve that is nearest to a point."""
    if isinstance(curve, Spline | ControlSpline):
        return curve.nearest(p)
    piece = curve.pieces()[0]
    if isinstance(piece, Segment):
        long = math.dist(piece.a, piece.b) or 1.0
        t = ((p[0] - piece.a[0]) * (piece.b[0] - piece.a[0]) + (p[1] - piece.a[1]) * (piece.b[1] - piece.a[1])) / long
        return min(max(t, 0.0), long)
    if isinstance(piece, ArcPiece):
        t = math.atan2(p[1] - piece.centre[1], p[0] - piece.centre[0])
    else:
        assert isinstance(curve, Ellipse | EllipseArc)
        t = curve.parameter(p)
    low, high = limits(curve)
    t = low + (t - low) % (2 * math.pi)
    if t <= high:
        return t
    return high if t - high < low + 2 * math.pi - t else low


def cuts(sketch: Sketch, curve: Curve, others: list[Curve] | None = None) -> list[Cut]:
    """Every crossing of a curve by other curves, in order along it; ends that merely touch included."""
    eps = max(1e-7 * sketch.size, 1e-12)
    mine = rows_of(curve.pieces())
    hits, room = np.empty((MOST_HITS, 2)), np.empty((MOST_HITS, 2))
    found: list[Cut] = []
    for other in others if others is not None else sketch.curves:
        if other.id == curve.id or "text" in other.tags or not other.pieces():
            continue
        for row in rows_of(other.pieces()):
            for i, own in enumerate(mine):
                for k in range(meet(own, row, eps, hits, room)):
                    place = float(hits[k, 0]) + (i if "spline" in curve.tags else 0.0)
                    found.append(Cut(place, other.id, at(curve, place)))
    found.sort()
    out: list[Cut] = []
    for cut in found:
        if not out or math.dist(out[-1].at, cut.at) > 4 * eps:
            out.append(cut)
    return out


def between(curve: Curve, low: float, high: float, id: str) -> Curve:
    """The curve from one place to another (on a closed curve the second may be past the full turn)."""
    if isinstance(curve, Line):
        return curve.model_copy(update={"id": id, "start": at(curve, low), "end": at(curve, high)})
    if isinstance(curve, Spline | ControlSpline):
        return _spline_between(curve.as_spline() if isinstance(curve, ControlSpline) else curve, low, high, id)
    base = {"id": id, "construction": curve.construction, "start": at(curve, low), "end": at(curve, high)}
    scalars = {name: value for name, value in curve.scalars.items() if name not in ("start", "end")}
    kind = Arc if "round" in curve.tags else EllipseArc
    return kind.model_validate({**scalars, **base})


def _spline_between(curve: Spline, low: float, high: float, id: str) -> Spline:
    pieces = curve.pieces()
    through: list[XY] = []
    controls: list[XY] = []
    spans: list[float] = []
    part = None
    for i, piece in enumerate(pieces):
        a, b = max(low - i, 0.0), min(high - i, 1.0)
        if b - a < 1e-9:
            continue
        part = part_of(piece, a, b)
        assert isinstance(part, Bezier)
        through.append(part.p0)
        controls.append(part.p1)
        spans.append(curve.spans[i] * (b - a))
    if not isinstance(part, Bezier):
        raise BadInput("Nothing of this spline would be left.")
    through.append(part.p3)
    controls.append(part.p2)
    led, trailed = curve.led or low > 0, curve.trailed or high < len(pieces)
    return Spline.model_validate(
        {"id": id, "construction": curve.construction, "through": through, "controls": controls, "spans": spans,
         "led": led, "trailed": trailed}
    )  # fmt: skip


def lies_on(curve: Curve, p: XY, eps: float) -> bool:
    """Whether a point is on a curve."""
    return any(not math.isnan(locate(row, p[0], p[1], eps)) for row in rows_of(curve.pieces()))
