"""What tells of cuts: hatching, where the plane runs, the letters that belong together (ISO 128-3)."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import TypeAlias

import shapely
import shapely.affinity

from ..frames import dot
from ..sketch.curves.pieces import Segment
from .dimensioning import outline_box
from .page import LETTERS, Arrow, Drawn, Line, Text, unit
from .puts import View

XY: TypeAlias = tuple[float, float]
_LETTERS = "ABCDEFGHJKLMNPRSTUVWXYZ"  # not I, O, Q


def cuts_on(of: str, views: Sequence[tuple[str, View]], scale: float) -> Drawn:
    """What tells of cuts in a view: of a cut itself its letters and hatching, in another one where the plane runs."""
    drawn = Drawn()
    cuts = [(line, v) for line, v in views if v.cut is not None]
    for number, (line, cut) in enumerate(cuts):
        assert cut.cut is not None
        letter = _LETTERS[number % len(_LETTERS)]
        if line == of:
            box = outline_box(cut, scale)
            drawn.texts.append(Text(((box[0] + box[2]) / 2, box[3] + 4), f"{letter}–{letter}", 5.0, "middle", of=of))
            for k, area in enumerate(cut.cut.areas):
                for piece in _hatch(area, scale, k):
                    drawn.lines.append(Line(piece, "hatch", of))
            continue
        marked = next((o for o, v in views if v.part == cut.part and v.cut is None and _edge_on(v, cut)), "")
        if marked == of:
            _plane_line(drawn, line, letter, cut, next(v for o, v in views if o == of), scale)
    return drawn


def _edge_on(view: View, cut: View) -> bool:
    return view.side != "corner" and abs(dot(view.frame.normal, cut.frame.normal)) < 1e-9


def _hatch(area: Sequence[Sequence[Sequence[XY]]], scale: float, number: int) -> Iterator[Segment]:
    """Lines at half a right angle over what was cut, of neighbours each otherwise (ISO 128-3), mm of paper."""
    shape = shapely.affinity.scale(
        shapely.unary_union([shapely.Polygon(rings[0], rings[1:]) for rings in area]), scale, scale, origin=(0, 0)
    )
    if shape.is_empty:
        return
    left, low, right, high = shape.bounds
    sense, apart = (1.0 if number % 2 == 0 else -1.0), 2.5 + 0.7 * (number // 2 % 3)
    reach = (right - left) + (high - low)
    first = (left if sense > 0 else low + left) - high if sense > 0 else left + low
    count = int(reach / (apart * math.sqrt(2))) + 2
    lines = []
    for k in range(count):
        c = first + k * apart * math.sqrt(2)
        # x - y = c, or x + y = c
        lines.append([(left, left - c), (right, right - c)] if sense > 0 else [(left, c - left), (right, c - right)])
    for line in shapely.intersection(shape, shapely.linestrings(lines)):
        for piece in getattr(line, "geoms", [line]):
            if isinstance(piece, shapely.LineString) and piece.length > 0.2:
                a, b = piece.coords[0], piece.coords[-1]
                yield Segment((a[0], a[1]), (b[0], b[1]))


def _plane_line(drawn: Drawn, of: str, letter: str, cut: View, view: View, scale: float) -> None:
    """Where the plane of a cut runs in a view that sees it from its edge, and which way one looks at it."""
    assert cut.cut is not None
    plane = cut.cut.plane
    at, to = view.frame.flat(plane.origin), view.frame.flat(plane.place(0.0, 0.0, -1.0))
    way = unit((to[0] - at[0], to[1] - at[1]))
    box = outline_box(view, scale)
    k = 0 if abs(way[0]) > 0.5 else 1  # across which axis one looks
    level = at[k] * scale
    ends = [box[1 - k] - 5.0, box[3 - k] + 5.0]

    def place(along: float, on: float = 0.0) -> XY:
        return (level + on, along) if k == 0 else (along, level + on)

    drawn.lines.append(Line(Segment(place(ends[0]), place(ends[1])), "centre", of))
    for end, inward in ((ends[0], 1.0), (ends[1], -1.0)):
        drawn.lines.append(Line(Segment(place(end - 5 * inward), place(end)), "visible", of))
        tip = place(end - 2.5 * inward, 0.0)
        back = (tip[0] - 6 * way[0], tip[1] - 6 * way[1])
        drawn.lines.append(Line(Segment(back, tip), "size", of))
        drawn.arrows.append(Arrow(tip, way, of))
        drawn.texts.append(
            Text((back[0] - 2.5 * way[0], back[1] - 2.5 * way[1] - 1.75), letter, LETTERS, "middle", of=of)
        )
