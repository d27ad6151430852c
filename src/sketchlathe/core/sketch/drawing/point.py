"""A point by itself."""

from __future__ import annotations

import math
from typing import ClassVar

from ...errors import BadInput
from ..document import Sketch
from ..tools import TOOLS, Drawing, Options, Place, Tool, TypedSize


@TOOLS.add
class PointTool(Tool):
    """One place."""

    kind: ClassVar[str] = "point"
    word: ClassVar[str] = "Point"
    family: ClassVar[str] = "point"
    chord: ClassVar[str] = "dp"
    variant: ClassVar[str] = "place"
    order: ClassVar[int] = 90
    icon: ClassVar[str] = (
        "M4 11.500h5M14 11.500h5M11.500 4v5M11.500 14v5M10.1 11.5a1.4 1.4 0 1 0 2.8 0a1.4 1.4 0 1 0-2.800 0"
    )
    steps: ClassVar[tuple[str, ...]] = ("place",)
    band: ClassVar[str] = "point"
    hint: ClassVar[str] = "Click where the point belongs."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        drawing = Drawing()
        point = drawing.curve("point", at=places[0].at)
        drawing.placed = [(f"{point}.at", places[0])]
        return drawing


@TOOLS.add
class CentreMark(Tool):
    """The centre lines of a circle or arc: construction lines that follow it."""

    kind: ClassVar[str] = "centre_mark"
    family: ClassVar[str] = "point"
    word: ClassVar[str] = "Centre mark"
    variant: ClassVar[str] = "centre mark"
    chord: ClassVar[str] = "dm"
    order: ClassVar[int] = 91
    icon: ClassVar[str] = "M11.500 4v4M11.500 10v3M11.500 15v4M4 11.500h4M10 11.500h3M15 11.500h4"
    steps: ClassVar[tuple[str, ...]] = ("circle or arc",)
    hint: ClassVar[str] = "Click a circle or arc."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        ref = places[0].on.partition(".")[0]
        if ref not in sketch or "centred" not in sketch.tags_of(ref):
            raise BadInput("Click on a circle, arc or ellipse to mark its centre.")
        x, y = sketch.point(f"{ref}.centre")
        reach = 1.2 * max(math.dist((x, y), p) for p in _rim(sketch, ref))
        drawing = Drawing()
        for dx, dy, way in ((reach, 0.0, "horizontal"), (0.0, reach, "vertical")):
            line = drawing.curve("line", start=(x - dx, y - dy), end=(x + dx, y + dy), construction=True)
            drawing.constraints += [(way, (line,)), ("midpoint", (f"{ref}.centre", line))]
        drawing.constraints.append(("equal", ("n0", "n1")))
        return drawing


def _rim(sketch: Sketch, ref: str) -> list[tuple[float, float]]:
    piece = sketch.curve(ref).pieces()[0]
    return [piece.at(t) for t in (piece.a0, piece.a1, (piece.a0 + piece.a1) / 2)]  # type: ignore[union-attr]
