"""Radius and diameter of a circle or arc."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, ClassVar, Literal

from ..equations import residuals as kinds
from .base import Does, Figure
from .dimension import Dimensional

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows


class _RoundSize(Dimensional):
    """A size that is a multiple of the radius."""

    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("round",),)
    hint: ClassVar[str] = "It takes a circle or arc."
    factor: ClassVar[float]
    form: ClassVar[str]

    def measure(self, sketch: Sketch) -> float:
        return self.factor * sketch.radius(self.on[0])

    def equations(self, rows: Rows, sketch: Sketch, value: float) -> None:
        rows.add(kinds.VALUE, (rows.layout.size(self.on[0]),), (value / self.factor,), (0,))

    def figure(self, sketch: Sketch) -> Figure:
        ref = self.on[0]
        centre, r = sketch.point(f"{ref}.centre"), sketch.radius(ref)
        label = self.label
        if label is None:
            (x, y), (nx, ny) = sketch.anchor(ref)
            away = 0.08 * sketch.size
            label = (x + nx * away, y + ny * away)
        angle = math.atan2(label[1] - centre[1], label[0] - centre[0])
        d = (math.cos(angle), math.sin(angle))
        near = (centre[0] + r * d[0], centre[1] + r * d[1])
        far = (centre[0] - r * d[0], centre[1] - r * d[1])
        return Figure(self.form, (centre, near, far), label)


class Radius(_RoundSize):
    """Radius of a circle or arc."""

    kind: Literal["radius"] = "radius"
    word: ClassVar[str] = "radius"
    symbol: ClassVar[str] = "R"
    does: ClassVar[frozenset[Does]] = frozenset({"sizes"})
    chord: ClassVar[str] = "ku"
    order: ClassVar[int] = 22
    factor: ClassVar[float] = 1.0
    form: ClassVar[str] = "radial"


class Diameter(_RoundSize):
    """Diameter of a circle or arc."""

    kind: Literal["diameter"] = "diameter"
    word: ClassVar[str] = "diameter"
    symbol: ClassVar[str] = "⌀"
    does: ClassVar[frozenset[Does]] = frozenset({"sizes"})
    chord: ClassVar[str] = "ki"
    order: ClassVar[int] = 21
    factor: ClassVar[float] = 2.0
    form: ClassVar[str] = "diametral"
