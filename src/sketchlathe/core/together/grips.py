"""What a relation takes hold of, and where a body stands: points, lines, planes, round things; rigid motions."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Literal

import numpy as np

from ..frames import Triple, cross, unit

Form = Literal["point", "line", "plane", "ball", "cylinder"]


@dataclass(frozen=True)
class Grip:
    """A point, a line, a plane (its direction out of the material), a ball or a cylinder; of a body, in its own
    coordinates.

    ``at`` is a point on it or its centre (mm), ``way`` a unit direction (None for points and balls), ``radius`` mm.
    ``hollow``: round from inside, as a bore is. ``edge``: the circle of a round edge, which is a line by its axis.
    """

    form: Form
    at: Triple
    way: Triple | None = None
    radius: float = 0.0
    hollow: bool = False


@dataclass(frozen=True)
class Pose:
    """A rigid motion: x → turn · x + shift. ``turn`` (3, 3) orthonormal, ``shift`` (3,) mm."""

    turn: np.ndarray
    shift: np.ndarray

    @classmethod
    def still(cls) -> Pose:
        """No motion."""
        return cls(np.eye(3), np.zeros(3))

    @classmethod
    def about(cls, point: Any, way: Any, angle: float) -> Pose:
        """A turn (rad, right-handed) about an axis through a point."""
        turn, at = rotation(np.asarray(way) * angle), np.asarray(point, dtype=float)
        return cls(turn, at - turn @ at)

    @classmethod
    def by(cls, shift: Any) -> Pose:
        """A shift alone."""
        return cls(np.eye(3), np.asarray(shift, dtype=float))

    def then(self, after: Pose) -> Pose:
        """This motion, then another."""
        return Pose(after.turn @ self.turn, after.turn @ self.shift + after.shift)

    def point(self, p: Any) -> np.ndarray:
        """Where it puts a point."""
        return np.asarray(self.turn @ np.asarray(p, dtype=float) + self.shift)

    def way(self, d: Any) -> np.ndarray:
        """Where it turns a direction."""
        return np.asarray(self.turn @ np.asarray(d, dtype=float))

    def grip(self, f: Grip) -> Grip:
        """A grip moved along."""
        at, way = self.point(f.at), None if f.way is None else self.way(f.way)
        return Grip(f.form, triple(at), None if way is None else triple(way), f.radius, f.hollow)

    def vector(self) -> list[float]:
        """Its rotation vector (rad) and shift (mm): six numbers that are kept."""
        return [*rotation_vector(self.turn), *(float(v) for v in self.shift)]

    @classmethod
    def of(cls, vector: Any) -> Pose:
        """From six numbers, see ``vector``."""
        six = np.asarray(vector, dtype=float)
        return cls(rotation(six[:3]), six[3:].copy())


def triple(v: Any) -> Triple:
    """Three floats."""
    return (float(v[0]), float(v[1]), float(v[2]))


def cross_matrix(v: np.ndarray) -> np.ndarray:
    """The matrix of v × · , (3, 3)."""
    x, y, z = v
    return np.array([[0.0, -z, y], [z, 0.0, -x], [-y, x, 0.0]])


def rotation(vector: np.ndarray) -> np.ndarray:
    """The rotation by a vector's length about it (Rodrigues' formula), (3, 3)."""
    angle = math.sqrt(float(vector @ vector))
    k, near = cross_matrix(vector), angle < 1e-8
    first, second = (1.0, 0.5) if near else (math.sin(angle) / angle, (1 - math.cos(angle)) / angle**2)
    return np.asarray(np.eye(3) + first * k + second * k @ k)


def rotation_vector(turn: np.ndarray) -> list[float]:
    """The vector whose rotation this is; its length at most π."""
    # by the quaternion of largest component, which is stable near half turns (Shepperd 1978)
    m = turn
    squares = np.array([1 + m[0, 0] + m[1, 1] + m[2, 2], 1 + m[0, 0] - m[1, 1] - m[2, 2],
                        1 - m[0, 0] + m[1, 1] - m[2, 2], 1 - m[0, 0] - m[1, 1] + m[2, 2]])  # fmt: skip
    big = int(np.argmax(squares))
    s = 2 * math.sqrt(max(float(squares[big]), 1e-300))
    off = (m[2, 1] - m[1, 2], m[0, 2] - m[2, 0], m[1, 0] - m[0, 1])
    if big == 0:
        w, q = s / 4, [v / s for v in off]
    else:
        i, j, k = big - 1, big % 3, (big + 1) % 3
        w, q = off[i] / s, [0.0, 0.0, 0.0]
        q[i], q[j], q[k] = s / 4, (m[i, j] + m[j, i]) / s, (m[i, k] + m[k, i]) / s
    if w < 0:
        w, q = -w, [-v for v in q]
    long = math.sqrt(sum(v * v for v in q))
    angle = 2 * math.atan2(long, w)
    scale = angle / long if long > 1e-12 else 2.0
    return [float(v * scale) for v in q]


@lru_cache(maxsize=4096)
def across(way: Triple) -> tuple[Triple, Triple]:
    """Two unit directions at right angles to one and to each other."""
    least = min(range(3), key=lambda i: abs(way[i]))
    first = unit(cross(way, (float(least == 0), float(least == 1), float(least == 2))))
    return first, cross(way, first)
