"""Weigh & size: volume, area, mass, centre of mass and inertia of bodies alone and together, in a person's units.

Inside: mm, mm², mm³, g, g·mm². Inertia is about the centre of mass, along the model's axes.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import BadInput
from ..quantity.units import UNITS, number_text

MASS_UNITS = {"g": 1.0, "kg": 1000.0, "oz": 28.349523125, "lb": 453.59237}  # in g
LENGTH_UNITS = ("mm", "cm", "m", "in")


@dataclass(frozen=True)
class Weighed:
    """What a body, or several together, amount to. ``inertia`` (3, 3) in g·mm²; ``box``: lowest and highest corner."""

    volume: float
    area: float
    mass: float
    centre: tuple[float, float, float]
    box: tuple[tuple[float, ...], tuple[float, ...]]
    inertia: np.ndarray

    def principal(self) -> tuple[np.ndarray, np.ndarray]:
        """Principal moments, smallest first (g·mm²), and their axes as rows (a right-handed set).

        Each axis points mostly towards a positive model axis, so that the same body always has the same ones.
        """
        moments, columns = np.linalg.eigh(self.inertia)
        axes = columns.T.copy()
        for axis in axes[:2]:
            axis *= 1.0 if axis[np.argmax(np.abs(axis))] > 0 else -1.0
        axes[2] = np.cross(axes[0], axes[1])
        return moments, axes


def weighed(
    volume: float, area: float, centre: Sequence[float], box: Sequence[Sequence[float]], moments: Sequence[float],
    density: float,
) -> Weighed:  # fmt: skip
    """One body of a density (g/cm³). ``moments``: xx, yy, zz, xy, xz, yz of the inertia of density 1 g/mm³, mm⁵."""
    per = density / 1000.0
    xx, yy, zz, xy, xz, yz = moments
    inertia = np.array([[xx, xy, xz], [xy, yy, yz], [xz, yz, zz]]) * per
    inertia[np.abs(inertia) < 1e-12 * np.trace(inertia)] = 0.0  # what the kernel's quadrature leaves of a zero
    x, y, z = centre
    return Weighed(volume, area, volume * per, (x, y, z), (tuple(box[0]), tuple(box[1])), inertia)


def together(bodies: Sequence[Weighed]) -> Weighed:
    """Bodies as one. Inertia by the parallel axis theorem (Steiner)."""
    if not bodies:
        return Weighed(0.0, 0.0, 0.0, (0.0, 0.0, 0.0), ((0.0, 0.0, 0.0), (0.0, 0.0, 0.0)), np.zeros((3, 3)))
    mass = sum(b.mass for b in bodies)
    centres = np.array([b.centre for b in bodies])
    masses = np.array([b.mass for b in bodies])
    centre = (masses @ centres) / mass if mass else centres.mean(axis=0)
    inertia = np.zeros((3, 3))
    for body, at in zip(bodies, centres):
        d = at - centre
        inertia += body.inertia + body.mass * (np.dot(d, d) * np.eye(3) - np.outer(d, d))
    low = tuple(min(b.box[0][i] for b in bodies) for i in range(3))
    high = tuple(max(b.box[1][i] for b in bodies) for i in range(3))
    return Weighed(
        sum(b.volume for b in bodies), sum(b.area for b in bodies), mass,
        (float(centre[0]), float(centre[1]), float(centre[2])),
        (low, high), inertia,
    )  # fmt: skip


@dataclass(frozen=True)
class Units:
    """How a person wants to read figures: units of length and mass, and how many significant digits."""

    length: str = "mm"
    mass: str = "g"
    digits: int = 5

    def __post_init__(self) -> None:
        if self.length not in LENGTH_UNITS or self.mass not in MASS_UNITS or not 2 <= self.digits <= 10:
            raise BadInput("Units are mm, cm, m or in, and g, kg, oz or lb, with 2 to 10 digits.")

    def number(self, value: float) -> str:
        """A number with the chosen significant digits, never in powers of ten unless it must be."""
        if value == 0:
            return "0"
        exponent = math.floor(math.log10(abs(value)))
        if exponent < -6:
            return f"{value:.{self.digits - 1}e}"
        return number_text(value, max(0, self.digits - 1 - exponent))

    def length_of(self, mm: float, power: int = 1) -> str:
        """A length, area or volume. Areas and volumes of a mm model are read in cm, as drawings have them."""
        unit = "cm" if self.length == "mm" and power > 1 else self.length
        return f"{self.number(mm / UNITS[unit][0] ** power)} {unit}{['', '', '²', '³'][power]}"

    def mass_of(self, g: float) -> str:
        """A mass."""
        return f"{self.number(g / MASS_UNITS[self.mass])} {self.mass}"

    def inertia_of(self, g_mm2: float) -> str:
        """A moment of inertia, in the units of mass and length."""
        value = g_mm2 / MASS_UNITS[self.mass] / UNITS[self.length][0] ** 2
        return f"{self.number(value)} {self.mass}·{self.length}²"


@dataclass(frozen=True)
class Row:
    """A line of Weigh & size: what, as read, and exactly (mm, g) for copying."""

    what: str
    text: str
    exact: str
    detail: bool = False


def without_noise(values: Sequence[float], scale: float) -> list[float]:
    """Values with nought for what is nothing but rounding beside ``scale``.

    >>> without_noise([3e-15, 12.5], 40.0)
    [0.0, 12.5]
    """
    return [0.0 if abs(v) < 1e-11 * scale else float(v) for v in values]


def rows(w: Weighed, units: Units) -> list[Row]:
    """The lines of Weigh & size."""
    size = [h - l for l, h in zip(*w.box)]
    moments, axes = w.principal()
    centre = without_noise(w.centre, math.dist(*w.box))
    about = np.array([without_noise(row, float(np.trace(w.inertia))) for row in w.inertia])
    plain = Units(units.length, units.mass, units.digits)

    def triple(values: Sequence[float]) -> str:
        each = [plain.number(round(v, 9) / UNITS[units.length][0]) for v in values]
        return ", ".join(each) + f" {units.length}"

    def exact(values: Sequence[float]) -> str:
        return " ".join(repr(float(v)) for v in values)

    return [
        Row("mass", units.mass_of(w.mass), repr(w.mass)),
        Row("volume", units.length_of(w.volume, 3), repr(w.volume)),
        Row("area", units.length_of(w.area, 2), repr(w.area)),
        Row(
            "box", " × ".join(plain.number(v / UNITS[units.length][0]) for v in size) + f" {units.length}", exact(size)
        ),
        Row("centre of mass", triple(centre), exact(centre)),
        *(
            Row(f"inertia {a}{a}", units.inertia_of(float(about[i, i])), repr(float(about[i, i])), True)
            for i, a in enumerate("xyz")
        ),
        *(
            Row(
                f"inertia {'xyz'[i]}{'xyz'[j]}",
                units.inertia_of(float(about[i, j])),
                repr(float(about[i, j])),
                True,
            )
            for i, j in ((0, 1), (0, 2), (1, 2))
        ),
        *(
            Row(f"principal {n}", units.inertia_of(float(m)), repr(float(m)), True)
            for n, m in zip(("smallest", "middle", "largest"), moments)
        ),
        *(
            Row(f"axis {n}", ", ".join(number_text(float(v), 4) for v in axis), exact(axis), True)
            for n, axis in zip(("smallest", "middle", "largest"), axes)
        ),
    ]
