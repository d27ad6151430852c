"""Units a person may type, and how values are shown. Inside: mm and radians."""

from __future__ import annotations

import math
from typing import Literal, NamedTuple

LengthUnit = Literal["mm", "cm", "m", "in"]


class Dimension(NamedTuple):
    """Powers of length and angle; ``(1, 0)`` is a length, ``(0, 1)`` an angle, ``(0, 0)`` a plain number."""

    length: int
    angle: int

    @property
    def word(self) -> str:
        """The dimension as a person would name it.

        >>> LENGTH.word, Dimension(2, 0).word
        ('a length', 'an area')
        """
        return _WORDS.get(self, f"a quantity in mm^{self.length} rad^{self.angle}")


NUMBER = Dimension(0, 0)
LENGTH = Dimension(1, 0)
ANGLE = Dimension(0, 1)
_WORDS = {
    NUMBER: "a plain number",
    LENGTH: "a length",
    ANGLE: "an angle",
    Dimension(2, 0): "an area",
    Dimension(3, 0): "a volume",
}

# unit word -> (factor to mm / rad, dimension)
UNITS: dict[str, tuple[float, Dimension]] = {
    "mm": (1.0, LENGTH),
    "cm": (10.0, LENGTH),
    "m": (1000.0, LENGTH),
    "um": (1e-3, LENGTH),
    "µm": (1e-3, LENGTH),
    "in": (25.4, LENGTH),
    "inch": (25.4, LENGTH),
    '"': (25.4, LENGTH),
    "ft": (304.8, LENGTH),
    "deg": (math.pi / 180, ANGLE),
    "°": (math.pi / 180, ANGLE),
    "rad": (1.0, ANGLE),
}


def default_unit(dimension: Dimension, length_unit: LengthUnit) -> str:
    """The unit a bare number takes where ``dimension`` is wanted; empty for plain numbers."""
    if dimension == LENGTH:
        return length_unit
    return "°" if dimension == ANGLE else ""


def number_text(value: float, digits: int = 6) -> str:
    """A number without trailing noise.

    >>> number_text(18.0), number_text(0.1 + 0.2), number_text(-0.0)
    ('18', '0.3', '0')
    """
    text = f"{value:.{digits}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def show(value: float, dimension: Dimension, length_unit: LengthUnit = "mm", digits: int = 6) -> str:
    """``value`` (mm, rad) as text in the person's units.

    >>> show(25.4, LENGTH, "in"), show(math.pi / 2, ANGLE), show(3, NUMBER)
    ('1 in', '90°', '3')
    """
    if dimension == LENGTH:
        return f"{number_text(value / UNITS[length_unit][0], digits)} {length_unit}"
    if dimension == ANGLE:
        return f"{number_text(math.degrees(value), digits)}°"
    return number_text(value, digits)
