"""Two points mirror each other across a line."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Literal

from ..solver import residuals as kinds
from .base import Constraint, Mark
from .coincident import point_ref

if TYPE_CHECKING:
    from ..document import Sketch
    from ..solver.rows import Rows


class Symmetric(Constraint):
    """Two points, one on each side of a line, at the same distance."""

    kind: Literal["symmetric"] = "symmetric"
    word: ClassVar[str] = "symmetric"
    symbol: ClassVar[str] = "⌯"
    chord: ClassVar[str] = "ks"
    order: ClassVar[int] = 11
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("point", "point", "line"),)
    hint: ClassVar[str] = "It takes two points and a line."

    def say(self, rows: Rows, sketch: Sketch) -> None:
        a, b = (rows.layout.xy(point_ref(sketch, ref)) for ref in self.on[:2])
        ends = rows.layout.ends(self.on[2])
        rows.add(kinds.SYMMETRIC_ALONG, (*a, *b, *ends))
        rows.add(kinds.SYMMETRIC_ACROSS, (*a, *b, *ends))

    def marks(self, sketch: Sketch) -> list[Mark]:
        return [Mark(*sketch.anchor(ref)) for ref in self.on[:2]]
