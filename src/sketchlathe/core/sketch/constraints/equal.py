"""Equal length of two lines, or equal radius of two circles or arcs."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Literal

from ..equations import residuals as kinds
from .base import Constraint, Does
from .coincident import point_ref

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows


class Equal(Constraint):
    """Two lines of one length; two circles or arcs of one radius."""

    kind: Literal["equal"] = "equal"
    word: ClassVar[str] = "equal"
    symbol: ClassVar[str] = "="
    does: ClassVar[frozenset[Does]] = frozenset({"sizes"})
    chord: ClassVar[str] = "ke"
    order: ClassVar[int] = 4
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("line", "line"), ("round", "round"), ("point", "point", "point"))
    hint: ClassVar[str] = (
        "It takes two lines, two circles or arcs, or three points (the first as far from both others)."
    )

    def needs_ends(self, sketch: Sketch) -> bool:
        return "line" in sketch.tags_of(self.on[0])

    def say(self, rows: Rows, sketch: Sketch) -> None:
        a, b = self.on[:2]
        if len(self.on) == 3:
            o, p, q = (rows.layout.xy(point_ref(sketch, ref)) for ref in self.on)
            rows.add(kinds.EQUAL_LENGTH, (*o, *p, *o, *q))
        elif "line" in sketch.tags_of(a):
            rows.add(kinds.EQUAL_LENGTH, (*rows.layout.ends(a), *rows.layout.ends(b)))
        else:
            rows.same(rows.layout.size(a), rows.layout.size(b))
