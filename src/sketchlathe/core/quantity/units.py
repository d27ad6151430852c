"""Units a person may type, and how values are shown. Inside: mm and radians."""

from __future__ import annotations

import math
from collections.abc import Callable
from fractions import Fraction
from typing import Literal, NamedTuple

LengthUnit = Literal["mm", "cm", "m", "in"]
# how lengths are read; in/64 writes whole 64ths of an inch as fractions, and what is none of them in decimals
ReadIn = Literal["mm", "cm", "m", "in", "in/64"]


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


def fraction_text(inches: float) -> str:
    """A whole number of 64ths of an inch as a mixed fraction; empty for what is none.

    >>> fraction_text(1.25), fraction_text(-0.375), fraction_text(2.0), fraction_text(0.3)
    ('1 1/4', '-3/8', '2', '')
    """
    parts = round(abs(inches) * 64)
    if abs(abs(inches) * 64 - parts) > 64e-6:
        return ""
    whole, rest = divmod(parts, 64)
    over = f"{Fraction(rest, 64)}" if rest else ""
    return ("-" if inches < 0 and parts else "") + (f"{whole} {over}" if whole and over else over or f"{whole}")


def show(value: float, dimension: Dimension, length_unit: ReadIn = "mm", digits: int = 6) -> str:
    """``value`` (mm, rad) as text in the person's units.

    >>> show(25.4, LENGTH, "in"), show(9.525, LENGTH, "in/64"), show(math.pi / 2, ANGLE), show(3, NUMBER)
    ('1 in', '3/8 in', '90°', '3')
    """
    if dimension == LENGTH and length_unit == "in/64":
        return f"{fraction_text(value / 25.4) or number_text(value / 25.4, digits)} in"
    if dimension == LENGTH:
        return f"{number_text(value / UNITS[length_unit][0], digits)} {length_unit}"
    if dimension == ANGLE:
        return f"{number_text(math.degrees(value), digits)}°"
    return number_text(value, digits)


def show_at_least(mm: float, length_unit: ReadIn = "mm") -> str:
    """The smallest length of three digits in the person's unit that is not below ``mm`` (which is above nought).

    >>> show_at_least(10.954), show_at_least(25.41, "in")
    ('11 mm', '1.01 in')
    """
    return _in_three_digits(mm, length_unit, lambda amount: math.ceil(amount - 1e-9))


def show_at_most(mm: float, length_unit: ReadIn = "mm") -> str:
    """The largest length of three digits in the person's unit that is not above ``mm`` (which is above nought).

    >>> show_at_most(4.9999), show_at_most(25.39, "in"), show_at_most(0.0625, "m")
    ('4.99 mm', '0.999 in', '0.0000625 m')
    """
    return _in_three_digits(mm, length_unit, math.floor)


def _in_three_digits(mm: float, length_unit: ReadIn, whole: Callable[[float], int]) -> str:
    """``mm`` in the person's unit, its third digit found by ``whole``; no digit of a small length is rounded away."""
    unit: LengthUnit = "in" if length_unit == "in/64" else length_unit
    amount = mm / UNITS[unit][0]
    last = math.floor(math.log10(amount)) - 2
    grain = 10.0**last
    return show(whole(amount / grain) * grain * UNITS[unit][0], LENGTH, unit, digits=max(6, -last))


_HANDY = tuple(
    Fraction(n, d) for n, d in ((1, 64), (1, 32), (1, 16), (1, 8), (3, 16), (1, 4), (3, 8), (1, 2), (3, 4), (1, 1))
)


def handy(mm: float, length_unit: ReadIn) -> str:
    """A length for a blank that nobody has filled yet: near ``mm``, round in the person's unit (it was chosen in mm).

    >>> handy(1.6, "mm"), handy(10, "in"), handy(20, "in/64"), handy(0, "in")
    ('1.6 mm', '0.4 in', '3/4 in', '0 in')
    """
    if length_unit == "mm" and float(f"{mm:.2g}") == mm:  # short as it is
        return show(mm, LENGTH, length_unit)
    unit: LengthUnit = "in" if length_unit == "in/64" else length_unit
    amount = mm / UNITS[unit][0]
    if length_unit == "in/64" and 0 < amount <= 1:
        amount = float(min(_HANDY, key=lambda f: abs(f - amount)))
    elif amount > 0:
        grain = 10.0 ** math.floor(math.log10(amount) + 1e-9)
        amount = round(amount / grain) * grain
    return show(amount * UNITS[unit][0], LENGTH, length_unit)
