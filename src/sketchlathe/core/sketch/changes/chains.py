"""Chains: curves that meet end to end."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Iterator
from typing import NamedTuple

from ...errors import BadInput
from ...remembering import once_each
from ..document import Sketch

XY = tuple[float, float]


class Chain(NamedTuple):
    """Curves in order with whether each is run forwards; ``closed`` when the last meets the first."""

    links: tuple[tuple[str, bool], ...]
    closed: bool


def chain_of(sketch: Sketch, ids: Collection[str]) -> Chain:
    """The order in which chosen curves follow each other. Raises ``BadInput`` when they are not one chain."""
    curves = [sketch.curve(id) for id in sketch._by_id if id in set(ids)]
    closed = [c for c in curves if c.end_points is None]
    if closed:
        if len(curves) > 1:
            raise BadInput("A circle is offset by itself; select it alone, or a chain of lines and arcs.")
        return Chain(((curves[0].id, True),), True)
    near = 1e-6 * sketch.size
    left = {c.id: c for c in curves}

    def touching(p: tuple[float, float]) -> list[tuple[str, bool]]:
        found = []
        for c in left.values():
            first, last = c.end_points or ("", "")
            if math.dist(c.place(first), p) <= near:
                found.append((c.id, True))
            if math.dist(c.place(last), p) <= near:
                found.append((c.id, False))
        return found

    def start_of() -> tuple[str, bool]:
        for c in curves:
            for name, forward in zip(c.end_points or (), (True, False)):
                if len(touching(c.place(name))) == 1:
                    return c.id, forward
        return curves[0].id, True

    links: list[tuple[str, bool]] = []
    at = start_of()
    while True:
        id, forward = at
        links.append(at)
        curve = left.pop(id)
        first, last = curve.end_points or ("", "")
        p = curve.place(last if forward else first)
        following = touching(p)
        if not following:
            break
        if len(following) > 1:
            raise BadInput("Three curves meet at one point here; select one chain without a fork.")
        at = following[0]
    if left:
        raise BadInput("These curves are not one chain; select curves that meet end to end.")
    begin = sketch.curve(links[0][0])
    first, last = begin.end_points or ("", "")
    start = begin.place(first if links[0][1] else last)
    return Chain(tuple(links), len(links) > 1 and math.dist(start, p) <= near)


def connected(sketch: Sketch, id: str) -> tuple[str, ...]:
    """All curves that hang together with one, end to end, in the sketch's order."""
    return _hanging_together(sketch).get(id, (id,))


@once_each
def _hanging_together(sketch: Sketch) -> dict[str, tuple[str, ...]]:
    """The chain that each curve with ends is in, by its id."""
    ends = [(c.id, c.place(n)) for c in sketch.curves if not c.construction for n in c.end_points or ()]
    first = {id: id for id, _ in ends}

    def leader(id: str) -> str:
        while first[id] != id:
            first[id] = id = first[first[id]]
        return id

    for one, other in close_pairs(ends, 1e-6 * sketch.size):
        first[leader(other)] = leader(one)
    chains: dict[str, list[str]] = {}
    for id in first:
        chains.setdefault(leader(id), []).append(id)
    return {id: tuple(chain) for chain in chains.values() for id in chain}


def close_pairs(places: Iterable[tuple[str, XY]], near: float) -> Iterator[tuple[str, str]]:
    """Pairs of places closer than ``near``, found through a grid."""
    grid: dict[tuple[int, int], list[tuple[str, XY]]] = {}
    for ref, p in places:
        cell = (math.floor(p[0] / near), math.floor(p[1] / near))
        for dx in (-1, 0, 1):
            for dy in (-1, 0, 1):
                for other, q in grid.get((cell[0] + dx, cell[1] + dy), ()):
                    if math.dist(p, q) <= near:
                        yield other, ref
        grid.setdefault(cell, []).append((ref, p))
