"""What moves of a sketch while something is dragged: small to send, and quick to find."""

from __future__ import annotations

from typing import TYPE_CHECKING

from ..quantity.units import ReadIn
from .constraints import Constraint, Dimensional
from .shown import Moved, Place
from .solver.compiling import moved_spans, places
from .solver.drag import Drag
from .view import dimension_text, shown_points

if TYPE_CHECKING:
    from .document import ValuedSketch

UNSEEN = 1e-5
"""What moves by less of the sketch's size is not told: a twentieth of a pixel where five screens show it whole."""

GROWN = 0.005
"""By how much of its size a sketch may change before texts beside it are told anew."""


class Live:
    """A drag as the screen follows it: each answer tells what moved since the one before, by as much as can be seen."""

    def __init__(self, drag: Drag, unit: ReadIn) -> None:
        self._drag, self._unit = drag, unit
        self._told = drag.system.rows.layout.values.copy()  # where the screen has everything, mm
        self._shown, self._size = drag.sketch, drag.sketch.size
        self._places = {c.id: i for i, c in enumerate(drag.sketch.curves)}
        self._speaking: dict[str, list[int]] = {}  # which constraints speak of a curve
        self._first_mark: list[int] = []
        marks = 0
        for i, k in enumerate(drag.sketch.constraints):
            for id in (*k.members(), k.id):
                self._speaking.setdefault(id, []).append(i)
            self._first_mark.append(marks)
            marks += 0 if isinstance(k, Dimensional) else len(k.marks(drag.sketch))
        self._unplaced = [
            i for i, k in enumerate(drag.sketch.constraints) if isinstance(k, Dimensional) and k.label is None
        ]

    def to(self, x: float, y: float, *, everything: bool = False) -> Moved:
        """Follow the pointer to (x, y) mm, and tell; ``everything`` for a screen that may have it anywhere."""
        scalars = self._drag.to(x, y)
        layout = self._drag.system.rows.layout
        unseen = -1.0 if everything else UNSEEN * self._drag.system.scale
        moved = moved_spans(layout, scalars, self._told, unseen)
        for id in moved:
            first, last = layout.spans[id]
            self._told[first:last] = scalars[first:last]
        before, after = self._shown, self._moved(moved, scalars.tolist())
        self._shown = after
        # texts lie along curves without scalars of their own to say so
        moved |= {new.id for old, new in zip(before.curves, after.curves) if new is not old}
        touched = sorted({i for id in moved for i in self._speaking.get(id, ())}.union(self._set_back(after)))
        speaking = [(i, after.constraints[i]) for i in touched]
        return {
            "curves": {id: self._curve(id) for id in self._places.keys() & moved},
            "marks": [
                (self._first_mark[i] + j, mark.at, mark.normal)
                for i, k in speaking
                if not isinstance(k, Dimensional)
                for j, mark in enumerate(k.marks(after))
            ],
            "dimensions": {k.id: self._dimension(k) for _, k in speaking if isinstance(k, Dimensional)},
        }

    def _set_back(self, after: ValuedSketch) -> list[int]:
        """Dimensions whose text has no place of its own, where the sketch grew or shrank: they keep clear of it."""
        if not self._unplaced or abs(after.size - self._size) <= GROWN * self._size:
            return []
        self._size = after.size
        return self._unplaced

    def _moved(self, moved: set[str], values: list[float]) -> ValuedSketch:
        spans, shown = self._drag.system.rows.layout.spans, self._shown
        curves = list(shown.curves)
        for id in moved & self._places.keys():
            curve = curves[self._places[id]]
            curves[self._places[id]] = curve.with_scalars(places(curve.scalars, values, spans[id][0]))
        after = shown.with_curves(curves)
        if moved <= self._places.keys():
            return after

        def settled(k: Constraint) -> Constraint:
            update = places(k.unknowns, values, spans[k.id][0]) if k.id in moved else {}
            return k.model_copy(update=update) if update else k

        return after.with_constraints([settled(k) for k in shown.constraints])

    def _curve(self, id: str) -> tuple[str, list[Place], list[float]]:
        curve = self._shown.curves[self._places[id]]
        return curve.svg(), [curve.place(p) for p in shown_points(curve)], [getattr(curve, n) for n in curve.sizes]

    def _dimension(self, k: Dimensional) -> tuple[tuple[Place, ...], Place, str | None]:
        form, points, label = k.figure(self._shown)
        # a driving dimension says the same all the while
        return points, label, None if k.driving else dimension_text(k, self._shown, self._unit, form)
