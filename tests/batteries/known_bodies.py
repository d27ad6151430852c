"""Bodies whose figures closed formulas say: turned and shifted at random, measured against 30 digits or more.

Inertia is of density 1, about the centre, in the body's own axes; it is turned along with the body.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

import numpy as np

PI = math.pi


@dataclass(frozen=True)
class Known:
    """A kernel's solid and what it must come to; ``moments`` (3, 3), None where no formula is at hand."""

    name: str
    shape: Any
    volume: float
    area: float
    centre: np.ndarray
    moments: np.ndarray | None


def _plain(name: str, shape: Any, volume: float, area: float, centre: Any, inertia: Any = None) -> Known:
    return Known(
        name, shape, volume, area, np.array(centre, dtype=float), None if inertia is None else np.diag(inertia)
    )


def block(rng: random.Random) -> Known:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox

    a, b, c = (rng.uniform(1, 90) for _ in range(3))
    m = a * b * c
    inertia = [m * (q * q + r * r) / 12 for q, r in ((b, c), (a, c), (a, b))]
    area = 2 * (a * b + b * c + a * c)
    return _plain("block", BRepPrimAPI_MakeBox(a, b, c).Solid(), m, area, (a / 2, b / 2, c / 2), inertia)


def cylinder(rng: random.Random) -> Known:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder

    r, h = rng.uniform(1, 40), rng.uniform(1, 80)
    m = PI * r * r * h
    inertia = [m * (3 * r * r + h * h) / 12] * 2 + [m * r * r / 2]
    return _plain("cylinder", BRepPrimAPI_MakeCylinder(r, h).Solid(), m, 2 * PI * r * (r + h), (0, 0, h / 2), inertia)


def sector(rng: random.Random) -> Known:
    """A piece of a round cake."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder

    r, h, angle = rng.uniform(1, 40), rng.uniform(1, 80), rng.uniform(0.2, 6)
    x, y = (2 * r / (3 * angle) * v for v in (math.sin(angle), 1 - math.cos(angle)))
    area = r * r * angle + r * angle * h + 2 * r * h
    return _plain("sector", BRepPrimAPI_MakeCylinder(r, h, angle).Solid(), r * r * angle * h / 2, area, (x, y, h / 2))


def cone(rng: random.Random) -> Known:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone

    r, s, h = rng.uniform(2, 40), rng.choice([0.0, rng.uniform(1, 30)]), rng.uniform(1, 60)
    if abs(r - s) < 0.1:
        s = r / 2
    volume = PI * h * (r * r + r * s + s * s) / 3
    area = PI * (r * r + s * s + (r + s) * math.hypot(h, r - s))
    middle = h * (r * r + 2 * r * s + 3 * s * s) / (4 * (r * r + r * s + s * s))
    return _plain("cone", BRepPrimAPI_MakeCone(r, s, h).Solid(), volume, area, (0, 0, middle))


def ball(rng: random.Random) -> Known:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere

    r = rng.uniform(4, 40)
    m = 4 / 3 * PI * r**3
    return _plain("ball", BRepPrimAPI_MakeSphere(r).Solid(), m, 4 * PI * r * r, (0, 0, 0), [0.4 * m * r * r] * 3)


def cap(rng: random.Random) -> Known:
    """Of a ball what lies above a level (Archimedes)."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere

    r, low = rng.uniform(2, 40), rng.uniform(-1.2, 1.2)
    h = r * (1 - math.sin(low))
    volume = PI * h * h * (3 * r - h) / 3
    middle = 3 * (2 * r - h) ** 2 / (4 * (3 * r - h))
    area = 2 * PI * r * h + PI * h * (2 * r - h)
    return _plain("cap", BRepPrimAPI_MakeSphere(r, low, PI / 2).Solid(), volume, area, (0, 0, middle))


def ring(rng: random.Random) -> Known:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeTorus

    r, big = rng.uniform(1, 10), rng.uniform(11, 60)
    m = 2 * PI * PI * big * r * r
    inertia = [m * (4 * big * big + 5 * r * r) / 8] * 2 + [m * (4 * big * big + 3 * r * r) / 4]
    return _plain("ring", BRepPrimAPI_MakeTorus(big, r).Solid(), m, 4 * PI * PI * big * r, (0, 0, 0), inertia)


Polynomial = list[Fraction]


def _times(a: Polynomial, b: Polynomial) -> Polynomial:
    out = [Fraction(0)] * (len(a) + len(b) - 1)
    for i, x in enumerate(a):
        for j, y in enumerate(b):
            out[i + j] += x * y
    return out


def _integral(a: Polynomial) -> Fraction:
    return sum((c / (k + 1) for k, c in enumerate(a)), Fraction(0))


def _power(controls: list[Fraction]) -> Polynomial:
    """A Bézier's coordinate by powers of t."""
    n = len(controls) - 1
    out = [Fraction(0)] * (n + 1)
    for i, c in enumerate(controls):
        for k in range(n - i + 1):
            out[i + k] += c * math.comb(n, i) * math.comb(n - i, k) * (-1) ** k
    return out


def _arch(rng: random.Random) -> tuple[list[tuple[int, int]], Fraction, Fraction, Fraction]:
    """A Bézier from (a, 0) back to (b, 0), above the line between them: its controls, and of what it encloses the area,
    ∫x and ∫y, without any rounding.
    """
    inner = [(rng.randint(5, 60), rng.randint(8, 40)) for _ in range(rng.randint(1, 4))]
    controls = [(rng.randint(45, 70), 0), *sorted(inner, key=lambda p: -p[0]), (rng.randint(2, 20), 0)]
    x, y = (_power([Fraction(c[i]) for c in controls]) for i in (0, 1))
    dy = [k * c for k, c in enumerate(y)][1:]
    dx = [k * c for k, c in enumerate(x)][1:]
    area = _integral(_times(x, dy))
    first_x = _integral(_times(_times(x, x), dy)) / 2
    first_y = -_integral(_times(_times(y, y), dx)) / 2
    return controls, area, first_x, first_y


def _arch_face(controls: list[tuple[int, int]], upright: bool) -> Any:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeFace, BRepBuilderAPI_MakeWire
    from OCP.collections import Array1_gp_Pnt
    from OCP.Geom import Geom_BezierCurve
    from OCP.gp import gp_Pnt

    places = [gp_Pnt(x, 0, y) if upright else gp_Pnt(x, y, 0) for x, y in controls]
    poles = Array1_gp_Pnt(1, len(places))
    for i, p in enumerate(places):
        poles.SetValue(i + 1, p)
    curve = BRepBuilderAPI_MakeEdge(Geom_BezierCurve(poles)).Edge()
    line = BRepBuilderAPI_MakeEdge(places[-1], places[0]).Edge()
    return BRepBuilderAPI_MakeFace(BRepBuilderAPI_MakeWire(curve, line).Wire()).Face()


def arched_bar(rng: random.Random) -> Known:
    from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
    from OCP.gp import gp_Vec

    controls, area, fx, fy = _arch(rng)
    h = rng.randint(2, 30)
    shape = BRepPrimAPI_MakePrism(_arch_face(controls, False), gp_Vec(0, 0, h)).Shape()
    outline = _length(controls) + controls[0][0] - controls[-1][0]
    centre = (float(fx / area), float(fy / area), h / 2)
    return _plain("arched bar", shape, float(area * h), float(2 * area) + outline * h, centre)


def arched_wheel(rng: random.Random) -> Known:
    """The same turned once round the z axis (Pappus)."""
    from OCP.BRepPrimAPI import BRepPrimAPI_MakeRevol
    from OCP.gp import gp_Ax1

    controls, _, fx, _ = _arch(rng)
    x, y = (_power([Fraction(c[i]) for c in controls]) for i in (0, 1))
    dy = [k * c for k, c in enumerate(y)][1:]
    # ∫ x z dA by Green: half of ∮ x² z dz
    mixed = _integral(_times(_times(_times(x, x), y), dy)) / 2
    shape = BRepPrimAPI_MakeRevol(_arch_face(controls, True), gp_Ax1()).Shape()
    flat = PI * (controls[0][0] ** 2 - controls[-1][0] ** 2)
    return _plain("arched wheel", shape, 2 * PI * float(fx), flat + 2 * PI * _length(controls, True),
                  (0, 0, float(mixed / fx)))  # fmt: skip


def _length(controls: list[tuple[int, int]], weighted: bool = False) -> float:
    """∫ ds, or ∫ x ds, along a Bézier, by Gauss's rule with 200 points in eight pieces."""
    t, w = np.polynomial.legendre.leggauss(200)
    n, total = len(controls) - 1, 0.0
    for piece in range(8):
        at = (piece + (t + 1) / 2) / 8
        base = [math.comb(n, i) * at**i * (1 - at) ** (n - i) for i in range(n + 1)]
        low = [math.comb(n - 1, i) * at**i * (1 - at) ** (n - 1 - i) for i in range(n)]
        x = sum(c[0] * b for c, b in zip(controls, base))
        d = [sum(n * (controls[i + 1][k] - controls[i][k]) * low[i] for i in range(n)) for k in (0, 1)]
        total += float((np.hypot(*d) * (x if weighted else 1) * w).sum()) / 16
    return total


KINDS: tuple[Callable[[random.Random], Known], ...] = (
    block, cylinder, sector, cone, ball, cap, ring, arched_bar, arched_wheel,
)  # fmt: skip


def moved(known: Known, rng: random.Random) -> Known:
    """The same turned and shifted at random."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec

    way, angle = np.array([rng.gauss(0, 1) for _ in range(3)]), rng.uniform(0, 6)
    way /= np.linalg.norm(way)
    turn, shift = gp_Trsf(), gp_Trsf()
    turn.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(*way)), angle)
    by = [rng.uniform(-50, 50) for _ in range(3)]
    shift.SetTranslation(gp_Vec(*by))
    shape = BRepBuilderAPI_Transform(known.shape, shift.Multiplied(turn), True).Shape()
    k = np.array([[0, -way[2], way[1]], [way[2], 0, -way[0]], [-way[1], way[0], 0]])
    matrix = np.eye(3) + math.sin(angle) * k + (1 - math.cos(angle)) * k @ k
    moments = None if known.moments is None else matrix @ known.moments @ matrix.T
    return Known(known.name, shape, known.volume, known.area, matrix @ known.centre + by, moments)


def worst(count: int) -> tuple[float, int, int, list[str]]:
    """The worst relative error over so many bodies, how many bodies and faces there were, and those worse than
    1e-10.
    """
    from sketchlathe.core.solid.kernel import FACE, mapped
    from sketchlathe.core.solid.measuring import measures

    found, faces, off = 0.0, 0, []
    for seed in range(count):
        rng = random.Random(seed)
        known = moved(KINDS[seed % len(KINDS)](rng), rng)
        is_ = measures(known.shape)
        faces += mapped(known.shape, FACE).Size()
        size = known.volume ** (1 / 3)
        far = size + float(np.linalg.norm(known.centre))
        errors = [
            abs(is_.volume / known.volume - 1),
            abs(is_.area / known.area - 1),
            float(np.abs(np.array(is_.centre) - known.centre).max()) / far,
        ]
        if known.moments is not None:
            xx, yy, zz, xy, xz, yz = is_.moments
            tensor = np.array([[xx, xy, xz], [xy, yy, yz], [xz, yz, zz]])
            errors.append(float(np.abs(tensor - known.moments).max() / np.abs(known.moments).max()))
        if max(errors) > 1e-10:
            off.append(f"{known.name} {seed}: {errors}")
        found = max(found, *errors)
    return found, count, faces, off
