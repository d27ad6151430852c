"""Show: a part looked at from one side, with what is hidden; and what all views have in common."""

from __future__ import annotations

from collections.abc import Collection
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..advice import Advice
from ..blanks import Blank, Formula
from ..frames import Triple
from ..sheet.puts import SIDES, View
from .sheet_line import SheetLine

if TYPE_CHECKING:
    from ..making.context import Context

FROM = {
    "front": "from the front", "above": "from above", "left": "from the left", "right": "from the right",
    "below": "from below", "behind": "from behind", "corner": "from a corner",
}  # fmt: skip


class ViewLine(SheetLine):
    """A line that shows a part."""

    part: Annotated[str, Blank("part", "part", "What is shown."), Field(max_length=20)] = ""
    hidden: Annotated[
        Literal["usual", "dashed", "out"],
        Blank(
            "choice", "hidden edges", "Edges behind something.", optional=True,
            words={
                "usual": "hidden edges as usual", "dashed": "hidden edges dashed", "out": "hidden edges left out",
            },
        ),
    ] = "usual"  # fmt: skip
    x: Annotated[Formula, Blank("length", "across", "From where it would stand.", optional=True)] = ""
    y: Annotated[Formula, Blank("length", "up", "From where it would stand.", optional=True)] = ""

    def brings(self) -> str:
        return self.part

    def key_parts(self, context: Context) -> Any:
        if not self.part:
            return super().key_parts(context)
        built = context.part_built(self.part, "part")
        return [*super().key_parts(context), built.solid_key, [r.message for r in built.failed]]

    def box(self, context: Context, part: str) -> tuple[Triple, Triple]:
        """The corners of what is shown, in space."""
        from ..solid.measuring import box_of

        boxes = [box_of(b.shape) for b in self.shown_part(context, part).bodies]
        low, high = (tuple(f(b[k][i] for b in boxes) for i in range(3)) for k, f in ((0, min), (1, max)))
        return low, high  # type: ignore[return-value]

    def moved(self, context: Context) -> tuple[float, float]:
        """How far somebody moved it on the paper, mm."""
        across, up = (context.value(self, n) if getattr(self, n).strip() else 0.0 for n in ("x", "y"))
        return across, up

    def better_defaults(self, context: Context, touched: Collection[str]) -> dict[str, Any]:
        """The part that the sheet shows already."""
        shown = [s.part for s in self.others(context)]
        return {"part": shown[-1]} if "part" not in touched and shown else {}

    def others(self, context: Context) -> list[ViewLine]:
        """The other views of the sheet."""
        steps = context.model.part_of(self.id).steps
        return [s for s in steps if isinstance(s, ViewLine) and s.id != self.id and s.part]


class ShowLine(ViewLine):
    """A view of a part."""

    kind: Literal["show"] = "show"
    word: ClassVar[str] = "Show"
    chord: ClassVar[str] = "yv"
    synonyms: ClassVar[str] = "view projection front top side isometric elevation plan"
    order: ClassVar[int] = 2
    icon: ClassVar[str] = "M3.500 5h16v13h-16zM7 8.500h9v6H7zM11.500 8.500v6"
    begins: ClassVar[bool] = True
    hint: ClassVar[str] = "Choose a part and the side that it is looked at from."
    sentence: ClassVar[str] = "Show {part} {side}[, {hidden}][, moved {x} across][, {y} up]"

    side: Annotated[
        Literal["front", "above", "left", "right", "below", "behind", "corner"],
        Blank("choice", "side", "Where it is looked at from.", words=FROM),
    ] = "front"

    def better_defaults(self, context: Context, touched: Collection[str]) -> dict[str, Any]:
        """The part that the sheet shows already, from a side that it does not show yet."""
        better = super().better_defaults(context, touched)
        if "side" not in touched:
            part = better.get("part", self.part)
            there = {s.side for s in self.others(context) if isinstance(s, ShowLine) and s.part == part}
            better["side"] = next((side for side in FROM if side not in there), "front")
        return better

    def build(self, context: Context) -> None:
        from ..solid.hidden_lines import seen

        built = self.shown_part(context, self.part)
        if built.failed:
            text = f"{context.part_name(self.part)} is not whole: {built.failed[0].message}"
            context.advice.append(Advice(text))
        frame, (low, high) = SIDES[self.side], self.box(context, self.part)
        hidden = self.hidden == "dashed" or (self.hidden == "usual" and self.side != "corner")
        context.put = View(
            self.part, self.side, frame, seen(built.bodies, frame), low, high, hidden, moved=self.moved(context)
        )
