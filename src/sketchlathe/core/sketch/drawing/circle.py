"""Circles: from the centre, across two points, through three, tangent to what is there."""

from __future__ import annotations

import math
from typing import ClassVar

import numpy as np

from ...errors import BadInput
from ..document import Sketch
from ..tools import TOOLS, Drawing, Options, Place, SizeSlot, Tool, TypedSize, circle_through, of_curve

_SIZES = (
    SizeSlot("⌀ diameter", shown=of_curve("circle", "radius", 2.0)),
    SizeSlot("R radius", shown=of_curve("circle", "radius")),
)


class _CircleTool(Tool):
    """What all circles share."""

    family: ClassVar[str] = "circle"
    word: ClassVar[str] = "Circle"


def _typed_radius(sizes: list[TypedSize | None]) -> float | None:
    """The radius that was typed, as such or as a diameter."""
    diameter, radius = sizes
    if diameter and radius:
        raise BadInput("Type the diameter or the radius of a circle, not both.")
    return diameter.value / 2 if diameter else radius.value if radius else None


def _circle(
    centre: tuple[float, float], radius: float, sizes: list[TypedSize | None] | None = None
) -> tuple[Drawing, str]:
    if not 1e-9 < radius < 1e6:
        raise BadInput("A circle needs a size; click farther away or type a diameter.")
    drawing = Drawing()
    circle = drawing.curve("circle", centre=centre, radius=radius)
    for kind, size in zip(("diameter", "radius"), sizes or ()):
        if size:
            drawing.dimensions.append((kind, (circle,), size.text, {}))
    return drawing, circle


def _on_rim(drawing: Drawing, circle: str, place: Place) -> None:
    """The circle goes through what the place snapped to."""
    if "." in place.on or place.on == "origin":
        drawing.constraints.append(("coincident", (place.on, circle)))


@TOOLS.add
class CircleTool(_CircleTool):
    """Centre and a point of the rim; the diameter may be typed."""

    kind: ClassVar[str] = "circle"
    variant: ClassVar[str] = "centre and rim"
    chord: ClassVar[str] = "dc"
    order: ClassVar[int] = 20
    icon: ClassVar[str] = (
        "M11.5 3a8.500 8.500 0 1 0 .01 0M10.300 11.500a1.200 1.200 0 1 0 2.400 0a1.200 1.200 0 1 0-2.400 0"
    )
    steps: ClassVar[tuple[str, ...]] = ("centre", "rim")
    band: ClassVar[str] = "circle"
    sizes: ClassVar[tuple[SizeSlot, ...]] = _SIZES
    hint: ClassVar[str] = "Click the centre, then the rim; or type the diameter (Tab: the radius), Enter."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        centre, rim = places
        typed = _typed_radius(sizes)
        drawing, circle = _circle(centre.at, typed or math.dist(centre.at, rim.at), sizes)
        drawing.placed = [(f"{circle}.centre", centre)]
        if not typed:
            _on_rim(drawing, circle, rim)
        return drawing


@TOOLS.add
class CircleAcross(_CircleTool):
    """Two ends of a diameter."""

    kind: ClassVar[str] = "circle_across"
    variant: ClassVar[str] = "two points across"
    chord: ClassVar[str] = "dw"
    order: ClassVar[int] = 21
    icon: ClassVar[str] = "M11.5 3a8.500 8.500 0 1 0 .01 0M3 11.500h17"
    steps: ClassVar[tuple[str, ...]] = ("one side", "other side")
    sizes: ClassVar[tuple[SizeSlot, ...]] = _SIZES
    hint: ClassVar[str] = "Click one side of the circle, then the opposite one; or type the diameter."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        a, b = (p.at for p in places)
        long = math.dist(a, b)
        typed = _typed_radius(sizes)
        if typed and long > 0:
            f = 2 * typed / long
            b = (a[0] + (b[0] - a[0]) * f, a[1] + (b[1] - a[1]) * f)
        drawing, circle = _circle(((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), math.dist(a, b) / 2, sizes)
        _on_rim(drawing, circle, places[0])
        if not typed:
            _on_rim(drawing, circle, places[1])
        return drawing


@TOOLS.add
class CircleThrough(_CircleTool):
    """Three points of the rim."""

    kind: ClassVar[str] = "circle_through"
    variant: ClassVar[str] = "three points"
    chord: ClassVar[str] = "dh"
    order: ClassVar[int] = 22
    icon: ClassVar[str] = "M11.5 3a8.500 8.500 0 1 0 .01 0M4 8h.1M19 8h.1M11.500 20h.1"
    steps: ClassVar[tuple[str, ...]] = ("first point", "second point", "third point")
    hint: ClassVar[str] = "Click three points of the rim."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        drawing, circle = _circle(*circle_through(*(p.at for p in places)))
        for place in places:
            _on_rim(drawing, circle, place)
        return drawing


@TOOLS.add
class CircleTangent(_CircleTool):
    """Touching three curves, or two curves with a typed size."""

    kind: ClassVar[str] = "circle_tangent"
    variant: ClassVar[str] = "tangent to three"
    chord: ClassVar[str] = "dg"
    order: ClassVar[int] = 23
    icon: ClassVar[str] = "M4 20h17M4 20L12 4M11 9.500a5.200 5.200 0 1 0 .01 0"
    steps: ClassVar[tuple[str, ...]] = ("first curve", "second curve", "third curve")
    hint: ClassVar[str] = "Click three lines, circles or arcs about where they are to be touched."
    wanted: ClassVar[int] = 3

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        curves = [self._curve(place, sketch) for place in places]
        if len(set(curves)) < len(curves):
            raise BadInput("Click a different curve each time.")
        radius = _typed_radius(sizes) if sizes else None
        centre, radius = _touching(sketch, curves, [p.at for p in places], radius)
        drawing, circle = _circle(centre, radius, sizes)
        drawing.constraints = [("tangent", (curve, circle)) for curve in curves]
        return drawing

    def _curve(self, place: Place, sketch: Sketch) -> str:
        ref = place.on.partition(".")[0]
        if ref in sketch and sketch.tags_of(ref) & {"line", "round"}:
            return ref
        raise BadInput("Click on a line, circle or arc that the new circle is to touch.")


@TOOLS.add
class CircleTangentSized(CircleTangent):
    """Touching two curves, with a typed diameter or through a third click."""

    kind: ClassVar[str] = "circle_tangent_sized"
    variant: ClassVar[str] = "tangent to two"
    chord: ClassVar[str] = "dz"
    order: ClassVar[int] = 24
    icon: ClassVar[str] = "M4 20h17M4 20L12 4M12.500 11a4.500 4.500 0 1 0 .01 0M12.500 15.500h4"
    steps: ClassVar[tuple[str, ...]] = ("first curve", "second curve", "size")
    sizes: ClassVar[tuple[SizeSlot, ...]] = _SIZES
    hint: ClassVar[str] = "Click two lines, circles or arcs, then type the diameter or click for the size."

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        if _typed_radius(sizes) is None:
            # the third click gives the size: the circle through it that about touches both
            centre, radius = circle_through(*(p.at for p in places))
            curves = [self._curve(place, sketch) for place in places[:2]]
            centre, radius = _touching(sketch, curves, [p.at for p in places[:2]], radius)
            drawing, circle = _circle(centre, radius)
            drawing.constraints = [("tangent", (curve, circle)) for curve in curves]
            return drawing
        return super().draw(places[:2], sizes, options, sketch)


def _touching(
    sketch: Sketch, curves: list[str], picks: list[tuple[float, float]], radius: float | None
) -> tuple[tuple[float, float], float]:
    """The circle that touches the curves near the picks: least squares on the distances, from the picks."""
    size = max(math.dist(p, q) for p in picks for q in picks)
    sides: list[float] = []
    start = np.mean(np.array(picks), axis=0)

    def gaps(v: np.ndarray, fixed: float | None) -> list[float]:
        r = abs(v[2]) if fixed is None else fixed
        out = []
        for curve, side in zip(curves, sides):
            if "line" in sketch.tags_of(curve):
                (ax, ay), (bx, by) = sketch.ends(curve)
                away = ((bx - ax) * (v[1] - ay) - (by - ay) * (v[0] - ax)) / math.dist((ax, ay), (bx, by))
                out.append(side * away - r)
            else:
                apart = math.dist(sketch.point(f"{curve}.centre"), (v[0], v[1]))
                own = sketch.radius(curve)
                out.append(apart - own - r if side > 0 else (own - r if own > r else r - own) - apart)
        return out

    best: tuple[float, np.ndarray] | None = None
    for signs in np.ndindex(*(2,) * len(curves)):
        sides[:] = [1.0 if s else -1.0 for s in signs]
        first = np.array([*start, radius or size / 3])
        from scipy.optimize import least_squares  # see ``warming``

        found = least_squares(gaps, first, args=(radius,), xtol=1e-15, ftol=1e-15, gtol=1e-15)
        if max(abs(g) for g in found.fun) > 1e-8 * size:
            continue
        r = abs(found.x[2]) if radius is None else radius
        # how far from the picks it touches
        off = sum(abs(math.dist((found.x[0], found.x[1]), p) - r) for p in picks)
        if best is None or off < best[0]:
            best = (off, np.array([found.x[0], found.x[1], r]))
    if best is None:
        raise BadInput("No circle touches these where they were clicked; try other curves or another size.")
    x, y, r = best[1].tolist()
    return (x, y), r
