"""How a part is printed: the machine's nozzle and bed, the layers, the speeds. What estimates are made from."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ..errors import BadInput


def _field(usual: float, least: float, most: float, title: str, unit: str = "") -> Any:
    return Field(default=usual, ge=least, le=most, title=title, json_schema_extra={"unit": unit})


class Process(BaseModel):
    """Lengths in mm, speeds in mm/s, angles in degrees."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    nozzle: float = _field(0.4, 0.1, 2, "nozzle", "mm")
    layer: float = _field(0.2, 0.04, 1.5, "layer height", "mm")
    walls: int = _field(2, 1, 12, "walls", "lines")
    shells: int = _field(4, 0, 50, "full layers below, above")
    fill: float = _field(0.15, 0, 1, "fill (1 is solid)")
    overhang: float = _field(45, 10, 85, "overhang up to", "°")  # from upright; leaning farther needs support
    bed_x: float = _field(220, 20, 2000, "bed across", "mm")
    bed_y: float = _field(220, 20, 2000, "bed deep", "mm")
    bed_z: float = _field(250, 20, 2000, "height", "mm")
    apart: float = _field(6, 0, 100, "between parts", "mm")
    wall_speed: float = _field(45, 1, 1000, "along walls", "mm/s")
    fill_speed: float = _field(80, 1, 1000, "across", "mm/s")
    layer_pause: float = _field(1.5, 0, 60, "between layers", "s")  # for moving up and travelling
    filament: float = _field(1.75, 0.5, 5, "filament", "mm")
    price: float = _field(24, 0, 10000, "a kilogram costs")
    currency: str = Field(default="€", max_length=4, title="paid in")

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
        name = str(error.errors(include_url=False)[0]["loc"][0])
        if name not in Process.model_fields:
            raise BadInput("A value of how it is printed is not known here: reload the page.") from error
        raise BadInput(_must_be(name), where=name) from error


def _must_be(name: str) -> str:
    field = Process.model_fields[name]
    if field.annotation is str:
        return f"“{field.title}” takes at most four characters."
    bounds = {
        type(m).__name__: getattr(m, type(m).__name__.lower())
        for m in field.metadata
        if hasattr(m, "ge") or hasattr(m, "le")
    }
    unit = described()[list(Process.model_fields).index(name)][2]
    whole = "a whole number " if field.annotation is int else ""
    return (
        f"“{field.title}” must be {whole}from {bounds['Ge']:g} to "
        f"{bounds['Le']:g}{unit if unit == '°' else f' {unit}'.rstrip()}."
    )


def described() -> list[tuple[str, str, str]]:
    """Name, title and unit of each value, in order, for a form."""
    return [
        (name, field.title or name, str((field.json_schema_extra or {}).get("unit", "")))  # type: ignore[union-attr]
        for name, field in Process.model_fields.items()
    ]
