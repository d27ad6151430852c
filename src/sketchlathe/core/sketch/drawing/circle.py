"""A circle from its centre."""

from __future__ import annotations

import math
from typing import ClassVar, Literal

from ...errors import BadInput
from ..tools import TOOLS, Drawing, Place, SizeSlot, Tool, TypedSize


@TOOLS.add
class CircleTool(Tool):
    """Centre and a point of the rim; the diameter may be typed."""

    kind: ClassVar[str] = "circle"
    word: ClassVar[str] = "Circle"
    chord: ClassVar[str] = "dc"
    order: ClassVar[int] = 3
    icon: ClassVar[str] = (
        "M11.5 3a8.500 8.500 0 1 0 .01 0M10.300 11.500a1.200 1.200 0 1 0 2.400 0a1.200 1.200 0 1 0-2.400 0"
    )
    steps: ClassVar[tuple[str, ...]] = ("centre", "rim")
    band: ClassVar[Literal["point", "segment", "box", "circle"]] = "circle"
    sizes: ClassVar[tuple[SizeSlot, ...]] = (SizeSlot("diameter"),)
    hint: ClassVar[str] = "Click the centre, then the rim; or type the diameter, Enter."

    def draw(self, places: list[Place], sizes: list[TypedSize | None]) -> Drawing:
        centre, rim = places
        diameter = sizes[0]
        radius = diameter.value / 2 if diameter else math.dist(centre.at, rim.at)
        if radius < 1e-9:
            raise BadInput("A circle needs a size; click farther from the centre or type a diameter.")
        drawing = Drawing()
        circle = drawing.curve("circle", centre=centre.at, radius=radius)
        drawing.placed = [(f"{circle}.centre", centre)]
        if diameter:
            drawing.dimensions.append(("diameter", (circle,), diameter.text, {}))
        elif rim.ref and "." in rim.ref:
            drawing.constraints.append(("coincident", (rim.ref, circle)))
        return drawing
