"""Revolve: regions of a sketch, turned about an axis."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import AxisRef, Blank, Formula, RegionPick
from ..errors import CannotBuild
from .base import Step
from .outcome import ON, RESULT, Result

if TYPE_CHECKING:
    from ..making.context import Context


class Revolve(Step):
    """A full turn, an angle, or evenly both ways."""

    kind: Literal["revolve"] = "revolve"
    word: ClassVar[str] = "Revolve"
    chord: ClassVar[str] = "sr"
    synonyms: ClassVar[str] = "turn lathe spin"
    group: ClassVar[str] = "draw"
    order: ClassVar[int] = 3
    icon: ClassVar[str] = "M11.500 3v17M8 6a8.500 4 0 1 0 7 0M5 16l3 2l1-3.500"
    hint: ClassVar[str] = "Pick closed regions, then the line to turn them about."
    sentence: ClassVar[str] = "Revolve {regions} about {axis} {reach}[ {angle}], {result}[, with {bodies}]"

    regions: Annotated[
        tuple[RegionPick, ...], Blank("regions", "regions", "Pick closed regions; pick again to leave one out.")
    ] = ()
    axis: Annotated[AxisRef, Blank("axis", "axis", "Pick a line of the sketch, an edge, or an axis of the origin.")] = (
        AxisRef()
    )
    reach: Annotated[
        Literal["full", "angle", "both"],
        Blank(
            "choice",
            "how far",
            "All round, or by an angle.",
            {"full": "all round", "angle": "by", "both": "evenly both ways by"},
        ),
    ] = "full"
    angle: Annotated[
        Formula, Blank("angle", "angle", "An angle up to 360°.", when=("reach", ("angle", "both")), main=True)
    ] = "180 deg"
    result: Annotated[Result, RESULT] = "add"
    bodies: Annotated[tuple[str, ...], ON] = ()

    def build(self, context: Context) -> None:
        from ..frames import dot
        from ..solid.primitives import revolved

        if not self.regions:
            raise CannotBuild("Pick at least one closed region to revolve.", where="regions")
        origin, direction = context.axis_of(self.axis)
        sweep = 2 * math.pi if self.reach == "full" else context.value(self, "angle")
        if not 1e-6 < abs(sweep) <= 2 * math.pi + 1e-9:
            raise CannotBuild("The angle of a revolve must be above 0° and at most 360°.", where="angle")
        start = -abs(sweep) / 2 if self.reach == "both" else min(sweep, 0.0)
        tools = []
        for sketch_id in dict.fromkeys(pick.sketch for pick in self.regions):
            state, regions = context.regions_of(self, sketch_id)
            frame = state.frame
            if abs(dot(direction, frame.normal)) > 1e-9 or abs(frame.height(origin)) > 1e-6:
                raise CannotBuild("The axis must lie in the plane of the sketch: pick another.", where="axis")
            for profile in state.arrangement.outline(regions):
                _check_side(profile, frame, origin, direction)
                tools.append(revolved(self.id, profile, frame, origin, direction, start, abs(sweep)))
        context.combine(self, tools, self.result, self.bodies)


def _check_side(profile: object, frame: object, origin: object, direction: object) -> None:
    """The profile may touch its axis but not cross it."""
    from ..frames import Frame, cross, dot
    from ..sketch.regions import Profile

    assert isinstance(profile, Profile) and isinstance(frame, Frame)
    o: tuple[float, float, float] = origin  # type: ignore[assignment]
    d: tuple[float, float, float] = direction  # type: ignore[assignment]
    out = cross(d, frame.normal)
    reach: list[float] = []
    for piece, _ in profile.outer:
        for p in _samples(piece):
            q = frame.place(*p)
            reach.append(dot((q[0] - o[0], q[1] - o[1], q[2] - o[2]), out))
    size = max(max(reach) - min(reach), 1e-9)
    if min(reach) < -1e-6 * size and max(reach) > 1e-6 * size:
        raise CannotBuild(
            "This profile lies on both sides of its axis; trim it to one side, or pick another axis.", where="axis"
        )


def _samples(piece: object) -> list[tuple[float, float]]:
    if hasattr(piece, "a0"):
        return [piece.at(piece.a0 + (piece.a1 - piece.a0) * i / 32) for i in range(33)]  # type: ignore[attr-defined]
    if hasattr(piece, "p2"):
        return [piece.at(i / 32) for i in range(33)]  # type: ignore[attr-defined]
    return [piece.a, piece.b]  # type: ignore[attr-defined]
