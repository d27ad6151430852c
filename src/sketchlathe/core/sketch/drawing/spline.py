"""A smooth curve through points."""

from __future__ import annotations

import math
from typing import ClassVar

from ...errors import BadInput
from ..document import Sketch
from ..tools import TOOLS, Drawing, Options, Place, Tool, TypedSize
from .arc import leaving


@TOOLS.add
class SplineTool(Tool):
    """Point after point; an end that meets the end of a line or arc runs on from it where ``smoothly`` is chosen."""

    kind: ClassVar[str] = "spline"
    family: ClassVar[str] = "spline"
    word: ClassVar[str] = "Spline"
    chord: ClassVar[str] = "db"
    order: ClassVar[int] = 70
    icon: ClassVar[str] = "M3 18C6 4 12 6 12 12S17 20 20 5"
    steps: ClassVar[tuple[str, ...]] = ("first point", "next point")
    more: ClassVar[bool] = True
    hint: ClassVar[str] = "Click point after point; Enter or a second click on the last one ends it."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        kept = [places[0]]
        for place in places[1:]:
            if math.dist(place.at, kept[-1].at) > 1e-9:
                kept.append(place)
        if len(kept) < 2:
            raise BadInput("A spline needs at least two points at different places.")
        drawing = Drawing()
        directions = [_running_on(sketch, kept[0], start=True), _running_on(sketch, kept[-1], start=False)]
        from ..curves.spline import shaped

        through = [p.at for p in kept]
        spline = drawing.curve("spline", through=through, **shaped(through, *directions))
        drawing.placed = [(f"{spline}.p{i}", place) for i, place in enumerate(kept)]
        for place, wanted in zip((kept[0], kept[-1]), directions):
            if wanted is not None and place.ref:
                drawing.constraints.append(("tangent", (place.ref.partition(".")[0], spline)))
        return drawing


def _running_on(sketch: Sketch, place: Place, *, start: bool) -> tuple[float, float] | None:
    """The direction of the curve whose end the spline meets, if it meets one."""
    id, _, name = (place.ref or "").partition(".")
    if not name or (place.ref or "") not in sketch or name not in (sketch.curve(id).end_points or ()):
        return None
    if "text" in sketch.tags_of(id) or "elliptic" in sketch.tags_of(id):
        return None
    x, y = leaving(sketch, id, name)
    return (x, y) if start else (-x, -y)
