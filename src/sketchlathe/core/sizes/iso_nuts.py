"""Hexagon nuts, mm: width across flats, height of normal and of thin ones (ISO 4032 style 1,
ISO 4035), largest sizes.
"""

from __future__ import annotations

from typing import NamedTuple


class Nut(NamedTuple):
    """Width across flats, height, height of the thin one."""

    across: float
    high: float
    thin: float


NUTS: dict[str, Nut] = {
    "M2": Nut(4.0, 1.6, 1.2), "M2.5": Nut(5.0, 2.0, 1.6), "M3": Nut(5.5, 2.4, 1.8), "M4": Nut(7.0, 3.2, 2.2),
    "M5": Nut(8.0, 4.7, 2.7), "M6": Nut(10.0, 5.2, 3.2), "M8": Nut(13.0, 6.8, 4.0), "M10": Nut(16.0, 8.4, 5.0),
    "M12": Nut(18.0, 10.8, 6.0),
}  # fmt: skip
