"""Trim, extend, split. Constraints stay where they still make sense; what is lost can be told by comparing."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from ...errors import BadInput, Trouble
from ...saying import a, opens
from ..constraints import Constraint
from ..constraints.copies import CopyFields, Regular
from ..curves import Curve
from ..curves.arc import Arc
from ..curves.ellipse import EllipseArc
from ..curves.line import Line
from ..document import ValuedSketch
from ..solver.compiling import compile_sketch, gather
from ..solver.solving import Verdict, solve
from . import spans
from .adding import Fresh, add_if_it_fits
from .removing import check_names, without_curves

XY = tuple[float, float]


def trim(sketch: ValuedSketch, fresh: Fresh, id: str, pick: XY) -> ValuedSketch:
    """Take away the stretch of a curve under ``pick``, up to where others cross it on both sides."""
    curve = _changeable(sketch, id)
    place, (low, high) = spans.nearest(curve, pick), spans.limits(curve)
    found = spans.cuts(sketch, curve)
    slack = 1e-6 * (high - low)
    if spans.is_closed(curve):
        if len(found) < 2:
            return without_curves(sketch, {id})
        turn = high - low
        following = next((c for c in found if c.place > place), found[0]._replace(place=found[0].place + turn))
        previous = next(
            (c for c in reversed(found) if c.place <= place), found[-1]._replace(place=found[-1].place - turn)
        )
        kept = spans.between(curve, following.place, previous.place + turn, id)
        sketch = _replaced(sketch, fresh, curve, [kept])
        return _held_to(sketch, fresh, ((f"{id}.start", following), (f"{id}.end", previous)))
    inside = [c for c in found if low + slack < c.place < high - slack]
    before = next((c for c in reversed(inside) if c.place <= place), None)
    after = next((c for c in inside if c.place > place), None)
    if before is None and after is None:
        return without_curves(sketch, {id})
    if before is None:
        assert after is not None
        kept = spans.between(curve, after.place, high, id)
        return _held_to(_replaced(sketch, fresh, curve, [kept]), fresh, ((f"{id}.{_ends(kept)[0]}", after),))
    if after is None:
        kept = spans.between(curve, low, before.place, id)
        return _held_to(_replaced(sketch, fresh, curve, [kept]), fresh, ((f"{id}.{_ends(kept)[1]}", before),))
    one, two = spans.between(curve, low, before.place, id), spans.between(curve, after.place, high, fresh("c"))
    sketch = _replaced(sketch, fresh, curve, [one, two])
    sketch = _kept_in_line(sketch, fresh, one, two)
    return _held_to(sketch, fresh, ((f"{id}.{_ends(one)[1]}", before), (f"{two.id}.{_ends(two)[0]}", after)))


def stretch_path(sketch: ValuedSketch, id: str, pick: XY) -> str:
    """The stretch that ``trim`` would take away, as SVG path data."""
    curve = sketch.curve(id)
    if "text" in curve.tags or curve.kind == "point":
        return ""
    place, (low, high) = spans.nearest(curve, pick), spans.limits(curve)
    slack = 1e-6 * (high - low)
    found = [c.place for c in spans.cuts(sketch, curve)]
    if spans.is_closed(curve):
        if len(found) < 2:
            return curve.svg()
        turn = high - low
        after = next((p for p in found if p > place), found[0] + turn)
        before = next((p for p in reversed(found) if p <= place), found[-1] - turn)
        return spans.between(curve, before, after, id).svg()
    inside = [p for p in found if low + slack < p < high - slack]
    after = next((p for p in inside if p > place), high)
    before = next((p for p in reversed(inside) if p <= place), low)
    return spans.between(curve, before, after, id).svg()


def split(sketch: ValuedSketch, fresh: Fresh, id: str, pick: XY) -> ValuedSketch:
    """Cut a curve in two at ``pick``; the halves stay joined and in line."""
    curve = _changeable(sketch, id)
    place, (low, high) = spans.nearest(curve, pick), spans.limits(curve)
    if spans.is_closed(curve):
        kept = spans.between(curve, place, place + math.pi, id)
        other = spans.between(curve, place + math.pi, place + 2 * math.pi, fresh("c"))
        sketch = _kept_in_line(_replaced(sketch, fresh, curve, [kept, other]), fresh, kept, other)
        sketch = add_if_it_fits(sketch, fresh, "coincident", (f"{id}.end", f"{other.id}.start"))
        return add_if_it_fits(sketch, fresh, "coincident", (f"{other.id}.end", f"{id}.start"))
    if not low + 1e-6 * (high - low) < place < high - 1e-6 * (high - low):
        raise BadInput("Point at a place along the curve, not at its end, to split it there.")
    one, two = spans.between(curve, low, place, id), spans.between(curve, place, high, fresh("c"))
    sketch = _kept_in_line(_replaced(sketch, fresh, curve, [one, two]), fresh, one, two)
    return add_if_it_fits(sketch, fresh, "coincident", (f"{id}.{_ends(one)[1]}", f"{two.id}.{_ends(two)[0]}"))


def extend(sketch: ValuedSketch, fresh: Fresh, id: str, pick: XY) -> ValuedSketch:
    """Let the end of a line or arc nearest to ``pick`` run on to the next curve in its way."""
    curve = _changeable(sketch, id)
    if not isinstance(curve, Line | Arc | EllipseArc):
        raise BadInput("Lines and arcs can be extended; point near the end that is to run on.")
    first, last = curve.start, curve.end
    at_end = math.dist(pick, last) <= math.dist(pick, first)
    low, high = spans.limits(curve)
    if isinstance(curve, Line):
        reach = 20 * sketch.size
        ux, uy = (last[0] - first[0]) / high, (last[1] - first[1]) / high
        longer: Curve = curve.model_copy(
            update={"end": (last[0] + ux * reach, last[1] + uy * reach)} if at_end
            else {"start": (first[0] - ux * reach, first[1] - uy * reach)}
        )  # fmt: skip
        found = [c.place if at_end else c.place - reach for c in spans.cuts(sketch, longer)]
    else:
        kind = {"arc": "circle", "ellipse_arc": "ellipse"}[curve.kind]
        from ..curves import CURVES

        whole = CURVES.parse(
            {"kind": kind, "id": id, **{n: v for n, v in curve.scalars.items() if n not in ("start", "end")}}
        )
        places = [c.place for c in spans.cuts(sketch, whole)]
        found = [low + (p - low) % (2 * math.pi) if at_end else high - (high - p) % (2 * math.pi) for p in places]
    slack = 1e-6 * max(high - low, 1e-12)
    beyond = [p for p in found if (p > high + slack if at_end else p < low - slack)]
    if not beyond:
        raise BadInput("Nothing lies in the way of this end; there is nothing to extend it to.")
    goal = min(beyond) if at_end else max(beyond)
    kept = spans.between(curve, low, goal, id) if at_end else spans.between(curve, goal, high, id)
    place = spans.at(curve, goal)
    others = [c for c in sketch.curves if c.id != id and spans.lies_on(c, place, 1e-6 * sketch.size)]
    sketch = _replaced(sketch, fresh, curve, [kept])
    end = f"{id}.{'end' if at_end else 'start'}"
    return _held_to(sketch, fresh, ((end, spans.Cut(0.0, others[0].id, place)),)) if others else sketch


def _changeable(sketch: ValuedSketch, id: str) -> Curve:
    curve = sketch.curve(id)
    if curve.taken:
        raise BadInput("This curve follows the solid or its formulas, so it cannot be cut here.")
    if "text" in curve.tags or curve.kind == "point":
        raise BadInput(f"{opens(a(curve.word))} cannot be trimmed, split or extended.")
    if any(id in c.members() for c in sketch.constraints if hasattr(c, "copy_ids") and id in set(c.copy_ids())):
        raise BadInput("This curve is a copy and follows its original; change the original instead.")
    return curve


def _ends(curve: Curve) -> tuple[str, str]:
    return curve.end_points or ("start", "end")


def _replaced(sketch: ValuedSketch, fresh: Fresh, old: Curve, new: list[Curve]) -> ValuedSketch:
    """One curve becomes one or two that lie on it; constraints are handed on to where their points still are."""
    near = 1e-7 * sketch.size
    names: dict[str, str] = {}
    for name in (*old.points, *old.inner):
        p = old.place(name)
        found = ""
        for curve in new:
            places = [n for n in (*curve.points, *curve.inner) if math.dist(curve.place(n), p) <= near]
            same = [n for n in places if n == name] or places
            if same:
                found = f"{curve.id}.{same[0]}"
                break
        names[f"{old.id}.{name}"] = found
    kept: list[Constraint] = []
    corners: list[tuple[str, str]] = []
    cut: dict[str, list[Curve]] = {old.id: new}
    for constraint in sketch.constraints:
        if isinstance(constraint, CopyFields) and old.id in constraint.seeds:
            constraint = _with_seed_cut(sketch, fresh, constraint, old, new, cut)
        if old.id not in constraint.members():
            kept.append(constraint)
        elif isinstance(constraint, Regular) and old.id in constraint.sides:
            # no regular polygon any more, but its corners hold together
            sides = constraint.sides
            corners += [(f"{a}.end", f"{b}.start") for a, b in zip(sides, (*sides[1:], sides[0]))]
        elif old.id in constraint.on and constraint.needs_ends(sketch):
            continue
        elif (renamed := constraint.renamed(names)) is not None:
            kept.append(renamed)
    curves = [c for curve in sketch.curves for c in cut.get(curve.id, [curve])]
    touched = {id for one, several in cut.items() for id in (one, *(c.id for c in several))}
    sketch = _as_it_lies(sketch, sketch.with_curves(curves).with_constraints(kept), touched)
    for ends in corners:
        one, two = (names.get(ref, ref) for ref in ends)
        if one and two:
            sketch = add_if_it_fits(sketch, fresh, "coincident", (one, two))
    return sketch


def _with_seed_cut(
    sketch: ValuedSketch, fresh: Fresh, copies: CopyFields, old: Curve, new: list[Curve], cut: dict[str, list[Curve]]
) -> Any:
    """A pattern or mirror image whose original was cut: each member is cut alike and stays a member. What becomes of
    the copies is added to ``cut``.
    """
    at = copies.seeds.index(old.id)
    cut_sketch = sketch.with_curves([c for curve in sketch.curves for c in (new if curve.id == old.id else [curve])])
    members = []
    for number, member in enumerate(copies.copies, 1):
        if not member[at]:
            members.append((*member, *("" for _ in new[1:])))
            continue
        ids = [member[at], *(fresh("c") for _ in new[1:])]
        cut[member[at]] = [copies.copied(cut_sketch, seed.id, number, id) for seed, id in zip(new, ids)]
        members.append((*member, *ids[1:]))
    seeds = (*copies.seeds, *(c.id for c in new[1:]))
    return copies.model_copy(update={"seeds": seeds, "copies": tuple(members)})


def _as_it_lies(before: ValuedSketch, sketch: ValuedSketch, touched: set[str]) -> ValuedSketch:
    """Without what cannot be said any more of the curves that were cut, or is not so as they
    lie; copies follow them.
    """
    kept = [c for c in sketch.constraints if not c.members() & touched or _can_be_said(sketch, c)]
    sketch = sketch.with_constraints(kept)
    system = compile_sketch(sketch, merge=False)
    off = np.abs(system.residual(system.start(system.rows.layout.values))) > 1e-9
    strained = {owner for owner, is_off in zip(system.owners, off) if is_off}
    lost = {c.id for c in kept if c.id in strained and c.members() & touched and not isinstance(c, CopyFields)}
    sketch = sketch.with_constraints(c for c in kept if c.id not in lost)
    solution = solve(sketch)
    if solution.verdict is not Verdict.SOLVED:  # copies that cannot follow stay where they are
        solution = solve(sketch.with_constraints(c for c in sketch.constraints if c.id not in strained))
    sketch = solution.sketch
    check_names(before, list(sketch.constraints))
    return sketch


def _can_be_said(sketch: ValuedSketch, constraint: Constraint) -> bool:
    rows = gather(sketch.with_constraints(()))
    try:
        constraint.say(rows, sketch)
    except Trouble:
        return False
    return True


def _kept_in_line(sketch: ValuedSketch, fresh: Fresh, one: Curve, two: Curve) -> ValuedSketch:
    """Two stretches of one curve stay on one line, circle or ellipse."""
    if isinstance(one, Line):
        return add_if_it_fits(sketch, fresh, "collinear", (one.id, two.id))
    if isinstance(one, Arc):
        sketch = add_if_it_fits(sketch, fresh, "concentric", (one.id, two.id))
        return add_if_it_fits(sketch, fresh, "equal", (one.id, two.id))
    return sketch


def _held_to(sketch: ValuedSketch, fresh: Fresh, ends: tuple[tuple[str, spans.Cut], ...]) -> ValuedSketch:
    """New ends stay on the curves that cut them: on their ends where these meet."""
    near = 1e-6 * sketch.size
    for end, cut in ends:
        if cut.other not in sketch:
            continue
        other = sketch.curve(cut.other)
        meeting = next((n for n in other.end_points or () if math.dist(other.place(n), cut.at) <= near), None)
        target = f"{cut.other}.{meeting}" if meeting else cut.other
        sketch = add_if_it_fits(sketch, fresh, "coincident", (end, target))
    return sketch
