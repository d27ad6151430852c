"""Edits of the picture under a sketch."""

from __future__ import annotations

import math
from typing import Any, Literal

from pydantic import Field, ValidationError

from ...errors import BadInput
from ...quantity import LENGTH, evaluate
from ...quantity.units import ANGLE, Dimension
from ...sketch.curves import Vec
from ...sketch.underlay import Underlay
from ..document import Model
from ..sound import problem_in
from .base import Edit

_Typed = str | None


class UnderlayEdit(Edit):
    """An edit of one sketch's picture."""

    sketch: str = Field(max_length=20)

    def _there(self, model: Model) -> Underlay:
        found = model.sketch_step(self.sketch).underlay
        if found is None:
            raise BadInput("There is no picture under this sketch.")
        return found

    def _with(self, model: Model, underlay: Underlay | None) -> Model:
        return model.with_step(model.sketch_step(self.sketch).model_copy(update={"underlay": underlay}))


class PutUnderlay(UnderlayEdit):
    """A picture is laid under a sketch, in the place of one that was there."""

    kind: Literal["put_underlay"] = "put_underlay"
    picture: dict[str, Any]

    def apply(self, model: Model) -> Model:
        try:
            return self._with(model, Underlay.model_validate(self.picture))
        except ValidationError as error:
            raise BadInput(f"This picture cannot be kept: {problem_in(error)}.") from error

    def summary(self, before: Model, after: Model) -> str:
        return f"Picture “{self._there(after).name}” under {after.title_of(self.sketch)}"


class SetUnderlay(UnderlayEdit):
    """Where it lies (its middle), how wide it is, how it is turned, how strongly it shows; what is None stays."""

    kind: Literal["set_underlay"] = "set_underlay"
    x: _Typed = Field(default=None, max_length=400)
    y: _Typed = Field(default=None, max_length=400)
    width: _Typed = Field(default=None, max_length=400)
    turn: _Typed = Field(default=None, max_length=400)
    strength: float | None = Field(default=None, ge=0.05, le=1)

    def apply(self, model: Model) -> Model:
        old = self._there(model)
        changed: dict[str, float] = {}
        for name, text, wanted in (("x", self.x, LENGTH), ("y", self.y, LENGTH), ("turn", self.turn, ANGLE)):
            if text is not None:
                changed[name] = self._value(model, text, wanted, name)
        if self.width is not None:
            wide = self._value(model, self.width, LENGTH, "width")
            if not 1e-3 <= wide <= 1e5:
                raise BadInput("The width of the picture must be above zero.", where="width")
            changed["scale"] = wide / old.wide
        if self.strength is not None:
            changed["strength"] = self.strength
        try:
            return self._with(model, Underlay.model_validate({**old.model_dump(), **changed}))
        except ValidationError as error:
            raise BadInput("There the picture would lie too far away.", where=next(iter(changed), "")) from error

    def _value(self, model: Model, text: str, wanted: Dimension, where: str) -> float:
        try:
            value = evaluate(text, model.table.values, wanted=wanted, length_unit=model.units).value
        except BadInput as problem:
            problem.where = where
            raise
        if not math.isfinite(value):
            raise BadInput("That is no number.", where=where)
        return value

    def summary(self, before: Model, after: Model) -> str:
        return f"Picture of {after.title_of(self.sketch)} laid otherwise"


class ScaleUnderlay(UnderlayEdit):
    """Set to scale by two of its places and the length between them."""

    kind: Literal["scale_underlay"] = "scale_underlay"
    first: Vec
    second: Vec
    length: str = Field(max_length=400)

    def apply(self, model: Model) -> Model:
        apart = evaluate(self.length, model.table.values, wanted=LENGTH, length_unit=model.units).value
        if not 1e-6 < apart <= 1e5:
            raise BadInput("The length between two points must be above zero.", where="length")
        return self._with(model, self._there(model).scaled(self.first, self.second, apart))

    def summary(self, before: Model, after: Model) -> str:
        return f"Picture of {after.title_of(self.sketch)} set to scale"


class DropUnderlay(UnderlayEdit):
    """The picture is taken away."""

    kind: Literal["drop_underlay"] = "drop_underlay"

    def apply(self, model: Model) -> Model:
        self._there(model)
        return self._with(model, None)

    def summary(self, before: Model, after: Model) -> str:
        return f"Picture of {after.title_of(self.sketch)} taken away"
