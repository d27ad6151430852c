"""A point stays half way along a line, or between two points."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, ClassVar, Literal

from ..equations import residuals as kinds
from .base import Constraint, Mark
from .coincident import point_ref

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows


class Midpoint(Constraint):
    """A point at the middle of a line, or of two points."""

    kind: Literal["midpoint"] = "midpoint"
    word: ClassVar[str] = "midpoint"
    symbol: ClassVar[str] = "½"
    chord: ClassVar[str] = "km"
    order: ClassVar[int] = 9
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("point", "line"), ("point", "point", "point"))
    hint: ClassVar[str] = "It takes a point and a line, or three points: the one between goes to the middle."

    @classmethod
    def fits(cls, sketch: Sketch, refs: tuple[str, ...]) -> tuple[str, ...] | None:
        found = super().fits(sketch, refs)
        if found is None or len(found) < 3:
            return found

        def off(ref: str) -> float:
            (px, py), (ax, ay), (bx, by) = (sketch.anchor(r)[0] for r in (ref, *(o for o in found if o != ref)))
            return math.hypot(px - (ax + bx) / 2, py - (ay + by) / 2)

        # the one that is drawn nearest to the middle of the other two is meant
        between = min(found, key=off)
        return (between, *(ref for ref in found if ref != between))

    def needs_ends(self, sketch: Sketch) -> bool:
        return len(self.on) == 2

    def say(self, rows: Rows, sketch: Sketch) -> None:
        px, py = rows.layout.xy(point_ref(sketch, self.on[0]))
        if len(self.on) == 2:
            ax, ay, bx, by = rows.layout.ends(self.on[1])
        else:
            (ax, ay), (bx, by) = (rows.layout.xy(point_ref(sketch, ref)) for ref in self.on[1:])
        rows.add(kinds.MIDDLE, (px, ax, bx))
        rows.add(kinds.MIDDLE, (py, ay, by))

    def marks(self, sketch: Sketch) -> list[Mark]:
        return [Mark(*sketch.anchor(self.on[0]))]
