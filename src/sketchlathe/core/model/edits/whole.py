"""Edits of the model as a whole: its name, units, colours; several edits as one."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field

from ...blanks import FacePick
from ...errors import BadInput
from ...quantity.units import LengthUnit
from ..document import BodyName, Model, Paint
from .base import Edit, apply_edit, parse_edit


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
    fractions: bool = False

    def apply(self, model: Model) -> Model:
        return model.changed(units=self.units, fractions=self.fractions and self.units == "in")

    def summary(self, before: Model, after: Model) -> str:
        return f"Units {after.units}{' in fractions' if after.fractions else ''}"


class PaintOver(Edit):
    """Give a body or a face a colour; an empty one takes it away."""

    kind: Literal["paint"] = "paint"
    part: str = Field(max_length=20)
    colour: str = Field(pattern="^(#[0-9a-f]{6})?$")
    body: str = Field(default="", max_length=60)
    face: FacePick | None = None

    def apply(self, model: Model) -> Model:
        if not self.body and self.face is None:
            raise BadInput("Pick a body or a face to colour.")
        part = model.part(self.part)
        where = {"body": self.body if self.face is None else "", "face": self.face}
        kept = tuple(p for p in part.paints if (p.body, p.face) != (where["body"], where["face"]))
        new = (Paint(colour=self.colour, **where),) if self.colour else ()
        return model.with_part(part.model_copy(update={"paints": (*kept, *new)}))

    def summary(self, before: Model, after: Model) -> str:
        what = "A face" if self.face else "A body"
        return f"{what} coloured {self.colour}" if self.colour else f"{what} without a colour of its own again"


class RenameBody(Edit):
    """Give a body a name of its own; an empty one takes it away."""

    kind: Literal["rename_body"] = "rename_body"
    part: str = Field(max_length=20)
    body: str = Field(min_length=1, max_length=60)
    name: str = Field(max_length=80)

    def apply(self, model: Model) -> Model:
        part, name = model.part(self.part), self.name.strip()
        if any(n.name == name and n.body != self.body for n in part.body_names):
            raise BadInput(f"Another body is called “{name}” already.", where="name")
        kept = tuple(n for n in part.body_names if n.body != self.body)
        new = (BodyName(body=self.body, name=name),) if name else ()
        return model.with_part(part.model_copy(update={"body_names": (*kept, *new)}))

    def summary(self, before: Model, after: Model) -> str:
        return f"Body named “{self.name.strip()}”" if self.name.strip() else "A body without a name of its own again"


class Together(Edit):
    """Several edits as one: all of them are made, or none."""

    kind: Literal["together"] = "together"
    edits: tuple[dict[str, Any], ...] = Field(min_length=1, max_length=50)
    word: str = Field(default="Changed together", max_length=120)

    def apply(self, model: Model) -> Model:
        for raw in self.edits:
            if raw.get("kind") == "together":
                raise BadInput("Edits made together cannot hold others of that kind.")
            model = apply_edit(model, parse_edit(raw))
        return model

    def summary(self, before: Model, after: Model) -> str:
        return self.word
