"""Arcs: through three points, about a centre, tangent from an end."""

from __future__ import annotations

import math
from typing import ClassVar

from ...errors import BadInput
from ...quantity import ANGLE
from ..curves import ArcPiece, Bezier, Segment
from ..document import Sketch
from ..tools import TOOLS, Drawing, Options, Place, SizeSlot, Tool, TypedSize, circle_through, direction, of_curve


class _ArcTool(Tool):
    """What all arcs share."""

    family: ClassVar[str] = "arc"
    word: ClassVar[str] = "Arc"


@TOOLS.add
class ArcThrough(_ArcTool):
    """Start, end, and a point between; the radius may be typed."""

    kind: ClassVar[str] = "arc"
    variant: ClassVar[str] = "three points"
    chord: ClassVar[str] = "da"
    order: ClassVar[int] = 30
    icon: ClassVar[str] = (
        "M4 18A9 9 0 0 1 19 18M2.600 18a1.400 1.400 0 1 0 2.800 0a1.400 1.400 0 1 0-2.800 0M17.600 18a1.400 1.400 0 1 "
        "0 2.800 0a1.400 1.400 0 1 0-2.800 0"
    )
    steps: ClassVar[tuple[str, ...]] = ("start", "end", "a point between")
    sizes: ClassVar[tuple[SizeSlot, ...]] = (SizeSlot("radius", shown=of_curve("arc", "radius")),)
    hint: ClassVar[str] = "Click the start, the end, then a point the arc goes through; or type the radius."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        a, b, m = (p.at for p in places)
        direction(a, b)
        left = (b[0] - a[0]) * (m[1] - a[1]) - (b[1] - a[1]) * (m[0] - a[0]) > 0
        if sizes[0]:
            r, chord = sizes[0].value, math.dist(a, b)
            if 2 * r < chord:
                raise BadInput("The radius must be at least half the distance between the ends.")
            ux, uy = direction(a, b)
            inside = math.sqrt(max(r * r - chord * chord / 4, 0.0))
            side = -1.0 if left else 1.0
            centre = ((a[0] + b[0]) / 2 - uy * inside * side, (a[1] + b[1]) / 2 + ux * inside * side)
        else:
            centre, r = circle_through(a, b, m)
        drawing = Drawing()
        start, end = (b, a) if left else (a, b)
        arc = drawing.curve("arc", centre=centre, start=start, end=end, radius=r)
        names = ("end", "start") if left else ("start", "end")
        drawing.placed = [(f"{arc}.{name}", place) for name, place in zip(names, places)]
        if sizes[0]:
            drawing.dimensions.append(("radius", (arc,), sizes[0].text, {}))
        elif "." in places[2].on:
            drawing.constraints.append(("coincident", (places[2].on, arc)))
        return drawing


@TOOLS.add
class ArcCentre(_ArcTool):
    """Centre, start, and how far round."""

    kind: ClassVar[str] = "arc_centre"
    variant: ClassVar[str] = "centre, start, end"
    chord: ClassVar[str] = "dv"
    order: ClassVar[int] = 31
    icon: ClassVar[str] = (
        "M5 19L18 19M5 19L10 7M18 19A13 13 0 0 0 10 7M3.800 19a1.200 1.200 0 1 0 2.400 0a1.200 1.200 0 1 0-2.400 0"
    )
    steps: ClassVar[tuple[str, ...]] = ("centre", "start", "end")
    sizes: ClassVar[tuple[SizeSlot, ...]] = (
        SizeSlot("radius", shown=of_curve("arc", "radius"), settled=2),
        SizeSlot("from", ANGLE, shown=lambda drawing: _runs(drawing)[0], signed=True, settled=2),
        SizeSlot("sweep", ANGLE, shown=lambda drawing: _runs(drawing)[1], signed=True),
    )
    hint: ClassVar[str] = (
        "Click the centre, the start, then the end (counterclockwise); or type the radius, the angle it starts at, "
        "its sweep."
    )

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        centre, start, end = (p.at for p in places)
        radius, begins, angle = sizes
        r = radius.value if radius else math.dist(centre, start)
        if r < 1e-9:
            raise BadInput("An arc needs a radius; click farther from the centre or type one.")
        if begins:
            first = begins.value
        else:
            ux, uy = direction(centre, start)
            first = math.atan2(uy, ux)
        if angle:
            if not 0 < abs(angle.value) < 2 * math.pi:
                raise BadInput("The sweep of an arc must be more than 0° and less than 360°; a whole turn is a circle.")
            last = first + angle.value
            if angle.value < 0:
                first, last = last, first
        else:
            vx, vy = direction(centre, end)
            last = math.atan2(vy, vx)
        drawing = Drawing()
        places_on = [(centre[0] + r * math.cos(t), centre[1] + r * math.sin(t)) for t in (first, last)]
        if math.dist(*places_on) < 1e-9:
            raise BadInput("Start and end of this arc are one place; draw a circle instead.")
        arc = drawing.curve("arc", centre=centre, start=places_on[0], end=places_on[1], radius=r)
        drawing.placed = [(f"{arc}.centre", places[0])]
        if radius:
            drawing.dimensions.append(("radius", (arc,), radius.text, {}))
        elif not begins and not (angle and angle.value < 0):
            drawing.placed.append((f"{arc}.start", places[1]))
        if not angle and math.dist(places_on[1], end) < 1e-6:
            drawing.placed.append((f"{arc}.end", places[2]))
        return drawing


def _runs(drawing: Drawing) -> tuple[float, float]:
    """At which angle the drawn arc starts, and how far it sweeps (rad)."""
    (raw,) = (c for c in drawing.curves if c["kind"] == "arc")
    first, last = (math.atan2(p[1] - raw["centre"][1], p[0] - raw["centre"][0]) for p in (raw["start"], raw["end"]))
    return first, (last - first) % (2 * math.pi)


@TOOLS.add
class ArcTangent(_ArcTool):
    """From the end of a curve, running on smoothly; chains on."""

    kind: ClassVar[str] = "arc_tangent"
    variant: ClassVar[str] = "tangent from an end"
    chord: ClassVar[str] = "dt"
    order: ClassVar[int] = 32
    icon: ClassVar[str] = "M3 18h7A9 9 0 0 0 19 9M8.800 18a1.200 1.200 0 1 0 2.400 0a1.200 1.200 0 1 0-2.400 0"
    steps: ClassVar[tuple[str, ...]] = ("the end of a curve", "end of the arc")
    sizes: ClassVar[tuple[SizeSlot, ...]] = (SizeSlot("radius", shown=of_curve("arc", "radius")),)
    chains: ClassVar[bool] = True
    hint: ClassVar[str] = "Click the end of a line or arc, then where the arc is to end."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        ref = places[0].on
        id, _, name = ref.partition(".")
        if ref not in sketch or not name or name not in (sketch.curve(id).end_points or ()):
            raise BadInput("Start a tangent arc at the end of a line, arc or spline.")
        a, b = sketch.point(ref), places[1].at
        tx, ty = leaving(sketch, id, name)
        ux, uy = direction(a, b)
        cross = tx * uy - ty * ux
        if abs(cross) < 1e-6:
            raise BadInput("That is straight on; draw a line instead, or move to one side.")
        # the centre lies on the normal at the start and is as far from both ends
        r = math.dist(a, b) / (2 * abs(cross))
        side = 1.0 if cross > 0 else -1.0
        centre = (a[0] - ty * r * side, a[1] + tx * r * side)
        if sizes[0]:
            f = sizes[0].value / r
            r = sizes[0].value
            centre = (a[0] - ty * r * side, a[1] + tx * r * side)
            b = (a[0] + (b[0] - a[0]) * f, a[1] + (b[1] - a[1]) * f)
        drawing = Drawing()
        start, end = (a, b) if side > 0 else (b, a)
        arc = drawing.curve("arc", centre=centre, start=start, end=end, radius=r)
        first, last = ("start", "end") if side > 0 else ("end", "start")
        drawing.constraints = [("coincident", (f"{arc}.{first}", ref)), ("tangent", (id, arc))]
        if sizes[0]:
            drawing.dimensions.append(("radius", (arc,), sizes[0].text, {}))
        else:
            drawing.placed = [(f"{arc}.{last}", places[1])]
        drawing.ends_at = f"{arc}.{last}"
        return drawing


def leaving(sketch: Sketch, id: str, name: str) -> tuple[float, float]:
    """Unit direction in which a curve runs out at one of its ends."""
    curve = sketch.curve(id)
    ends = curve.end_points or ("", "")
    pieces = curve.pieces()
    piece = pieces[-1] if name == ends[1] else pieces[0].reversed()
    if isinstance(piece, Segment):
        return direction(piece.a, piece.b)
    if isinstance(piece, Bezier):
        return direction(piece.p2 if piece.p2 != piece.p3 else piece.p1, piece.p3)
    way = 1.0 if piece.a1 > piece.a0 else -1.0
    c, s = math.cos(piece.a1), math.sin(piece.a1)
    if isinstance(piece, ArcPiece):
        return -s * way, c * way
    ux, uy = piece.major
    f = piece.minor / math.hypot(ux, uy)
    return direction((0.0, 0.0), ((-ux * s - uy * f * c) * way, (-uy * s + ux * f * c) * way))
