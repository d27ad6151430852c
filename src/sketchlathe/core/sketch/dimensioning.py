"""Which dimension a person means, from what they picked and where the pointer is."""

from __future__ import annotations

import math

from ..errors import BadInput
from .constraints import CONSTRAINTS, Dimensional
from .constraints.direction import angle_between
from .document import Sketch


def propose(sketch: Sketch, refs: tuple[str, ...], pointer: tuple[float, float], id: str = "new") -> Dimensional:
    """The dimension for one or two picked things with its text at ``pointer`` (mm).

    One line: its length, or its reach across/along when the pointer is put beyond its ends. Two points
    likewise. A circle: diameter; an arc: radius; two lines: angle, or distance when parallel.
    """
    refs = tuple(dict.fromkeys(refs))
    if not 1 <= len(refs) <= 2:
        raise BadInput("A dimension takes one thing, or two to measure between.")
    tags = [sketch.tags_of(ref) for ref in refs]
    if len(refs) == 1 and "round" in tags[0]:
        kind = "radius" if "arc" in tags[0] else "diameter"
        return _made(sketch, kind, id, refs, pointer)
    if len(refs) == 2:
        refs = tuple(_centre_of(sketch, ref) for ref in refs)
        if all("line" in sketch.tags_of(ref) for ref in refs):
            turn = abs(math.sin(angle_between(sketch, *refs)))
            return _made(sketch, "distance" if turn < 1e-6 else "angle", id, refs, pointer)
    if len(refs) == 1 and "line" not in tags[0]:
        raise BadInput("Pick a second thing to measure to.")
    first = CONSTRAINTS["distance"].made(sketch, id, refs)
    assert isinstance(first, Dimensional)
    if len(refs) == 2 and "line" in sketch.tags_of(first.on[1]):
        return _made(sketch, "distance", id, refs, pointer)
    (ax, ay), (bx, by), _ = first.figure(sketch).points
    return _made(sketch, "distance", id, refs, pointer, way=_way(ax, ay, bx, by, pointer))


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
    return f"{ref}.centre" if "round" in sketch.tags_of(ref) else ref


def _made(
    sketch: Sketch, kind: str, id: str, refs: tuple[str, ...], pointer: tuple[float, float], **fields: object
) -> Dimensional:
    made = CONSTRAINTS[kind].made(sketch, id, refs, label=pointer, **fields)
    assert isinstance(made, Dimensional)
    return made
