"""Parts that are bought, by their standards: outer sizes in mm, usual lengths (ISO 888).

Cap screws ISO 4762, button heads ISO 7380-1, countersunk ISO 10642, hexagon screws ISO 4017, nuts ISO 4032 and 4035
(``iso_nuts``), washers ISO 7089, single-row ball bearings ISO 15. Largest sizes where a standard gives limits.
"""

from __future__ import annotations

from typing import NamedTuple


class Head(NamedTuple):
    """A screw's head: width (diameter, or across flats), height, width across flats and depth of its socket (0: none);
    shortest and longest usual length.
    """

    wide: float
    high: float
    socket: float
    deep: float
    shortest: float
    longest: float


SCREWS: dict[str, dict[str, Head]] = {
    "ISO 4762": {
        "M2": Head(3.8, 2, 1.5, 1, 3, 20), "M2.5": Head(4.5, 2.5, 2, 1.1, 4, 25), "M3": Head(5.5, 3, 2.5, 1.3, 5, 30),
        "M4": Head(7, 4, 3, 2, 6, 40), "M5": Head(8.5, 5, 4, 2.5, 8, 50), "M6": Head(10, 6, 5, 3, 10, 60),
        "M8": Head(13, 8, 6, 4, 12, 80), "M10": Head(16, 10, 8, 5, 16, 100), "M12": Head(18, 12, 10, 6, 20, 120),
    },
    "ISO 7380-1": {
        "M3": Head(5.7, 1.65, 2, 1.04, 6, 30), "M4": Head(7.6, 2.2, 2.5, 1.3, 8, 40),
        "M5": Head(9.5, 2.75, 3, 1.56, 10, 50), "M6": Head(10.5, 3.3, 4, 2.08, 10, 60),
        "M8": Head(14, 4.4, 5, 2.6, 10, 80), "M10": Head(17.5, 5.5, 6, 3.12, 16, 90),
        "M12": Head(21, 6.6, 8, 4.16, 16, 90),
    },
    "ISO 10642": {
        "M3": Head(6.72, 1.86, 2, 1.1, 8, 30), "M4": Head(8.96, 2.48, 2.5, 1.5, 8, 40),
        "M5": Head(11.2, 3.1, 3, 1.9, 8, 50), "M6": Head(13.44, 3.72, 4, 2.2, 8, 60),
        "M8": Head(17.92, 4.96, 5, 3, 10, 80), "M10": Head(22.4, 6.2, 6, 3.6, 12, 100),
        "M12": Head(26.88, 7.44, 8, 4.3, 20, 100),
    },
    "ISO 4017": {
        "M3": Head(5.5, 2, 0, 0, 6, 30), "M4": Head(7, 2.8, 0, 0, 8, 40), "M5": Head(8, 3.5, 0, 0, 10, 50),
        "M6": Head(10, 4, 0, 0, 12, 60), "M8": Head(13, 5.3, 0, 0, 16, 80), "M10": Head(16, 6.4, 0, 0, 20, 100),
        "M12": Head(18, 7.5, 0, 0, 25, 120),
    },
}  # fmt: skip

LENGTHS = (3, 4, 5, 6, 8, 10, 12, 16, 20, 25, 30, 35, 40, 45, 50, 55, 60, 65, 70, 80, 90, 100, 110, 120)


class Washer(NamedTuple):
    """Inner and outer diameter, thickness."""

    inner: float
    outer: float
    thick: float


WASHERS: dict[str, Washer] = {
    "M2": Washer(2.2, 5, 0.3), "M2.5": Washer(2.7, 6, 0.5), "M3": Washer(3.2, 7, 0.5), "M4": Washer(4.3, 9, 0.8),
    "M5": Washer(5.3, 10, 1), "M6": Washer(6.4, 12, 1.6), "M8": Washer(8.4, 16, 1.6), "M10": Washer(10.5, 20, 2),
    "M12": Washer(13, 24, 2.5),
}  # fmt: skip


class Bearing(NamedTuple):
    """Bore, outer diameter, width."""

    bore: float
    outer: float
    wide: float


BEARINGS: dict[str, Bearing] = {
    "623": Bearing(3, 10, 4), "624": Bearing(4, 13, 5), "625": Bearing(5, 16, 5), "626": Bearing(6, 19, 6),
    "688": Bearing(8, 16, 5), "608": Bearing(8, 22, 7), "6000": Bearing(10, 26, 8), "6001": Bearing(12, 28, 8),
    "6002": Bearing(15, 32, 9), "6003": Bearing(17, 35, 10), "6004": Bearing(20, 42, 12),
}  # fmt: skip
