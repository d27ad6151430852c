"""Rectangles: two corners, centre and corner, three points for a turned one."""

from __future__ import annotations

from typing import ClassVar

from ...errors import BadInput
from ..document import Sketch
from ..tools import TOOLS, Drawing, Options, Place, SizeSlot, Tool, TypedSize, direction, of_curve

XY = tuple[float, float]


class _RectangleTool(Tool):
    """What all rectangles share."""

    family: ClassVar[str] = "rectangle"
    word: ClassVar[str] = "Rectangle"
    sizes: ClassVar[tuple[SizeSlot, ...]] = (
        SizeSlot("width", shown=of_curve("line", "length"), signed=True, settled=2),
        SizeSlot("height", shown=of_curve("line", "length", number=1), signed=True),
    )


def _sides(drawing: Drawing, corners: list[XY]) -> list[str]:
    lines = [drawing.curve("line", start=corners[i], end=corners[(i + 1) % 4]) for i in range(4)]
    for i, line in enumerate(lines):
        drawing.constraints.append(("coincident", (f"{line}.end", f"{lines[(i + 1) % 4]}.start")))
    return lines


def _level(drawing: Drawing, lines: list[str], sizes: list[TypedSize | None], square: bool) -> None:
    for i, line in enumerate(lines):
        drawing.constraints.append(("vertical" if i % 2 else "horizontal", (line,)))
    if square:
        drawing.constraints.append(("equal", (lines[0], lines[1])))
    _sized(drawing, lines, sizes)


def _sized(drawing: Drawing, lines: list[str], sizes: list[TypedSize | None]) -> None:
    for line, size in zip(lines, sizes):
        if size:
            drawing.dimensions.append(("distance", (line,), size.text, {}))


def _check(width: float, height: float) -> None:
    if abs(width) < 1e-9 or abs(height) < 1e-9:
        raise BadInput("A rectangle needs a width and a height; put the corner farther away or type sizes.")


@TOOLS.add
class RectangleTool(_RectangleTool):
    """Two opposite corners."""

    kind: ClassVar[str] = "rectangle"
    variant: ClassVar[str] = "two corners"
    chord: ClassVar[str] = "dr"
    order: ClassVar[int] = 10
    icon: ClassVar[str] = "M4 6h15v11H4z"
    steps: ClassVar[tuple[str, ...]] = ("corner", "opposite corner")
    band: ClassVar[str] = "box"
    hint: ClassVar[str] = "Click one corner, then the opposite one; or type the width, Tab, the height, Enter."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        a, b = places
        (x0, y0), (x1, y1) = a.at, b.at
        width, height = sizes
        if width:
            x1 = x0 + (width.value if x1 >= x0 or width.value < 0 else -width.value)
        if height:
            y1 = y0 + (height.value if y1 >= y0 or height.value < 0 else -height.value)
        _check(x1 - x0, y1 - y0)
        drawing = Drawing()
        lines = _sides(drawing, [(x0, y0), (x1, y0), (x1, y1), (x0, y1)])
        _level(drawing, lines, sizes, b.snap == "square" and not (width and height))
        drawing.placed = [(f"{lines[0]}.start", a)]
        if not (width or height) and b.snap != "square":
            drawing.placed.append((f"{lines[2]}.start", b))
        return drawing


@TOOLS.add
class RectangleCentred(_RectangleTool):
    """Centre and a corner; the diagonals are construction lines that keep it centred."""

    kind: ClassVar[str] = "rectangle_centred"
    variant: ClassVar[str] = "centre and corner"
    chord: ClassVar[str] = "de"
    order: ClassVar[int] = 11
    icon: ClassVar[str] = "M4 6h15v11H4zM10.300 11.500a1.200 1.200 0 1 0 2.400 0a1.200 1.200 0 1 0-2.400 0"
    steps: ClassVar[tuple[str, ...]] = ("centre", "corner")
    hint: ClassVar[str] = "Click the centre, then a corner; or type the width, Tab, the height, Enter."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        (cx, cy), (px, py) = (p.at for p in places)
        half = [abs(px - cx), abs(py - cy)]
        for i, size in enumerate(sizes):
            if size:
                half[i] = abs(size.value) / 2
        _check(*half)
        drawing = Drawing()
        w, h = half
        lines = _sides(drawing, [(cx - w, cy - h), (cx + w, cy - h), (cx + w, cy + h), (cx - w, cy + h)])
        _level(drawing, lines, sizes, places[1].snap == "square" and not all(sizes))
        diagonal = drawing.curve("line", start=(cx - w, cy - h), end=(cx + w, cy + h), construction=True)
        centre = drawing.curve("point", at=(cx, cy), construction=True)
        drawing.constraints += [
            ("coincident", (f"{diagonal}.start", f"{lines[0]}.start")),
            ("coincident", (f"{diagonal}.end", f"{lines[2]}.start")),
            ("midpoint", (centre, diagonal)),
        ]
        drawing.placed = [(f"{centre}.at", places[0])]
        return drawing


@TOOLS.add
class RectangleTurned(_RectangleTool):
    """One side, then how far out: at any angle."""

    kind: ClassVar[str] = "rectangle_turned"
    variant: ClassVar[str] = "three points"
    chord: ClassVar[str] = "dq"
    order: ClassVar[int] = 12
    icon: ClassVar[str] = "M3 13L13 4l7 7L10 20z"
    steps: ClassVar[tuple[str, ...]] = ("corner", "next corner", "opposite side")
    hint: ClassVar[str] = "Click two corners of one side, then how far the opposite side is."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        a, b, c = (p.at for p in places)
        ux, uy = direction(a, b)
        width = sizes[0].value if sizes[0] else ((b[0] - a[0]) * ux + (b[1] - a[1]) * uy)
        out = (c[0] - a[0]) * -uy + (c[1] - a[1]) * ux
        height = sizes[1].value * (1 if out >= 0 or sizes[1].value < 0 else -1) if sizes[1] else out
        _check(width, height)
        b = (a[0] + ux * width, a[1] + uy * width)
        corners = [a, b, (b[0] - uy * height, b[1] + ux * height), (a[0] - uy * height, a[1] + ux * height)]
        drawing = Drawing()
        lines = _sides(drawing, corners)
        drawing.constraints += [
            ("perpendicular", (lines[0], lines[1])),
            ("parallel", (lines[0], lines[2])),
            ("parallel", (lines[1], lines[3])),
        ]
        drawing.placed = [(f"{lines[0]}.start", places[0])]
        if not sizes[0]:
            drawing.placed.append((f"{lines[0]}.end", places[1]))
        _sized(drawing, lines, sizes)
        return drawing
