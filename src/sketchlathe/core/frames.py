"""Planes in space: an origin, two directions and the normal, as plain numbers (mm)."""

from __future__ import annotations

import math
from dataclasses import dataclass

Triple = tuple[float, float, float]


def cross(a: Triple, b: Triple) -> Triple:
    """Cross product."""
    return (a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0])


def dot(a: Triple, b: Triple) -> float:
    """Dot product."""
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def unit(a: Triple) -> Triple:
    """``a`` at length one."""
    long = math.sqrt(dot(a, a))
    return (a[0] / long, a[1] / long, a[2] / long)


@dataclass(frozen=True)
class Frame:
    """A sketch's plane: ``origin`` and unit ``x``; ``normal`` faces the person who looks straight on."""

    origin: Triple
    x: Triple
    normal: Triple

    @property
    def y(self) -> Triple:
        """The second direction."""
        return cross(self.normal, self.x)

    def place(self, u: float, v: float, w: float = 0.0) -> Triple:
        """Sketch coordinates (and height above the plane) in space."""
        o, x, y, n = self.origin, self.x, self.y, self.normal
        return (
            o[0] + u * x[0] + v * y[0] + w * n[0],
            o[1] + u * x[1] + v * y[1] + w * n[1],
            o[2] + u * x[2] + v * y[2] + w * n[2],
        )

    def flat(self, p: Triple) -> tuple[float, float]:
        """Where a point of space lies in the plane, seen along its normal."""
        away = (p[0] - self.origin[0], p[1] - self.origin[1], p[2] - self.origin[2])
        return dot(away, self.x), dot(away, self.y)

    def height(self, p: Triple) -> float:
        """Distance of a point in front of the plane."""
        return dot((p[0] - self.origin[0], p[1] - self.origin[1], p[2] - self.origin[2]), self.normal)

    def as_json(self) -> dict[str, list[float]]:
        """Plain lists, for the screen."""
        return {
            "origin": list(self.origin),
            "x": list(self.x),
            "y": list(self.y),
            "normal": list(self.normal),
        }


ORIGIN_PLANES: dict[str, Frame] = {
    "top": Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0)),
    "front": Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0)),
    "right": Frame((0.0, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0)),
}


def frame_on(point: Triple, normal: Triple) -> Frame:
    """The frame of a flat face: x is level (towards +x on level faces), the origin is the model's, dropped on it.

    The same rule whatever the face's size, so a sketch stays put when the face grows.

    >>> frame_on((5.0, 5.0, 8.0), (0.0, 0.0, 1.0)).origin
    (0.0, 0.0, 8.0)
    """
    n = unit(normal)
    if abs(n[2]) > 1 - 1e-9:
        x: Triple = (1.0, 0.0, 0.0)
        n = (0.0, 0.0, math.copysign(1.0, n[2]))
    else:
        x = unit(cross((0.0, 0.0, 1.0), n))
    d = dot(point, n)
    return Frame((n[0] * d + 0.0, n[1] * d + 0.0, n[2] * d + 0.0), x, n)


def frame_at(origin: Triple, normal: Triple) -> Frame:
    """A frame with its origin just there; x as ``frame_on`` takes it."""
    return Frame(origin, frame_on(origin, normal).x, normal)
