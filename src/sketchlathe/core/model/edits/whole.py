"""Edits of the model as a whole: its name, units, materials."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...errors import BadInput
from ...inspect.materials import MATERIALS
from ...quantity.units import LengthUnit
from ..document import Model
from .base import Edit


class RenameModel(Edit):
    """Give the model another name."""

    kind: Literal["rename_model"] = "rename_model"
    name: str = Field(max_length=120)

    def apply(self, model: Model) -> Model:
        name = self.name.strip()
        if not name:
            raise BadInput("A model needs a name.", where="name")
        return model.changed(name=name)

    def summary(self, before: Model, after: Model) -> str:
        return f"Renamed to “{after.name}”"


class SetUnits(Edit):
    """Choose the units numbers are shown in. Sizes stay what they are."""

    kind: Literal["set_units"] = "set_units"
    units: LengthUnit

    def apply(self, model: Model) -> Model:
        return model.changed(units=self.units)

    def summary(self, before: Model, after: Model) -> str:
        return f"Units {after.units}"


class SetMaterial(Edit):
    """What a part is made of."""

    kind: Literal["set_material"] = "set_material"
    part: str = Field(max_length=20)
    material: str = Field(max_length=40)

    def apply(self, model: Model) -> Model:
        if self.material not in MATERIALS:
            raise BadInput(f"There is no material “{self.material}”.", where="material")
        return model.with_part(model.part(self.part).model_copy(update={"material": self.material}))

    def summary(self, before: Model, after: Model) -> str:
        return f"Material {MATERIALS[self.material].name}"


class RenamePart(Edit):
    """Give a part another name."""

    kind: Literal["rename_part"] = "rename_part"
    part: str = Field(max_length=20)
    name: str = Field(max_length=80)

    def apply(self, model: Model) -> Model:
        name = self.name.strip()
        if not name:
            raise BadInput("A part needs a name.", where="name")
        return model.with_part(model.part(self.part).model_copy(update={"name": name}))

    def summary(self, before: Model, after: Model) -> str:
        return f"Part renamed to “{self.name.strip()}”"
