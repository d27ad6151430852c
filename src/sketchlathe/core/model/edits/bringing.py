"""The edit that brings a file in: a step with the file in it."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from ...errors import BadInput
from ..document import Model
from .base import Edit
from .steps import AddStep


class BringFile(Edit):
    """Add a step that holds a file, at the Now line."""

    kind: Literal["bring_file"] = "bring_file"
    part: str = Field(max_length=20)
    step: Literal["bring", "reference"]
    file: str = Field(max_length=80)
    data: str
    fields: dict[str, Any] = Field(default_factory=dict)

    def apply(self, model: Model) -> Model:
        if not self.data:
            raise BadInput("There is no file to bring in.")
        known = {s.id for s in model.part(self.part).steps}
        after = AddStep(part=self.part, step=self.step, fields={**self.fields, "file": self.file}).apply(model)
        new = next(s for s in after.part(self.part).steps if s.id not in known)
        return after.with_step(new.model_copy(update={"data": self.data}))

    def summary(self, before: Model, after: Model) -> str:
        return f"“{self.file}” brought in"
