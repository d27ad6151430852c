"""Paper: what a sheet is drawn on, how its views are arranged, and what its title block says."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from pydantic import Field

from ..blanks import Blank
from ..sheet.puts import SCALES, SIZES, Paper, scale_words
from .sheet_line import SheetLine

if TYPE_CHECKING:
    from ..making.context import Context

_SCALES = {"": "the largest scale that fits", **{scale_words(s): scale_words(s) for s in SCALES}}
_Word = Annotated[str, Field(max_length=80)]


class PaperLine(SheetLine):
    """The paper of a sheet. Without this line it is A4, lying."""

    kind: Literal["paper"] = "paper"
    word: ClassVar[str] = "Paper"
    chord: ClassVar[str] = "yp"
    synonyms: ClassVar[str] = "title block frame scale format projection size"
    order: ClassVar[int] = 1
    icon: ClassVar[str] = "M6 3.500h8l4 4v12H6zM14 3.500v4h4M12 19.500v-4h6"
    hint: ClassVar[str] = "Choose a size, which way it lies, and what its title block says."
    sentence: ClassVar[str] = (
        "Paper {size} {way}, {angle}, at {scale}[, titled {heading}][, number {number}][, drawn by {by}]"
    )

    size: Annotated[
        Literal["a4", "a3", "a2", "a1", "a0"], Blank("choice", "size", words={s: s.upper() for s in SIZES})
    ] = "a4"
    way: Annotated[
        Literal["lying", "upright"], Blank("choice", "which way", words={"lying": "lying", "upright": "upright"})
    ] = "lying"
    angle: Annotated[
        Literal["first", "third"],
        Blank(
            "choice", "arrangement", "Where the view from above stands: below the one from the front, or above it.",
            words={"first": "first angle", "third": "third angle"},
        ),
    ] = "first"  # fmt: skip
    scale: Annotated[
        Literal[tuple(_SCALES)],  # type: ignore[valid-type]
        Blank("choice", "scale", words=_SCALES),
    ] = ""
    heading: Annotated[_Word, Blank("text", "title", "What the sheet is of.", optional=True)] = ""
    number: Annotated[_Word, Blank("text", "number", "The number of the drawing.", optional=True)] = ""
    by: Annotated[_Word, Blank("text", "drawn by", "Who drew it.", optional=True)] = ""

    def build(self, context: Context) -> None:
        wide, high = SIZES[self.size]
        if self.way == "lying":
            wide, high = high, wide
        scale = next((s for s in SCALES if scale_words(s) == self.scale), 0.0)
        context.put = Paper(
            wide, high, self.size.upper(), self.angle == "first", scale, self.heading.strip(), self.number.strip(),
            self.by.strip(),
        )  # fmt: skip
