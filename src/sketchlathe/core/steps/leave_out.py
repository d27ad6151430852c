"""Leave out: bodies that were there to work with, and are not part of what is made."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from ..blanks import Blank
from ..errors import CannotBuild
from ..names import body_maker
from .base import Step

if TYPE_CHECKING:
    from ..making.context import Context


class LeaveOut(Step):
    """Some bodies taken away."""

    kind: Literal["leave_out"] = "leave_out"
    word: ClassVar[str] = "Leave out"
    chord: ClassVar[str] = "bl"
    synonyms: ClassVar[str] = "remove delete body discard"
    group: ClassVar[str] = "body"
    order: ClassVar[int] = 47
    icon: ClassVar[str] = "M5 7l5-2.500l5 2.500v6l-5 2.500l-5-2.500zM14 15l6 6M20 15l-6 6"
    hint: ClassVar[str] = "Pick the bodies that are not to be there any more."
    sentence: ClassVar[str] = "Leave out {bodies}"
    assembles: ClassVar[bool] = True

    bodies: Annotated[tuple[str, ...], Blank("bodies", "bodies", "What is left out.")] = ()

    @staticmethod
    def _failed(context: Context) -> set[str]:
        """The steps before it that could not be built."""
        return {id for id, result in context.done.items() if result.status == "failed"}

    def key_parts(self, context: Context) -> Any:
        return [*super().key_parts(context), sorted(self._failed(context))]

    def build(self, context: Context) -> None:
        """What stands after a step that failed is not what was worked with: that goes all the same, for what is left of
        a cover that could not be made on a tray is nothing, not the tray.
        """
        if not self.bodies:
            raise CannotBuild("Pick the bodies to leave out.", where="bodies")
        failed = self._failed(context)
        made = [id for id in self.bodies if body_maker(id) not in failed]
        gone = {b.id for b in context.bodies_of(made)} if made else set()
        if len(gone) == len(context.bodies) and not failed:
            raise CannotBuild("This would leave nothing.", where="bodies")
        context.bodies = tuple(b for b in context.bodies if b.id not in gone)
