"""The edit that brings a file in: a step with the file in it."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from ...errors import BadInput
from ..document import Model
from .base import Edit
from .parameters import AddParameter, SetParameter
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


class Row(BaseModel):
    """One row of a table of parameters."""

    name: str = Field(max_length=60)
    formula: str = Field(max_length=400)
    note: str = Field(default="", max_length=200)


class BringParameters(Edit):
    """Parameters of a table: new ones are added, known ones get the table's formula. All of them, or none."""

    kind: Literal["bring_parameters"] = "bring_parameters"
    rows: tuple[Row, ...] = Field(min_length=1, max_length=500)

    def apply(self, model: Model) -> Model:
        for number, row in enumerate(self.rows, 1):
            known = any(p.name == row.name for p in model.parameters)
            edit: Edit = (
                SetParameter(name=row.name, formula=row.formula)
                if known
                else AddParameter(name=row.name, formula=row.formula)
            )
            try:
                model = edit.apply(model)
            except BadInput as problem:
                raise BadInput(f"Row {number} ({row.name[:30]}): {problem.message}") from problem
            if row.note:
                parameters = tuple(
                    p.model_copy(update={"note": row.note}) if p.name == row.name else p for p in model.parameters
                )
                model = model.changed(parameters=parameters)
        return model

    def summary(self, before: Model, after: Model) -> str:
        return f"{len(self.rows)} parameter{'s' if len(self.rows) > 1 else ''} brought in"
