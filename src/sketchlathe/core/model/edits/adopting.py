"""A step as it was: from an older revision of the model, or from a copy on which something was tried."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field, ValidationError

from ...errors import BadInput, Refused
from ...registry import kind_of
from ...steps.base import STEPS, Step
from ...steps.sketch import SketchStep
from ..document import MAX_STEPS, Model
from ..sound import problem_in
from .base import Edit
from .steps import order_problem


class AdoptStep(Edit):
    """A step of this part made what ``data`` says; one that is not there any more is put behind the last of ``after``
    that is there.
    """

    kind: Literal["adopt_step"] = "adopt_step"
    part: str = Field(max_length=20)
    data: dict[str, Any]
    after: tuple[str, ...] = Field(default=(), max_length=MAX_STEPS)

    def apply(self, model: Model) -> Model:
        step, part = self._read(), model.part(self.part)
        there = {s.id for s in part.steps}
        elsewhere = {s.id for p in model.parts if p.id != part.id for s in p.steps}
        missing = [n for n in sorted(step.needs()) if n not in there and n not in elsewhere]
        if missing:
            raise Refused(
                f"What {step.title(1)} stands on is not here: bring that back first.", where=step.id, fights=(step.id,)
            )
        if step.id in elsewhere:
            raise Refused("Another part of this model has that step now.", where=step.id)
        if step.id in there:
            if kind_of(type(part.step(step.id))) != kind_of(type(step)):
                raise Refused("That step is of another kind now.", where=step.id)
            changed = part.with_step(step)
        else:
            if len(part.steps) >= MAX_STEPS:
                raise Refused(f"A part may have at most {MAX_STEPS} steps.")
            at = max((part.index(id) + 1 for id in self.after if id in there), default=0)
            now = part.now + 1 if part.now is not None and part.now >= at else part.now
            steps = (*part.steps[:at], step, *part.steps[at:])
            changed = part.model_copy(update={"steps": steps, "now": now})
        if problem := order_problem(model.with_part(changed), changed):
            raise Refused(f"It cannot stand there: {problem}", where=step.id)
        return model.with_part(changed).changed(next_id=max(model.next_id, _highest(step) + 1))

    def _read(self) -> Step:
        try:
            return STEPS.parse(self.data)
        except ValidationError as error:
            raise BadInput(f"That step cannot be brought back: {problem_in(error)}.") from error

    def summary(self, before: Model, after: Model) -> str:
        step = self._read()
        known = before.find_step(step.id) is not None
        return f"{after.title_of(step.id)} {'made as it was' if known else 'brought back'}"


def _highest(step: Step) -> int:
    """The highest number of an id in a step."""
    ids = [step.id]
    if isinstance(step, SketchStep):
        ids += [c.id for c in step.sketch.curves] + [k.id for k in step.sketch.constraints]
    numbers = (id.lstrip("abcdefghijklmnopqrstuvwxyz") for id in ids)
    return max((int(n) for n in numbers if n.isascii() and n.isdigit()), default=0)
