"""Loft: a solid through regions one after the other, or to a point."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import Blank, Formula, PointPick, RegionPick
from ..errors import CannotBuild
from .base import Step
from .outcome import ON, RESULT, Result

if TYPE_CHECKING:
    from ..frames import Frame
    from ..making.context import Context
    from ..sketch.regions import Profile


class Loft(Step):
    """Regions of different sketches in the order they are picked."""

    kind: Literal["loft"] = "loft"
    word: ClassVar[str] = "Loft"
    chord: ClassVar[str] = "sl"
    synonyms: ClassVar[str] = "blend between transition funnel spout"
    group: ClassVar[str] = "draw"
    traces: ClassVar[str] = "corners that are matched"
    order: ClassVar[int] = 5
    icon: ClassVar[str] = (
        "M3 19l4-3h10l3 3zM8.500 5a3.500 1.800 0 1 0 6 0a3.500 1.800 0 1 0-6 0M4 18l4.500-12M19 18l-4.500-12"
    )
    hint: ClassVar[str] = "Pick closed regions of two or more sketches in their order; or one, and a point."
    sentence: ClassVar[str] = (
        "Loft {form} through {regions}[, {ends}][, ending in {tip}][, matching corners {shift} farther on], {result}"
        "[, with {bodies}]"
    )

    form: Annotated[
        Literal["ruled", "smooth"],
        Blank("choice", "form", "Straight from one to the next, or smoothly through all.",
              {"ruled": "straight", "smooth": "smoothly"}),
    ] = "ruled"  # fmt: skip
    regions: Annotated[
        tuple[RegionPick, ...], Blank("regions", "regions", "Pick regions in the order they follow each other.")
    ] = ()
    ends: Annotated[
        Literal["open", "closed"],
        Blank("choice", "ends", "Three regions or more can go round in a ring.",
              {"open": "from the first to the last", "closed": "and back to the first"}, optional=True),
    ] = "open"  # fmt: skip
    tip: Annotated[
        tuple[PointPick, ...],
        Blank(
            "points",
            "tip",
            "A point of a sketch at which it ends; may stay empty.",
            optional=True,
            most=1,
            when=("ends", ("open",)),
        ),
    ] = ()
    shift: Annotated[
        Formula, Blank("count", "corners farther on", "Match each corner with one farther round.", optional=True)
    ] = ""
    result: Annotated[Result, RESULT] = "add"
    bodies: Annotated[tuple[str, ...], ON] = ()

    def build(self, context: Context) -> None:
        from ..solid.lofting import first_corners, lofted

        if not self.regions:
            raise CannotBuild("Pick the regions to go through, in their order.", where="regions")
        sections: list[tuple[Profile, Frame]] = []
        for sketch_id in dict.fromkeys(pick.sketch for pick in self.regions):
            state, regions = context.regions_of(self, sketch_id)
            profiles = state.arrangement.outline(regions)
            if len(profiles) != 1:
                title = context.title_of(sketch_id)
                raise CannotBuild(f"Of {title} pick one region only: a loft has one at each place.", where="regions")
            sections.append((profiles[0], state.frame))
        closed = self.ends == "closed"
        tip = context.points_of(self.tip)[-1][2] if self.tip and not closed else None
        if closed and len(sections) < 3:
            raise CannotBuild("A ring needs regions in three places at least: pick more, or leave it open.",
                              where="regions")  # fmt: skip
        if len(sections) < 2 and tip is None:
            raise CannotBuild("Pick a region of another sketch too, or a point to end in.", where="regions")
        shift = context.value(self, "shift") if "shift" in self.formulas() else 0.0
        if abs(shift - round(shift)) > 1e-9 or abs(shift) > 1000:
            raise CannotBuild("Corners are counted: type a whole number.", where="shift")
        if len(sections) > 1:
            corners = first_corners(sections, round(shift), closed)
            context.spots = tuple((f"{i}", at) for i, at in enumerate(corners, 1))
        made = lofted(self.id, sections, self.form == "ruled", round(shift), (None, tip), closed=closed)
        context.combine(self, [made], self.result, self.bodies)
