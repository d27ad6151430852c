"""Hole: drilled at sketch points or at a place on a face, plain, counterbored or countersunk; sizes typed or from the
ISO tables.
"""

from __future__ import annotations

import math
from collections.abc import Collection
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from ..advice import Advice
from ..blanks import AxisRef, Blank, Formula
from ..errors import CannotBuild
from ..quantity.units import LENGTH, show
from ..sheet.puts import Size, mm
from ..sizes.iso_holes import FITS, SIZES
from .outcome import ON
from .places import AT_PLACES, AtPlaces

if TYPE_CHECKING:
    from ..frames import Frame
    from ..making.context import Context
    from ..solid.naming import Body

_BY_HAND = {"tapping": "Tap {} in", "insert": "Set heat-set inserts {} into"}
_BEFORE_INSERT = 1.0  # mm: what a heat-set insert pushes before it goes there
_LAYER = 0.2  # mm: a usual layer
_POINT = math.radians(118)  # the usual tip of a twist drill


class Hole(AtPlaces):
    """At every picked point a hole into the material, at right angles to the sketch or face."""

    kind: Literal["hole"] = "hole"
    word: ClassVar[str] = "Hole"
    chord: ClassVar[str] = "sh"
    synonyms: ClassVar[str] = "drill bore screw thread counterbore countersink"
    group: ClassVar[str] = "draw"
    order: ClassVar[int] = 6
    icon: ClassVar[str] = "M3 9h6v9M20 9h-6v9M9 18l2.500 2.500L14 18M11.500 2v12"
    hint: ClassVar[str] = "Pick points of a sketch, a face or round edges; type the diameter or choose a screw."
    sentence: ClassVar[str] = (
        f"Drill {{form}} holes {AT_PLACES}"
        " for {screw}[ {fit}][, diameter {diameter}], {reach}[ {depth}][, {bottom}]"
        "[, seat {seat_diameter} wide][, {seat_depth} deep][, at {seat_angle}][, leaving a layer of {layer} over the "
        "bore]"
        "[, {roof}][ towards {up}][, in {bodies}]"
    )

    form: Annotated[
        Literal["plain", "counterbored", "countersunk"],
        Blank("choice", "form", "", {"plain": "plain", "counterbored": "counterbored", "countersunk": "countersunk"}),
    ] = "plain"
    screw: Annotated[
        Literal["typed", "M2", "M2.5", "M3", "M4", "M5", "M6", "M8", "M10", "M12"],
        Blank(
            "choice",
            "screw",
            "Sizes from ISO tables; every value can still be changed when typed.",
            {"typed": "typed sizes", **{size: f"{size} screws" for size in SIZES}},
        ),
    ] = "typed"
    fit: Annotated[
        Literal["close", "medium", "free", "tapping", "insert"],
        Blank(
            "choice",
            "fit",
            "ISO 273 clearance, tapping drill, or bore for a heat-set insert.",
            FITS,
            when=("screw", tuple(SIZES)),
            table=("insert", "inserts"),
        ),
    ] = "medium"
    diameter: Annotated[
        Formula, Blank("length", "diameter", "A length or a formula.", when=("screw", ("typed",)), main=True)
    ] = "5 mm"
    reach: Annotated[
        Literal["through", "depth"],
        Blank("choice", "how deep", "", {"through": "through everything", "depth": "to a depth of"}),
    ] = "through"
    depth: Annotated[
        Formula,
        Blank(
            "length", "depth", "Down to where it is full size; a drill's tip goes deeper.", when=("reach", ("depth",))
        ),
    ] = "10 mm"
    bottom: Annotated[
        Literal["tip", "flat"],
        Blank("choice", "bottom", "Printed holes need no tip; inserts always stand on a flat bottom.",
              {"tip": "with a drill's tip", "flat": "with a flat bottom"}, when=("reach", ("depth",)), optional=True),
    ] = "tip"  # fmt: skip
    seat_diameter: Annotated[
        Formula,
        Blank(
            "length",
            "seat diameter",
            "Of the wide part; empty takes it from the table.",
            when=("form", ("counterbored", "countersunk")),
            optional=True,
        ),
    ] = ""
    seat_depth: Annotated[
        Formula,
        Blank(
            "length",
            "seat depth",
            "Of the wide part; empty takes it from the table.",
            when=("form", ("counterbored",)),
            optional=True,
        ),
    ] = ""
    bodies: Annotated[tuple[str, ...], ON] = ()
    seat_angle: Annotated[
        Formula, Blank("angle", "seat angle", "Between the walls of the "
                                              "countersink.", when=("form", ("countersunk",)), optional=True)
    ] = "90 deg"  # fmt: skip

    layer: Annotated[
        Formula,
        Blank("length", "layer left", "A thin skin to be drilled through after printing, so that nothing hangs.",
              when=("form", ("counterbored",)), optional=True),
    ] = ""  # fmt: skip
    roof: Annotated[
        Literal["round", "teardrop", "flat"],
        Blank("choice", "roof", "How a hole that lies when it is printed closes above itself without support.",
              {"round": "round all over", "teardrop": "with a pointed roof", "flat": "with a flat roof"},
              when=("form", ("plain",)), optional=True),
    ] = "round"  # fmt: skip
    up: Annotated[
        AxisRef,
        Blank("axis", "up when printed", "Away from the bed.", when=("roof", ("teardrop", "flat")), optional=True),
    ] = AxisRef(axis="z")  # fmt: skip

    def build(self, context: Context) -> None:

        if not context.bodies:
            raise CannotBuild("There is no material to drill into yet.", where="at")
        d = self._diameter(context)
        seat_d, seat_h, seat_angle = self._seat(context, d)
        context.took += self._took(context, d, seat_d, seat_h)
        depth = None if self.reach == "through" else context.above(self, "depth")
        tools = []
        self._say(context, d, depth, (seat_d, seat_h, seat_angle))
        for number, (frame, place) in enumerate(self.places(context)):
            into = self.into(context, frame, place)
            low, high = context.heights(frame)
            long = (max(-low, high, 0.0) + 1.0) if depth is None else depth
            name = f"{self.id}#{number}" if number else self.id
            tip = None if depth is None or self._is_flat() else _POINT
            tools += self._shapes(context, name, frame, place, into, d, long, tip, (seat_d / 2, seat_h, seat_angle))
        context.combine(self, tools, "cut", self.bodies)
        context.afterwards += self._left_to_do(len(self.places(context)))
        if depth is not None:
            self._advise(context, depth, d)

    def wants_words(self) -> bool:
        return self.at == "face" or self.roof != "round" or "layer" in self.formulas()

    def _say(self, context: Context, d: float, depth: float | None, seat: tuple[float, float, float]) -> None:
        """What a drawing says of these holes: once, with how many there are."""
        places = self.places(context)
        frame, (x, y) = places[0]

        words = f"⌀{mm(d)} through" if depth is None else f"⌀{mm(d)}, {mm(depth)} deep"
        if self.form == "counterbored":
            words += f", seat ⌀{mm(seat[0])}, {mm(seat[1])} deep"
        elif self.form == "countersunk":
            words += f", countersunk ⌀{mm(seat[0])} × {round(math.degrees(seat[2]), 3):g}°"
        if self.screw != "typed" and self.fit == "tapping":
            words = f"{self.screw}: {words}"
        if len(places) > 1:
            words = f"{len(places)}× {words}"
        at = (x + d, y + d)
        number = "diameter" if self.screw == "typed" else ""
        context.sizes.append(Size("diametral", frame, ((x, y), (x + d / 2, y)), at, words, self.id, number))

    def _took(self, context: Context, d: float, wide: float, deep: float) -> list[str]:
        """The sizes that nobody typed, in words."""
        given, words = self.formulas(), []
        if self.screw != "typed":
            words.append(f"⌀ {show(d, LENGTH, context.units)}")
        if self.form != "plain" and "seat_diameter" not in given:
            words.append(f"seat ⌀ {show(wide, LENGTH, context.units)}")
        if self.form == "counterbored" and "seat_depth" not in given:
            words.append(f"{show(deep, LENGTH, context.units)} deep")
        return words

    def _is_flat(self) -> bool:
        """Whether a blind hole ends flat: where it was asked for, and for inserts."""
        return self.bottom == "flat" or (self.screw != "typed" and self.fit == "insert")

    def better_defaults(self, context: Context, touched: Collection[str]) -> dict[str, Any]:
        """An insert's hole is as deep as the insert is long, and a little more for what it pushes before it."""
        found = super().better_defaults(context, touched)
        if self.screw == "typed" or self.fit != "insert":
            return found
        if "reach" not in touched:
            found["reach"] = "depth"
        if "depth" not in touched:
            deep = context.size("insert_lengths", self.screw) + _BEFORE_INSERT
            found["depth"] = show(deep, LENGTH, context.units)
        return found

    def _shapes(
        self, context: Context, name: str, frame: Frame, place: tuple[float, float], into: float, d: float, long: float,
        tip: float | None, seat: tuple[float, float, float],
    ) -> list[Body]:  # fmt: skip
        """What is taken away at one place."""
        from ..solid.drilling import drill, roofed, with_layer

        if self.form == "plain" and self.roof != "round":
            _, up = context.axis_of(self.up)
            return [roofed(name, frame, place, into, d / 2, long, up, flat=self.roof == "flat")]
        made = drill(name, frame, place, into, d / 2, long, tip=tip, seat=seat, form=self.form)
        if self.form == "counterbored" and "layer" in self.formulas():
            return with_layer(name, made, frame, place, into, seat[1], context.above(self, "layer"), d / 2)
        return [made]

    def _left_to_do(self, count: int) -> list[str]:
        """What printing leaves to the hand."""
        holes = "1 hole" if count == 1 else f"{count} holes"
        left = []
        if self.form == "counterbored" and "layer" in self.formulas():
            left.append(f"Drill through the layer in {holes}")
        if self.screw != "typed" and self.fit in _BY_HAND:
            left.append(f"{_BY_HAND[self.fit].format(self.screw)} {holes}")
        return left

    def _advise(self, context: Context, depth: float, d: float) -> None:
        """A hole that ends exactly where the material does stops short when the part grows; one that leaves less than a
        layer is open when it is printed; a tip may come out on the other side.
        """
        from ..making.context import heights_over
        from ..solid.drilling import way_out

        flat = self._is_flat()
        end = depth if flat else depth + d / 2 / math.tan(_POINT / 2)
        for frame, place in self.places(context):
            into = self.into(context, frame, place)
            n = frame.normal
            out = way_out(context.found, frame.place(*place), (n[0] * into, n[1] * into, n[2] * into))
            if out is None or out < depth - 1e-6:
                continue
            if end > out + 1e-6 and not flat and depth < out - 1e-6:
                text = (
                    f"The tip of this hole comes out on the other side, {context.at_least(out)} from where it begins."
                )
                context.advice.append(Advice(text, "give it a flat bottom", {"bottom": "flat"}))
                return
            if 1e-6 < out - end < _LAYER - 1e-9:
                text = f"Only {context.at_least(out - end)} are left below this hole: less than a layer."
                context.advice.append(Advice(text, "make it go through everything", {"reach": "through"}))
                return

        frame = self.places(context)[0][0]
        low, high = heights_over(context.found, frame)
        if min(abs(depth + low), abs(depth - high)) < 1e-6:
            context.advice.append(
                Advice("This hole ends exactly at the far side of the material: it stops short when the part grows.",
                       "make it go through everything", {"reach": "through"})
            )  # fmt: skip

    def _diameter(self, context: Context) -> float:
        if self.screw == "typed":
            return context.above(self, "diameter")
        return self._insert(context) or SIZES[self.screw].hole(self.fit)

    def _insert(self, context: Context) -> float:
        """The bore for a heat-set insert, mm; nought where none is wanted."""
        return context.size("inserts", self.screw) if self.fit == "insert" and self.screw != "typed" else 0.0

    def key_parts(self, context: Context) -> Any:
        return [*super().key_parts(context), self._insert(context)]

    def _seat(self, context: Context, d: float) -> tuple[float, float, float]:
        """Diameter, depth and angle of the wide part."""
        if self.form == "plain":
            return 0.0, 0.0, 0.0
        size = SIZES.get(self.screw)
        given = self.formulas()
        if "seat_diameter" in given:
            wide = context.above(self, "seat_diameter")
        elif size is not None:
            wide = size.head if self.form == "counterbored" else size.sunk
        else:
            wide = 2 * d
        if wide <= d:
            raise CannotBuild("The seat must be wider than the hole.", where="seat_diameter")
        if "seat_depth" in given and self.form == "counterbored":
            deep = context.above(self, "seat_depth")
        else:
            deep = size.head_depth if size is not None else d
        angle = context.value(self, "seat_angle") if "seat_angle" in given else math.pi / 2
        if self.form == "countersunk" and not 0.2 < angle < 3.0:
            raise CannotBuild("The angle of a countersink must be between 12° and 170°.", where="seat_angle")
        return wide, deep, angle
