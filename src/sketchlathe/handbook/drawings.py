"""What the handbook draws of each drawing tool and each constraint.

For a tool a function draws what must be there and returns the places that are clicked, with options where it has any;
for a constraint it draws what is not yet held so, and returns what the constraint is put on.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..library.sketches import Sketch

Drawn = Callable[[Sketch], list[Any]]

# where the pointer clicks, by tool
CLICKS: dict[str, list[tuple[float, float]]] = {
    "line": [(0, 0), (40, 18)],
    "rectangle": [(0, 0), (44, 26)],
    "rectangle_centred": [(0, 0), (22, 13)],
    "rectangle_turned": [(0, 0), (38, 12), (30, 32)],
    "circle": [(0, 0), (16, 9)],
    "circle_across": [(0, 0), (34, 8)],
    "circle_through": [(0, 0), (18, 16), (36, 2)],
    "arc": [(0, 0), (40, 0), (20, 14)],
    "arc_centre": [(0, 0), (20, 2), (-8, 18)],
    "polygon": [(0, 0), (18, 6)],
    "slot": [(0, 0), (34, 0), (20, 9)],
    "arc_slot": [(0, 0), (30, 0), (12, 28), (36, 2)],
    "ellipse": [(0, 0), (24, 6), (-3, 13)],
    "ellipse_arc": [(0, 0), (24, 6), (-3, 13), (22, 10), (-20, 6)],
    "spline": [(0, 0), (12, 16), (28, 6), (44, 18)],
    "control_spline": [(0, 0), (12, 24), (28, -6), (44, 14)],
    "text": [(0, 0), (44, 0)],
    "text_round": [(0, 0), (0, 18)],
    "point": [(0, 0)],
}
OPTIONS: dict[str, dict[str, Any]] = {
    "text": {"words": "Mast 7"}, "text_round": {"words": "Weather post"},
    "text_along": {"words": "Mast 7", "backward": True},
}  # fmt: skip


def circle_tangent(s: Sketch) -> list[Any]:
    return [s.line(*ends)[0] for ends in (((0, 0), (44, 0)), ((0, 4), (18, 34)), ((44, 4), (26, 34)))]


def circle_tangent_sized(s: Sketch) -> list[Any]:
    level, steep = s.line((0, 0), (44, 0))[0], s.line((4, -4), (20, 34))[0]
    return [level, steep, (26, 16)]


def arc_tangent(s: Sketch) -> list[Any]:
    return [s.line((0, 0), (24, 0))[0].end, (42, 18)]


def text_along(s: Sketch) -> list[Any]:
    return [s.arc((0, 0), (48, 0), (24, 10))[0].end]


def centre_mark(s: Sketch) -> list[Any]:
    return [s.circle((0, 0), (16, 0))[0]]


FIRST: dict[str, Drawn] = {
    f.__name__: f for f in (circle_tangent, circle_tangent_sized, arc_tangent, text_along, centre_mark)
}
"""Tools that draw to what is there: what that is, and the clicks."""


def coincident(s: Sketch) -> list[Any]:
    return [s.line((0, 0), (22, 12))[0].end, s.line((30, 16), (46, 2))[0].start]


def horizontal(s: Sketch) -> list[Any]:
    return [s.line((0, 0), (40, 9))[0]]


def vertical(s: Sketch) -> list[Any]:
    return [s.line((0, 0), (8, 30))[0]]


def equal(s: Sketch) -> list[Any]:
    return [s.circle((0, 0), (8, 1))[0], s.circle((34, 4), (48, 5))[0]]


def parallel(s: Sketch) -> list[Any]:
    return [s.line((0, 0), (40, 12))[0], s.line((2, 16), (38, 19))[0]]


def collinear(s: Sketch) -> list[Any]:
    return [s.line((0, 0), (18, 5))[0], s.line((26, 14), (46, 12))[0]]


def perpendicular(s: Sketch) -> list[Any]:
    return [s.line((0, 0), (38, 7))[0], s.line((14, 8), (24, 32))[0]]


def tangent(s: Sketch) -> list[Any]:
    return [s.line((-22, -20), (28, -13))[0], s.circle((0, 0), (12, 1))[0]]


def concentric(s: Sketch) -> list[Any]:
    return [s.circle((0, 0), (18, 1))[0], s.circle((9, 6), (17, 7))[0]]


def smooth(s: Sketch) -> list[Any]:
    curve = s.spline((20, 0), (30, 16), (46, 12), (56, 24))[0]
    return [curve, s.line((0, 6), curve.start)[0]]


def midpoint(s: Sketch) -> list[Any]:
    base = s.line((0, 0), (40, 7))[0]
    return [s.line((13, 12), (6, 30))[0].start, base]


def fixed(s: Sketch) -> list[Any]:
    return [s.circle((0, 0), (14, 1))[0]]


def symmetric(s: Sketch) -> list[Any]:
    middle = s.line((0, -16), (1, 18), construction=True)[0]
    return [s.circle((-20, 2), (-12, 3))[0], s.circle((16, -5), (27, -4))[0], middle]


def crossing(s: Sketch) -> list[Any]:
    one, other = s.line((0, 0), (40, 22))[0], s.line((2, 20), (38, 2))[0]
    return [s.point((30, 24))[0].at, one, other]


HELD: dict[str, Drawn] = {
    f.__name__: f
    for f in (
        coincident, horizontal, vertical, equal, parallel, collinear, perpendicular, tangent, concentric, smooth,
        midpoint, fixed, symmetric, crossing,
    )
}  # fmt: skip
"""By constraint kind."""
