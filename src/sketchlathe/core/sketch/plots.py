"""Curves that two formulas in t draw: what a sketch remembers of them, and the places they go through."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from ..errors import BadInput
from ..quantity import LENGTH, LengthUnit, Quantity, evaluate, names_in
from .curves.base import LIMIT, XY

Typed = Annotated[str, Field(max_length=400)]


class Formulas(BaseModel):
    """``x`` and ``y`` are formulas in t, which runs from ``start`` to ``end``: plain numbers, angles or lengths."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    x: Typed
    y: Typed
    start: Typed = "0"
    end: Typed = "1"

    def texts(self) -> dict[str, str]:
        """The four formulas by name."""
        return {"x": self.x, "y": self.y, "start": self.start, "end": self.end}

    def names(self) -> frozenset[str]:
        """The parameters they use. Raises ``BadInput``."""
        return frozenset().union(*(names_in(text) for text in self.texts().values())) - {"t"}

    def curve(self, values: Mapping[str, Quantity], unit: LengthUnit) -> Callable[[float], XY]:
        """The place (mm) at a share, 0 to 1, of the way from ``start`` to ``end``. Both raise ``BadInput`` with the
        formula's name.
        """
        if "t" in values:
            raise BadInput("There is a parameter called t: rename it, for here t runs along the curve.", where="x")
        low, high = (_quantity(values, unit, text, name) for name, text in (("start", self.start), ("end", self.end)))
        if low.dimension != high.dimension and not (low.bare and low.value == 0):
            raise BadInput("Both ends of t must be numbers, or angles, or lengths.", where="end")
        if abs(high.value - low.value) < 1e-12:
            raise BadInput("t must run from one value to another.", where="end")

        def at(share: float) -> XY:
            t = Quantity(low.value + (high.value - low.value) * share, high.dimension)
            place = []
            for text, where in ((self.x, "x"), (self.y, "y")):
                try:
                    v = evaluate(text, {**values, "t": t}, wanted=LENGTH, length_unit=unit).value
                except BadInput as problem:
                    problem.where = where
                    raise
                if not math.isfinite(v) or abs(v) > LIMIT:
                    raise BadInput(f"At t = {t.value:.6g} this leaves the drawing: {text[:60]}.", where=where)
                place.append(v)
            return place[0], place[1]

        return at


class Plot(Formulas):
    """Formulas with the splines they draw, in their order: the sketch keeps these where the formulas say."""

    curves: tuple[Annotated[str, Field(max_length=20)], ...] = Field(min_length=1, max_length=2)


def _quantity(values: Mapping[str, Quantity], unit: LengthUnit, text: str, where: str) -> Quantity:
    try:
        return evaluate(text, values, wanted=None, length_unit=unit)
    except BadInput as problem:
        problem.where = where
        raise


def reach(at: Callable[[float], XY]) -> tuple[float, bool]:
    """How large a curve is, mm, and whether it ends where it begins. Raises ``BadInput`` for a single spot."""
    ends = at(0.0), at(1.0)
    size = max(math.dist(p, q) for p in (at(i / 16) for i in range(17)) for q in ends)
    if size < 1e-6:
        raise BadInput("This curve is a single spot: its formulas do not depend on t.", where="x")
    return size, math.dist(*ends) < 1e-9 * size
