"""Offset a chain of curves by one driving distance, to one side or both."""

from __future__ import annotations

import math
from collections.abc import Collection
from typing import Any

from ...errors import BadInput
from ..constraints.offset import Joint, Offset
from ..curves import CURVES, Curve
from ..curves.line import Line
from ..document import ValuedSketch
from ..solver.solving import solve
from .adding import Fresh, solved_or_refused
from .chains import Chain, chain_of

XY = tuple[float, float]


def offset(
    sketch: ValuedSketch,
    fresh: Fresh,
    ids: Collection[str],
    side: XY,
    value: float,
    formula: str,
    *,
    both: bool = False,
) -> ValuedSketch:
    """Parallel curves to a chain (or one circle), on the side of the point ``side``; driven by one distance."""
    chosen = [sketch.curve(id.partition(".")[0]) for id in ids]
    if any(not c.tags & {"line", "round"} for c in chosen):
        raise BadInput("Lines, circles and arcs can be offset; leave the others out.")
    if value <= 0:
        raise BadInput("The distance of an offset must be above zero.")
    chain = chain_of(sketch, {c.id for c in chosen})
    left = _is_left(sketch, chain, side)
    for way in (left, not left) if both else (left,):
        sketch = _one_side(sketch, fresh, chain, 1.0 if way else -1.0, value, formula)
    return sketch


def _is_left(sketch: ValuedSketch, chain: Chain, p: XY) -> bool:
    """Whether a point is on the left of the chain, by its nearest curve."""
    best, left = math.inf, True
    for id, forward in chain.links:
        curve = sketch.curve(id)
        if isinstance(curve, Line):
            (ax, ay), (bx, by) = curve.start, curve.end
            t = ((p[0] - ax) * (bx - ax) + (p[1] - ay) * (by - ay)) / ((bx - ax) ** 2 + (by - ay) ** 2)
            t = min(max(t, 0.0), 1.0)
            away = math.dist(p, (ax + t * (bx - ax), ay + t * (by - ay)))
            on_left = (bx - ax) * (p[1] - ay) - (by - ay) * (p[0] - ax) > 0
        else:
            centre, radius = curve.place("centre"), sketch.radius(id)
            away = abs(math.dist(p, centre) - radius)
            on_left = math.dist(p, centre) < radius
        if away < best:
            best, left = away, on_left == forward
    return left


def _one_side(
    sketch: ValuedSketch, fresh: Fresh, chain: Chain, left: float, value: float, formula: str
) -> ValuedSketch:
    new: dict[str, str] = {id: fresh("c") for id, _ in chain.links}
    signs: list[float] = []
    for id, forward in chain.links:
        curve = sketch.curve(id)
        out = left if forward else -left
        if isinstance(curve, Line):
            signs.append(out)
        else:
            signs.append(-out)  # left of a counterclockwise arc is inside
            if sketch.radius(id) - out * value <= 1e-9:
                raise BadInput("This distance is larger than a radius of the chain; take a smaller one.")
    sign_of = {id: s for (id, _), s in zip(chain.links, signs)}
    joints = _joints(sketch, chain, new)
    curves: list[Curve] = []
    ends = {name: place for joint in joints for name, place in _placed(sketch, joint, sign_of, value).items()}
    for id, _ in chain.links:
        curve = sketch.curve(id)
        raw: dict[str, Any] = {"kind": curve.kind, "id": new[id], "construction": curve.construction}
        if not isinstance(curve, Line):
            raw.update(centre=curve.place("centre"), radius=sketch.radius(id) + sign_of[id] * value)
        raw.update({name: ends[f"{new[id]}.{name}"] for name in curve.end_points or ()})
        made = CURVES.parse(raw)
        if isinstance(made, Line) and _turned_back(curve, made):
            raise BadInput("This distance is too large for a short line of the chain; take a smaller one.")
        curves.append(made)
    sources = tuple(id for id, _ in chain.links)
    made_offset = Offset(
        id=fresh("k"), on=(sources[0],), sources=sources, targets=tuple(new[id] for id in sources), signs=tuple(signs),
        joints=tuple(joints), value=formula,
    )  # fmt: skip
    sketch = sketch.with_value(made_offset.id, value)
    sketch = sketch.with_curves((*sketch.curves, *curves)).with_constraints((*sketch.constraints, made_offset))
    return solved_or_refused(solve(sketch), "This offset")


def _turned_back(old: Curve, new: Curve) -> bool:
    (ax, ay), (bx, by) = old.place("start"), old.place("end")
    (cx, cy), (dx, dy) = new.place("start"), new.place("end")
    return (bx - ax) * (dx - cx) + (by - ay) * (dy - cy) <= 0


def _joints(sketch: ValuedSketch, chain: Chain, new: dict[str, str]) -> list[Joint]:
    """Where the offset curves end: at corners, at smooth joins, and at the chain's free ends."""
    if chain.links and sketch.curve(chain.links[0][0]).end_points is None:
        return []
    joints: list[Joint] = []
    count = len(chain.links)
    for i, (id, forward) in enumerate(chain.links):
        following = chain.links[(i + 1) % count] if chain.closed or i + 1 < count else None
        leaving = f"{id}.{'end' if forward else 'start'}"
        if i == 0 and not chain.closed:
            first = f"{id}.{'start' if forward else 'end'}"
            joints.append(Joint(first=first, first_target=_target(first, new)))
        if following is None:
            joints.append(Joint(first=leaving, first_target=_target(leaving, new)))
            continue
        second = f"{following[0]}.{'start' if following[1] else 'end'}"
        smooth = _is_smooth(sketch, leaving, second)
        joints.append(
            Joint(first=leaving, first_target=_target(leaving, new), second=second, second_target=_target(second, new),
                  sharp=not smooth)
        )  # fmt: skip
    return joints


def _target(ref: str, new: dict[str, str]) -> str:
    id, _, name = ref.partition(".")
    return f"{new[id]}.{name}"


def _is_smooth(sketch: ValuedSketch, a: str, b: str) -> bool:
    from ..drawing.arc import leaving

    ux, uy = leaving(sketch, *a.split("."))
    vx, vy = leaving(sketch, *b.split("."))
    return abs(ux * vy - uy * vx) < 1e-6 and ux * vx + uy * vy < 0


def _placed(sketch: ValuedSketch, joint: Joint, signs: dict[str, float], value: float) -> dict[str, XY]:
    """Where the targets of a joint stand for a distance."""
    a = joint.first.partition(".")[0]
    p = sketch.point(joint.first)
    if not joint.second or not joint.sharp:
        q = _beside(sketch, a, p, signs[a] * value)
    else:
        q = _meeting(sketch, a, joint.second.partition(".")[0], p, signs, value)
    out = {joint.first_target: q}
    if joint.second_target:
        out[joint.second_target] = q
    return out


def _beside(sketch: ValuedSketch, id: str, p: XY, d: float) -> XY:
    """The point at right angles to a curve at its point ``p``."""
    curve = sketch.curve(id)
    if isinstance(curve, Line):
        (ax, ay), (bx, by) = curve.start, curve.end
        long = math.dist((ax, ay), (bx, by))
        return (p[0] - (by - ay) / long * d, p[1] + (bx - ax) / long * d)
    (cx, cy), r = curve.place("centre"), sketch.radius(id)
    return (p[0] + (p[0] - cx) / r * d, p[1] + (p[1] - cy) / r * d)


def _meeting(sketch: ValuedSketch, a: str, b: str, p: XY, signs: dict[str, float], value: float) -> XY:
    """Where two offset curves cross, nearest to the corner: Newton's method from beside it."""
    from scipy.optimize import least_squares

    def gap(id: str, v: Any) -> float:
        curve = sketch.curve(id)
        if isinstance(curve, Line):
            (ax, ay), (bx, by) = curve.start, curve.end
            return float(
                ((bx - ax) * (v[1] - ay) - (by - ay) * (v[0] - ax)) / math.dist((ax, ay), (bx, by)) - signs[id] * value
            )
        return math.dist(curve.place("centre"), (v[0], v[1])) - sketch.radius(id) - signs[id] * value

    one, two = _beside(sketch, a, p, signs[a] * value), _beside(sketch, b, p, signs[b] * value)
    start = ((one[0] + two[0]) / 2, (one[1] + two[1]) / 2)
    found = least_squares(lambda v: [gap(a, v), gap(b, v)], start, xtol=1e-15, ftol=1e-15, gtol=1e-15)
    if max(abs(g) for g in found.fun) > 1e-8 * max(value, 1e-6):
        raise BadInput("At this distance two neighbours of the chain do not meet any more; take a smaller one.")
    return (float(found.x[0]), float(found.x[1]))
