"""A point stays half way along a line."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Literal

from ..solver import residuals as kinds
from .base import Constraint, Mark
from .coincident import point_ref

if TYPE_CHECKING:
    from ..document import Sketch
    from ..solver.rows import Rows


class Midpoint(Constraint):
    """A point at the middle of a line."""

    kind: Literal["midpoint"] = "midpoint"
    word: ClassVar[str] = "midpoint"
    symbol: ClassVar[str] = "½"
    chord: ClassVar[str] = "km"
    order: ClassVar[int] = 9
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("point", "line"),)
    hint: ClassVar[str] = "It takes a point and a line."

    def needs_ends(self, sketch: Sketch) -> bool:
        return True

    def say(self, rows: Rows, sketch: Sketch) -> None:
        px, py = rows.layout.xy(point_ref(sketch, self.on[0]))
        ax, ay, bx, by = rows.layout.ends(self.on[1])
        rows.add(kinds.MIDDLE, (px, ax, bx))
        rows.add(kinds.MIDDLE, (py, ay, by))

    def marks(self, sketch: Sketch) -> list[Mark]:
        return [Mark(*sketch.anchor(self.on[0]))]
