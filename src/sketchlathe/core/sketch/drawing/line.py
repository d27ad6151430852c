"""Lines, one after the other."""

from __future__ import annotations

import math
from typing import ClassVar

from ...errors import BadInput
from ...quantity import ANGLE
from ..document import Sketch
from ..tools import TOOLS, Drawing, Options, Place, SizeSlot, Tool, TypedSize, direction


@TOOLS.add
class LineTool(Tool):
    """From point to point; the chain closes on its first point."""

    kind: ClassVar[str] = "line"
    word: ClassVar[str] = "Line"
    family: ClassVar[str] = "line"
    chord: ClassVar[str] = "dl"
    order: ClassVar[int] = 1
    icon: ClassVar[str] = (
        "M4 19L19 5M2.6 19a1.4 1.4 0 1 0 2.8 0a1.4 1.4 0 1 0-2.8 0M17.6 5a1.4 1.4 0 1 0 2.8 0a1.4 1.4 0 1 0-2.8 0"
    )
    steps: ClassVar[tuple[str, ...]] = ("start", "end")
    band: ClassVar[str] = "segment"
    sizes: ClassVar[tuple[SizeSlot, ...]] = (
        SizeSlot("length", signed=True),
        SizeSlot("angle", ANGLE, signed=True),
    )
    chains: ClassVar[bool] = True
    swings: ClassVar[str] = "arc_tangent"
    hint: ClassVar[str] = "Click the start, then each next point; click the first point to close, Esc to end."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        a, b = places
        length, angle = sizes
        start, end = a.at, b.at
        if length or angle:
            ux, uy = direction(start, end) if angle is None else (math.cos(angle.value), math.sin(angle.value))
            long = length.value if length else math.dist(start, end)
            if angle is not None and abs(angle.value) >= 2 * math.pi:
                raise BadInput("The angle of a line must be less than a whole turn.")
            end = (start[0] + long * ux, start[1] + long * uy)
        else:
            direction(start, end)
        drawing = Drawing()
        line = drawing.curve("line", start=start, end=end)
        drawing.ends_at = f"{line}.end"
        drawing.placed = [(f"{line}.start", a)]
        if not (length and angle):
            drawing.placed.append((f"{line}.end", b))
        level, plumb = abs(end[1] - start[1]), abs(end[0] - start[0])
        if angle is None and min(level, plumb) <= 1e-9 * max(level, plumb):
            # exactly so: it is meant, even where the end snapped to something else
            drawing.constraints.append(("horizontal" if level < plumb else "vertical", (line,)))
        if length:
            drawing.dimensions.append(("distance", (line,), length.text, {}))
        if angle:
            quarter = angle.value / (math.pi / 2)
            if abs(quarter - round(quarter)) < 1e-9:
                drawing.constraints.append(("vertical" if round(quarter) % 2 else "horizontal", (line,)))
            else:
                # as the field and the preview have it: from the horizontal axis to the line as it runs from its start
                turned = {
                    "flip_a": False,
                    "flip_b": bool(length and length.value < 0),
                    "sign": math.copysign(1.0, angle.value),
                }
                drawing.dimensions.append(("angle", ("x_axis", line), angle.text, turned))
        return drawing
