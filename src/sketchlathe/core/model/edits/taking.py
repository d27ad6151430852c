"""Edits that take curves of the solid into a sketch, and let them follow it."""

from __future__ import annotations

from typing import Annotated, Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

from ...errors import BadInput
from ...sketch.changes.adding import solved_or_refused
from ...sketch.curves import Curve
from ...sketch.document import MAX_CURVES
from ...sketch.solver.solving import solve
from ...steps.blanks import EdgePick, FacePick, Taken
from ...steps.sketch import MOST_TAKEN
from ..document import Model
from .sketching import Numbering, SketchEdit, parsed_curve


class Offer(BaseModel):
    """One curve that is offered by the solid, as the screen was told of it."""

    model_config = ConfigDict(frozen=True, extra="ignore")
    curve: dict[str, Any]
    edge: EdgePick | None = None
    face: FacePick | None = None


def taken(model: Model, sketch: str, offer: Offer, *, construction: bool = True) -> tuple[Model, str]:
    """The model with one curve of the solid taken into a sketch, and its id there; what is there already is not taken
    twice.
    """
    step = model.sketch_step(sketch)
    if offer.edge is None and offer.face is None:
        raise BadInput("What is taken must come from an edge or a face of the solid.")
    kind = offer.curve.get("kind")
    for old in step.taken:
        if (old.edge, old.face) == (offer.edge, offer.face) and old.curve in step.sketch:
            curve = step.sketch.curve(old.curve)
            if curve.kind == kind and (offer.face is None or same_place(curve, offer.curve)):
                return model, old.curve
    if len(step.sketch.curves) >= MAX_CURVES or len(step.taken) >= MOST_TAKEN:
        raise BadInput(f"A sketch may have at most {MAX_CURVES} curves, {MOST_TAKEN} of them from the solid.")
    fresh = Numbering(model)
    id = fresh("c")
    curve = parsed_curve({**offer.curve, "id": id, "construction": construction, "taken": True})
    model = fresh.model.with_sketch(sketch, step.sketch.with_curves((*step.sketch.curves, curve)))
    step = model.sketch_step(sketch)
    found = Taken(curve=id, edge=offer.edge, face=offer.face)
    return model.with_step(step.model_copy(update={"taken": (*step.taken, found)})), id


def same_place(curve: Curve, raw: dict[str, Any]) -> bool:
    """Whether a curve lies where a curve's data say."""
    other = parsed_curve({**raw, "id": curve.id, "construction": curve.construction, "taken": True})
    return curve.scalars == other.scalars


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
