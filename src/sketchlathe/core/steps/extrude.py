"""Extrude: regions of a sketch, swept straight off their plane."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from ..errors import CannotBuild
from ..model.advice import Advice
from .base import Step
from .blanks import Blank, Formula, RegionPick

if TYPE_CHECKING:
    from ..model.building import Context, SketchState, StepResult
    from ..sketch.regions import Region
    from ..solid.naming import Body

_ROOM = 1.0  # mm beyond the part on both sides of a cut through everything


class Extrude(Step):
    """Add material, cut it away, keep the overlap, or make a separate body."""

    kind: Literal["extrude"] = "extrude"
    word: ClassVar[str] = "Extrude"
    chord: ClassVar[str] = "se"
    group: ClassVar[str] = "draw"
    order: ClassVar[int] = 2
    icon: ClassVar[str] = "M4 14l8 4 8-4M4 14v-3l8 4 8-4v3M12 10V2M9 5l3-3 3 3"
    hint: ClassVar[str] = "Pick closed regions of a sketch, then type how far or pull the handle."
    sentence: ClassVar[str] = "Extrude {regions} {reach} {distance} {way}, {result}"

    regions: Annotated[
        tuple[RegionPick, ...],
        Blank("regions", "regions", "Pick closed regions; pick again to leave one out."),
    ] = ()
    reach: Annotated[
        Literal["distance", "through"],
        Blank(
            "choice",
            "how far",
            "By a distance, or through everything.",
            {"distance": "by", "through": "through everything"},
        ),
    ] = "distance"
    distance: Annotated[
        Formula,
        Blank("length", "distance", "A length or a formula.", when=("reach", ("distance",)), main=True),
    ] = "10 mm"
    way: Annotated[
        Literal["forwards", "backwards", "both"],
        Blank(
            "choice",
            "direction",
            "Forwards is towards the person looking straight on.",
            {"forwards": "forwards", "backwards": "backwards", "both": "evenly both ways"},
        ),
    ] = "forwards"
    result: Annotated[
        Literal["add", "cut", "overlap", "separate"],
        Blank(
            "choice",
            "result",
            "What becomes of the new shape.",
            {
                "add": "adding material",
                "cut": "cutting away",
                "overlap": "keeping the overlap",
                "separate": "as a separate body",
            },
        ),
    ] = "add"

    def uses(self) -> tuple[str, ...]:
        return tuple(dict.fromkeys(pick.sketch for pick in self.regions))

    def better_defaults(
        self, bodies: tuple[Body, ...], done: Mapping[str, StepResult], touched: Collection[str]
    ) -> dict[str, Any]:
        """A cut goes to the side with more material; material is added on the other side."""
        if "way" in touched or not self.regions or not bodies:
            return {}
        state = done[self.regions[0].sketch].sketch if self.regions[0].sketch in done else None
        if state is None:
            return {}
        from ..model.building import heights_over

        low, high = heights_over(bodies, state.frame)
        inwards = "backwards" if -low > high else "forwards"
        return {"way": inwards if self.result in ("cut", "overlap") else "forwards"}

    def build(self, context: Context) -> None:
        from ..solid.shapes import prism

        if not self.regions:
            raise CannotBuild("Pick at least one closed region to extrude.", where="regions")
        tools = []
        for sketch_id in self.uses():
            state, regions = context.regions_of(self, sketch_id)
            low, high = self._heights(context, state)
            if sketch_id == self.uses()[0]:
                self._handle(context, state, regions)
            for profile in state.arrangement.outline(regions):
                tools.append(prism(self.id, profile, state.frame, low, high))
        try:
            context.combine(self, tools, self.result)
        except CannotBuild as problem:
            if problem.where == "way" and self.way != "both":
                other = "backwards" if self.way == "forwards" else "forwards"
                problem.fixes = (Advice(problem.message, f"cut {other} instead", {"way": other}),)
            raise

    def _heights(self, context: Context, state: SketchState) -> tuple[float, float]:
        """Heights above the sketch's plane between which the shape lies, mm."""
        if self.reach == "through":
            if self.result in ("add", "separate"):
                raise CannotBuild(
                    "“Through everything” is for cutting; to add material give a distance.", where="reach"
                )
            low, high = context.heights(state.frame)
            low, high = min(low, 0.0) - _ROOM, max(high, 0.0) + _ROOM
            return {"forwards": (0.0, high), "backwards": (low, 0.0), "both": (low, high)}[self.way]
        distance = context.value(self, "distance")
        if abs(distance) < 1e-6:
            raise CannotBuild("A distance of 0 makes nothing; type how far.", where="distance")
        if abs(distance) > 1e5:
            raise CannotBuild("A distance may be at most 100 m.", where="distance")
        if self.way == "both":
            return -abs(distance) / 2, abs(distance) / 2
        if self.way == "backwards":
            distance = -distance
        return (0.0, distance) if distance > 0 else (distance, 0.0)

    def _handle(self, context: Context, state: SketchState, regions: Sequence[Region]) -> None:
        """The arrow in the view that does the same as the distance."""
        if self.reach != "distance":
            return
        u, v = state.middle_of(regions)
        sign = -1.0 if self.way == "backwards" else 1.0
        n = state.frame.normal
        context.handle = {
            "field": "distance",
            "origin": list(state.frame.place(u, v)),
            "direction": [sign * n[0], sign * n[1], sign * n[2]],
            "factor": 2.0 if self.way == "both" else 1.0,
        }
