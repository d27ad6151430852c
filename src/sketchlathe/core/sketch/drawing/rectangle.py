"""A level rectangle from two opposite corners."""

from __future__ import annotations

from typing import ClassVar, Literal

from ...errors import BadInput
from ..tools import TOOLS, Drawing, Place, SizeSlot, Tool, TypedSize


@TOOLS.add
class RectangleTool(Tool):
    """Two corners; width and height may be typed."""

    kind: ClassVar[str] = "rectangle"
    word: ClassVar[str] = "Rectangle"
    chord: ClassVar[str] = "dr"
    order: ClassVar[int] = 2
    icon: ClassVar[str] = "M4 6h15v11H4z"
    steps: ClassVar[tuple[str, ...]] = ("corner", "opposite corner")
    band: ClassVar[Literal["point", "segment", "box", "circle"]] = "box"
    sizes: ClassVar[tuple[SizeSlot, ...]] = (SizeSlot("width"), SizeSlot("height"))
    hint: ClassVar[str] = "Click one corner, then the opposite one; or type the width, Tab, the height, Enter."

    def draw(self, places: list[Place], sizes: list[TypedSize | None]) -> Drawing:
        a, b = places
        (x0, y0), (x1, y1) = a.at, b.at
        width, height = sizes
        if width:
            x1 = x0 + (width.value if x1 >= x0 else -width.value)
        if height:
            y1 = y0 + (height.value if y1 >= y0 else -height.value)
        if abs(x1 - x0) < 1e-9 or abs(y1 - y0) < 1e-9:
            raise BadInput("A rectangle needs a width and a height; put the second corner farther away or type sizes.")
        drawing = Drawing()
        corners = [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]
        lines = [drawing.curve("line", start=corners[i], end=corners[(i + 1) % 4]) for i in range(4)]
        for i, line in enumerate(lines):
            drawing.constraints.append(("coincident", (f"{line}.end", f"{lines[(i + 1) % 4]}.start")))
            drawing.constraints.append(("vertical" if i % 2 else "horizontal", (line,)))
        drawing.placed = [(f"{lines[0]}.start", a)]
        if not (width or height):
            drawing.placed.append((f"{lines[2]}.start", b))
        if width:
            drawing.dimensions.append(("distance", (lines[0],), width.text, {}))
        if height:
            drawing.dimensions.append(("distance", (lines[1],), height.text, {}))
        return drawing
