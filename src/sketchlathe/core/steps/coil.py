"""Coil: a spring, a spiral handrail, a heating wire: a wire wound about an axis."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..errors import CannotBuild
from .base import Step
from .blanks import AxisRef, Blank, Formula
from .results import ON, RESULT, Result

if TYPE_CHECKING:
    from ..model.context import Context

_MOST_TURNS = 200


class Coil(Step):
    """Round or square wire, on a cylinder or narrowing to another diameter."""

    kind: Literal["coil"] = "coil"
    word: ClassVar[str] = "Coil"
    chord: ClassVar[str] = "bo"
    synonyms: ClassVar[str] = "spring helix spiral wire winding"
    group: ClassVar[str] = "body"
    order: ClassVar[int] = 43
    begins: ClassVar[bool] = True
    icon: ClassVar[str] = "M5 4.500c0 4 13 1 13 5M18 9.500c0-4-13-1-13 2.500c0 4 13 1 13 5M18 17c0-4-13-1-13 2.500"
    hint: ClassVar[str] = "Pick the axis, type diameter, pitch and turns."
    sentence: ClassVar[str] = (
        "Wind {section}, {wire} across[ and {height} high], about {axis}, {diameter} wide[ and {end} at its end], "
        "{turns}"
        " turns of {pitch}, {hand}[, beginning {start} up the axis], {result}[, with {bodies}]"
    )

    section: Annotated[
        Literal["round", "square"],
        Blank("choice", "section", "", {"round": "round wire", "square": "square wire"}),
    ] = "round"  # fmt: skip
    wire: Annotated[Formula, Blank("length", "wire", "How thick it is, outwards from the axis.")] = "2 mm"
    height: Annotated[
        Formula, Blank("length", "height of the wire", "Along the axis; empty is as wide as it is.",
                       when=("section", ("square",)), optional=True)
    ] = ""  # fmt: skip
    axis: Annotated[AxisRef, Blank("axis", "axis", "What it is wound about; it begins at the axis's own point.")] = (
        AxisRef(axis="z")
    )
    diameter: Annotated[
        Formula, Blank("length", "diameter", "Across, from middle to middle of the wire.", main=True)
    ] = "20 mm"
    end: Annotated[Formula, Blank("length", "diameter at the end", "Where it narrows or widens.", optional=True)] = ""
    turns: Annotated[Formula, Blank("count", "turns", "Need not be whole.")] = "5"
    pitch: Annotated[Formula, Blank("length", "pitch", "How far it rises in one turn.")] = "5 mm"
    hand: Annotated[
        Literal["right", "left"],
        Blank("choice", "hand", "Right-handed as most screws are.", {"right": "right-handed", "left": "left-handed"}),
    ] = "right"
    start: Annotated[Formula, Blank("length", "start", "How far up the axis it begins.", optional=True)] = ""
    result: Annotated[Result, RESULT] = "add"
    bodies: Annotated[tuple[str, ...], ON] = ()

    def build(self, context: Context) -> None:
        from ..solid.coiling import coil
        from ..solid.frames import frame_at

        wire = context.above(self, "wire", 1e-3, 1e5)
        given = self.formulas()
        high = context.above(self, "height", 1e-3, 1e5) if "height" in given else wire
        pitch, wide = context.above(self, "pitch", 1e-3, 1e5), context.above(self, "diameter", 1e-3, 1e5)
        end = context.above(self, "end", 1e-3, 1e5) if "end" in given else wide
        turns = context.value(self, "turns")
        if not 0.05 <= turns <= _MOST_TURNS:
            raise CannotBuild(f"A coil has from 0.05 to {_MOST_TURNS} turns.", where="turns")
        if min(wide, end) <= wire:
            raise CannotBuild("The wire is thicker than the coil is wide: make the diameter larger.", where="diameter")
        if turns > 1 and pitch <= high:
            raise CannotBuild("Its turns would run into each other: the pitch must be above the wire.", where="pitch")
        origin, direction = context.axis_of(self.axis)
        rise = context.value(self, "start") if "start" in given else 0.0
        frame = frame_at(tuple(o + rise * d for o, d in zip(origin, direction)), direction)  # type: ignore[arg-type]
        made = coil(
            self.id, frame, wide / 2, end / 2, pitch, turns, self.hand == "left", (wire, high), self.section == "round"
        )
        context.combine(self, [made], self.result, self.bodies)
