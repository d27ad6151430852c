"""Draft: faces leaned so that a part comes out of its mould, or a funnel narrows."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..advice import Advice
from ..blanks import Blank, FacePick, Formula, PlaneRef
from ..errors import CannotBuild
from .base import Step
from .largest import largest_that_works

if TYPE_CHECKING:
    from ..making.context import Context


class Draft(Step):
    """Faces keep where they meet the plane and lean from there."""

    kind: Literal["draft"] = "draft"
    word: ClassVar[str] = "Draft"
    chord: ClassVar[str] = "ed"
    synonyms: ClassVar[str] = "taper lean slope mould angle"
    group: ClassVar[str] = "edge"
    order: ClassVar[int] = 23
    icon: ClassVar[str] = "M3 19.500h17M6 19.500l3-15h5l3 15M11.500 4.500v-3"
    hint: ClassVar[str] = "Pick the faces that are to lean, and the plane at which they keep their size."
    sentence: ClassVar[str] = "Draft {faces} by {angle}, keeping their size at {plane}"

    faces: Annotated[tuple[FacePick, ...], Blank("faces", "faces", "Flat or round faces across the plane.")] = ()
    angle: Annotated[Formula, Blank("angle", "angle", "Narrower before the plane; negative is wider.", main=True)] = (
        "2 deg"
    )
    plane: Annotated[PlaneRef, Blank("plane", "neutral plane", "Where the faces stay as they are.")] = PlaneRef(
        plane="top"
    )

    def build(self, context: Context) -> None:
        from ..solid.changing import drafted

        if not self.faces:
            raise CannotBuild("Pick the faces that are to lean.", where="faces")
        angle = context.value(self, "angle")
        if not 1e-5 < abs(angle) < math.radians(80):
            raise CannotBuild("The angle must be above 0° and below 80°.", where="angle")
        plane = context.frame_of(self.plane)
        by_body: dict[str, list[int]] = {}
        for face in context.faces_of(self.faces):
            by_body.setdefault(face.body.id, []).append(face.index)
        for body in list(context.bodies):
            if body.id not in by_body:
                continue
            try:
                made = drafted(self.id, body, by_body[body.id], plane, angle)
            except CannotBuild as problem:
                if problem.where != "angle":
                    raise
                raise self._at_most(problem, lambda a, b=body: drafted("trial", b, by_body[b.id], plane, a), angle)  # type: ignore[misc] # noqa: B904
            context.replace(body, [made])

    def _at_most(self, problem: CannotBuild, attempt: Callable[[float], object], angle: float) -> CannotBuild:
        """The problem with the largest angle that works."""
        degrees = math.floor(abs(math.degrees(largest_that_works(attempt, angle))) * 100) / 100
        if degrees < 0.01:
            return problem
        text = f"{math.copysign(degrees, angle):g} deg"
        raised = CannotBuild(f"{problem.message} The largest that works is about {degrees:g}°.", where="angle")
        raised.fixes = (Advice(problem.message, f"make it {degrees:g}°", {"angle": text}),)
        return raised
