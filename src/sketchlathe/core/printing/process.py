"""How a part is printed: the machine's nozzle and bed, the layers, the speeds. What estimates are made from."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ..errors import BadInput


class Process(BaseModel):
    """Lengths in mm, speeds in mm/s, angles in degrees."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    nozzle: float = Field(default=0.4, ge=0.1, le=2)
    layer: float = Field(default=0.2, ge=0.04, le=1.5)
    walls: int = Field(default=2, ge=1, le=12)
    shells: int = Field(default=4, ge=0, le=50)  # full layers at the bottom and at the top
    fill: float = Field(default=0.15, ge=0, le=1)
    overhang: float = Field(default=45, ge=10, le=85)  # from upright; leaning farther needs support
    bed_x: float = Field(default=220, ge=20, le=2000)
    bed_y: float = Field(default=220, ge=20, le=2000)
    bed_z: float = Field(default=250, ge=20, le=2000)
    wall_speed: float = Field(default=45, ge=1, le=1000)
    fill_speed: float = Field(default=80, ge=1, le=1000)
    layer_pause: float = Field(default=1.5, ge=0, le=60)  # s for moving up and travelling, a layer
    filament: float = Field(default=1.75, ge=0.5, le=5)
    price: float = Field(default=24, ge=0, le=10000)  # of a kilogram

    @property
    def line(self) -> float:
        """Width of one line of plastic: a tenth more than the nozzle, as slicing programs take it."""
        return 1.1 * self.nozzle

    @property
    def thinnest(self) -> float:
        """Thinnest wall that comes out sound: two lines."""
        return 2 * self.nozzle


def process_of(raw: Any) -> Process:
    """A process from what a person set. Raises ``BadInput`` naming the field."""
    try:
        return Process.model_validate(raw or {})
    except ValidationError as error:
        first = error.errors(include_url=False)[0]
        place = str(first["loc"][0]) if first["loc"] else "the process"
        raise BadInput(f"The printing value “{place}” is not possible: {first['msg'].lower()}.", where=place) from error
