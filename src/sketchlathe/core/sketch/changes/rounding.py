"""Fillets and chamfers of corners. Sizes that ran to the corner stay: they run to a construction point where the
sharp corner was.
"""

from __future__ import annotations

import math
from typing import NamedTuple

from ...errors import BadInput
from ..constraints import CONSTRAINTS, Constraint
from ..curves import CURVES, Curve
from ..curves.arc import Arc
from ..curves.line import Line
from ..document import ValuedSketch
from . import spans
from .adding import Fresh, add_as_drawn, add_constraint, solved_or_refused

XY = tuple[float, float]


class Corner(NamedTuple):
    """Two lines or arcs and the names of their ends that meet."""

    a: Curve
    end_a: str
    b: Curve
    end_b: str
    at: XY


def corner_of(sketch: ValuedSketch, refs: tuple[str, ...]) -> Corner:
    """The corner meant by one of its end points, or by the two curves that meet there."""
    near = 1e-6 * sketch.size
    if len(refs) == 1 and "." in refs[0]:
        p = sketch.point(refs[0])
        meeting = [
            (c, name)
            for c in sketch.curves
            if isinstance(c, Line | Arc) and not c.taken
            for name in ("start", "end")
            if math.dist(c.place(name), p) <= near
        ]
        if len(meeting) == 2:
            (one, end_one), (two, end_two) = meeting
            return Corner(one, end_one, two, end_two, p)
        raise BadInput("A corner needs exactly two lines or arcs that meet there.")
    if len(refs) == 2:
        a, b = (sketch.curve(r.partition(".")[0]) for r in refs)
        for end_a in ("start", "end"):
            for end_b in ("start", "end"):
                if not (isinstance(a, Line | Arc) and isinstance(b, Line | Arc)) or a.taken or b.taken:
                    continue
                if math.dist(a.place(end_a), b.place(end_b)) <= near:
                    return Corner(a, end_a, b, end_b, a.place(end_a))
        raise BadInput("These two do not meet at an end; trim or extend them to a corner first.")
    raise BadInput("Pick a corner, or the two lines or arcs that form it.")


def corners_meant(sketch: ValuedSketch, refs: tuple[str, ...]) -> list[tuple[str, ...]]:
    """What ``corner_of`` is asked for, for one corner or, when several curves are given, for each corner among them."""
    ids = list(dict.fromkeys(r.partition(".")[0] for r in refs))
    if len(ids) < 3:
        return [refs]
    near = 1e-6 * sketch.size
    ends = [
        (c, c.place(n))
        for c in map(sketch.curve, ids)
        if isinstance(c, Line | Arc) and not c.taken
        for n in ("start", "end")
    ]
    pairs = [
        (a.id, b.id)
        for i, (a, p) in enumerate(ends)
        for b, q in ends[i + 1 :]
        if a is not b and math.dist(p, q) <= near and not _runs_on(a, b, p)
    ]
    if not pairs:
        raise BadInput("Among what is selected no two lines or arcs meet in a corner.")
    return list(pairs)


def _runs_on(a: Curve, b: Curve, at: XY) -> bool:
    """Whether two curves that meet go on into each other without a corner."""
    ways = []
    for curve in (a, b):
        low, high = spans.limits(curve)
        step = (high - low) * 1e-6
        close, beside = (
            (low, low + step)
            if math.dist(spans.at(curve, low), at) <= math.dist(spans.at(curve, high), at)
            else (high, high - step)
        )
        (x0, y0), (x1, y1) = spans.at(curve, close), spans.at(curve, beside)
        long = math.hypot(x1 - x0, y1 - y0) or 1.0
        ways.append(((x1 - x0) / long, (y1 - y0) / long))
    (ux, uy), (vx, vy) = ways
    return abs(ux * vy - uy * vx) < 1e-4


def fillet(
    sketch: ValuedSketch, fresh: Fresh, corner: Corner, radius: float, formula: str, like: str = ""
) -> ValuedSketch:
    """Round a corner with an arc tangent to both curves. Its radius is a driving dimension, or equal to that of the
    arc ``like``.
    """
    centre, touch_a, touch_b = _rounded(corner, radius)
    id = fresh("c")
    turn = (touch_a[0] - centre[0]) * (touch_b[1] - centre[1]) - (touch_a[1] - centre[1]) * (touch_b[0] - centre[0])
    start, end = (touch_a, touch_b) if turn > 0 else (touch_b, touch_a)
    arc = Arc.model_validate(
        {"kind": "arc", "id": id, "centre": centre, "start": start, "end": end, "radius": radius,
         "construction": corner.a.construction and corner.b.construction}
    )  # fmt: skip
    sketch = _shortened(sketch, fresh, corner, touch_a, touch_b)
    sketch = sketch.with_curves((*sketch.curves, arc))
    names = ("start", "end") if turn > 0 else ("end", "start")
    for curve, end_name, name in ((corner.a, corner.end_a, names[0]), (corner.b, corner.end_b, names[1])):
        sketch = add_as_drawn(sketch, fresh, "coincident", (f"{id}.{name}", f"{curve.id}.{end_name}"))
        sketch = add_as_drawn(sketch, fresh, "tangent", (curve.id, id))
    if like:
        return add_as_drawn(sketch, fresh, "equal", (like, id))
    return _dimensioned(sketch, fresh, "radius", (id,), formula, radius)


def chamfer(
    sketch: ValuedSketch, fresh: Fresh, corner: Corner, sizes: tuple[float, float], formulas: tuple[str, str]
) -> ValuedSketch:
    """Cut a corner off with a line; equal sizes are one dimension."""
    if not (isinstance(corner.a, Line) and isinstance(corner.b, Line)):
        raise BadInput("A chamfer needs a corner between two lines.")
    touches = []
    for line, end, size in ((corner.a, corner.end_a, sizes[0]), (corner.b, corner.end_b, sizes[1])):
        other = line.place("end" if end == "start" else "start")
        long = math.dist(other, corner.at)
        if size >= long:
            raise BadInput(f"The chamfer is longer than the line it cuts ({long:.4g} mm); take a smaller size.")
        f = size / long
        touches.append((corner.at[0] + (other[0] - corner.at[0]) * f, corner.at[1] + (other[1] - corner.at[1]) * f))
    sketch = _shortened(sketch, fresh, corner, *touches, always_point=True)
    apex = f"{sketch.curves[-1].id}.at"
    id = fresh("c")
    sketch = sketch.with_curves((*sketch.curves, Line(id=id, start=touches[0], end=touches[1])))
    sketch = add_as_drawn(sketch, fresh, "coincident", (f"{id}.start", f"{corner.a.id}.{corner.end_a}"))
    sketch = add_as_drawn(sketch, fresh, "coincident", (f"{id}.end", f"{corner.b.id}.{corner.end_b}"))
    if formulas[0] == formulas[1]:
        sketch = add_as_drawn(sketch, fresh, "equal", (apex, f"{id}.start", f"{id}.end"))
    else:
        sketch = _dimensioned(sketch, fresh, "distance", (apex, f"{id}.end"), formulas[1], sizes[1])
    return _dimensioned(sketch, fresh, "distance", (apex, f"{id}.start"), formulas[0], sizes[0])


def _dimensioned(
    sketch: ValuedSketch, fresh: Fresh, kind: str, refs: tuple[str, ...], formula: str, value: float
) -> ValuedSketch:
    made = CONSTRAINTS[kind].made(sketch, fresh("k"), refs, value=formula)
    return add_constraint(sketch.with_value(made.id, value), made)


def _rounded(corner: Corner, radius: float) -> tuple[XY, XY, XY]:
    """Centre of the fillet and where it touches each curve."""
    if isinstance(corner.a, Line) and isinstance(corner.b, Line):
        return _between_lines(corner, radius)
    towards = []
    for curve, end in ((corner.a, corner.end_a), (corner.b, corner.end_b)):
        low, high = spans.limits(curve)
        small = (high - low) * 1e-3
        towards.append(spans.at(curve, low + small if end == "start" else high - small))
    (px, py) = corner.at
    inward = [((x - px) / math.dist((x, y), corner.at), (y - py) / math.dist((x, y), corner.at)) for x, y in towards]
    bisector = (inward[0][0] + inward[1][0], inward[0][1] + inward[1][1])
    long = math.hypot(*bisector) or 1.0
    first = (px + bisector[0] / long * radius * 1.2, py + bisector[1] / long * radius * 1.2)

    def gap(curve: Curve, x: float, y: float) -> float:
        """How far a point is from a curve, its sign that of the starting side."""
        if isinstance(curve, Arc):
            side = 1.0 if math.dist(first, curve.centre) > curve.radius else -1.0
            return side * (math.dist((x, y), curve.centre) - curve.radius)
        (ax, ay), (bx, by) = curve.place("start"), curve.place("end")
        long = math.dist((ax, ay), (bx, by))

        def signed(u: float, v: float) -> float:
            return ((bx - ax) * (v - ay) - (by - ay) * (u - ax)) / long

        return signed(x, y) * (1.0 if signed(*first) >= 0 else -1.0)

    from scipy.optimize import least_squares  # see ``warming``

    found = least_squares(
        lambda v: [gap(corner.a, v[0], v[1]) - radius, gap(corner.b, v[0], v[1]) - radius], first,
        xtol=1e-15, ftol=1e-15, gtol=1e-15,
    )  # fmt: skip
    x, y = found.x.tolist()
    if max(abs(v) for v in found.fun) > 1e-9 * max(radius, 1.0):
        raise BadInput("No arc of this radius touches both curves at this corner; take a smaller radius.")
    touches = []
    for curve in (corner.a, corner.b):
        if isinstance(curve, Arc):
            f = curve.radius / math.dist((x, y), curve.centre)
            touch = (curve.centre[0] + (x - curve.centre[0]) * f, curve.centre[1] + (y - curve.centre[1]) * f)
        else:
            (ax, ay), (bx, by) = curve.place("start"), curve.place("end")
            t = ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / ((bx - ax) ** 2 + (by - ay) ** 2)
            touch = (ax + t * (bx - ax), ay + t * (by - ay))
        if not spans.lies_on(curve, touch, 1e-6 * max(radius, 1e-6)):
            raise BadInput("This fillet is too big for its corner; take a smaller radius.")
        touches.append(touch)
    return (x, y), touches[0], touches[1]


def _between_lines(corner: Corner, radius: float) -> tuple[XY, XY, XY]:
    ends = [
        line.place("end" if end == "start" else "start")
        for line, end in ((corner.a, corner.end_a), (corner.b, corner.end_b))
    ]
    (px, py) = corner.at
    longs = [math.dist(e, corner.at) for e in ends]
    (ux, uy), (vx, vy) = (((x - px) / long, (y - py) / long) for (x, y), long in zip(ends, longs))
    angle = math.atan2(abs(ux * vy - uy * vx), ux * vx + uy * vy)
    if angle < 1e-6 or angle > math.pi - 1e-6:
        raise BadInput("These lines run straight on; there is no corner to round.")
    back = radius / math.tan(angle / 2)
    if back > min(longs) * (1 + 1e-9):
        largest = min(longs) * math.tan(angle / 2)
        raise BadInput(f"This fillet is too big for its corner; the largest that fits is {largest:.6g} mm.")
    out = radius / math.sin(angle / 2)
    bx, by = ux + vx, uy + vy
    long = math.hypot(bx, by)
    centre = (px + bx / long * out, py + by / long * out)
    return centre, (px + ux * back, py + uy * back), (px + vx * back, py + vy * back)


def _shortened(
    sketch: ValuedSketch, fresh: Fresh, corner: Corner, touch_a: XY, touch_b: XY, *, always_point: bool = False
) -> ValuedSketch:
    """Both curves end where the fillet or chamfer begins; what held or measured the corner now holds a construction
    point.
    """
    ends = {f"{corner.a.id}.{corner.end_a}", f"{corner.b.id}.{corner.end_b}"}
    whole = {corner.a.id, corner.b.id}
    kept: list[Constraint] = []
    moved: list[Constraint] = []
    for c in sketch.constraints:
        refs = set(c.on)
        if "joins" in c.does and refs == ends:
            continue
        if "smooths" in c.does and refs == whole:
            continue
        if refs & ends or (refs & whole and c.needs_ends(sketch)):
            moved.append(c)
        else:
            kept.append(c)
    lines = isinstance(corner.a, Line) and isinstance(corner.b, Line)
    curves: list[Curve] = []
    for curve in sketch.curves:
        update = {}
        if curve.id == corner.a.id:
            update[corner.end_a] = touch_a
        if curve.id == corner.b.id:
            update[corner.end_b] = touch_b
        curves.append(curve.with_scalars(update) if update else curve)
    if not moved and not always_point:
        return sketch.with_curves(curves).with_constraints(kept)
    point = fresh("c")
    curves.append(CURVES.parse({"kind": "point", "id": point, "at": corner.at, "construction": True}))
    names = dict.fromkeys(ends, f"{point}.at")
    after = sketch.with_curves(curves)
    for c in moved:
        again = _to_point(sketch, c, corner, names)
        if again is not None and all(ref in after for ref in again.on):
            kept.append(again)
    after = after.with_constraints(kept)
    held = (corner.a.id, corner.b.id)
    if lines:
        return add_as_drawn(after, fresh, "crossing", (f"{point}.at", *held))
    for id in held:
        after = add_as_drawn(after, fresh, "coincident", (f"{point}.at", id))
    return after


def _to_point(sketch: ValuedSketch, c: Constraint, corner: Corner, names: dict[str, str]) -> Constraint | None:
    """A constraint on the corner, or on a curve from end to end, as one on the construction point."""
    if c.kind == "distance" and len(c.on) == 1:
        curve = corner.a if c.on[0] == corner.a.id else corner.b
        end = corner.end_a if curve is corner.a else corner.end_b
        other = f"{curve.id}.{'end' if end == 'start' else 'start'}"
        mine = names[f"{curve.id}.{end}"]
        ordered = (mine, other) if end == "start" else (other, mine)
        return c.model_copy(update={"on": ordered})
    if c.needs_ends(sketch) and {ref for ref in c.on if "." not in ref} & {corner.a.id, corner.b.id}:
        return None
    return c.renamed(names)


__all__ = ["Corner", "chamfer", "corner_of", "fillet", "solved_or_refused"]
