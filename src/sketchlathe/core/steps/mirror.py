"""Mirror: steps or whole bodies across a plane."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from ..blanks import Blank, PlaneRef
from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    from ..making.context import Context

WHAT = {"bodies": "everything", "some": "the bodies", "steps": "the steps"}


class Mirror(Step):
    """The mirror image of bodies, or of what some steps did."""

    kind: Literal["mirror"] = "mirror"
    word: ClassVar[str] = "Mirror"
    chord: ClassVar[str] = "rm"
    synonyms: ClassVar[str] = "reflect symmetric"
    group: ClassVar[str] = "repeat"
    order: ClassVar[int] = 30
    icon: ClassVar[str] = "M11.500 2v19M3 6l6 5.500L3 17zM20 6l-6 5.500l6 5.500z"
    hint: ClassVar[str] = "Pick or choose what to mirror, then a plane or flat face."
    sentence: ClassVar[str] = "Mirror {what}[ {steps}][ {bodies}] across {plane}[, {unite}]"
    assembles: ClassVar[bool] = True
    usual_there: ClassVar[Mapping[str, str]] = {"what": "some", "unite": "separate"}

    what: Annotated[
        Literal["bodies", "some", "steps"], Blank("choice", "what", "All bodies, some, or what steps did.", WHAT)
    ] = "bodies"
    steps: Annotated[
        tuple[str, ...],
        Blank("steps", "steps", "Pick what they made, or choose the steps to mirror.", when=("what", ("steps",))),
    ] = ()
    bodies: Annotated[
        tuple[str, ...], Blank("bodies", "bodies", "Choose the bodies to mirror.", when=("what", ("some",)))
    ] = ()
    plane: Annotated[PlaneRef, Blank("plane", "plane", "Pick an origin plane, a flat face or a datum plane.")] = (
        PlaneRef()
    )
    unite: Annotated[
        Literal["united", "separate"],
        Blank("choice", "result", "", {"united": "united with the original", "separate": "as separate bodies"},
              when=("what", ("bodies", "some"))),
    ] = "united"  # fmt: skip

    def build(self, context: Context) -> None:
        from ..solid.transforms import reflection
        from .mirroring import repeat_bodies, repeat_steps

        motion = reflection(context.frame_of(self.plane))

        def rename(number: int) -> object:
            return lambda atom: f"{self.id}({atom})"

        if self.what == "steps":
            if not self.steps:
                raise CannotBuild("Choose at least one step to mirror.", where="steps")
            repeat_steps(context, self, self.steps, [motion], rename, "steps")  # type: ignore[arg-type]
            return
        bodies = context.bodies_of(self.bodies if self.what == "some" else ())
        if not bodies:
            raise CannotBuild("There is no body to mirror yet.", where="bodies")
        repeat_bodies(context, self, bodies, [motion], rename, self.unite == "united")  # type: ignore[arg-type]
