"""Nut pocket: room for a hexagon nut, put in from the end or slid in from the side."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import AxisRef, Blank, Formula
from ..errors import CannotBuild
from ..quantity.units import LENGTH, show
from ..sizes.iso_holes import SIZES
from ..sizes.iso_nuts import NUTS
from .outcome import ON
from .places import AT_PLACES, AtPlaces

if TYPE_CHECKING:
    from ..frames import Frame, Triple
    from ..making.context import Context
    from ..solid.naming import Body


class NutPocket(AtPlaces):
    """Six flats that hold the nut, with play; sizes from the ISO tables."""

    kind: Literal["nut_pocket"] = "nut_pocket"
    word: ClassVar[str] = "Nut pocket"
    chord: ClassVar[str] = "nn"
    synonyms: ClassVar[str] = "hexagon trap captive nut screw"
    group: ClassVar[str] = "print"
    order: ClassVar[int] = 60
    icon: ClassVar[str] = "M7 3.500h9l4.500 8l-4.500 8H7l-4.500-8zM8 11.500a3.500 3.500 0 1 0 7 0a3.500 3.500 0 1 0-7 0"
    hint: ClassVar[str] = "Pick points of a sketch, a face, or the round edge of the screw's hole; choose the nut."
    sentence: ClassVar[str] = (
        f"Make room for {{size}} {{height}} nuts {AT_PLACES}"
        ", {way}[ {deep} below][ towards {side}], with {play} of play[, turned by {turn}][, {bore}][, in {bodies}]"
    )

    size: Annotated[
        Literal["M2", "M2.5", "M3", "M4", "M5", "M6", "M8", "M10", "M12"],
        Blank("choice", "nut", "Width across flats from ISO 4032.", {k: k for k in NUTS}),
    ] = "M3"
    height: Annotated[
        Literal["normal", "thin"],
        Blank("choice", "height", "ISO 4032 or the thin ISO 4035.", {"normal": "normal", "thin": "thin"}),
    ] = "normal"
    way: Annotated[
        Literal["end", "side"],
        Blank("choice", "way in", "Into the face, or slid in from the side under it.",
              {"end": "put in from the end", "side": "slid in from the side,"}),
    ] = "end"  # fmt: skip
    deep: Annotated[
        Formula, Blank("length", "depth", "Of the nut below the face.", when=("way", ("side",)), main=True)
    ] = "3 mm"
    side: Annotated[AxisRef, Blank("axis", "side", "The direction it comes in from.", when=("way", ("side",)))] = (
        AxisRef(axis="x")
    )
    play: Annotated[Formula, Blank("length", "play", "Added to the width across flats and to the height.")] = "0.2 mm"
    turn: Annotated[
        Formula, Blank("angle", "turned by", "About its axis; the side it comes from turns it otherwise.",
                       when=("way", ("end",)), optional=True)
    ] = ""  # fmt: skip
    bore: Annotated[
        Literal["none", "through"],
        Blank("choice", "hole", "For the screw, ISO 273 medium.",
              {"none": "without a hole", "through": "with a hole for its screw through everything"}, optional=True),
    ] = "none"  # fmt: skip
    bodies: Annotated[tuple[str, ...], ON] = ()

    def build(self, context: Context) -> None:
        from ..solid.nuts import nut_room

        if not context.bodies:
            raise CannotBuild("There is no material for a nut yet.", where="at")
        nut = NUTS[self.size]
        play = context.value(self, "play")
        if not 0 <= play <= nut.across / 2:
            raise CannotBuild("The play must be nothing or a little: less than half the nut.", where="play")
        across, high = nut.across + play, (nut.high if self.height == "normal" else nut.thin) + play
        context.took = [
            f"{show(across, LENGTH, context.units)} across flats",
            f"{show(high, LENGTH, context.units)} high",
        ]
        deep = context.value(self, "deep") if self.way == "side" else 0.0
        if deep < 0:
            raise CannotBuild("A nut that is slid in lies below the face: type a positive depth.", where="deep")
        turn = context.value(self, "turn") if "turn" in self.formulas() else 0.0
        tools = []
        for number, (frame, place) in enumerate(self.places(context)):
            into = self.into(context, frame, place)
            out = self._out(context, frame) if self.way == "side" else None
            low, high_ = (deep, deep + high) if into > 0 else (-deep - high, -deep)
            name = f"{self.id}#{number}" if number else self.id
            tools.append(nut_room(name, frame, place, across, low, high_, turn, out))
            if self.bore == "through":
                tools.append(self._hole(context, f"{self.id}#{number}.1", frame, place, into))
        context.combine(self, tools, "cut", self.bodies)
        count = len(self.places(context))
        pockets = "1 pocket" if count == 1 else f"{count} pockets"
        context.afterwards.append(f"Put nuts {self.size} into {pockets}")

    def _hole(self, context: Context, name: str, frame: Frame, place: tuple[float, float], into: float) -> Body:
        """The hole that the nut's screw goes through."""
        from ..solid.drilling import drill

        low, high = context.heights(frame)
        long = max(-low, high, 0.0) + 1.0
        wide = SIZES[self.size].medium
        return drill(name, frame, place, into, wide / 2, long, tip=None, seat=(0.0, 0.0, 0.0), form="plain")

    def _out(self, context: Context, frame: Frame) -> tuple[float, float]:
        """The direction (rad) in the plane a nut comes in from, and how far it is to the outside, mm."""
        from ..frames import dot
        from ..solid.measuring import rough_box

        _, way = context.axis_of(self.side)
        u, v = dot(way, frame.x), dot(way, frame.y)
        if math.hypot(u, v) < 0.5:
            raise CannotBuild("The nut comes in along the face: pick a direction that lies in it.", where="side")
        corners: list[Triple] = [c for b in context.bodies for c in rough_box(b.shape)]
        return math.atan2(v, u), 1.0 + max(math.dist(frame.origin, c) for c in corners)
