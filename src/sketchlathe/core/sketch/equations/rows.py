"""Gathering equations: what curves and constraints say about scalars, before anything is solved.

Scalars are numbered: every point has x and y, every size one. ``same`` and ``pin`` are kept apart from rows
because merging them first halves the system and makes duplicates free to find.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np

from ...errors import NotFound
from . import residuals as kinds

if TYPE_CHECKING:
    from ..document import Sketch

ORIGIN, X_AXIS, Y_AXIS = "origin", "x_axis", "y_axis"
AXIS_ENDS = {X_AXIS: ((0.0, 0.0), (1.0, 0.0)), Y_AXIS: ((0.0, 0.0), (0.0, 1.0))}


class Layout:
    """Which scalar is which: ``layout.xy("c3.start")``, ``layout.size("c3")``."""

    def __init__(self, sketch: Sketch) -> None:
        self._at: dict[str, int] = {}
        self._ends: dict[str, tuple[str, str]] = {}
        self._size: dict[str, int] = {}
        values: list[float] = []
        self.fixed: list[int] = []
        self.is_size: list[int] = []
        self.spans: dict[str, tuple[int, int]] = {}
        self.numbers: list[int] = []  # scalars that are no lengths: they do not scale

        def point(ref: str, at: tuple[float, float]) -> None:
            self._at[ref] = len(values)
            values.extend(at)

        # the origin and the unit axes come first and never move
        point(ORIGIN, (0.0, 0.0))
        for axis, (_, tip) in AXIS_ENDS.items():
            point(f"{axis}.tip", tip)
            self._ends[axis] = (ORIGIN, f"{axis}.tip")
        self.fixed.extend(range(len(values)))
        for curve in sketch.curves:
            first = len(values)
            for name in (*curve.points, *curve.inner):
                point(f"{curve.id}.{name}", curve.place(name))
            for name in curve.sizes:
                self._size[curve.id] = len(values)
                self.is_size.append(len(values))
                values.append(getattr(curve, name))
            if "line" in curve.tags:
                self._ends[curve.id] = (f"{curve.id}.start", f"{curve.id}.end")
            self.spans[curve.id] = (first, len(values))
            if curve.taken:
                self.fixed.extend(range(first, len(values)))
        # what constraints settle for themselves: places of contact, parameters along curves
        for constraint in sketch.constraints:
            if not constraint.solved or not (unknowns := constraint.unknowns):
                continue
            first = len(values)
            for name, value in unknowns.items():
                if isinstance(value, tuple):
                    point(f"{constraint.id}.{name}", value)
                else:
                    self._size[f"{constraint.id}.{name}"] = len(values)
                    self.numbers.append(len(values))
                    values.append(value)
            self.spans[constraint.id] = (first, len(values))
        self.values = np.array(values, float)

    def xy(self, ref: str) -> tuple[int, int]:
        """The two scalars of a point."""
        at = self._at.get(ref)
        if at is None:
            raise NotFound(f"The point {ref} is not in this sketch (any more).", where=ref)
        return at, at + 1

    def ends(self, ref: str) -> tuple[int, int, int, int]:
        """The four scalars of a line's two ends."""
        pair = self._ends.get(ref)
        if pair is None:
            raise NotFound(f"The line {ref} is not in this sketch (any more).", where=ref)
        return (*self.xy(pair[0]), *self.xy(pair[1]))

    def end_refs(self, ref: str) -> tuple[str, str]:
        """The references of a line's two ends."""
        return self._ends[ref]

    def size(self, ref: str) -> int:
        """The scalar of a circle's or arc's radius."""
        at = self._size.get(ref)
        if at is None:
            raise NotFound(f"The circle or arc {ref} is not in this sketch (any more).", where=ref)
        return at

    def place(self, ref: str) -> tuple[float, float]:
        """Where a point is in the drawing."""
        x, y = self.xy(ref)
        return float(self.values[x]), float(self.values[y])


@dataclass
class Same:
    """Scalar ``a`` equals scalar ``b``, said by ``owner``."""

    a: int
    b: int
    owner: str


@dataclass
class Row:
    """One equation of kind ``kind``; lengths among the constants are listed in ``lengths``."""

    kind: int
    variables: tuple[int, ...]
    constants: tuple[float, ...]
    owner: str
    lengths: tuple[int, ...] = ()


@dataclass
class Rows:
    """What a sketch's curves and constraints say. ``owner`` is who is speaking (a curve or constraint id)."""

    layout: Layout
    owner: str = ""
    sames: list[Same] = field(default_factory=list)
    pins: list[tuple[int, str]] = field(default_factory=list)
    rows: list[Row] = field(default_factory=list)

    def same(self, a: int, b: int) -> None:
        """Two scalars are equal."""
        self.sames.append(Same(a, b, self.owner))

    def same_point(self, a: str, b: str) -> None:
        """Two points are at one place."""
        for i, j in zip(self.layout.xy(a), self.layout.xy(b)):
            self.same(i, j)

    def pin(self, scalar: int) -> None:
        """A scalar stays where it is."""
        self.pins.append((scalar, self.owner))

    def add(
        self,
        kind: int,
        variables: Sequence[int],
        constants: Sequence[float] = (),
        lengths: Sequence[int] = (),
    ) -> None:
        """One equation; ``lengths`` says which constants are in mm (they scale with the sketch)."""
        self.rows.append(Row(kind, tuple(variables), tuple(constants), self.owner, tuple(lengths)))

    def on_circle(self, point: str, curve: str) -> None:
        """A point lies on a circle or arc."""
        centre = self.layout.xy(f"{curve}.centre")
        self.add(kinds.ON_CIRCLE, (*self.layout.xy(point), *centre, self.layout.size(curve)))

    def distance(self, a: str, b: str, value: float) -> None:
        """Two points are ``value`` apart."""
        self.add(kinds.DISTANCE, (*self.layout.xy(a), *self.layout.xy(b)), (value,), (0,))

    def linear(self, scalars: Sequence[int], weights: Sequence[float]) -> None:
        """A weighted sum of scalars is zero (at most eight)."""
        self.add(kinds.LINEAR, scalars, weights)

    def on_ellipse(self, point: str, curve: str) -> None:
        """A point lies on an ellipse."""
        self.add(kinds.ON_ELLIPSE, (*self.layout.xy(point), *self.ellipse(curve)))

    def ellipse(self, curve: str) -> tuple[int, ...]:
        """The five scalars of an ellipse: centre, tip, minor half axis."""
        layout = self.layout
        return (*layout.xy(f"{curve}.centre"), *layout.xy(f"{curve}.tip"), layout.size(curve))

    def apart_by_size(self, a: str, b: str, curve: str, factor: float) -> None:
        """Two points are a multiple of a curve's size apart."""
        size = self.layout.size(curve)
        self.add(kinds.TANGENT_ROUND, (*self.layout.xy(a), *self.layout.xy(b), size, size), (factor, 0.0))

    def difference(self, a: int, b: int, value: float) -> None:
        """Scalar ``b`` minus scalar ``a`` is ``value``."""
        self.add(kinds.DIFFERENCE, (a, b), (value,), (0,))
