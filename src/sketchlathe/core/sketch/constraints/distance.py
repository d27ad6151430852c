"""Lengths and distances: of a line, between two points, from a point to a line, between parallel lines."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any, ClassVar, Literal

from ..equations import residuals as kinds
from .base import Does, Figure
from .coincident import point_ref
from .dimension import Dimensional

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows

Way = Literal["aligned", "across", "along"]


class Distance(Dimensional):
    """A distance: straight (aligned), horizontal (across) or vertical (along)."""

    kind: Literal["distance"] = "distance"
    word: ClassVar[str] = "distance"
    symbol: ClassVar[str] = "↔"
    does: ClassVar[frozenset[Does]] = frozenset({"sizes"})
    chord: ClassVar[str] = "kd"
    order: ClassVar[int] = 20
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (
        ("line",),
        ("point", "point"),
        ("point", "line"),
        ("line", "line"),
    )
    hint: ClassVar[str] = "It takes a line, two points, a point and a line, or two parallel lines."

    way: Way = "aligned"
    sign: float = 1.0

    @classmethod
    def branch(cls, sketch: Sketch, refs: tuple[str, ...]) -> dict[str, Any]:
        if _to_line(sketch, refs):
            return {"sign": 1.0 if _signed(sketch, refs) >= 0 else -1.0}
        return {}

    @classmethod
    def made(cls, sketch: Sketch, id: str, refs: tuple[str, ...], **fields: Any) -> Distance:
        made = super().made(sketch, id, refs, **fields)
        assert isinstance(made, Distance)
        if made.way == "aligned" or _to_line(sketch, made.on):
            return made
        (ax, ay), (bx, by) = made._between(sketch)
        step = bx - ax if made.way == "across" else by - ay
        return made.model_copy(update={"sign": -1.0 if step < 0 else 1.0})

    def needs_ends(self, sketch: Sketch) -> bool:
        return len(self.on) == 1

    def _point_refs(self, sketch: Sketch) -> tuple[str, str]:
        if len(self.on) == 1:
            return f"{self.on[0]}.start", f"{self.on[0]}.end"
        return point_ref(sketch, self.on[0]), point_ref(sketch, self.on[1])

    def _between(self, sketch: Sketch) -> tuple[tuple[float, float], tuple[float, float]]:
        """The two places measured between."""
        if not _to_line(sketch, self.on):
            a, b = self._point_refs(sketch)
            return sketch.point(a), sketch.point(b)
        p = _first_place(sketch, self.on)
        (ax, ay), (bx, by) = sketch.ends(self.on[1])
        long2 = (bx - ax) ** 2 + (by - ay) ** 2 or 1.0
        t = ((p[0] - ax) * (bx - ax) + (p[1] - ay) * (by - ay)) / long2
        return p, (ax + t * (bx - ax), ay + t * (by - ay))

    def measure(self, sketch: Sketch) -> float:
        (ax, ay), (bx, by) = self._between(sketch)
        if self.way == "across":
            return abs(bx - ax)
        if self.way == "along":
            return abs(by - ay)
        return math.hypot(bx - ax, by - ay)

    def equations(self, rows: Rows, sketch: Sketch, value: float) -> None:
        layout = rows.layout
        if _to_line(sketch, self.on):
            ends = layout.ends(self.on[1])
            if "line" in sketch.tags_of(self.on[0]):
                # the first end of the first line carries the distance, its other end the same one
                for ref in layout.end_refs(self.on[0]):
                    rows.add(kinds.POINT_LINE, (*layout.xy(ref), *ends), (self.sign * value,), (0,))
            else:
                at = layout.xy(point_ref(sketch, self.on[0]))
                rows.add(kinds.POINT_LINE, (*at, *ends), (self.sign * value,), (0,))
            return
        a, b = self._point_refs(sketch)
        if self.way == "aligned":
            rows.distance(a, b, value)
        else:
            i = 0 if self.way == "across" else 1
            rows.difference(layout.xy(a)[i], layout.xy(b)[i], self.sign * value)

    def figure(self, sketch: Sketch) -> Figure:
        a, b = self._between(sketch)
        if self.way == "across":
            direction = (1.0, 0.0)
        elif self.way == "along":
            direction = (0.0, 1.0)
        else:
            long = math.dist(a, b) or 1.0
            direction = ((b[0] - a[0]) / long, (b[1] - a[1]) / long)
        label = self.label or beside(a, b, direction, sketch.size)
        return Figure("linear", (a, b, direction), label)


def _to_line(sketch: Sketch, refs: tuple[str, ...]) -> bool:
    return len(refs) == 2 and "line" in sketch.tags_of(refs[1])


def _first_place(sketch: Sketch, refs: tuple[str, ...]) -> tuple[float, float]:
    if "line" in sketch.tags_of(refs[0]):
        (ax, ay), (bx, by) = sketch.ends(refs[0])
        return ((ax + bx) / 2, (ay + by) / 2)
    return sketch.point(point_ref(sketch, refs[0]))


def _signed(sketch: Sketch, refs: tuple[str, ...]) -> float:
    x, y = _first_place(sketch, refs)
    (ax, ay), (bx, by) = sketch.ends(refs[1])
    return (bx - ax) * (y - ay) - (by - ay) * (x - ax)


def beside(
    a: tuple[float, float], b: tuple[float, float], direction: tuple[float, float], size: float
) -> tuple[float, float]:
    """A first place for the text: outside, a tenth of the sketch away (below, or to the right)."""
    nx, ny = -direction[1], direction[0]
    if ny > 1e-9 or (abs(ny) <= 1e-9 and nx < 0):
        nx, ny = -nx, -ny
    away = max(0.12 * size, 1e-9)
    reach = max(a[0] * nx + a[1] * ny, b[0] * nx + b[1] * ny)
    mx, my = (a[0] + b[0]) / 2, (a[1] + b[1]) / 2
    lift = reach + away - (mx * nx + my * ny)
    return (mx + nx * lift, my + ny * lift)
