"""A line of text: its letters' outlines are curves like any other and bound regions."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Literal

from pydantic import Field, model_validator

from ...errors import BadInput
from . import lettering
from .base import XY, Curve, Piece, Size, Snap, Vec

if TYPE_CHECKING:
    from ..equations.rows import Rows

Bend = Literal["", "outside", "inside"]


class Text(Curve):
    """Text of cap height ``height``. Straight: on the baseline from ``at`` to ``to``; bent: about ``to``, its middle
    at ``at``.
    """

    kind: Literal["text"] = "text"
    word: ClassVar[str] = "text"
    points: ClassVar[tuple[str, ...]] = ("at", "to")
    sizes: ClassVar[tuple[str, ...]] = ("height",)
    tags: ClassVar[frozenset[str]] = frozenset({"text"})
    at: Vec
    to: Vec
    height: Size
    words: str = Field(min_length=1, max_length=lettering.MOST_LETTERS)
    font: lettering.FontName = "plain"
    spacing: float = Field(default=1.0, ge=0.5, le=5, allow_inf_nan=False)
    bend: Bend = ""
    mirrored: bool = False

    @model_validator(mode="after")
    def _known(self) -> Text:
        try:
            for letter in self.words:
                lettering.glyph(self.font, letter)
        except BadInput as problem:
            raise ValueError(problem.message) from problem
        if not self.words.strip():
            raise ValueError("A text needs at least one letter.")
        return self

    def _contours(self) -> list[lettering.Contour]:
        return lettering.outlines(
            self.words, self.font, self.height, self.spacing, self.at, self.to, bend=self.bend, mirrored=self.mirrored
        )

    def pieces(self) -> list[Piece]:
        return [piece for contour in self._contours() for piece in contour]

    def snaps(self) -> list[Snap]:
        end = "centre" if self.bend else "end"
        return [Snap(self.at, "end", f"{self.id}.at"), Snap(self.to, end, f"{self.id}.to")]

    def anchor(self) -> tuple[XY, XY]:
        return self.at, (0.0, -1.0)

    def length(self) -> float:
        return lettering.width_of(self.words, self.font, self.spacing) * self.height

    def turned_over(self) -> Text:
        return self.model_copy(update={"mirrored": not self.mirrored})

    def inner_rows(self, rows: Rows) -> None:
        if not self.bend:
            # the baseline is as long as the letters
            width = lettering.width_of(self.words, self.font, self.spacing)
            rows.apart_by_size(f"{self.id}.at", f"{self.id}.to", self.id, width)
