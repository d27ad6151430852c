"""Snap hooks: a beam with a catch at its end that rises square and comes down at 60° from the beam's axis."""

from __future__ import annotations

import math

from ..frames import Frame
from ..sketch.curves import Segment
from ..sketch.regions import Profile
from .naming import Body
from .shapes import prism


def hook(step: str, frame: Frame, long: float, wide: float, thick: float, catch: float) -> Body:
    """In a frame whose x is the way it catches and whose y runs up the beam (mm); evenly to both sides of its plane.
    Its sides are named foot, front, catch, nose, slope, top, back.
    """
    nose = 0.3 * catch
    rise = (catch + thick / 2) / math.tan(math.radians(60))
    corners = [
        (-thick / 2, 0.0, "foot"), (thick / 2, 0.0, "front"), (thick / 2, long, "catch"),
        (thick / 2 + catch, long, "nose"), (thick / 2 + catch, long + nose, "slope"), (0.0, long + nose + rise, "top"),
        (-thick / 2, long + nose + rise, "back"),
    ]  # fmt: skip
    chain = tuple((Segment(a[:2], b[:2]), a[2]) for a, b in zip(corners, [*corners[1:], corners[0]]))
    return prism(step, Profile(chain, ()), frame, -wide / 2, wide / 2)
