"""The edit that brings a file in: a step with the file in it."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import PurePath
from typing import Any, Literal

from pydantic import BaseModel, Field

from ...errors import BadInput
from ...quantity.units import UNITS
from ..document import Model, new_model
from .base import Edit
from .parameters import AddParameter, SetParameter
from .reshaping import Paste
from .steps import AddStep
from .underlays import PutUnderlay


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


def model_of_file(found: Mapping[str, Any], name: str) -> Model:
    """A new model that begins with what a reader found in a file: a solid, a reference, a sketch of its curves,
    or over a picture, parameters.

    ``found`` is a reader's answer. Raises ``BadInput`` when it does not go into a model.
    """
    model = new_model(PurePath(name).stem[:120].strip() or "Brought in")
    part = model.parts[0].id
    if found["gives"] == "step":
        fields = found["fields"]
        return BringFile(part=part, step=found["step"], file=fields["file"], data=fields["data"]).apply(model)
    if found["gives"] == "curves":
        data = found["data"]
        model = AddStep(part=part, step="sketch", fields={"plane": {"plane": "top"}}).apply(model)
        sketch = model.parts[0].steps[0].id
        # a drawing that says no unit is read in mm; the sketch scales as a whole when that was wrong
        return Paste(sketch=sketch, clip=data["clip"], scale=UNITS[data["unit"] or "mm"][0]).apply(model)
    if found["gives"] == "underlay":
        model = AddStep(part=part, step="sketch", fields={"plane": {"plane": "top"}}).apply(model)
        return PutUnderlay(sketch=model.parts[0].steps[0].id, picture=found["data"]).apply(model)
    return BringParameters(rows=tuple(Row.model_validate(row) for row in found["data"]["rows"])).apply(model)
