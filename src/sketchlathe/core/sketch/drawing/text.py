"""A line of text: straight, round a circle, on a curve."""

from __future__ import annotations

import math
from typing import Any, ClassVar

from ...errors import BadInput
from ..curves import lettering
from ..document import Sketch
from ..tools import TOOLS, Drawing, Option, Options, Place, SizeSlot, Tool, TypedSize, direction, of_curve


class _TextTool(Tool):
    """What both share."""

    family: ClassVar[str] = "text"
    word: ClassVar[str] = "Text"
    sizes: ClassVar[tuple[SizeSlot, ...]] = (SizeSlot("height", shown=of_curve("text", "height")),)
    options: ClassVar[tuple[Option, ...]] = (
        Option("words", "text", "WEATHER"),
        Option("font", "font", "plain", tuple(lettering.FONTS.items())),
        Option("spacing", "spacing", 1.0, low=0.5, high=5),
        Option("mirrored", "mirrored, for stamps", False),
    )

    def made(
        self,
        options: Options,
        at: tuple[float, float],
        to: tuple[float, float],
        height: float,
        bend: str,
        kind: str = "text",
        **more: Any,
    ) -> Drawing:
        if not options["words"].strip():
            raise BadInput("Type the text above first.")
        if len(options["words"]) > lettering.MOST_LETTERS:
            raise BadInput(f"A text may have at most {lettering.MOST_LETTERS} letters.")
        lettering.width_of(options["words"], options["font"], 1.0)  # says which letter the font lacks
        drawing = Drawing()
        drawing.curve(kind, at=at, to=to, height=height, bend=bend, **options, **more)
        return drawing


@TOOLS.add
class TextTool(_TextTool):
    """Where the baseline starts, and in which direction and how far it runs."""

    kind: ClassVar[str] = "text"
    variant: ClassVar[str] = "straight"
    chord: ClassVar[str] = "dx"
    order: ClassVar[int] = 80
    icon: ClassVar[str] = "M4 6V4h15v2M11.500 4v15M8.500 19h6"
    steps: ClassVar[tuple[str, ...]] = ("start", "end")
    hint: ClassVar[str] = "Type the text above, click where it starts and ends; or type the letter height."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        at, to = (p.at for p in places)
        ux, uy = direction(at, to)
        width = lettering.width_of(options["words"] or " ", options["font"], options["spacing"])
        height = sizes[0].value if sizes[0] else math.dist(at, to) / width
        drawing = self.made(options, at, (at[0] + ux * height * width, at[1] + uy * height * width), height, "")
        drawing.placed = [("n0.at", places[0])]
        if sizes[0]:
            drawing.dimensions.append(("letter_height", ("n0",), sizes[0].text, {}))
            if places[1].snap in ("horizontal", "vertical"):
                drawing.constraints.append((places[1].snap, ("n0.at", "n0.to")))
        elif places[1].snap in ("horizontal", "vertical"):
            drawing.constraints.append((places[1].snap, ("n0.at", "n0.to")))
        else:
            drawing.placed.append(("n0.to", places[1]))
        return drawing


@TOOLS.add
class RoundTextTool(_TextTool):
    """Round a centre: its middle on the circle, tops outward or inward."""

    kind: ClassVar[str] = "text_round"
    variant: ClassVar[str] = "round a centre"
    chord: ClassVar[str] = "dy"
    order: ClassVar[int] = 81
    icon: ClassVar[str] = "M3 17A10 10 0 0 1 20 17M9 6V5h5v1M11.500 5v6M10 11h3"
    steps: ClassVar[tuple[str, ...]] = ("centre", "middle of the text")
    options: ClassVar[tuple[Option, ...]] = (
        *_TextTool.options,
        Option("bend", "tops", "outside", (("outside", "outward"), ("inside", "inward"))),
    )
    hint: ClassVar[str] = "Type the text above, click the centre, then where the middle of the text stands."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        centre, at = (p.at for p in places)
        direction(centre, at)
        radius = math.dist(centre, at)
        width = lettering.width_of(options["words"] or " ", options["font"], options["spacing"])
        height = sizes[0].value if sizes[0] else min(radius / 4, 2.5 * radius / width)
        options = dict(options)
        bend = options.pop("bend")
        drawing = self.made(options, at, centre, height, bend)
        drawing.placed = [("n0.to", places[0]), ("n0.at", places[1])]
        if sizes[0]:
            drawing.dimensions.append(("letter_height", ("n0",), sizes[0].text, {}))
        return drawing


@TOOLS.add
class TextAlongTool(_TextTool):
    """On a curve that is there already, from where it is clicked."""

    kind: ClassVar[str] = "text_along"
    variant: ClassVar[str] = "on a curve"
    chord: ClassVar[str] = "du"
    order: ClassVar[int] = 82
    icon: ClassVar[str] = "M3 18C8 10 14 20 20 11M8 9V5h6v4M11 5v6"
    sizes: ClassVar[tuple[SizeSlot, ...]] = (SizeSlot("height", shown=of_curve("text_along", "height")),)
    steps: ClassVar[tuple[str, ...]] = ("where it begins on a curve",)
    options: ClassVar[tuple[Option, ...]] = (
        *_TextTool.options,
        Option("backward", "on the other side", False),
        Option("lift", "above it, mm", 1.0, low=0, high=1000),
    )
    hint: ClassVar[str] = "Type the text above, click on the curve where it begins."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        from ..curves.text_along import sampled

        place = places[0]
        id = place.on.partition(".")[0]
        if id not in sketch or "text" in sketch.tags_of(id) or not sketch.curve(id).pieces():
            raise BadInput("Click on a curve that is drawn already: the text is to stand on it.")
        curve = sketch.curve(id)
        width = lettering.width_of(options["words"] or " ", options["font"], options["spacing"])
        height = sizes[0].value if sizes[0] else min(6.0, 0.8 * curve.length() / width)
        drawing = self.made(options, place.at, place.at, height, "", "text_along", along=id, path=sampled(curve))
        drawing.placed = [("n0.at", place)]
        if sizes[0]:
            drawing.dimensions.append(("letter_height", ("n0",), sizes[0].text, {}))
        return drawing
