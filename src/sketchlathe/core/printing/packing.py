"""Rectangles on as few beds as need be: maximal free rectangles, best short side first.

After J. Jylänki, "A Thousand Ways to Pack the Bin" (2010), MaxRects-BSSF, largest first.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple


class Spot(NamedTuple):
    """Where a rectangle lies: the number of its bed, its lower left corner, and whether it is
    turned by a right angle.
    """

    bed: int
    x: float
    y: float
    turned: bool


_Rect = tuple[float, float, float, float]  # x, y, width, depth
_EPS = 1e-9


def pack(
    sizes: Sequence[tuple[float, float]],
    bed: tuple[float, float],
    apart: float,
    taken: Mapping[int, Sequence[tuple[float, float, float, float]]] = {},
) -> list[Spot | None]:
    """A spot for each rectangle (width, depth), ``apart`` from each other; None for what fits no bed. ``taken``: by the
    number of a bed, rectangles (x, y, width, depth) that lie there already.
    """
    # each takes its distance to the next along: the bed grows by one distance, so none is lost at its edge
    room = (0.0, 0.0, bed[0] + apart, bed[1] + apart)
    beds: list[list[_Rect]] = [[room] for _ in range(1 + max(taken, default=-1))]
    for number, there in taken.items():
        for x, y, w, d in there:
            beds[number] = _without(beds[number], (x - apart, y - apart, w + 2 * apart, d + 2 * apart))
    spots: list[Spot | None] = [None] * len(sizes)
    order = sorted(range(len(sizes)), key=lambda i: (-max(sizes[i]), -min(sizes[i]), i))
    for i in order:
        w, d = sizes[i][0] + apart, sizes[i][1] + apart
        for number in range(len(beds) + 1):
            free = beds[number] if number < len(beds) else [room]
            best = _best(free, w, d)
            if best is None:
                continue
            if number == len(beds):
                beds.append(free)
            x, y, turned = best
            beds[number] = _without(free, (x, y, d, w) if turned else (x, y, w, d))
            spots[i] = Spot(number, x, y, turned)
            break
    return spots


def _best(free: Sequence[_Rect], w: float, d: float) -> tuple[float, float, bool] | None:
    """The free rectangle whose shorter side is left with least."""
    found: tuple[float, float, float, float, bool] | None = None
    for x, y, fw, fd in free:
        for a, b, turned in ((w, d, False), (d, w, True)):
            if a <= fw + _EPS and b <= fd + _EPS:
                score = (min(fw - a, fd - b), y, x, y, turned)
                if found is None or score[:2] < found[:2]:
                    found = (score[0], score[1], x, y, turned)
    return None if found is None else (found[2], found[3], found[4])


def _without(free: Sequence[_Rect], used: _Rect) -> list[_Rect]:
    """The maximal free rectangles that are left."""
    ux, uy, uw, ud = used
    left: list[_Rect] = []
    for x, y, w, d in free:
        if ux >= x + w - _EPS or ux + uw <= x + _EPS or uy >= y + d - _EPS or uy + ud <= y + _EPS:
            left.append((x, y, w, d))
            continue
        left += [
            r for r in (
                (x, y, ux - x, d), (ux + uw, y, x + w - ux - uw, d), (x, y, w, uy - y),
                (x, uy + ud, w, y + d - uy - ud),
            ) if r[2] > _EPS and r[3] > _EPS
        ]  # fmt: skip
    return [
        r
        for i, r in enumerate(left)
        if not any(_inside(r, o) and (i > j or not _inside(o, r)) for j, o in enumerate(left) if i != j)
    ]


def _inside(a: _Rect, b: _Rect) -> bool:
    return (
        a[0] >= b[0] - _EPS
        and a[1] >= b[1] - _EPS
        and a[0] + a[2] <= b[0] + b[2] + _EPS
        and a[1] + a[3] <= b[1] + b[3] + _EPS
    )
