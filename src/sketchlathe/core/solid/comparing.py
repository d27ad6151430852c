"""What of some bodies is gone in others, and what has come."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..errors import CannotBuild
from .freeform import near
from .measuring import rough_box, volume
from .naming import Body
from .shapes import without

CLOSE = 1e-6  # of both volumes together


@dataclass(frozen=True)
class Compared:
    """Solids that are gone and that have come (mm³ each together). ``exact``: the volumes bear each other out."""

    gone: tuple[Body, ...]
    come: tuple[Body, ...]
    gone_volume: float
    come_volume: float
    exact: bool


def compared(before: Sequence[Body], after: Sequence[Body]) -> Compared:
    """Both differences. Bodies that are the same shape in both are not asked about."""
    same = [(a, b) for a in before for b in after if a.shape.IsSame(b.shape)]
    old = [a for a in before if all(a is not s for s, _ in same)]
    new = [b for b in after if all(b is not s for _, s in same)]
    try:
        gone, come = _less(old, new, "gone"), _less(new, old, "come")
    except CannotBuild:
        return Compared((), (), 0.0, 0.0, exact=False)
    totals = [sum(volume(b.shape) for b in bodies) for bodies in (old, new, gone, come)]
    off = abs((totals[0] - totals[2]) - (totals[1] - totals[3]))
    # bodies that overlap count twice on one side only
    exact = off <= CLOSE * (totals[0] + totals[1])
    return Compared(tuple(gone), tuple(come), totals[2], totals[3], exact)


def _less(bodies: Sequence[Body], others: Sequence[Body], word: str) -> list[Body]:
    """What of bodies lies in none of the others."""
    found: list[Body] = []
    for number, body in enumerate(bodies):
        box = rough_box(body.shape)
        beside = [o for o in others if near(box, rough_box(o.shape), 0.0)]
        pieces = without(body, beside, word) if beside else [body]
        found += [replace(p, id=f"{word}.{number}.{k}", came=None) for k, p in enumerate(pieces)]
    return found
