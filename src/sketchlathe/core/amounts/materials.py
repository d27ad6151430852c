"""Materials: density with the source of the figure, and how they look. A model can have materials of its own."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel, ConfigDict, Field


@dataclass(frozen=True)
class Material:
    """``density`` in g/cm³. ``colour`` #rrggbb; ``shine`` 0 (matt) to 1 (polished); ``metal``: it reflects its own
    colour.
    """

    name: str
    density: float
    source: str
    group: str
    colour: str
    finish: str = "matt"

    def as_json(self) -> dict[str, Any]:
        """Plain data, for the screen."""
        return {
            "name": self.name, "density": self.density, "source": self.source, "group": self.group,
            "colour": self.colour, "finish": self.finish, **FINISHES[self.finish],
        }  # fmt: skip


FINISHES: dict[str, dict[str, float]] = {
    "matt": {"shine": 0.0, "metal": 0.0, "clear": 0.0},
    "satin": {"shine": 0.35, "metal": 0.0, "clear": 0.0},
    "gloss": {"shine": 0.7, "metal": 0.0, "clear": 0.0},
    "brushed": {"shine": 0.5, "metal": 1.0, "clear": 0.0},
    "polished": {"shine": 0.9, "metal": 1.0, "clear": 0.0},
    "grained": {"shine": 0.1, "metal": 0.0, "clear": 0.0},
    "clear": {"shine": 0.8, "metal": 0.0, "clear": 0.55},
}

_FILAMENT = "filament data sheets, ISO 1183"
_RESIN = "resin data sheets, cured, ISO 1183"
_SHEET = "semi-finished plastics data sheets, ISO 1183"
_METAL = "handbook value at 20 °C"
_WOOD = "wood handbooks, mean at 12 % moisture"
_HAND = "handbook value"


def _group(group: str, source: str, finish: str, *rows: tuple[str, str, float, str]) -> dict[str, Material]:
    return {key: Material(name, density, source, group, colour, finish) for key, name, density, colour in rows}


MATERIALS: dict[str, Material] = {
    **_group(
        "printing plastics", _FILAMENT, "satin",
        ("pla", "PLA", 1.24, "#d9cfbb"), ("petg", "PETG", 1.27, "#c3ccc8"), ("abs", "ABS", 1.04, "#e6e2d6"),
        ("asa", "ASA", 1.07, "#8f9a97"), ("hips", "HIPS", 1.04, "#efece2"), ("nylon", "Nylon (PA 12)", 1.01, "#ece8dc"),
        ("pa6", "Nylon (PA 6)", 1.14, "#e9e3d2"), ("pc", "Polycarbonate", 1.20, "#d5dbdb"),
        ("tpu", "TPU 95A", 1.21, "#b9b3a4"), ("tpe", "TPE 85A", 1.15, "#a8a193"),
        ("pp", "Polypropylene", 0.90, "#e4e6e0"),
        ("pva", "PVA (support)", 1.23, "#ddd3b4"), ("peek", "PEEK", 1.30, "#b09a74"),
    ),
    **_group(
        "printing plastics", _FILAMENT, "matt",
        ("pla-wood", "PLA, wood-filled", 1.15, "#b48a5e"), ("pla-carbon", "PLA, carbon-filled", 1.29, "#4d4f50"),
        ("petg-carbon", "PETG, carbon-filled", 1.30, "#46494b"),
        ("pa12-glass", "Nylon (PA 12), glass-filled", 1.22, "#d8d4c7"),
    ),
    **_group(
        "resins", _RESIN, "gloss",
        ("resin", "Photopolymer resin", 1.18, "#b4bcc0"), ("resin-tough", "Photopolymer resin, tough", 1.16, "#a3aeb4"),
        ("resin-flexible", "Photopolymer resin, flexible", 1.10, "#8c9498"), ("epoxy", "Epoxy, cast", 1.15, "#d8c48c"),
    ),
    **_group("resins", _RESIN, "clear", ("resin-clear", "Photopolymer resin, clear", 1.17, "#dfe7e6")),
    **_group(
        "other plastics", _SHEET, "satin",
        ("hdpe", "Polyethylene, HD", 0.95, "#eef0ec"), ("ldpe", "Polyethylene, LD", 0.92, "#f0f1ee"),
        ("pom", "POM (acetal)", 1.41, "#efeee8"), ("pvc", "PVC, hard", 1.38, "#a6adb0"),
        ("ps", "Polystyrene", 1.05, "#e9e9e4"),
        ("ptfe", "PTFE", 2.17, "#f4f3ef"), ("silicone", "Silicone rubber", 1.12, "#c9c3b8"),
        ("rubber", "Natural rubber", 0.93, "#3c3a36"),
    ),
    **_group("other plastics", _SHEET, "clear", ("pmma", "Acrylic (PMMA)", 1.18, "#dce6e6")),
    **_group(
        "metals", _METAL, "brushed",
        ("aluminium", "Aluminium 6061", 2.70, "#c2c6c8"), ("aluminium-7075", "Aluminium 7075", 2.81, "#bcc1c4"),
        ("aluminium-cast", "Aluminium, cast (AlSi10Mg)", 2.67, "#b5b9bb"), ("steel", "Steel, mild", 7.85, "#9ea4a8"),
        ("steel-tool", "Steel, tool", 7.70, "#8d9397"), ("stainless", "Steel, stainless 1.4301", 7.90, "#b4babd"),
        ("stainless-316", "Steel, stainless 1.4404", 7.98, "#b0b6b9"), ("iron", "Cast iron, grey", 7.20, "#6f7376"),
        ("titanium", "Titanium Ti-6Al-4V", 4.43, "#a29f98"), ("magnesium", "Magnesium AZ91", 1.81, "#b9bab7"),
        ("zinc", "Zinc, die-cast", 6.70, "#a7acb0"), ("lead", "Lead", 11.34, "#7d8388"),
        ("tin", "Tin", 7.29, "#c7c8c5"),
        ("tungsten", "Tungsten", 19.25, "#7b7c7a"),
    ),
    **_group(
        "metals", _METAL, "polished",
        ("brass", "Brass CuZn37", 8.44, "#c9a75a"), ("bronze", "Bronze CuSn8", 8.80, "#b3874e"),
        ("copper", "Copper", 8.94, "#bf7a52"),
        ("silver", "Silver", 10.49, "#d3d4d1"), ("gold", "Gold", 19.32, "#d4ae4a"),
    ),
    **_group(
        "woods", _WOOD, "grained",
        ("pine", "Pine", 0.52, "#dbb787"), ("spruce", "Spruce", 0.45, "#e2c596"), ("oak", "Oak", 0.71, "#b98f5c"),
        ("beech", "Beech", 0.72, "#cfa276"), ("ash", "Ash", 0.69, "#d6bb92"), ("birch", "Birch", 0.65, "#e0c79c"),
        ("maple", "Maple", 0.66, "#e3cba3"), ("walnut", "Walnut", 0.64, "#7d5a3e"), ("balsa", "Balsa", 0.16, "#ecd9b4"),
        ("plywood", "Plywood, birch", 0.68, "#d9bc8c"), ("mdf", "Fibreboard (MDF)", 0.75, "#b99a72"),
    ),
    **_group(
        "others", _HAND, "matt",
        ("concrete", "Concrete", 2.40, "#a9a59c"), ("plaster", "Plaster", 1.20, "#ece7dc"),
        ("granite", "Granite", 2.70, "#9b9592"),
        ("porcelain", "Porcelain", 2.40, "#f1eee7"), ("alumina", "Alumina ceramic", 3.90, "#efe9dd"),
        ("cork", "Cork", 0.24, "#c09a6b"),
        ("cardboard", "Cardboard", 0.69, "#b8935f"), ("eps", "Polystyrene foam", 0.03, "#f5f5f1"),
        ("carbon", "Carbon fibre laminate", 1.55, "#393b3d"),
        ("glass-laminate", "Glass fibre laminate", 1.85, "#b6bd9c"),
        ("wax", "Casting wax", 0.93, "#8a9a83"),
    ),
    **_group(
        "others", _HAND, "clear",
        ("glass", "Glass, soda-lime", 2.50, "#d7e4df"), ("water", "Water", 0.998, "#c5dbe0"),
        ("ice", "Ice", 0.917, "#dbe9ec"),
    ),
}  # fmt: skip


class OwnMaterial(BaseModel):
    """A material that a person made for a model."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: str = Field(pattern=r"^m\d{1,9}$")
    name: str = Field(min_length=1, max_length=60)
    density: float = Field(gt=1e-4, lt=100, allow_inf_nan=False)
    colour: str = Field(default="#d9cfbb", pattern="^#[0-9a-f]{6}$")


def found(words: str, among: Iterable[tuple[str, Material]]) -> list[str]:
    """Keys of the materials whose name, group or key has all the words.

    >>> found("steel stainless", MATERIALS.items())
    ['stainless', 'stainless-316']
    """
    wanted = words.lower().split()
    return [k for k, m in among if all(w in f"{k} {m.name} {m.group}".lower() for w in wanted)]
