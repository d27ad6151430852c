"""Two lines lie on one straight line."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Literal

from ..equations import residuals as kinds
from .base import Constraint

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows


class Collinear(Constraint):
    """Both ends of the second line lie on the first, extended."""

    kind: Literal["collinear"] = "collinear"
    word: ClassVar[str] = "collinear"
    symbol: ClassVar[str] = "⋯"
    chord: ClassVar[str] = "kl"
    order: ClassVar[int] = 6
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("line", "line"),)
    hint: ClassVar[str] = "It takes two lines."

    def say(self, rows: Rows, sketch: Sketch) -> None:
        base, other = self.on
        if other.endswith("_axis"):
            base, other = other, base
        for end in rows.layout.end_refs(other):
            rows.add(kinds.POINT_LINE, (*rows.layout.xy(end), *rows.layout.ends(base)), (0.0,), (0,))
