"""Curves that the solid offers a sketch, and taking one of them."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict

from ...blanks import EdgePick, FacePick, Taken
from ...errors import BadInput
from ...sketch.curves import Curve
from ...sketch.document import MAX_CURVES
from ...steps.sketch import MOST_TAKEN
from ..document import Model
from .fresh import Numbering, parsed_curve


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
