"""The angle between two lines."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any, ClassVar, Literal

from ...errors import BadInput
from ...quantity import ANGLE, Dimension
from ..equations import residuals as kinds
from .base import Figure
from .dimension import Dimensional
from .direction import angle_between

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows


class Angle(Dimensional):
    """An angle. ``flip_a``/``flip_b`` say which way each line is read, ``sign`` which way round."""

    kind: Literal["angle"] = "angle"
    word: ClassVar[str] = "angle"
    symbol: ClassVar[str] = "∠"
    chord: ClassVar[str] = "ka"
    order: ClassVar[int] = 23
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("line", "line"),)
    hint: ClassVar[str] = "It takes two lines that are not parallel."
    measures: ClassVar[Dimension] = ANGLE
    scales: ClassVar[bool] = False

    flip_a: bool = False
    flip_b: bool = False
    sign: float = 1.0

    @classmethod
    def branch(cls, sketch: Sketch, refs: tuple[str, ...]) -> dict[str, Any]:
        # read both lines away from where they meet, so that the angle drawn is the one between them
        meet = meeting_of(sketch, *refs)
        if meet is None:
            raise BadInput("These lines are parallel: there is no angle between them to dimension.")
        flips = []
        for ref in refs:
            a, b = sketch.ends(ref)
            flips.append(math.dist(a, meet) > math.dist(b, meet))
        turn = _turn(angle_between(sketch, *refs), flips[0], flips[1])
        return {"flip_a": flips[0], "flip_b": flips[1], "sign": 1.0 if turn >= 0 else -1.0}

    def in_sector(self, sketch: Sketch, *, flip_a: bool, flip_b: bool) -> Angle:
        """The same lines read in the directions given: another of the four sectors."""
        turn = _turn(angle_between(sketch, *self.on), flip_a, flip_b)
        return self.model_copy(update={"flip_a": flip_a, "flip_b": flip_b, "sign": 1.0 if turn >= 0 else -1.0})

    def check_value(self, value: float) -> None:
        if not 0 < value < 2 * math.pi:
            raise BadInput("An angle must be between 0° and 360°.", where=self.id)

    def measure(self, sketch: Sketch) -> float:
        turn = self.sign * _turn(angle_between(sketch, *self.on), self.flip_a, self.flip_b)
        return turn % (2 * math.pi)

    def equations(self, rows: Rows, sketch: Sketch, value: float) -> None:
        flip = math.pi if self.flip_a != self.flip_b else 0.0
        a, b = self.on
        rows.add(kinds.ANGLE, (*rows.layout.ends(a), *rows.layout.ends(b)), (self.sign * value + flip, 0.0))

    def figure(self, sketch: Sketch) -> Figure:
        meet = meeting_of(sketch, *self.on) or sketch.ends(self.on[0])[0]
        rays = []
        for ref, flip in zip(self.on, (self.flip_a, self.flip_b)):
            a, b = sketch.ends(ref)
            if flip:
                a, b = b, a
            long = math.dist(a, b) or 1.0
            rays.append(((b[0] - a[0]) / long, (b[1] - a[1]) / long))
        if self.sign < 0:
            rays.reverse()
        label = self.label
        if label is None:
            mid = (rays[0][0] + rays[1][0], rays[0][1] + rays[1][1])
            long = math.hypot(*mid) or 1.0
            away = 0.2 * sketch.size
            label = (meet[0] + mid[0] / long * away, meet[1] + mid[1] / long * away)
        return Figure("angular", (meet, rays[0], rays[1]), label)


def _turn(turn: float, flip_a: bool, flip_b: bool) -> float:
    return math.remainder(turn + (math.pi if flip_a != flip_b else 0.0), 2 * math.pi)


def meeting_of(sketch: Sketch, a: str, b: str) -> tuple[float, float] | None:
    """Where two lines (extended) meet."""
    (x0, y0), (x1, y1) = sketch.ends(a)
    (x2, y2), (x3, y3) = sketch.ends(b)
    ux, uy, wx, wy = x1 - x0, y1 - y0, x3 - x2, y3 - y2
    cross = ux * wy - uy * wx
    if abs(cross) <= 1e-9 * math.hypot(ux, uy) * math.hypot(wx, wy):
        return None
    t = ((x2 - x0) * wy - (y2 - y0) * wx) / cross
    return (x0 + t * ux, y0 + t * uy)
