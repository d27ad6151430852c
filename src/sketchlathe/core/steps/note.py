"""Note: words on a sheet."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from pydantic import Field

from ..blanks import Blank, Formula
from ..errors import CannotBuild
from ..sheet.puts import Note
from .sheet_line import SheetLine

if TYPE_CHECKING:
    from ..making.context import Context


class NoteLine(SheetLine):
    """Words at a place of the paper."""

    kind: Literal["note"] = "note"
    word: ClassVar[str] = "Note"
    chord: ClassVar[str] = "yn"
    synonyms: ClassVar[str] = "text remark words comment"
    order: ClassVar[int] = 4
    icon: ClassVar[str] = "M4 5h15v10h-9l-4 4v-4H4zM7.500 8.500h8M7.500 11.500h5"
    hint: ClassVar[str] = "Write what no size says; its place counts from the paper's lower left corner."
    sentence: ClassVar[str] = "Note {words} at {x}, {y}"

    words: Annotated[str, Blank("text", "words", "What it says."), Field(max_length=400)] = ""
    x: Annotated[Formula, Blank("length", "x", "From the left side of the paper.")] = "30 mm"
    y: Annotated[Formula, Blank("length", "y", "From its lower side.")] = "60 mm"

    def build(self, context: Context) -> None:
        if not self.words.strip():
            raise CannotBuild("Write what the note says.", where="words")
        at = tuple(context.value(self, n) for n in ("x", "y"))
        if not all(0 <= v <= 1200 for v in at):
            raise CannotBuild("A note stands on the paper: 0 to 1200 mm from its lower left corner.", where="x")
        context.put = Note(self.words.strip(), at)  # type: ignore[arg-type]
