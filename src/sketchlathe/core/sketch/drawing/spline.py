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
    variant: ClassVar[str] = "through points"
    chord: ClassVar[str] = "db"
    order: ClassVar[int] = 70
    icon: ClassVar[str] = "M3 18C6 4 12 6 12 12S17 20 20 5"
    steps: ClassVar[tuple[str, ...]] = ("first point", "next point")
    more: ClassVar[bool] = True
    hint: ClassVar[str] = "Click point after point; Enter or a second click on the last one ends it."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        kept = _apart(places)
        if len(kept) < 2:
            raise BadInput("A spline needs at least two points at different places.")
        drawing = Drawing()
        directions = [_running_on(sketch, kept[0], start=True), _running_on(sketch, kept[-1], start=False)]
        from ..curves.spline import shaped

        through = [p.at for p in kept]
        spline = drawing.curve("spline", through=through, **shaped(through, *directions))
        drawing.placed = [(f"{spline}.p{i}", place) for i, place in enumerate(kept)]
        for place, wanted in zip((kept[0], kept[-1]), directions):
            if wanted is not None and place.on:
                drawing.constraints.append(("tangent", (place.on.partition(".")[0], spline)))
        return drawing


@TOOLS.add
class ControlSplineTool(Tool):
    """Control after control; the curve begins at the first, ends at the last and leans towards the others."""

    kind: ClassVar[str] = "control_spline"
    family: ClassVar[str] = "spline"
    word: ClassVar[str] = "Spline by controls"
    variant: ClassVar[str] = "by controls"
    chord: ClassVar[str] = "dk"
    order: ClassVar[int] = 71
    icon: ClassVar[str] = "M3 19L6 5l12 2 2 13M3 19C7 2 17 3 20 20"
    steps: ClassVar[tuple[str, ...]] = ("first point", "next control")
    more: ClassVar[bool] = True
    hint: ClassVar[str] = "Click its controls one by one, three or more; Enter or a second click on the last ends it."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        kept = _apart(places)
        if len(kept) < 2:
            raise BadInput("A spline by controls needs at least three places.")
        if len(kept) == 2:  # on the way to three; straight until then
            (ax, ay), (bx, by) = kept[0].at, kept[1].at
            poles = [(ax, ay), ((ax + bx) / 2, (ay + by) / 2), (bx, by)]
        else:
            poles = [p.at for p in kept]
        drawing = Drawing()
        spline = drawing.curve("control_spline", poles=poles)
        numbers = (0, 2) if len(kept) == 2 else range(len(kept))
        drawing.placed = [(f"{spline}.p{i}", place) for i, place in zip(numbers, kept)]
        return drawing


def _apart(places: list[Place]) -> list[Place]:
    """Places without those that follow where the one before is."""
    kept = [places[0]]
    for place in places[1:]:
        if math.dist(place.at, kept[-1].at) > 1e-9:
            kept.append(place)
    return kept


def _running_on(sketch: Sketch, place: Place, *, start: bool) -> tuple[float, float] | None:
    """The direction of the curve whose end the spline meets, if it meets one."""
    id, _, name = place.on.partition(".")
    if not name or place.on not in sketch or name not in (sketch.curve(id).end_points or ()):
        return None
    if "text" in sketch.tags_of(id) or "elliptic" in sketch.tags_of(id):
        return None
    x, y = leaving(sketch, id, name)
    return (x, y) if start else (-x, -y)
