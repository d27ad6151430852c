"""Dragging: a held system that follows the pointer as far as the constraints let it."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np

from ...errors import BadInput
from .compiling import compile_sketch, with_scalars
from .newton import drag_step

if TYPE_CHECKING:
    from ..document import ValuedSketch

ROUNDS = 8  # a far jump of the pointer is followed in several goes
WEIGHTS = (1000.0, 30.0, 1.0)
SIZE_WEIGHT = 100.0  # else a free slot's radius collapses while its end is dragged


class Drag:
    """One drag of ``ref`` (a point, or a curve by its body) grabbed at ``at`` (mm)."""

    def __init__(self, sketch: ValuedSketch, ref: str, at: tuple[float, float]) -> None:
        self.sketch = sketch
        self.system = compile_sketch(sketch)
        self.x = self.system.start(self.system.rows.layout.values)
        layout, variable = self.system.rows.layout, self.system.variable
        self._grab: list[tuple[int, float, int]] = []  # variable, offset from the pointer, coordinate
        self._rim: int | None = None
        tags = sketch.tags_of(ref)
        if "point" in tags:
            points = [ref if "." in ref else f"{ref}.at"]
        else:
            curve = sketch.curve(ref)
            if "round" in curve.tags and "open" not in curve.tags:
                self._rim = int(variable[layout.size(ref)])
                self._centre = layout.xy(f"{ref}.centre")
                points = []
            else:
                points = [f"{ref}.{name}" for name in curve.points]
        for point in points:
            for coordinate, scalar in enumerate(layout.xy(point)):
                number = int(variable[scalar])
                if number < self.system.count:
                    self._grab.append((number, float(layout.values[scalar]) - at[coordinate], coordinate))
        self._last = self.system.finish(self.x)

    def to(self, x: float, y: float) -> np.ndarray:
        """Follow the pointer to (x, y) mm; returns the scalars (mm) as they now stand."""
        if not (math.isfinite(x) and math.isfinite(y)) or max(abs(x), abs(y)) > 1e6:
            raise BadInput("A point cannot be dragged there.")
        system = self.system
        if self._rim is not None:
            cx, cy = (self._last[i] for i in self._centre)
            wanted = {self._rim: max(math.hypot(x - cx, y - cy), 1e-6 * system.scale)}
            if self._rim >= system.count:
                wanted = {}
        else:
            wanted = {number: (x, y)[c] + offset for number, offset, c in self._grab}
        if not wanted:
            return self._last
        dragged = np.array(list(wanted), np.int64)
        target = np.array(list(wanted.values())) / system.scale
        for _ in range(ROUNDS):
            if not self._step(dragged, target):
                break
        self._last = system.finish(self.x)
        return self._last

    def _step(self, dragged: np.ndarray, target: np.ndarray) -> bool:
        """Up to three accepted moves; whether more may follow."""
        moved = np.zeros(1, np.int64)
        for weight in WEIGHTS:
            h = np.ones(self.system.count)
            h[self.system.is_size] = SIZE_WEIGHT
            h[dragged] = weight
            left = drag_step(*self.system.arguments(), self.x, h, dragged, target, moved)
            if moved[0] or left < 1e-9:
                return left > 1e-9
        return False

    def result(self) -> ValuedSketch:
        """The sketch where the drag left it."""
        return with_scalars(self.sketch, self.system, self._last)
