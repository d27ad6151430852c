"""Sweep: regions of a sketch taken along a path."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..advice import Advice
from ..blanks import Blank, CurvePick, EdgePick, Formula, RegionPick
from ..errors import CannotBuild
from .base import Step
from .largest import largest_that_works
from .outcome import ON, RESULT, Result

if TYPE_CHECKING:
    from collections.abc import Callable

    from ..frames import Frame
    from ..making.context import Context
    from ..sketch.regions import Profile
    from ..solid.along import Manner
    from ..solid.naming import Body

_MOST_TURNS = 200


class Sweep(Step):
    """The path begins in the plane of the regions: curves of another sketch that hang together, or edges."""

    kind: Literal["sweep"] = "sweep"
    word: ClassVar[str] = "Sweep"
    chord: ClassVar[str] = "sw"
    synonyms: ClassVar[str] = "path pipe tube cable handle follow"
    group: ClassVar[str] = "draw"
    order: ClassVar[int] = 4
    icon: ClassVar[str] = "M4 20v-6a6 6 0 0 1 6-6h6M16 4.500v7M1.500 20h5M17 8h4"
    hint: ClassVar[str] = "Pick closed regions, then the path: a curve of another sketch, or edges."
    sentence: ClassVar[str] = (
        "Sweep {regions} along {path} {turning}, {corners}[, twisting by {twist}][, narrowing to {scale}], {result}"
        "[, with {bodies}]"
    )

    regions: Annotated[
        tuple[RegionPick, ...], Blank("regions", "regions", "Pick closed regions; pick again to leave one out.")
    ] = ()
    path: Annotated[
        tuple[CurvePick | EdgePick, ...],
        Blank("path", "path", "A curve of a sketch with all that hangs together with it, or edges end to end."),
    ] = ()
    turning: Annotated[
        Literal["along", "upright"],
        Blank("choice", "turning", "Whether the regions lean with the path.",
              {"along": "turning with it", "upright": "keeping upright"}),
    ] = "along"  # fmt: skip
    corners: Annotated[
        Literal["mitred", "round"],
        Blank("choice", "corners", "What becomes of corners of the path.",
              {"mitred": "corners mitred", "round": "corners round"}),
    ] = "mitred"  # fmt: skip
    twist: Annotated[
        Formula, Blank("angle", "twist", "How far it turns about the path, all in all.", optional=True)
    ] = ""
    scale: Annotated[Formula, Blank("count", "scale at the end", "0.5 is half as large, 2 twice.", optional=True)] = ""
    result: Annotated[Result, RESULT] = "add"
    bodies: Annotated[tuple[str, ...], ON] = ()

    def build(self, context: Context) -> None:
        from ..solid.along import Manner, swept

        if not self.regions:
            raise CannotBuild("Pick at least one closed region to sweep.", where="regions")
        path = context.path_of(self.path, "path")
        how = Manner(self.turning == "upright", self.corners == "round", *self._change(context))
        tools = []
        for sketch_id in dict.fromkeys(pick.sketch for pick in self.regions):
            state, regions = context.regions_of(self, sketch_id)
            for profile in state.arrangement.outline(regions):

                def at(share: float, of: Profile = profile, frame: Frame = state.frame) -> Body:
                    part = replace(how, twist=how.twist * share, scale=1 + (how.scale - 1) * share)
                    return swept(self.id, of, frame, path, part)

                try:
                    tools.append(at(1.0))
                except CannotBuild as problem:
                    raise self._milder(problem, how, at) from problem
        context.combine(self, tools, self.result, self.bodies)

    def _milder(self, problem: CannotBuild, how: Manner, at: Callable[[float], object]) -> CannotBuild:
        """The problem with the largest twist (or change of scale) that works, where it is that which is too much."""
        plain = not how.twist and abs(how.scale - 1) < 1e-12
        if plain or problem.where not in ("path", "twist", "scale"):
            return problem
        low = largest_that_works(at, 1.0)
        if low < 0.02:
            return problem
        if how.twist:
            degrees = math.trunc(math.degrees(how.twist) * low * 10) / 10
            field, said, text = "twist", f"twist that works is about {abs(degrees):g}°", f"{degrees:g} deg"
        else:
            scale = round(1 + (how.scale - 1) * low, 3)
            field, said, text = "scale", f"change that works is about a scale of {scale:g}", f"{scale:g}"
        raised = CannotBuild(f"{problem.message} The largest {said}.", where=field)
        raised.fixes = (Advice(problem.message, f"make it {text}", {field: text}),)
        return raised

    def _change(self, context: Context) -> tuple[float, float]:
        """Twist (rad) and scale at the end."""
        given = self.formulas()
        twist = context.value(self, "twist") if "twist" in given else 0.0
        scale = context.value(self, "scale") if "scale" in given else 1.0
        if abs(twist) > _MOST_TURNS * 6.2832:
            raise CannotBuild(f"A twist may be at most {_MOST_TURNS} turns.", where="twist")
        if not 0.01 <= scale <= 100:
            raise CannotBuild("The scale at the end must be from 0.01 to 100.", where="scale")
        if twist and scale != 1:
            raise CannotBuild("It can twist or narrow, not both at once: leave one of them out.", where="scale")
        if self.turning == "upright" and twist:
            raise CannotBuild("What keeps upright cannot twist: let it turn with the path.", where="turning")
        return twist, scale
