"""Two points are one place, or a point lies on a curve."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, ClassVar, Literal

from pydantic import Field

from ..curves.controlled import ControlSpline
from ..curves.spline import Spline
from ..equations import residuals as kinds
from .base import Constraint, Does, Mark

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows


class Coincident(Constraint):
    """Point to point, or point on a line (and its extension), circle, arc, ellipse or spline."""

    kind: Literal["coincident"] = "coincident"
    word: ClassVar[str] = "coincident"
    symbol: ClassVar[str] = "∈"
    does: ClassVar[frozenset[Does]] = frozenset({"joins"})
    chord: ClassVar[str] = "ko"
    order: ClassVar[int] = 1
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (
        ("point", "point"),
        ("point", "line"),
        ("point", "round"),
        ("point", "elliptic"),
        ("point", "spline"),
    )
    hint: ClassVar[str] = "It takes two points, or a point and a curve."

    solved: ClassVar[tuple[str, ...]] = ("along",)
    along: float | None = Field(default=None, allow_inf_nan=False)  # on a spline: number of the piece plus parameter

    @classmethod
    def branch(cls, sketch: Sketch, refs: tuple[str, ...]) -> dict[str, Any]:
        point, target = refs
        curve = None if "point" in sketch.tags_of(target) or target.endswith("_axis") else sketch.curve(target)
        return (
            {"along": curve.nearest(sketch.point(point_ref(sketch, point)))}
            if isinstance(curve, Spline | ControlSpline)
            else {}
        )

    def say(self, rows: Rows, sketch: Sketch) -> None:
        point, target = point_ref(sketch, self.on[0]), self.on[1]
        if "point" in sketch.tags_of(target):
            rows.same_point(point, point_ref(sketch, target))
        else:
            put_on(rows, sketch, point, target, self)

    def marks(self, sketch: Sketch) -> list[Mark]:
        # ends that meet are seen to meet; only a point on a curve needs a tag
        if "point" in sketch.tags_of(self.on[1]):
            return []
        return [Mark(*sketch.anchor(self.on[0]))]


def put_on(rows: Rows, sketch: Sketch, point: str, target: str, owner: Constraint) -> None:
    """The equations that keep a point on a curve."""
    tags = sketch.tags_of(target)
    if "line" in tags:
        rows.add(kinds.POINT_LINE, (*rows.layout.xy(point), *rows.layout.ends(target)), (0.0,), (0,))
    elif "round" in tags:
        rows.on_circle(point, target)
    elif "elliptic" in tags:
        rows.on_ellipse(point, target)
    else:
        curve = sketch.curve(target)
        assert isinstance(curve, Spline | ControlSpline)
        curve.on_curve(rows, point, f"{owner.id}.along", owner.unknowns.get("along", 0.0))


def point_ref(sketch: Sketch, ref: str) -> str:
    """The reference of a point's place: a free-standing point ``c4`` is at ``c4.at``."""
    return f"{ref}.at" if "." not in ref and ref in sketch._by_id else ref
