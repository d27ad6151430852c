"""Grooves and ridges that give a hold: along round sides, or in rows over a flat face."""

from __future__ import annotations

import math

from ..errors import CannotBuild
from ..frames import Frame
from ..sketch.curves import ArcPiece, Piece, Segment
from ..sketch.regions import Profile
from .barrels import Barrel
from .naming import Body
from .shapes import prism
from .vents import MOST, openings

_BEYOND = 0.05  # of the size: how far what is cut reaches out of the side, what is added into it


def round_grip(step: str, barrel: Barrel, ridges: bool, size: float, gap: float, deep: float, rim: float) -> list[Body]:
    """What is cut from a round outer side, or added to it: as many as go round it evenly, each ``size`` wide, ``deep``
    at its middle, at least ``gap`` from the next, ``rim`` from both ends (mm); its outline is an arc.
    """
    long = barrel.length - 2 * rim
    if long <= 0:
        raise CannotBuild(
            f"The face is {barrel.length:.4g} mm long: nothing is left between two such rims.", where="rim"
        )
    count = math.floor(2 * math.pi * barrel.radius / (size + gap) + 1e-9)
    if count < 3:
        raise CannotBuild("Fewer than three would go round it: make them narrower.", where="size")
    if count > MOST:
        raise CannotBuild(f"That would be {count}; at most {MOST}. Make them wider.", where="size")
    n = barrel.frame.normal
    out = []
    for k in range(count):
        angle = 2 * math.pi * k / count
        x = barrel.frame.place(math.cos(angle), math.sin(angle))
        way = tuple(a - b for a, b in zip(x, barrel.frame.origin))
        frame = Frame(barrel.frame.origin, way, n)  # type: ignore[arg-type]
        profile = Profile(_outline(barrel.radius, size, deep, ridges), ())
        out.append(prism(f"{step}#{k}" if k else step, profile, frame, rim, rim + long))
    return out


def _outline(radius: float, size: float, deep: float, ridges: bool) -> tuple[tuple[Piece, str], ...]:
    """One groove or ridge across the axis, in its own frame: x outwards through its middle."""
    half = math.asin(size / (2 * radius))
    drop = radius * (1 - math.cos(half))  # how far its rims lie inside the circle at its middle
    k = deep + drop if ridges else deep - drop
    if k <= 1e-6:
        raise CannotBuild(
            f"Grooves so wide are deeper than {drop:.3g} mm on so thin a side: make them deeper or narrower.",
            where="depth",
        )
    r = (k * k + size * size / 4) / (2 * k)
    top = radius + deep if ridges else radius - deep
    centre = (top - r if ridges else top + r, 0.0)
    x, y = radius * math.cos(half), size / 2
    turn = math.atan2(y, x - centre[0])  # of the upper rim, seen from the arc's middle
    if ridges:
        back = x - _BEYOND * size
        arc: Piece = ArcPiece(centre, r, -turn, turn)
        return (
            (arc, "ridge"), (Segment((x, y), (back, y)), "upper"), (Segment((back, y), (back, -y)), "root"),
            (Segment((back, -y), (x, -y)), "lower"),
        )  # fmt: skip
    out = radius * (1 + _BEYOND) + _BEYOND * size
    arc = ArcPiece(centre, r, turn, 2 * math.pi - turn)
    return (
        (arc, "groove"), (Segment((x, -y), (out, -y)), "lower"), (Segment((out, -y), (out, y)), "mouth"),
        (Segment((out, y), (x, y)), "upper"),
    )  # fmt: skip


def flat_grip(
    step: str, body: Body, index: int, ridges: bool, size: float, gap: float, deep: float, rim: float, turn: float
) -> list[Body]:
    """The same in rows over a flat face (0-based), with round ends."""
    frame, chains = openings(body, index, "slots", size, gap, rim, turn)
    low, high = (0.0, deep) if ridges else (-deep, 0.0)
    return [prism(f"{step}#{k}", Profile(chain, ()), frame, low, high) for k, chain in enumerate(chains, 1)]
