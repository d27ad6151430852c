"""Two points are one place, or a point lies on a line or circle."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Literal

from ..solver import residuals as kinds
from .base import Constraint, Mark

if TYPE_CHECKING:
    from ..document import Sketch
    from ..solver.rows import Rows


class Coincident(Constraint):
    """Point to point, or point on a line (and its extension), circle or arc."""

    kind: Literal["coincident"] = "coincident"
    word: ClassVar[str] = "coincident"
    symbol: ClassVar[str] = "∈"
    chord: ClassVar[str] = "ko"
    order: ClassVar[int] = 1
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("point", "point"), ("point", "line"), ("point", "round"))
    hint: ClassVar[str] = "It takes two points, or a point and a line, circle or arc."

    def say(self, rows: Rows, sketch: Sketch) -> None:
        point, target = self.on
        tags = sketch.tags_of(target)
        if "point" in tags:
            rows.same_point(point_ref(sketch, point), point_ref(sketch, target))
        elif "line" in tags:
            at, ends = rows.layout.xy(point_ref(sketch, point)), rows.layout.ends(target)
            rows.add(kinds.POINT_LINE, (*at, *ends), (0.0,), (0,))
        else:
            rows.on_circle(point_ref(sketch, point), target)

    def marks(self, sketch: Sketch) -> list[Mark]:
        # ends that meet are seen to meet; only a point on a curve needs a tag
        if "point" in sketch.tags_of(self.on[1]):
            return []
        return [Mark(*sketch.anchor(self.on[0]))]


def point_ref(sketch: Sketch, ref: str) -> str:
    """The reference of a point's place: a free-standing point ``c4`` is at ``c4.at``."""
    return f"{ref}.at" if "." not in ref and ref in sketch._by_id else ref
