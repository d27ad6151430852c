"""ISO metric screw threads, mm: nominal diameters with their coarse pitch and the usual fine
ones (ISO 261, ISO 262).
"""

from __future__ import annotations

PITCHES: dict[str, tuple[float, ...]] = {
    "M2": (0.4, 0.25), "M2.5": (0.45, 0.35), "M3": (0.5, 0.35), "M4": (0.7, 0.5), "M5": (0.8, 0.5), "M6": (1.0, 0.75),
    "M8": (1.25, 1.0), "M10": (1.5, 1.25, 1.0), "M12": (1.75, 1.5, 1.25), "M14": (2.0, 1.5), "M16": (2.0, 1.5),
    "M18": (2.5, 2.0, 1.5), "M20": (2.5, 2.0, 1.5), "M22": (2.5, 2.0, 1.5), "M24": (3.0, 2.0), "M27": (3.0, 2.0),
    "M30": (3.5, 2.0), "M33": (3.5, 2.0), "M36": (4.0, 3.0), "M39": (4.0, 3.0), "M42": (4.5, 3.0), "M48": (5.0, 3.0),
    "M56": (5.5, 4.0), "M64": (6.0, 4.0),
}  # fmt: skip


def nominal(size: str) -> float:
    """The nominal (major) diameter of a size.

    >>> nominal("M2.5")
    2.5
    """
    return float(size[1:])


def minor(diameter: float, pitch: float) -> float:
    """The minor diameter of a nut's thread, D1 = D - 1.0825 P (ISO 724).

    >>> round(minor(12, 1.75), 3)
    10.106
    """
    return diameter - 5 / 4 * 3**0.5 / 2 * pitch


def nearest(diameter: float, inside: bool) -> str:
    """The size whose rod, or whose bore for tapping, is nearest to a diameter."""

    def off(size: str) -> float:
        d = nominal(size)
        return abs((minor(d, PITCHES[size][0]) if inside else d) - diameter)

    return min(PITCHES, key=off)
