"""Sizes that belong to one curve: an ellipse's second half axis, a text's height, the length of an arc."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, ClassVar, Literal

from ..curves.arc import Arc
from ..equations import residuals as kinds
from .base import Figure
from .dimension import Dimensional

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows


class HalfAxis(Dimensional):
    """The half axis of an ellipse across its tip's."""

    kind: Literal["half_axis"] = "half_axis"
    word: ClassVar[str] = "half axis"
    symbol: ClassVar[str] = "b"
    chord: ClassVar[str] = "kb"
    order: ClassVar[int] = 24
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("elliptic",),)
    hint: ClassVar[str] = "It takes an ellipse or elliptical arc."

    def measure(self, sketch: Sketch) -> float:
        return float(sketch.curve(self.on[0]).scalars["minor"])

    def equations(self, rows: Rows, sketch: Sketch, value: float) -> None:
        rows.add(kinds.VALUE, (rows.layout.size(self.on[0]),), (value,), (0,))

    def figure(self, sketch: Sketch) -> Figure:
        (cx, cy), (tx, ty) = (sketch.point(f"{self.on[0]}.{name}") for name in ("centre", "tip"))
        long = math.hypot(tx - cx, ty - cy) or 1.0
        n = (-(ty - cy) / long, (tx - cx) / long)
        minor = self.measure(sketch)
        end = (cx + n[0] * minor, cy + n[1] * minor)
        shift = 0.15 * sketch.size
        label = self.label or ((cx + end[0]) / 2 - n[1] * shift, (cy + end[1]) / 2 + n[0] * shift)
        return Figure("linear", ((cx, cy), end, n), label)


class LetterHeight(Dimensional):
    """How high the capitals of a text are."""

    kind: Literal["letter_height"] = "letter_height"
    word: ClassVar[str] = "letter height"
    symbol: ClassVar[str] = "H"
    chord: ClassVar[str] = "kw"
    order: ClassVar[int] = 25
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("text",),)
    hint: ClassVar[str] = "It takes a text."

    def measure(self, sketch: Sketch) -> float:
        return float(sketch.curve(self.on[0]).scalars["height"])

    def equations(self, rows: Rows, sketch: Sketch, value: float) -> None:
        rows.add(kinds.VALUE, (rows.layout.size(self.on[0]),), (value,), (0,))

    def figure(self, sketch: Sketch) -> Figure:
        curve = sketch.curve(self.on[0])
        (ax, ay), (bx, by) = curve.place("at"), curve.place("to")
        long = math.hypot(bx - ax, by - ay) or 1.0
        u = ((bx - ax) / long, (by - ay) / long)
        bend = getattr(curve, "bend", "")
        n = (-u[1], u[0]) if not bend else ((-u[0], -u[1]) if bend == "outside" else u)
        height = self.measure(sketch)
        end = (ax + n[0] * height, ay + n[1] * height)
        label = self.label or ((ax + end[0]) / 2 - n[1] * height, (ay + end[1]) / 2 + n[0] * height)
        return Figure("linear", ((ax, ay), end, n), label)


class ArcLength(Dimensional):
    """The length of an arc along its curve."""

    kind: Literal["arc_length"] = "arc_length"
    word: ClassVar[str] = "arc length"
    symbol: ClassVar[str] = "⌢"
    chord: ClassVar[str] = "kf"
    order: ClassVar[int] = 26
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("arc",),)
    hint: ClassVar[str] = "It takes an arc."

    def needs_ends(self, sketch: Sketch) -> bool:
        return True

    def measure(self, sketch: Sketch) -> float:
        return sketch.curve(self.on[0]).length()

    def equations(self, rows: Rows, sketch: Sketch, value: float) -> None:
        arc = sketch.curve(self.on[0])
        assert isinstance(arc, Arc)
        a0, a1 = arc.angles()
        layout = rows.layout
        places = (v for name in ("centre", "start", "end") for v in layout.xy(f"{arc.id}.{name}"))
        rows.add(kinds.ARC_LENGTH, (*places, layout.size(arc.id)), (value, a1 - a0), (0,))

    def figure(self, sketch: Sketch) -> Figure:
        arc = sketch.curve(self.on[0])
        assert isinstance(arc, Arc)
        a0, a1 = arc.angles()
        (x, y), (nx, ny) = sketch.anchor(arc.id)
        away = 0.08 * sketch.size
        rays = tuple((math.cos(a), math.sin(a)) for a in (a0, a1))
        return Figure("angular", (arc.centre, *rays), self.label or (x + nx * away, y + ny * away))
