"""What a step knows while it is built: numbers, earlier results, other parts."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import TYPE_CHECKING

from ..errors import BadInput, CannotBuild, Trouble
from ..quantity import evaluate
from ..quantity.units import ANGLE, LENGTH, NUMBER, LengthUnit, show_at_least, show_at_most
from ..sketch.document import Sketch, ValuedSketch
from .results import PartBuild, StepResult

if TYPE_CHECKING:
    from ..model.document import Model
    from ..sketch.plots import Plot
    from ..steps.base import Step

_DIMENSIONS = {"length": LENGTH, "angle": ANGLE, "count": NUMBER}


class Known:
    """The model, what its steps have made so far, and other parts."""

    done: Mapping[str, StepResult]
    _model: Model
    _step: Step | None
    _others: Callable[[str, str], PartBuild] | None

    def value(self, step: Step, field_name: str) -> float:
        """The number in a blank, in mm, rad or plain."""
        blank = step.blanks()[field_name]
        try:
            got = evaluate(
                getattr(step, field_name),
                self._model.table.values,
                wanted=_DIMENSIONS[blank.type],
                length_unit=self._model.units,
            )
        except BadInput as problem:
            raise CannotBuild(problem.message, where=field_name) from problem
        return got.value

    def above(self, step: Step, field_name: str, least: float = 1e-4, most: float = 1e4) -> float:
        """The number in a blank that must be above nought: from ``least`` to ``most``."""
        value = self.value(step, field_name)
        if not least <= value <= most:
            raise CannotBuild(f"The {step.blanks()[field_name].label} must be above zero.", where=field_name)
        return value

    def size(self, table: str, name: str) -> float:
        """A size of a table, mm: the model's own, else the usual."""
        from ..sizes.tables import size_in

        return size_in(self._model.sizes, table, name)

    @property
    def units(self) -> LengthUnit:
        """The person's unit: what a step says of lengths is in it."""
        return self._model.units

    def at_most(self, mm: float) -> str:
        """A largest length that works, in the person's unit, never above it."""
        return show_at_most(mm, self._model.units)

    def at_least(self, mm: float) -> str:
        """A smallest length that works, in the person's unit, never below it."""
        return show_at_least(mm, self._model.units)

    def evaluated(self, sketch: Sketch) -> ValuedSketch:
        """A sketch with its formulas evaluated."""
        try:
            return sketch.valued(self._model.table.values, self._model.units)
        except BadInput as problem:
            raise CannotBuild(problem.message, where=problem.where) from problem

    def plot_problem(self, plot: Plot, sketch: Sketch) -> str:
        """Why a curve by formulas is not where they say; empty if it is (or is gone)."""
        if any(id not in sketch for id in plot.curves):
            return ""
        try:
            at = plot.curve(self._model.table.values, self._model.units)
            goals = [at(k / len(plot.curves)) for k in range(len(plot.curves) + 1)]
        except BadInput as problem:
            return problem.message
        for id, *ends in zip(plot.curves, goals, goals[1:]):
            curve = sketch.curve(id)
            there = [curve.place(name) for name in curve.end_points or ()]
            if any(math.dist(p, q) > 1e-6 * max(1.0, *map(abs, q)) for p, q in zip(there, ends)):
                return "what hangs on it does not go along. Take away what holds it there."
        return ""

    @property
    def model(self) -> Model:
        """The model that is built."""
        return self._model

    def title_of(self, step_id: str) -> str:
        """A step's title."""
        try:
            return self._model.title_of(step_id)
        except Trouble:
            return "an earlier step"

    def title_of_body(self, body_id: str) -> str:
        """What a body is called."""
        return self._model.title_of_body(body_id)

    def key_of(self, step_id: str) -> str:
        """The key of an earlier step's result, or why there is none."""
        return self.result_of(step_id).key

    def result_of(self, step_id: str) -> StepResult:
        """What an earlier step made, or why there is nothing."""
        result = self.done.get(step_id)
        if result is None:
            try:
                title = self._model.title_of(self._model.step(step_id).id)
            except Trouble:
                raise CannotBuild("What this step picked from was deleted. Pick again, or delete this step.") from None
            raise CannotBuild(f"{title} comes later; this step needs it before itself.")
        if result.status == "skipped":
            raise CannotBuild(f"{self._model.title_of(step_id)} is skipped, and this step needs it.")
        if result.status == "failed":
            raise CannotBuild(f"{self._model.title_of(step_id)} could not be built, and this step needs it.")
        return result

    def needed_by(self, step_id: str) -> list[str]:
        """Shape-making steps that a step works on, by its picks or those of the sketches it uses, in order."""
        found: dict[str, None] = {}
        todo, seen = [step_id], {step_id}
        while todo:
            step = self._model.step(todo.pop())
            for other in (*step.makers(), *step.uses()):
                if other in seen or other not in self.done:
                    continue
                seen.add(other)
                if self._model.step(other).makes_solid:
                    found[other] = None
                else:
                    todo.append(other)
        return list(found)

    def part_name(self, part_id: str) -> str:
        """What another part is called."""
        return next((p.name for p in self._model.parts if p.id == part_id), "a part that is gone")

    def part_gone(self, part_id: str) -> bool:
        """Whether another part was deleted, and is kept for those that follow it."""
        return any(p.id == part_id and p.gone for p in self._model.parts)

    def part_built(self, part_id: str, where: str, variant: str = "") -> PartBuild:
        """Another part as it is built now, or with a variant's values."""
        if not part_id:
            raise CannotBuild("Choose the part to bring.", where=where)
        if self._others is None or all(p.id != part_id for p in self._model.parts):
            raise CannotBuild(
                "The part that was brought here is gone: choose another, or delete this step.", where=where
            )
        if self._model.part(part_id).sort == "sheet":
            raise CannotBuild("A sheet is paper: choose a part.", where=where)
        if variant and all(v.id != variant for v in self._model.variants):
            raise CannotBuild("The variant that was brought is gone: choose another.", where="variant")
        return self._others(part_id, variant)
