"""What the lines of a sheet have in common: they put something on paper, and make no solid."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

from ..errors import CannotBuild
from .base import Step

if TYPE_CHECKING:
    from ..making.context import Context
    from ..making.results import PartBuild


class SheetLine(Step):
    """A line of a sheet."""

    group: ClassVar[str] = "sheet"
    makes_solid: ClassVar[bool] = False
    on_sheet: ClassVar[bool] = True

    def shown_part(self, context: Context, part: str) -> PartBuild:
        """The part that a line is about, as it is built now. Raises ``CannotBuild`` where it has no solid."""
        if not part:
            raise CannotBuild("Choose the part that the sheet is of.", where="part")
        built = context.part_built(part, "part")
        if not built.bodies:
            failed = built.failed
            why = f": {failed[0].message}" if failed else ": it has no solid yet."
            raise CannotBuild(f"{context.part_name(part)} cannot be shown{why}", where="part")
        return built
