"""A regular polygon about a centre, with a construction circle across its corners or its flats."""

from __future__ import annotations

import math
from typing import ClassVar

from ...errors import BadInput
from ..document import Sketch
from ..tools import TOOLS, Drawing, Option, Options, Place, SizeSlot, Tool, TypedSize, of_curve


@TOOLS.add
class PolygonTool(Tool):
    """Centre and a corner or the middle of a side; the number of sides can be changed later."""

    kind: ClassVar[str] = "polygon"
    family: ClassVar[str] = "polygon"
    word: ClassVar[str] = "Polygon"
    chord: ClassVar[str] = "dn"
    order: ClassVar[int] = 40
    icon: ClassVar[str] = "M11.500 3l7.400 4.300v8.500l-7.400 4.300l-7.400-4.300V7.300z"
    steps: ClassVar[tuple[str, ...]] = ("centre", "corner or side")
    sizes: ClassVar[tuple[SizeSlot, ...]] = (SizeSlot("across", shown=of_curve("circle", "radius", 2.0)),)
    options: ClassVar[tuple[Option, ...]] = (
        Option("sides", "sides", 6, low=3, high=100),
        Option("measured", "measured", "flats", (("flats", "across flats"), ("corners", "across corners"))),
    )
    hint: ClassVar[str] = "Choose the sides above, click the centre, then a corner or side; or type the size across."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        (cx, cy), (px, py) = (p.at for p in places)
        n, flats = options["sides"], options["measured"] == "flats"
        inner = sizes[0].value / 2 if sizes[0] else math.dist((cx, cy), (px, py))
        if inner < 1e-9:
            raise BadInput("A polygon needs a size; click farther from the centre or type the size across.")
        first = math.atan2(py - cy, px - cx) + (math.pi / n if flats else 0.0)
        outer = inner / math.cos(math.pi / n) if flats else inner
        corners = [
            (cx + outer * math.cos(first + 2 * math.pi * i / n), cy + outer * math.sin(first + 2 * math.pi * i / n))
            for i in range(n)
        ]
        drawing = Drawing()
        lines = [drawing.curve("line", start=corners[i], end=corners[(i + 1) % n]) for i in range(n)]
        circle = drawing.curve("circle", centre=(cx, cy), radius=inner, construction=True)
        drawing.direct.append({"kind": "regular", "on": [f"{circle}.centre"], "sides": lines})
        drawing.constraints.append(
            ("tangent", (lines[-1], circle)) if flats else ("coincident", (f"{lines[0]}.start", circle))
        )
        drawing.placed = [(f"{circle}.centre", places[0])]
        if sizes[0]:
            drawing.dimensions.append(("diameter", (circle,), sizes[0].text, {}))
        elif not flats:
            drawing.placed.append((f"{lines[0]}.start", places[1]))
        return drawing
