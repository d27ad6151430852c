"""Materials with their densities. Figures: typical values of makers' data sheets and of handbooks."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Material:
    """``density`` in g/cm³."""

    name: str
    density: float
    source: str


MATERIALS: dict[str, Material] = {
    "pla": Material("PLA", 1.24, "filament data sheets, ISO 1183"),
    "petg": Material("PETG", 1.27, "filament data sheets, ISO 1183"),
    "abs": Material("ABS", 1.04, "filament data sheets, ISO 1183"),
    "asa": Material("ASA", 1.07, "filament data sheets, ISO 1183"),
    "nylon": Material("Nylon (PA 12)", 1.01, "powder data sheets, ISO 1183"),
    "tpu": Material("TPU 95A", 1.21, "filament data sheets, ISO 1183"),
    "resin": Material("Photopolymer resin", 1.18, "resin data sheets, cured"),
    "aluminium": Material("Aluminium 6061", 2.70, "handbook value"),
    "steel": Material("Steel, mild", 7.85, "handbook value"),
    "brass": Material("Brass CuZn37", 8.44, "handbook value"),
}


def mass_g(volume_mm3: float, material: str) -> float:
    """Mass in g of a volume.

    >>> mass_g(1000.0, "pla")
    1.24
    """
    return volume_mm3 / 1000.0 * MATERIALS[material].density
