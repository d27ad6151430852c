"""Coil: a spring, a spiral handrail, a heating wire, an auger: a wire or a drawn region wound about an axis."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import AxisRef, Blank, Formula, RegionPick
from ..errors import CannotBuild
from .base import Step
from .outcome import ON, RESULT, Result

if TYPE_CHECKING:
    from ..making.context import Context
    from ..solid.naming import Body

_MOST_TURNS = 200
_WIRES = ("round", "square")


class Coil(Step):
    """Round or square wire, on a cylinder, narrowing to another diameter or flat; or regions of a plane through the
    axis, which turn about it and rise.
    """

    kind: Literal["coil"] = "coil"
    word: ClassVar[str] = "Coil"
    chord: ClassVar[str] = "bo"
    synonyms: ClassVar[str] = "spring helix spiral wire winding screw auger"
    group: ClassVar[str] = "body"
    order: ClassVar[int] = 43
    begins: ClassVar[bool] = True
    icon: ClassVar[str] = "M5 4.500c0 4 13 1 13 5M18 9.500c0-4-13-1-13 2.500c0 4 13 1 13 5M18 17c0-4-13-1-13 2.500"
    hint: ClassVar[str] = "Pick the axis, type diameter, pitch and turns."
    sentence: ClassVar[str] = (
        "Wind {section}[: {regions}][, {wire} across][ and {height} high], about {axis}[, {diameter} wide]"
        "[ and {end} at its end], {turns} turns of {pitch}, {hand}[, beginning {start} up the axis], {result}"
        "[, with {bodies}]"
    )

    section: Annotated[
        Literal["round", "square", "drawn"],
        Blank("choice", "section", "", {"round": "round wire", "square": "square wire", "drawn": "what is drawn"}),
    ] = "round"  # fmt: skip
    regions: Annotated[
        tuple[RegionPick, ...],
        Blank("regions", "regions", "Closed regions beside the axis, in a plane through it.",
              when=("section", ("drawn",))),
    ] = ()  # fmt: skip
    wire: Annotated[
        Formula, Blank("length", "wire", "How thick it is, outwards from the axis.", when=("section", _WIRES))
    ] = "2 mm"
    height: Annotated[
        Formula, Blank("length", "height of the wire", "Along the axis; empty is as wide as it is.",
                       when=("section", ("square",)), optional=True)
    ] = ""  # fmt: skip
    axis: Annotated[AxisRef, Blank("axis", "axis", "What it is wound about; it begins at the axis's own point.")] = (
        AxisRef(axis="z")
    )
    diameter: Annotated[
        Formula,
        Blank("length", "diameter", "Across, from middle to middle of the wire.", main=True, when=("section", _WIRES)),
    ] = "20 mm"
    end: Annotated[
        Formula,
        Blank("length", "diameter at the end", "Where it narrows or widens.", optional=True, when=("section", _WIRES)),
    ] = ""
    turns: Annotated[Formula, Blank("count", "turns", "Need not be whole.")] = "5"
    pitch: Annotated[Formula, Blank("length", "pitch", "How far it rises in one turn; of a flat spiral nought.")] = (
        "5 mm"
    )
    hand: Annotated[
        Literal["right", "left"],
        Blank("choice", "hand", "Right-handed as most screws are.", {"right": "right-handed", "left": "left-handed"}),
    ] = "right"
    start: Annotated[
        Formula,
        Blank("length", "start", "How far up the axis it begins.", optional=True, when=("section", _WIRES)),
    ] = ""
    result: Annotated[Result, RESULT] = "add"
    bodies: Annotated[tuple[str, ...], ON] = ()

    def build(self, context: Context) -> None:
        turns = context.value(self, "turns")
        if not 0.05 <= turns <= _MOST_TURNS:
            raise CannotBuild(f"A coil has from 0.05 to {_MOST_TURNS} turns.", where="turns")
        made = self._of_regions(context, turns) if self.section == "drawn" else [self._of_wire(context, turns)]
        context.combine(self, made, self.result, self.bodies)

    def _of_regions(self, context: Context, turns: float) -> list[Body]:
        from ..solid.coiling import wound

        if not self.regions:
            raise CannotBuild("Pick at least one closed region beside the axis.", where="regions")
        pitch = context.above(self, "pitch", 1e-3, 1e5)
        axis = context.axis_of(self.axis)
        made = []
        for sketch_id in dict.fromkeys(pick.sketch for pick in self.regions):
            state, regions = context.regions_of(self, sketch_id)
            for profile in state.arrangement.outline(regions):
                made.append(wound(self.id, profile, state.frame, axis, pitch, turns, self.hand == "left"))
        return made

    def _of_wire(self, context: Context, turns: float) -> Body:
        from ..frames import frame_at
        from ..solid.coiling import coil

        wire = context.above(self, "wire", 1e-3, 1e5)
        given = self.formulas()
        high = context.above(self, "height", 1e-3, 1e5) if "height" in given else wire
        wide = context.above(self, "diameter", 1e-3, 1e5)
        end = context.above(self, "end", 1e-3, 1e5) if "end" in given else wide
        pitch = context.value(self, "pitch")
        if not 0 <= pitch <= 1e5 or (pitch < 1e-3 and end == wide):
            raise CannotBuild("The pitch must be above zero; a flat spiral needs another diameter at its end.",
                              where="pitch")  # fmt: skip
        if min(wide, end) <= wire:
            raise CannotBuild("The wire is thicker than the coil is wide: make the diameter larger.", where="diameter")
        if turns > 1 and pitch <= high and abs(end - wide) / 2 / turns <= wire:
            raise CannotBuild(
                "Its turns would run into each other: the pitch must be above the wire, or the diameter at the end "
                "differ more.",
                where="pitch",
            )
        origin, direction = context.axis_of(self.axis)
        rise = context.value(self, "start") if "start" in given else 0.0
        frame = frame_at(tuple(o + rise * d for o, d in zip(origin, direction)), direction)  # type: ignore[arg-type]
        return coil(
            self.id, frame, wide / 2, end / 2, pitch, turns, self.hand == "left", (wire, high), self.section == "round"
        )
