"""Edits of what a part is expected to amount to."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...amounts.answers import KINDS, Answer, What, meant
from ...amounts.weighing import Units
from ..document import Model
from .base import Edit


class SetAnswer(Edit):
    """What a part should amount to; an empty text takes the expectation away."""

    kind: Literal["set_answer"] = "set_answer"
    part: str = Field(max_length=20)
    what: What
    text: str = Field(max_length=120)
    tolerance: str = Field(default="", max_length=40)

    def apply(self, model: Model) -> Model:
        part = model.part(self.part)
        kept = [a for a in part.answers if a.what != self.what]
        if self.text.strip():
            new = Answer(what=self.what, text=self.text.strip(), tolerance=self.tolerance.strip())
            meant(new, Units(model.units))
            kept.append(new)
        order = list(KINDS)
        kept.sort(key=lambda a: order.index(a.what))
        return model.with_part(part.model_copy(update={"answers": tuple(kept)}))

    def summary(self, before: Model, after: Model) -> str:
        return f"Expected {KINDS[self.what]}: {self.text.strip() or 'none'}"
