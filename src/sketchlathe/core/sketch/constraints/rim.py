"""A distance measured to the near or far side of a circle or arc (to its centre it is an ordinary distance)."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any, ClassVar, Literal

from ..equations import residuals as kinds
from .base import Figure
from .coincident import point_ref
from .dimension import Dimensional
from .distance import beside

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows

Rim = Literal["near", "far"]


class RimDistance(Dimensional):
    """From the rim of a circle to a line, a point, or another circle's rim."""

    kind: Literal["rim_distance"] = "rim_distance"
    word: ClassVar[str] = "distance"
    symbol: ClassVar[str] = "↔"
    chord: ClassVar[str] = "kj"
    order: ClassVar[int] = 27
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("round", "line"), ("round", "round"), ("round", "point"))
    hint: ClassVar[str] = "It takes a circle or arc and a line, point, circle or arc."

    rim: Rim = "near"
    sign: float = 1.0

    @classmethod
    def branch(cls, sketch: Sketch, refs: tuple[str, ...]) -> dict[str, Any]:
        if "line" not in sketch.tags_of(refs[1]):
            return {}
        (ax, ay), (bx, by) = sketch.ends(refs[1])
        cx, cy = sketch.point(f"{refs[0]}.centre")
        return {"sign": 1.0 if (bx - ax) * (cy - ay) - (by - ay) * (cx - ax) >= 0 else -1.0}

    @property
    def _out(self) -> float:
        return 1.0 if self.rim == "far" else -1.0

    def _ends(self, sketch: Sketch) -> tuple[tuple[float, float], tuple[float, float]]:
        """The two places measured between."""
        a, b = self.on
        (cx, cy), r = sketch.point(f"{a}.centre"), sketch.radius(a)
        tags = sketch.tags_of(b)
        other = 0.0
        if "line" in tags:
            (ax, ay), (bx, by) = sketch.ends(b)
            t = ((cx - ax) * (bx - ax) + (cy - ay) * (by - ay)) / ((bx - ax) ** 2 + (by - ay) ** 2)
            q = (ax + t * (bx - ax), ay + t * (by - ay))
        elif "point" in tags:
            q = sketch.point(point_ref(sketch, b))
        else:
            q, other = sketch.point(f"{b}.centre"), sketch.radius(b)
        long = math.dist((cx, cy), q) or 1e-300
        u = ((q[0] - cx) / long, (q[1] - cy) / long)
        out = self._out
        return (cx - out * r * u[0], cy - out * r * u[1]), (q[0] + out * other * u[0], q[1] + out * other * u[1])

    def measure(self, sketch: Sketch) -> float:
        return math.dist(*self._ends(sketch))

    def equations(self, rows: Rows, sketch: Sketch, value: float) -> None:
        a, b = self.on
        layout, tags = rows.layout, sketch.tags_of(b)
        centre, size, f = layout.xy(f"{a}.centre"), layout.size(a), -self._out
        if "line" in tags:
            rows.add(kinds.TANGENT_LINE, (*centre, *layout.ends(b), size), (self.sign, f, value), (2,))
        elif "point" in tags:
            at = layout.xy(point_ref(sketch, b))
            rows.add(kinds.TANGENT_ROUND, (*centre, *at, size, size), (f, 0.0, value), (2,))
        else:
            other = layout.xy(f"{b}.centre")
            rows.add(kinds.TANGENT_ROUND, (*centre, *other, size, layout.size(b)), (f, f, value), (2,))

    def figure(self, sketch: Sketch) -> Figure:
        a, b = self._ends(sketch)
        long = math.dist(a, b) or 1.0
        direction = ((b[0] - a[0]) / long, (b[1] - a[1]) / long)
        return Figure("linear", (a, b, direction), self.label or beside(a, b, direction, sketch.size))
