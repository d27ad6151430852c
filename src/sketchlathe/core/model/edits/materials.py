"""Edits of what parts and bodies are made of, and of a model's own materials."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, ValidationError

from ...amounts.materials import OwnMaterial
from ...errors import BadInput, NotFound, Refused
from ..document import MadeOf, Model
from ..made_of import materials_of
from ..sound import problem_in
from .base import Edit


class SetMaterial(Edit):
    """What a part is made of, or one body of it; an empty material gives a body the part's again."""

    kind: Literal["set_material"] = "set_material"
    part: str = Field(max_length=20)
    material: str = Field(max_length=40)
    body: str = Field(default="", max_length=60)

    def apply(self, model: Model) -> Model:
        if self.material not in materials_of(model) and (self.material or not self.body):
            raise BadInput(f"There is no material “{self.material}”.", where="material")
        part = model.part(self.part)
        if not self.body:
            return model.with_part(part.model_copy(update={"material": self.material}))
        others = tuple(m for m in part.made_of if m.body != self.body)
        own = (MadeOf(body=self.body, material=self.material),) if self.material else ()
        return model.with_part(part.model_copy(update={"made_of": (*others, *own)}))

    def summary(self, before: Model, after: Model) -> str:
        where = " of a body" if self.body else ""
        name = materials_of(after)[self.material].name if self.material else "that of the part"
        return f"Material{where} {name}"


class KeepMaterial(Edit):
    """Make a material of the model's own, or change one (``id``)."""

    kind: Literal["keep_material"] = "keep_material"
    name: str = Field(max_length=60)
    density: float = Field(allow_inf_nan=False)
    colour: str = Field(default="#d9cfbb", max_length=9)
    id: str = Field(default="", max_length=20)

    def apply(self, model: Model) -> Model:
        id = self.id
        if id and all(m.id != id for m in model.materials):
            raise NotFound("That material is not in this model any more.")
        if not self.name.strip():
            raise BadInput("A material needs a name.", where="name")
        if not 1e-4 < self.density < 100:
            raise BadInput("A density is a number of g/cm³ between 0.0001 and 100.", where="density")
        if any(m.name == self.name.strip() for k, m in materials_of(model).items() if k != id):
            raise BadInput(f"There is a material “{self.name.strip()}” already.", where="name")
        if not id:
            (id,), model = model.fresh("m")
        try:
            new = OwnMaterial(id=id, name=self.name.strip(), density=self.density, colour=self.colour)
        except ValidationError as error:
            raise BadInput(f"This material cannot be made: {problem_in(error)}.") from error
        if self.id:
            return model.changed(materials=tuple(new if m.id == id else m for m in model.materials))
        return model.changed(materials=(*model.materials, new))

    def summary(self, before: Model, after: Model) -> str:
        return f"Material “{self.name.strip()}” {'changed' if self.id else 'added'}"


class DeleteMaterial(Edit):
    """Take a material of the model's own away; nothing may be made of it."""

    kind: Literal["delete_material"] = "delete_material"
    id: str = Field(max_length=20)

    def apply(self, model: Model) -> Model:
        if all(m.id != self.id for m in model.materials):
            raise NotFound("That material is not in this model any more.")
        users = [p.name for p in model.parts if self.id in (p.material, *(m.material for m in p.made_of))]
        if users:
            raise Refused(f"{', '.join(users)} is made of it: choose another material there first.")
        return model.changed(materials=tuple(m for m in model.materials if m.id != self.id))

    def summary(self, before: Model, after: Model) -> str:
        return "Material deleted"
