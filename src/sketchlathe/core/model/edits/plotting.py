"""Curves by numbers: from two formulas in t, or through the places of a table."""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Callable
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...errors import BadInput
from ...quantity import LENGTH, Quantity, evaluate
from ...sketch.changes import copying
from ...sketch.curves import CURVES, Vec
from ...sketch.curves.base import LIMIT
from ...sketch.curves.spline import MOST_POINTS
from ...sketch.document import Sketch
from ..document import Model
from .reshaping import Reshape
from .sketching import Numbering

MOST_ROWS = 400
Typed = Annotated[str, Field(max_length=400)]


class _Plotted(Reshape):
    """Curves that are laid into the sketch, joined where they meet."""

    def _laid(self, sketch: Sketch, fresh: Numbering, curves: list[dict[str, object]]) -> Sketch:
        from ...bringing.chaining import clip_of

        clip = clip_of(curves, "this curve")["clip"]
        after, _ = copying.pasted(sketch, fresh, clip, (0.0, 0.0), 1.0)
        return after


class PlotFormulas(_Plotted):
    """``x`` and ``y`` are formulas in t, which runs from ``start`` to ``end`` (both plain numbers, angles or lengths).
    The spline runs within a ten-thousandth of the curve's size of it; it does not follow parameters afterwards.
    """

    kind: Literal["plot_formulas"] = "plot_formulas"
    what: ClassVar[str] = "Curve by formulas"
    x: Typed
    y: Typed
    start: Typed = "0"
    end: Typed = "1"

    def reshaped(self, model: Model, sketch: Sketch, fresh: Numbering) -> Sketch:
        from ...bringing.chaining import smooth

        at = self._curve(model)
        ends = at(0.0), at(1.0)
        size = max(math.dist(p, q) for p in (at(i / 16) for i in range(17)) for q in ends)
        if size < 1e-6:
            raise BadInput("This curve is a single spot: its formulas do not depend on t.", where="x")
        halves = math.dist(*ends) < 1e-9 * size  # a closed one is two that meet at both ends
        spans = ((0.0, 0.5), (0.5, 1.0)) if halves else ((0.0, 1.0),)
        made = [smooth(lambda u, a=a, b=b: at(a + (b - a) * u), size) for a, b in spans]  # type: ignore[misc]
        return self._laid(sketch, fresh, [raw for raw in made if raw is not None])

    def _curve(self, model: Model) -> Callable[[float], Vec]:
        names = dict(model.table.values)
        if "t" in names:
            raise BadInput("There is a parameter called t: rename it, for here t runs along the curve.", where="x")
        low, high = (self._quantity(model, text, where) for text, where in ((self.start, "start"), (self.end, "end")))
        if low.dimension != high.dimension and not (low.bare and low.value == 0):
            raise BadInput("Both ends of t must be numbers, or angles, or lengths.", where="end")
        if abs(high.value - low.value) < 1e-12:
            raise BadInput("t must run from one value to another.", where="end")

        def at(u: float) -> Vec:
            t = Quantity(low.value + (high.value - low.value) * u, high.dimension)
            place = []
            for text, where in ((self.x, "x"), (self.y, "y")):
                try:
                    v = evaluate(text, {**names, "t": t}, wanted=LENGTH, length_unit=model.units).value
                except BadInput as problem:
                    problem.where = where
                    raise
                if not math.isfinite(v) or abs(v) > LIMIT:
                    raise BadInput(f"At t = {t.value:.6g} this leaves the drawing: {text[:60]}.", where=where)
                place.append(v)
            return place[0], place[1]

        return at

    def _quantity(self, model: Model, text: str, where: str) -> Quantity:
        try:
            return evaluate(text, model.table.values, wanted=None, length_unit=model.units)
        except BadInput as problem:
            problem.where = where
            raise


class PlotTable(_Plotted):
    """Places of a table: a line of the text is one place, x and y apart by a space, a tab or a semicolon."""

    kind: Literal["plot_table"] = "plot_table"
    what: ClassVar[str] = "Curve by a table"
    text: Annotated[str, Field(max_length=60_000)]
    form: Literal["spline", "lines", "points"] = "spline"

    def reshaped(self, model: Model, sketch: Sketch, fresh: Numbering) -> Sketch:
        places = self._places(model)
        least = 1 if self.form == "points" else 2
        if len(places) < least:
            raise BadInput(f"A table needs at least {least} place{'s' if least > 1 else ''}.", where="text")
        if self.form == "points":
            return self._points(sketch, fresh, places)
        if any(math.dist(a, b) < 1e-6 for a, b in itertools.pairwise(places)):
            raise BadInput("Two places that follow each other are the same: leave one out.", where="text")
        if self.form == "lines":
            return self._laid(
                sketch, fresh, [{"kind": "line", "start": a, "end": b} for a, b in itertools.pairwise(places)]
            )
        if len(places) > MOST_POINTS:
            raise BadInput(f"A spline goes through at most {MOST_POINTS} places.", where="text")
        if len(places) == 2:
            return self._laid(sketch, fresh, [{"kind": "line", "start": places[0], "end": places[1]}])
        return self._laid(sketch, fresh, [{"kind": "spline", "through": places}])

    def _points(self, sketch: Sketch, fresh: Numbering, places: list[Vec]) -> Sketch:
        made = [CURVES.parse({"kind": "point", "id": fresh("c"), "at": p}) for p in places]
        return sketch.with_curves((*sketch.curves, *made))

    def _places(self, model: Model) -> list[Vec]:
        rows = [line.strip() for line in self.text.splitlines() if line.strip()]
        if len(rows) > MOST_ROWS:
            raise BadInput(f"A table may have at most {MOST_ROWS} places; this one has {len(rows)}.", where="text")
        places = []
        for number, row in enumerate(rows, 1):
            cells = [c for c in re.split(r"[;\t]|\s{1,}(?=[-+(\d.a-zA-Z_])", row) if c and c.strip()]
            cells = _units_joined(cells)
            if number == 1 and len(cells) == 2 and {c.strip().lower() for c in cells} <= {"x", "y", "u", "v"}:
                continue
            if len(cells) != 2:
                raise BadInput(f"Row {number} must have an x and a y, apart by a space: “{row[:40]}”.", where="text")
            try:
                x, y = (evaluate(c, model.table.values, wanted=LENGTH, length_unit=model.units).value for c in cells)
            except BadInput as problem:
                raise BadInput(f"Row {number}: {problem.message}", where="text") from problem
            if max(abs(x), abs(y)) > LIMIT:
                raise BadInput(f"Row {number} lies too far away.", where="text")
            places.append((x, y))
        return places


def _units_joined(cells: list[str]) -> list[str]:
    """ "3 mm" is one cell: a unit by itself belongs to the number before it.

    >>> _units_joined(["3", "mm", "4.5", "mm"])
    ['3 mm', '4.5 mm']
    """
    out: list[str] = []
    for cell in cells:
        if out and re.fullmatch(r"mm|cm|m|in|µm", cell.strip()):
            out[-1] = f"{out[-1].strip()} {cell.strip()}"
        else:
            out.append(cell.strip())
    return out
