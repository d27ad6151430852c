"""Sizes of holes for metric screws, mm.

Clearance: ISO 273. Tapping drills: nominal less pitch (ISO 261 coarse). Heads: ISO 4762 cap screws with DIN 974-1
seats; ISO 10642 countersunk (theoretical head diameter). Inserts: the bores that makers of brass heat-set inserts
commonly give.
"""

from __future__ import annotations

from typing import NamedTuple

FITS = {
    "close": "close fit", "medium": "medium fit", "free": "free fit", "tapping": "to be tapped",
    "insert": "with a heat-set insert",
}  # fmt: skip


class Screw(NamedTuple):
    """One thread size: hole diameters by fit and its seats."""

    close: float
    medium: float
    free: float
    tapping: float
    insert: float
    head: float  # diameter of the seat of a cap head
    head_depth: float
    sunk: float  # diameter of the countersink

    def hole(self, fit: str) -> float:
        """The diameter for a fit."""
        return float(getattr(self, fit))


SIZES: dict[str, Screw] = {
    "M2": Screw(2.2, 2.4, 2.6, 1.6, 3.2, 4.3, 2.3, 4.4),
    "M2.5": Screw(2.7, 2.9, 3.1, 2.05, 4.0, 5.0, 2.9, 5.5),
    "M3": Screw(3.2, 3.4, 3.6, 2.5, 4.0, 6.5, 3.4, 6.72),
    "M4": Screw(4.3, 4.5, 4.8, 3.3, 5.6, 8.0, 4.4, 8.96),
    "M5": Screw(5.3, 5.5, 5.8, 4.2, 6.4, 10.0, 5.4, 11.2),
    "M6": Screw(6.4, 6.6, 7.0, 5.0, 8.0, 11.0, 6.4, 13.44),
    "M8": Screw(8.4, 9.0, 10.0, 6.8, 9.7, 15.0, 8.6, 17.92),
    "M10": Screw(10.5, 11.0, 12.0, 8.5, 12.0, 18.0, 10.6, 22.4),
    "M12": Screw(13.0, 13.5, 14.5, 10.2, 14.0, 20.0, 12.6, 26.88),
}
