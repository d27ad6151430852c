"""How bodies stand to each other: overlapping, touching, near."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import combinations
from typing import NamedTuple

from OCP.BRepAlgoAPI import BRepAlgoAPI_Common
from OCP.BRepExtrema import BRepExtrema_DistShapeShape

from .kernel import private, solids_in
from .measuring import rough_box, volume
from .naming import Body

_NOTHING = 1e-6  # mm³
MOST_PAIRS = 200


class Pair(NamedTuple):
    """Two bodies: the volume they share (mm³) and, where that is nought, how near they come (mm)."""

    one: Body
    other: Body
    shared: float
    gap: float


def pairs(bodies: Sequence[Body], within: float) -> Iterator[Pair]:
    """Pairs of bodies that overlap, or come nearer to each other than ``within`` mm; touching ones have a gap of nought."""
    boxes = {b.id: rough_box(b.shape) for b in bodies}
    near = [
        (a, b)
        for a, b in combinations(bodies, 2)
        if all(
            boxes[a.id][0][i] <= boxes[b.id][1][i] + within and boxes[b.id][0][i] <= boxes[a.id][1][i] + within
            for i in range(3)
        )
    ]
    for a, b in near[:MOST_PAIRS]:
        distance = BRepExtrema_DistShapeShape(a.shape, b.shape)
        gap = float(distance.Value()) if distance.IsDone() else 0.0
        if gap > within:
            continue
        shared = 0.0
        if gap < 1e-6:
            common = BRepAlgoAPI_Common(private(a.shape, mesh=False), private(b.shape, mesh=False))
            shared = sum(volume(s) for s in solids_in(common.Shape())) if common.IsDone() else 0.0
        yield Pair(a, b, shared if shared > _NOTHING else 0.0, gap)
