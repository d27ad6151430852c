"""Curves at one distance from others."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

from ..curves.line import Line
from ..equations import residuals as kinds
from .base import Figure
from .copies import CurveId
from .dimension import Dimensional

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows

RefText = Annotated[str, Field(max_length=40)]


class Joint(BaseModel):
    """Where offset curves end: a source's end and its target's, and those of the next one at a join."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    first: RefText
    first_target: RefText
    second: RefText = ""
    second_target: RefText = ""
    sharp: bool = False


class Offset(Dimensional):
    """A chain parallel to another. Every scalar of a target follows, so targets have no equations of their own."""

    kind: Literal["offset"] = "offset"
    word: ClassVar[str] = "offset"
    symbol: ClassVar[str] = "⇉"
    order: ClassVar[int] = 44
    takes: ClassVar[tuple[tuple[str, ...], ...]] = ()
    sources: tuple[CurveId, ...] = Field(min_length=1, max_length=3000)
    targets: tuple[CurveId, ...] = Field(min_length=1, max_length=3000)
    signs: tuple[float, ...]
    joints: tuple[Joint, ...] = ()

    def members(self) -> frozenset[str]:
        return frozenset((*self.sources, *self.targets))

    def followers(self) -> tuple[str, ...]:
        """Curves whose every scalar is said here."""
        return self.targets

    def _sign(self, ref: str) -> float:
        return self.signs[self.sources.index(ref.partition(".")[0])]

    def equations(self, rows: Rows, sketch: Sketch, value: float) -> None:
        layout = rows.layout
        for source, target, sign in zip(self.sources, self.targets, self.signs):
            if "round" in sketch.tags_of(source):
                rows.same_point(f"{source}.centre", f"{target}.centre")
                rows.difference(layout.size(source), layout.size(target), sign * value)
        for joint in self.joints:
            if joint.second_target:
                rows.same_point(joint.first_target, joint.second_target)
            if joint.sharp:
                for ref, target in ((joint.first, joint.first_target), (joint.second, joint.second_target)):
                    self._along(rows, sketch, ref, target, value)
                continue
            # a smooth join or a free end: straight out from the source's end
            lined = next((r for r in (joint.first, joint.second) if r and self._is_line(sketch, r)), "")
            ref = lined or joint.first
            id = ref.partition(".")[0]
            p, q = layout.xy(ref), layout.xy(joint.first_target)
            if lined:
                ends = layout.ends(id)
                rows.add(kinds.SYMMETRIC_ALONG, (*p, *q, *ends), (0.0,))
                rows.add(kinds.STEP_ACROSS, (*p, *q, *ends), (self._sign(ref) * value,), (0,))
            else:
                centre = layout.xy(f"{id}.centre")
                rows.add(kinds.ANGLE, (*centre, *p, *centre, *q), (0.0, 0.0))
                rows.on_circle(joint.first_target, joint.first_target.partition(".")[0])

    @staticmethod
    def _is_line(sketch: Sketch, ref: str) -> bool:
        return isinstance(sketch.curve(ref.partition(".")[0]), Line)

    def _along(self, rows: Rows, sketch: Sketch, ref: str, target: str, value: float) -> None:
        """The target's end lies on its own curve."""
        id = ref.partition(".")[0]
        if self._is_line(sketch, ref):
            at, ends = rows.layout.xy(target), rows.layout.ends(id)
            rows.add(kinds.POINT_LINE, (*at, *ends), (self._sign(ref) * value,), (0,))
        else:
            rows.on_circle(target, target.partition(".")[0])

    def _places(self, sketch: Sketch) -> tuple[tuple[float, float], tuple[float, float]]:
        """A place on the first source and the one beside it on its target."""
        source, target = self.sources[0], self.targets[0]
        (x, y), (nx, ny) = sketch.anchor(source)
        if "round" in sketch.tags_of(source):
            d = sketch.radius(target) - sketch.radius(source)
        else:
            (ax, ay), (bx, by) = sketch.ends(target)
            long = math.dist((ax, ay), (bx, by)) or 1.0
            d = ((ax - x) * (by - ay) - (ay - y) * (bx - ax)) / long
            u, v = (bx - ax) / long, (by - ay) / long
            return (x, y), (x + v * d, y - u * d)
        return (x, y), (x + nx * d, y + ny * d)

    def measure(self, sketch: Sketch) -> float:
        return math.dist(*self._places(sketch))

    def figure(self, sketch: Sketch) -> Figure:
        a, b = self._places(sketch)
        long = math.dist(a, b) or 1.0
        u = ((b[0] - a[0]) / long, (b[1] - a[1]) / long)
        shift = 0.05 * sketch.size
        label = self.label or ((a[0] + b[0]) / 2 - u[1] * shift, (a[1] + b[1]) / 2 + u[0] * shift)
        return Figure("linear", (a, b, u), label)
