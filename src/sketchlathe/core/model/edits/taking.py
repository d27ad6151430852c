"""Edits that take curves of the solid into a sketch, and let them follow it."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ...sketch.changes.adding import solved_or_refused
from ...sketch.document import MAX_CURVES
from ...sketch.solver.solving import solve
from ..document import Model
from .fresh import parsed_curve
from .offers import Offer, taken
from .sketching import SketchEdit


class TakeCurves(SketchEdit):
    """Take edges or section curves; they follow the solid from then on."""

    kind: Literal["take_curves"] = "take_curves"
    offers: Annotated[tuple[Offer, ...], Field(min_length=1, max_length=400)]
    construction: bool = True

    def apply(self, model: Model) -> Model:
        for offer in self.offers:
            model, _ = taken(model, self.sketch, offer, construction=self.construction)
        return model

    def summary(self, before: Model, after: Model) -> str:
        count = len(self.offers)
        return f"{count} curve{'s' if count > 1 else ''} of the solid taken into {self.title(after)}"


class FollowSolid(SketchEdit):
    """What a sketch took from the solid has moved with it; the rest of the sketch follows."""

    kind: Literal["follow_solid"] = "follow_solid"
    follows: ClassVar[bool] = True
    curves: dict[Annotated[str, Field(max_length=20)], dict[str, Any]] = Field(min_length=1, max_length=MAX_CURVES)

    def apply(self, model: Model) -> Model:
        sketch = self.current(model)
        curves = [
            parsed_curve({**self.curves[c.id], "id": c.id, "taken": c.taken}) if c.id in self.curves else c
            for c in sketch.curves
        ]
        solution = solve(sketch.with_curves(curves))
        return model.with_sketch(self.sketch, solved_or_refused(solution, "Following the solid"))

    def summary(self, before: Model, after: Model) -> str:
        return f"{self.title(after)} follows the solid"
