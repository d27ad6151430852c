"""Curves by numbers: from two formulas in t, or through the places of a table."""

from __future__ import annotations

import itertools
import math
import re
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...errors import BadInput, Refused
from ...quantity import LENGTH, evaluate
from ...sketch.changes import copying
from ...sketch.curves import CURVES, Vec
from ...sketch.curves.base import LIMIT
from ...sketch.curves.spline import MOST_POINTS
from ...sketch.document import MAX_CURVES, ValuedSketch
from ...sketch.plots import Formulas, Plot, Typed
from ...steps.sketch import MOST_PLOTS, SketchStep
from ..document import Model
from ..plots import splines
from .base import resettled
from .fresh import Numbering
from .reshaping import Reshape

MOST_ROWS = 400


class _Plotted(Reshape):
    """Curves that are laid into the sketch, joined where they meet."""

    def _laid(self, sketch: ValuedSketch, fresh: Numbering, curves: list[dict[str, object]]) -> ValuedSketch:
        from ...bringing.chaining import clip_of

        clip = clip_of(curves, "this curve")["clip"]
        after, _ = copying.pasted(sketch, fresh, clip, (0.0, 0.0), 1.0)
        return after


class PlotFormulas(_Plotted):
    """A curve by two formulas. One that uses parameters follows them afterwards and cannot be moved by hand; others are
    splines like any. ``instead``: a curve by formulas that is drawn anew.
    """

    kind: Literal["plot_formulas"] = "plot_formulas"
    what: ClassVar[str] = "Curve by formulas"
    x: Typed
    y: Typed
    start: Typed = "0"
    end: Typed = "1"
    instead: str = Field(default="", max_length=20)

    def apply(self, model: Model) -> Model:
        formulas = Formulas(x=self.x, y=self.y, start=self.start, end=self.end)
        step = model.sketch_step(self.sketch)
        known = {p.name for p in model.parameters}
        if self.instead:
            return self._anew(model, step, formulas)
        if not formulas.names() & known:
            fresh = Numbering(model)
            free = splines(formulas, model, lines=True)
            after = self._laid(self.current(model), fresh, free)
            return fresh.model.with_sketch(self.sketch, after)
        made = splines(formulas, model)
        ids, model = model.fresh("c", len(made))
        if len(step.sketch.curves) + len(made) > MAX_CURVES or len(step.plots) >= MOST_PLOTS:
            raise Refused("There is no room for another curve in this sketch: begin a new one.")
        new = [CURVES.parse({**raw, "id": id, "taken": True}) for id, raw in zip(ids, made)]
        plot = Plot(curves=tuple(ids), **formulas.texts())
        sketch = step.sketch.with_curves((*step.sketch.curves, *new))
        return model.with_step(step.model_copy(update={"sketch": sketch, "plots": (*step.plots, plot)}))

    def _anew(self, model: Model, step: SketchStep, formulas: Formulas) -> Model:
        old = next((p for p in step.plots if self.instead in p.curves), None)
        if old is None:
            raise BadInput("That curve follows no formulas: draw a new one.", where="x")
        splines(formulas, model, len(old.curves))  # says what is wrong before anything is changed
        new = Plot(curves=old.curves, **formulas.texts())
        step = step.model_copy(update={"plots": tuple(new if p is old else p for p in step.plots)})
        return resettled(model.with_step(step))


class PlotTable(_Plotted):
    """Places of a table: a line of the text is one place, x and y apart by a space, a tab or a semicolon."""

    kind: Literal["plot_table"] = "plot_table"
    what: ClassVar[str] = "Curve by a table"
    text: Annotated[str, Field(max_length=60_000)]
    form: Literal["spline", "lines", "points"] = "spline"

    def reshaped(self, model: Model, sketch: ValuedSketch, fresh: Numbering) -> ValuedSketch:
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

    def _points(self, sketch: ValuedSketch, fresh: Numbering, places: list[Vec]) -> ValuedSketch:
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
