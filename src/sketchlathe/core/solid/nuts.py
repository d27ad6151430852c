"""Rooms for hexagon nuts."""

from __future__ import annotations

import math

from ..frames import Frame
from ..sketch.curves import Segment
from ..sketch.regions import Profile
from .naming import Body
from .shapes import prism


def nut_room(
    step: str,
    frame: Frame,
    place: tuple[float, float],
    across: float,
    low: float,
    high: float,
    turn: float,
    out: tuple[float, float] | None,
) -> Body:
    """A hexagon ``across`` its flats (mm) about a place of a plane, between two heights over it; with ``out``
    (direction in the plane, rad, and distance, mm) it runs on as a slot as wide as the flats. Sides are named by
    number, flats of a slot ``left`` and ``right``.
    """
    radius = across / math.sqrt(3)
    angle = turn if out is None else out[0]

    def at(a: float, b: float) -> tuple[float, float]:
        c, s = math.cos(angle), math.sin(angle)
        return place[0] + a * c - b * s, place[1] + a * s + b * c

    if out is None:
        corners = [at(radius * math.cos(k * math.pi / 3), radius * math.sin(k * math.pi / 3)) for k in range(6)]
        sides = [str(k) for k in range(6)]
    else:
        half = across / 2
        corners = [at(out[1], -half), at(out[1], half), at(-radius / 2, half), at(-radius, 0.0), at(-radius / 2, -half)]
        sides = ["mouth", "left", "back1", "back2", "right"]
    chain = tuple((Segment(a, b), s) for a, b, s in zip(corners, [*corners[1:], corners[0]], sides))
    return prism(step, Profile(chain, ()), frame, low, high)
