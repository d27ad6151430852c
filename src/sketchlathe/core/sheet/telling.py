"""Which view says which size: the first that shows it true, each once; and what none of them shows."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import replace
from typing import TypeAlias

from ..frames import dot
from ..sketch.curves.pieces import ArcPiece
from .page import Unsaid
from .puts import OPPOSITE, Size, Sizes, View, side_for

XY: TypeAlias = tuple[float, float]
Views: TypeAlias = Sequence[tuple[str, View]]
Told: TypeAlias = dict[str, list[tuple[str, Size]]]


class _Rounds:
    """The circles and arcs of a view, to be asked for by where they are and how large."""

    def __init__(self, view: View) -> None:
        self.visible, self.hidden, self.whole = set[tuple[float, ...]](), set[tuple[float, ...]](), dict[float, int]()
        for line in view.lines:
            p = line.piece
            if not isinstance(p, ArcPiece):
                continue
            key = _key(p.centre, p.radius)
            if line.visible and key not in self.visible and abs(p.a1 - p.a0) > 2 * math.pi - 1e-6:
                self.whole[key[2]] = self.whole.get(key[2], 0) + 1
            (self.visible if line.visible else self.hidden).add(key)


def _key(centre: XY, radius: float) -> tuple[float, float, float]:
    return round(centre[0], 3) + 0.0, round(centre[1], 3) + 0.0, round(radius, 3)


def told(views: Views, sizes: Sequence[tuple[str, Sizes]]) -> tuple[Told, list[Unsaid]]:
    """The sizes by the view that says them, each with the line that asks for it; and those that no view shows: the
    line, the part, the size, and the side that would show it.
    """
    found: Told = {of: [] for of, _ in views}
    unsaid: list[Unsaid] = []
    rounds = {of: _Rounds(v) for of, v in views}
    said: set[tuple[object, ...]] = set()
    for line, asked in sizes:
        there = [(of, v) for of, v in views if v.part == asked.part and v.side != "corner"]
        there.sort(key=lambda one: one[1].cut is not None)  # in what is whole first
        stretches: set[tuple[float, ...]] = set()
        for size in asked.sizes:
            where, side = _where(size, there, rounds)
            if where is None:
                if side is not None:
                    unsaid.append((line, asked.part, size, side))
                continue
            key = (where[0], *_seen_as(size, where[1]))
            if key not in said:
                said.add(key)
                found[where[0]].append((line, size))
                if size.form == "linear":
                    stretches.add(_stretch(size))
        for of, _ in there:
            found[of] = _counted(found[of], rounds[of])
        for ways in asked.over_all:
            across = any(size.text == f"⌀{ways[0].text}" for sizes_ in found.values() for _, size in sizes_)
            if across or any(_stretch(way) in stretches for way in ways):
                continue  # it is said already
            shown = next(((of, w) for of, v in there for w in ways if v.shows_true(w.plane)), None)
            if shown is not None:
                found[shown[0]].append((line, shown[1]))
    return found, unsaid


def _where(size: Size, views: Views, rounds: dict[str, _Rounds]) -> tuple[tuple[str, View] | None, str | None]:
    """The view that says a size; else the side that would show it, None where nothing of it is there."""
    if size.form in ("radial", "diametral"):
        radius, behind = math.dist(*size.points[:2]), ""
        true = [(of, v) for of, v in views if v.shows_true(size.plane)]
        for of, view in true:
            key = _key(view.frame.flat(size.plane.place(*size.points[0])), radius)
            if key in rounds[of].visible:
                return (of, view), None
            behind = behind or (OPPOSITE[view.side] if key in rounds[of].hidden else "")
        return None, (behind or None) if true else side_for(size)
    where = next(((of, v) for of, v in views if v.shows_true(size.plane)), None)
    if where is None and size.form == "linear":
        where = next(((of, v) for of, v in views if _lies_in(size, v)), None)
    return where, side_for(size)


def _lies_in(size: Size, view: View) -> bool:
    """Whether a length is seen true though its plane is not."""
    a, b = size.plane.place(*size.points[2]), size.plane.place(0.0, 0.0)
    return abs(dot(view.frame.normal, (a[0] - b[0], a[1] - b[1], a[2] - b[2]))) < 1e-9


def _seen_as(size: Size, view: View) -> tuple[object, ...]:
    """What a size is in a view: two that are the same there are said once, two at different places twice."""

    def flat(p: XY) -> XY:
        x, y = view.frame.flat(size.plane.place(*p))
        return round(x, 4) + 0.0, round(y, 4) + 0.0

    if size.form == "linear":
        return size.form, *sorted(map(flat, size.points[:2])), _stretch(size)
    if size.form == "angular":
        centre, first, second = size.points
        sides = sorted(flat((centre[0] + v[0], centre[1] + v[1])) for v in (first, second))
        return size.form, size.text, flat(centre), *sides
    return size.form, size.text, flat(size.points[0])


def _stretch(size: Size) -> tuple[float, ...]:
    """A length's direction in space, and from where to where it goes along it."""
    a, b, way = size.points
    origin, along = size.plane.place(0.0, 0.0), size.plane.place(*way)
    u = (along[0] - origin[0], along[1] - origin[1], along[2] - origin[2])
    u = u if u > (0.0, 0.0, 0.0) else (-u[0], -u[1], -u[2])
    ends = sorted(round(dot(size.plane.place(*p), u), 4) + 0.0 for p in (a, b))
    return (*(round(v, 5) + 0.0 for v in u), *ends)


_PLAIN = re.compile(r"⌀[\d./ ]+$")


def _counted(sizes: Sequence[tuple[str, Size]], rounds: _Rounds) -> list[tuple[str, Size]]:
    """Diameters that several circles of a view have, said once with how many there are. (A note that says more than the
    diameter, through or how deep, speaks of its own holes only.)
    """
    found, said = [], set()
    for of, size in sizes:
        if size.form == "diametral" and _PLAIN.match(size.text):
            radius = round(math.dist(*size.points[:2]), 3)
            if (radius, size.text) in said:
                continue
            count = rounds.whole.get(radius, 0)
            if count > 1:
                said.add((radius, size.text))
                size = replace(size, text=f"{count}× {size.text}")
        found.append((of, size))
    return found
