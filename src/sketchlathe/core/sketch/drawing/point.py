"""A point by itself."""

from __future__ import annotations

from typing import ClassVar, Literal

from ..tools import TOOLS, Drawing, Place, Tool, TypedSize


@TOOLS.add
class PointTool(Tool):
    """One place."""

    kind: ClassVar[str] = "point"
    word: ClassVar[str] = "Point"
    chord: ClassVar[str] = "dp"
    order: ClassVar[int] = 9
    icon: ClassVar[str] = (
        "M4 11.500h5M14 11.500h5M11.500 4v5M11.500 14v5M10.1 11.5a1.4 1.4 0 1 0 2.8 0a1.4 1.4 0 1 0-2.800 0"
    )
    steps: ClassVar[tuple[str, ...]] = ("place",)
    band: ClassVar[Literal["point", "segment", "box", "circle"]] = "point"
    hint: ClassVar[str] = "Click where the point belongs."

    def draw(self, places: list[Place], sizes: list[TypedSize | None]) -> Drawing:
        drawing = Drawing()
        point = drawing.curve("point", at=places[0].at)
        drawing.placed = [(f"{point}.at", places[0])]
        return drawing
