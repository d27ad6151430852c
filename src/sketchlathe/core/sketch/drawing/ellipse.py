"""Ellipses, whole or in part."""

from __future__ import annotations

import math
from typing import ClassVar

from ...errors import BadInput
from ..curves.pieces import EllipsePiece
from ..document import Sketch
from ..tools import TOOLS, Drawing, Options, Place, SizeSlot, Tool, TypedSize, direction, of_curve


class _EllipseTool(Tool):
    """What both share."""

    family: ClassVar[str] = "ellipse"
    word: ClassVar[str] = "Ellipse"
    sizes: ClassVar[tuple[SizeSlot, ...]] = (
        SizeSlot("half axis", shown=of_curve("ellipse", "tip"), settled=2),
        SizeSlot("other half axis", shown=of_curve("ellipse", "minor")),
    )

    def shape(
        self, places: list[Place], sizes: list[TypedSize | None]
    ) -> tuple[tuple[float, float], tuple[float, float], float]:
        """Centre, tip and the other half axis."""
        c, t, s = (p.at for p in places[:3])
        ux, uy = direction(c, t)
        major = sizes[0].value if sizes[0] else math.dist(c, t)
        minor = sizes[1].value if sizes[1] else abs((s[0] - c[0]) * -uy + (s[1] - c[1]) * ux)
        if minor < 1e-9:
            raise BadInput("An ellipse needs a width; click beside its axis or type the other half axis.")
        return c, (c[0] + ux * major, c[1] + uy * major), minor

    def dimensioned(self, drawing: Drawing, curve: str, places: list[Place], sizes: list[TypedSize | None]) -> None:
        drawing.placed = [(f"{curve}.centre", places[0])]
        if sizes[0]:
            drawing.dimensions.append(("distance", (f"{curve}.centre", f"{curve}.tip"), sizes[0].text, {}))
            if places[1].snap in ("horizontal", "vertical"):
                drawing.constraints.append((places[1].snap, (f"{curve}.centre", f"{curve}.tip")))
        else:
            drawing.placed.append((f"{curve}.tip", places[1]))
        if sizes[1]:
            drawing.dimensions.append(("half_axis", (curve,), sizes[1].text, {}))


@TOOLS.add
class EllipseTool(_EllipseTool):
    """Centre, the tip of one axis, then the other axis."""

    kind: ClassVar[str] = "ellipse"
    variant: ClassVar[str] = "whole"
    chord: ClassVar[str] = "di"
    order: ClassVar[int] = 60
    icon: ClassVar[str] = "M2.500 11.500a9 5.500 0 1 0 18 0a9 5.500 0 1 0-18 0"
    steps: ClassVar[tuple[str, ...]] = ("centre", "tip of one axis", "side")
    hint: ClassVar[str] = "Click the centre, the tip of one axis, then the side; or type both half axes."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        centre, tip, minor = self.shape(places, sizes)
        drawing = Drawing()
        curve = drawing.curve("ellipse", centre=centre, tip=tip, minor=minor)
        self.dimensioned(drawing, curve, places, sizes)
        return drawing


@TOOLS.add
class EllipseArcTool(_EllipseTool):
    """An ellipse, then where the arc starts and ends (counterclockwise)."""

    kind: ClassVar[str] = "ellipse_arc"
    variant: ClassVar[str] = "arc"
    chord: ClassVar[str] = "dj"
    order: ClassVar[int] = 61
    icon: ClassVar[str] = (
        "M3 15a9 7.500 0 0 1 17 0M1.800 15a1.200 1.200 0 1 0 2.400 0a1.200 1.200 0 1 0-2.400 0M18.800 15a1.200 1.200 "
        "0 1 0 2.400 0a1.200 1.200 0 1 0-2.400 0"
    )
    steps: ClassVar[tuple[str, ...]] = ("centre", "tip of one axis", "side", "start", "end")
    hint: ClassVar[str] = "Click the centre, a tip, the side, then start and end of the arc (counterclockwise)."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        centre, tip, minor = self.shape(places, sizes)
        major = (tip[0] - centre[0], tip[1] - centre[1])
        whole = EllipsePiece(centre, major, minor, 0.0, 2 * math.pi)
        long = math.hypot(*major)
        ends = []
        for place in places[3:]:
            dx, dy = place.at[0] - centre[0], place.at[1] - centre[1]
            u, v = (dx * major[0] + dy * major[1]) / long, (dy * major[0] - dx * major[1]) / long
            ends.append(whole.at(math.atan2(v / minor, u / long)))
        if math.dist(*ends) < 1e-9:
            raise BadInput("Start and end of this arc are one place; draw a whole ellipse instead.")
        drawing = Drawing()
        curve = drawing.curve("ellipse_arc", centre=centre, tip=tip, minor=minor, start=ends[0], end=ends[1])
        self.dimensioned(drawing, curve, places, sizes)
        for name, place, end in zip(("start", "end"), places[3:], ends):
            if math.dist(place.at, end) < 1e-6:
                drawing.placed.append((f"{curve}.{name}", place))
        return drawing
