"""Which dimension a person means, from what they picked and where the pointer is."""

from __future__ import annotations

import math
import re
from collections.abc import Collection

from ..errors import BadInput
from ..quantity.expressions import NAME
from .constraints import CONSTRAINTS, Dimensional
from .constraints.angle import Angle, meeting_of
from .constraints.direction import angle_between
from .constraints.distance import Distance
from .document import Sketch

_SAID = re.compile(r"\s*(?:(R)|[⌀Ø∅])\s*(?=[\d.(])(.+)", re.DOTALL)


def said_round(text: str, names: Collection[str] = ()) -> tuple[str, str]:
    """``"R 5 mm"`` is a radius, ``"⌀10"`` a diameter (ISO 129): the kind said (or nothing), and the size itself.

    >>> said_round("R 5 mm"), said_round("⌀10"), said_round("R2 + 1", {"R2"})
    (('radius', '5 mm'), ('diameter', '10'), ('', 'R2 + 1'))
    """
    found = _SAID.fullmatch(text)
    name = re.match(NAME, text.strip())
    if found is None or (name is not None and name[0] in names):
        return "", text
    return ("radius" if found[1] else "diameter"), found[2].strip()


def propose(
    sketch: Sketch,
    refs: tuple[str, ...],
    pointer: tuple[float, float],
    id: str = "new",
    *,
    rim: str = "",
    way: str = "",
    round: str = "",
) -> Dimensional:
    """The dimension for one or two picked things with its text at ``pointer`` (mm).

    One line: its length beside it; beyond its ends, or farther from it than it is long, its reach across or up. Two
    points: by where the pointer lies about their box. A
    circle: diameter; an arc: radius; two lines: the angle of the sector pointed at, or distance when parallel.
    ``rim`` "near" or "far" measures to the rims of circles instead of their centres; ``way`` "aligned", "across" or
    "along" says which distance is meant, wherever the pointer is; ``round`` "radius" or "diameter" which size of a
    circle or arc.
    """
    refs = tuple(dict.fromkeys(refs))
    if not 1 <= len(refs) <= 2:
        raise BadInput("A dimension takes one thing, or two to measure between.")
    tags = [sketch.tags_of(ref) for ref in refs]
    if len(refs) == 1:
        if round and "round" in tags[0]:
            return _made(sketch, round, id, refs, pointer)
        for tag, kind in (
            ("arc", "radius"),
            ("round", "diameter"),
            ("elliptic", "half_axis"),
            ("text", "letter_height"),
        ):
            if tag in tags[0]:
                return _made(sketch, kind, id, refs, pointer)
        if "line" not in tags[0]:
            raise BadInput("Pick a second thing to measure to.")
    if len(refs) == 2:
        if rim in ("near", "far") and any("round" in t for t in tags):
            return _made(sketch, "rim_distance", id, refs, pointer, rim=rim)
        refs = tuple(_centre_of(sketch, ref) for ref in refs)
        if all("line" in sketch.tags_of(ref) for ref in refs):
            turn = abs(math.sin(angle_between(sketch, *refs)))
            return _made(sketch, "distance", id, refs, pointer) if turn < 1e-6 else _sector(sketch, id, refs, pointer)
    first = CONSTRAINTS["distance"].made(sketch, id, refs)
    assert isinstance(first, Dimensional)
    if len(refs) == 2 and "line" in sketch.tags_of(first.on[1]):
        return _made(sketch, "distance", id, refs, pointer)
    (ax, ay), (bx, by), _ = first.figure(sketch).points
    if not way:
        way = "aligned" if len(refs) == 1 and _beside(ax, ay, bx, by, pointer) else _way(ax, ay, bx, by, pointer)
    return _made(sketch, "distance", id, refs, pointer, way=way)


def _sector(sketch: Sketch, id: str, refs: tuple[str, ...], pointer: tuple[float, float]) -> Dimensional:
    """The angle between two lines in the sector where the pointer is."""
    made = Angle.made(sketch, id, refs, label=pointer)
    assert isinstance(made, Angle)
    meet = meeting_of(sketch, *made.on)
    assert meet is not None
    directions = []
    for ref in made.on:
        (ax, ay), (bx, by) = sketch.ends(ref)
        directions.append((bx - ax, by - ay))
    (ux, uy), (vx, vy) = directions
    px, py = pointer[0] - meet[0], pointer[1] - meet[1]
    cross = ux * vy - uy * vx
    # the pointer as a combination of both directions: its signs name the sector
    a, b = (px * vy - py * vx) / cross, (ux * py - uy * px) / cross
    return made.in_sector(sketch, flip_a=a < 0, flip_b=b < 0)


def _beside(ax: float, ay: float, bx: float, by: float, pointer: tuple[float, float]) -> bool:
    """Whether a place lies beside a line, between its ends and no farther than it is long: there length is meant."""
    dx, dy = bx - ax, by - ay
    long = math.hypot(dx, dy) or 1.0
    px, py = pointer[0] - ax, pointer[1] - ay
    return 0 <= px * dx + py * dy <= long * long and abs(px * dy - py * dx) <= long * long


def meanings(dimension: Dimensional, sketch: Sketch) -> list[tuple[str, str, float]]:
    """What a distance between two places that lie neither level nor upright can mean: (way, word, mm), itself first;
    nothing where there is no choice.
    """
    if not isinstance(dimension, Distance):
        return []
    form, points, _ = dimension.figure(sketch)
    (ax, ay), (bx, by) = points[0], points[1]
    if form != "linear" or (len(dimension.on) == 2 and "line" in sketch.tags_of(dimension.on[1])):
        return []
    dx, dy = abs(bx - ax), abs(by - ay)
    if min(dx, dy) <= 1e-9 * max(dx, dy, 1e-9):
        return []
    straight = "length" if len(dimension.on) == 1 else "straight"
    every = [("aligned", straight, math.hypot(dx, dy)), ("across", "across", dx), ("along", "up", dy)]
    return sorted(every, key=lambda meaning: meaning[0] != dimension.way)


def _way(ax: float, ay: float, bx: float, by: float, pointer: tuple[float, float]) -> str:
    dx, dy = abs(bx - ax), abs(by - ay)
    slack = 1e-9 * max(dx, dy)
    if dx <= slack or dy <= slack:
        return "aligned"
    px, py = pointer
    within_x = min(ax, bx) <= px <= max(ax, bx)
    within_y = min(ay, by) <= py <= max(ay, by)
    if within_x and not within_y:
        return "across"
    if within_y and not within_x:
        return "along"
    return "aligned"


def _centre_of(sketch: Sketch, ref: str) -> str:
    return f"{ref}.centre" if "centred" in sketch.tags_of(ref) else ref


def _made(
    sketch: Sketch, kind: str, id: str, refs: tuple[str, ...], pointer: tuple[float, float], **fields: object
) -> Dimensional:
    made = CONSTRAINTS[kind].made(sketch, id, refs, label=pointer, **fields)
    assert isinstance(made, Dimensional)
    return made
