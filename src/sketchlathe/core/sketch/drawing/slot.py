"""Slots: two half rounds joined by straight sides, or by arcs about a centre."""

from __future__ import annotations

import math
from typing import ClassVar

from ...errors import BadInput
from ..document import Sketch
from ..tools import TOOLS, Drawing, Options, Place, SizeSlot, Tool, TypedSize, direction, of_curve


class _SlotTool(Tool):
    """What both share."""

    family: ClassVar[str] = "slot"
    word: ClassVar[str] = "Slot"


@TOOLS.add
class SlotTool(_SlotTool):
    """The centres of its two ends, then its width."""

    kind: ClassVar[str] = "slot"
    variant: ClassVar[str] = "straight"
    chord: ClassVar[str] = "ds"
    order: ClassVar[int] = 50
    icon: ClassVar[str] = "M7 7h10a4.500 4.500 0 0 1 0 9H7a4.500 4.500 0 0 1 0-9z"
    steps: ClassVar[tuple[str, ...]] = ("centre of one end", "centre of the other end", "side")
    sizes: ClassVar[tuple[SizeSlot, ...]] = (
        SizeSlot("between centres", shown=of_curve("line", "length"), settled=2),
        SizeSlot("width", shown=of_curve("arc", "radius", 2.0)),
    )
    hint: ClassVar[str] = "Click the centres of both ends, then the side; or type distance, Tab, width."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        a, b, c = (p.at for p in places)
        ux, uy = direction(a, b)
        if sizes[0]:
            b = (a[0] + ux * sizes[0].value, a[1] + uy * sizes[0].value)
        r = sizes[1].value / 2 if sizes[1] else abs((c[0] - a[0]) * -uy + (c[1] - a[1]) * ux)
        if r < 1e-9:
            raise BadInput("A slot needs a width; click beside the line between its centres or type it.")
        nx, ny = -uy * r, ux * r
        drawing = Drawing()
        axis = drawing.curve("line", start=a, end=b, construction=True)
        right = drawing.curve("line", start=(a[0] - nx, a[1] - ny), end=(b[0] - nx, b[1] - ny))
        cap = drawing.curve("arc", centre=b, start=(b[0] - nx, b[1] - ny), end=(b[0] + nx, b[1] + ny), radius=r)
        left = drawing.curve("line", start=(b[0] + nx, b[1] + ny), end=(a[0] + nx, a[1] + ny))
        tail = drawing.curve("arc", centre=a, start=(a[0] + nx, a[1] + ny), end=(a[0] - nx, a[1] - ny), radius=r)
        ring = [right, cap, left, tail]
        for i, curve in enumerate(ring):
            drawing.constraints.append(("coincident", (f"{curve}.end", f"{ring[(i + 1) % 4]}.start")))
        drawing.constraints += [
            ("coincident", (f"{axis}.start", f"{tail}.centre")),
            ("coincident", (f"{axis}.end", f"{cap}.centre")),
            ("equal", (cap, tail)),
            ("tangent", (right, cap)),
            ("tangent", (left, cap)),
            ("tangent", (left, tail)),
            ("tangent", (right, tail)),
        ]
        drawing.placed = [(f"{axis}.start", places[0])]
        if sizes[0]:
            drawing.dimensions.append(("distance", (axis,), sizes[0].text, {}))
            if places[1].snap in ("horizontal", "vertical"):
                drawing.constraints.append((places[1].snap, (axis,)))
        else:
            drawing.placed.append((f"{axis}.end", places[1]))
        if sizes[1]:
            drawing.dimensions.append(("distance", (right, left), sizes[1].text, {}))
        return drawing


@TOOLS.add
class ArcSlotTool(_SlotTool):
    """About a centre: the centres of its two ends, then its width."""

    kind: ClassVar[str] = "arc_slot"
    variant: ClassVar[str] = "along an arc"
    chord: ClassVar[str] = "do"
    order: ClassVar[int] = 51
    icon: ClassVar[str] = (
        "M3 15A11 11 0 0 1 20 15L15.500 18A6 6 0 0 0 7.500 18A2.600 2.600 0 0 1 3 15zM20 15a2.600 2.600 0 0 1-4.500 3"
    )
    steps: ClassVar[tuple[str, ...]] = ("centre", "centre of one end", "centre of the other end", "side")
    sizes: ClassVar[tuple[SizeSlot, ...]] = (
        SizeSlot("radius", shown=of_curve("arc", "radius"), settled=2),
        SizeSlot("width", shown=of_curve("arc", "radius", 2.0, number=2)),
    )
    hint: ClassVar[str] = "Click the centre, both ends (counterclockwise), then the side; or type radius, Tab, width."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        o, a, b, c = (p.at for p in places)
        radius = sizes[0].value if sizes[0] else math.dist(o, a)
        half = sizes[1].value / 2 if sizes[1] else abs(math.dist(o, c) - radius)
        if not 1e-9 < half < radius:
            raise BadInput("The width of this slot must be above zero and less than twice its radius.")
        first, last = (math.atan2(p[1] - o[1], p[0] - o[0]) for p in (a, b))
        if (last - first) % (2 * math.pi) < 1e-6:
            raise BadInput("The two ends of this slot are at one place.")

        def at(r: float, t: float) -> tuple[float, float]:
            return (o[0] + r * math.cos(t), o[1] + r * math.sin(t))

        drawing = Drawing()
        ends = [at(radius, first), at(radius, last)]
        spine = drawing.curve("arc", centre=o, start=ends[0], end=ends[1], radius=radius, construction=True)
        big, small = radius + half, radius - half
        outer = drawing.curve("arc", centre=o, start=at(big, first), end=at(big, last), radius=big)
        cap = drawing.curve("arc", centre=ends[1], start=at(big, last), end=at(small, last), radius=half)
        inner = drawing.curve("arc", centre=o, start=at(small, first), end=at(small, last), radius=small)
        tail = drawing.curve("arc", centre=ends[0], start=at(small, first), end=at(big, first), radius=half)
        drawing.constraints = [
            ("coincident", (f"{outer}.end", f"{cap}.start")),
            ("coincident", (f"{cap}.end", f"{inner}.end")),
            ("coincident", (f"{inner}.start", f"{tail}.start")),
            ("coincident", (f"{tail}.end", f"{outer}.start")),
            ("concentric", (spine, outer)),
            ("concentric", (spine, inner)),
            ("coincident", (f"{spine}.start", f"{tail}.centre")),
            ("coincident", (f"{spine}.end", f"{cap}.centre")),
            ("tangent", (outer, cap)),
            ("tangent", (inner, cap)),
            ("tangent", (outer, tail)),
            ("tangent", (inner, tail)),
            ("equal", (cap, tail)),
        ]
        drawing.placed = [(f"{spine}.centre", places[0])]
        if sizes[0]:
            drawing.dimensions.append(("radius", (spine,), sizes[0].text, {}))
        else:
            drawing.placed.append((f"{spine}.start", places[1]))
        if sizes[1]:
            drawing.dimensions.append(("diameter", (cap,), sizes[1].text, {}))
        return drawing
