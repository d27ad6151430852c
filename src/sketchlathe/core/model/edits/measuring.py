"""Edits of the measurements that are kept."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...errors import NotFound, Refused
from ..document import Model
from ..measurements import Measurement, Thing
from .base import Edit

MOST = 100


class KeepMeasurement(Edit):
    """Keep a measurement: it is taken again after every change."""

    kind: Literal["keep_measurement"] = "keep_measurement"
    part: str = Field(max_length=20)
    things: tuple[Thing, ...] = Field(min_length=1, max_length=2)

    def apply(self, model: Model) -> Model:
        part = model.part(self.part)
        if len(part.measurements) >= MOST:
            raise Refused(f"At most {MOST} measurements can be kept.")
        (id,), model = model.fresh("g")
        new = Measurement(id=id, things=self.things)
        return model.with_part(part.model_copy(update={"measurements": (*part.measurements, new)}))

    def summary(self, before: Model, after: Model) -> str:
        return "Measurement kept"


class DropMeasurement(Edit):
    """Do not keep a measurement any longer."""

    kind: Literal["drop_measurement"] = "drop_measurement"
    part: str = Field(max_length=20)
    id: str = Field(max_length=20)

    def apply(self, model: Model) -> Model:
        part = model.part(self.part)
        left = tuple(m for m in part.measurements if m.id != self.id)
        if len(left) == len(part.measurements):
            raise NotFound("That measurement is not kept any more.")
        return model.with_part(part.model_copy(update={"measurements": left}))

    def summary(self, before: Model, after: Model) -> str:
        return "Measurement dropped"
