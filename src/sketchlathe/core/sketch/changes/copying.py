"""Mirror, patterns, and changing how many; moving, turning, scaling; copies to and from a clipboard."""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Mapping
from typing import Any

from ...errors import BadInput, Trouble
from ..constraints import CONSTRAINTS, Constraint, Dimensional
from ..constraints.copies import MOST_COPIES, CopyFields, Mirrored, Regular, Ring, Row, followers
from ..curves import CURVES, Curve
from ..curves.line import Line
from ..document import MAX_CURVES, ValuedSketch
from ..shown import Clip
from ..solver.solving import Verdict, solve
from .adding import Fresh, solved_or_refused
from .removing import without_curves

XY = tuple[float, float]


def _seeds(sketch: ValuedSketch, ids: Collection[str], besides: Collection[str] = ()) -> tuple[str, ...]:
    copies = followers(sketch.constraints)
    seeds = tuple(c.id for c in sketch.curves if c.id in set(ids) and c.id not in copies and c.id not in besides)
    if not seeds:
        raise BadInput("Select the curves to be copied first; copies of others follow their originals already.")
    return seeds


def mirrored(sketch: ValuedSketch, fresh: Fresh, ids: Collection[str], axis: str) -> ValuedSketch:
    """Mirror curves across a line or axis; the images follow."""
    if axis not in sketch or "line" not in sketch.tags_of(axis):
        raise BadInput("Pick the line or axis to mirror across last.")
    seeds = _seeds(sketch, ids, (axis,))
    made = Mirrored(id=fresh("k"), on=(axis,), seeds=seeds)
    return _with_members(sketch, fresh, made, 1)


def ring(
    sketch: ValuedSketch, fresh: Fresh, ids: Collection[str], centre: str, count: int, step: str, value: float
) -> ValuedSketch:
    """A circular pattern of ``count`` members; ``step`` empty: evenly round the full circle."""
    _check_count(count)
    if "point" not in sketch.tags_of(centre):
        raise BadInput("Pick the point to go round last.")
    seeds = _seeds(sketch, ids, (centre.partition(".")[0],) if not centre.endswith(".centre") else ())
    made = Ring(id=fresh("k"), on=(centre,), seeds=seeds, value=step or f"360 deg / {count}", even=not step)
    return _with_members(sketch, fresh, made, count - 1, value)


def row(
    sketch: ValuedSketch, fresh: Fresh, ids: Collection[str], along: str, count: int, step: str, value: float
) -> ValuedSketch:
    """A linear pattern of ``count`` members along a line or axis."""
    _check_count(count)
    if "line" not in sketch.tags_of(along):
        raise BadInput("Pick the line or axis to go along last.")
    made = Row(id=fresh("k"), on=(along,), seeds=_seeds(sketch, ids, (along,)), value=step)
    return _with_members(sketch, fresh, made, count - 1, value)


def _check_count(count: int) -> None:
    if not 2 <= count <= MOST_COPIES:
        raise BadInput(f"A pattern needs from 2 to {MOST_COPIES} members.")


def _with_members(
    sketch: ValuedSketch, fresh: Fresh, made: Any, count: int, value: float | None = None
) -> ValuedSketch:
    if len(sketch.curves) + count * len(made.seeds) > MAX_CURVES:
        raise BadInput(f"That would be more than {MAX_CURVES} curves in one sketch.")
    members = tuple(tuple(fresh("c") for _ in made.seeds) for _ in range(count))
    made = made.model_copy(update={"copies": members})
    if value is not None:
        made.check_value(value)
        sketch = sketch.with_value(made.id, value)
    new = [made.copied(sketch, seed, number, copy) for number, seed, copy in made.pairs()]
    sketch = sketch.with_curves((*sketch.curves, *new)).with_constraints((*sketch.constraints, made))
    return solved_or_refused(solve(sketch), made.word.capitalize())


def with_count(sketch: ValuedSketch, fresh: Fresh, id: str, count: int) -> ValuedSketch:
    """Another number of members of a pattern, or of sides of a polygon."""
    old = sketch.constraint(id)
    if isinstance(old, Regular):
        return _with_sides(sketch, fresh, old, count)
    if not isinstance(old, Ring | Row):
        raise BadInput("That has no number of members.")
    _check_count(count)
    keep, gone = old.copies[: count - 1], old.copies[count - 1 :]
    sketch = without_curves(sketch, {id for member in gone for id in member if id})
    more = tuple(tuple(fresh("c") for _ in old.seeds) for _ in range(count - 1 - len(keep)))
    if len(sketch.curves) + len(more) * len(old.seeds) > MAX_CURVES:
        raise BadInput(f"That would be more than {MAX_CURVES} curves in one sketch.")
    update: dict[str, Any] = {"copies": (*keep, *more)}
    if isinstance(old, Ring) and old.even:
        update["value"] = f"360 deg / {count}"
        sketch = sketch.with_value(id, 2 * math.pi / count)
    new = old.model_copy(update=update)
    fresh_ids = {c for member in more for c in member}
    made = [new.copied(sketch, seed, number, copy) for number, seed, copy in new.pairs()]
    placed = {c.id: c for c in made}
    curves = [placed.get(c.id, c) for c in sketch.curves] + [c for c in made if c.id in fresh_ids]
    constraints = [new if c.id == id else c for c in sketch.constraints]
    if not any(c.id == id for c in constraints):  # every old member was taken away
        constraints.append(new)
    sketch = sketch.with_curves(curves).with_constraints(constraints)
    return solved_or_refused(solve(sketch), new.word.capitalize())


def _with_sides(sketch: ValuedSketch, fresh: Fresh, old: Regular, count: int) -> ValuedSketch:
    if not 3 <= count <= MOST_COPIES:
        raise BadInput(f"A polygon needs from 3 to {MOST_COPIES} sides.")
    cx, cy = sketch.point(old.on[0])
    first, second = sketch.ends(old.sides[0])
    corner = math.dist((cx, cy), first)
    inner = corner * math.cos(math.pi / old.count)
    flats = any("smooths" in c.does and set(c.on) & set(old.sides) for c in sketch.constraints)
    radius = inner / math.cos(math.pi / count) if flats else corner
    middle = math.atan2((first[1] + second[1]) / 2 - cy, (first[0] + second[0]) / 2 - cx)
    start = middle - math.pi / count if flats else math.atan2(first[1] - cy, first[0] - cx)
    gone = old.sides[count - 1 : -1] if count < old.count else ()
    # the first and the last side stay, whoever speaks of them
    kept = [
        *old.sides[: min(count, old.count) - 1],
        *(fresh("c") for _ in range(max(count - old.count, 0))),
        old.sides[-1],
    ]
    corners = [
        (
            cx + radius * math.cos(start + 2 * math.pi * i / count),
            cy + radius * math.sin(start + 2 * math.pi * i / count),
        )
        for i in range(count)
    ]
    template = sketch.curve(old.sides[0])
    lines = {
        id: Line(id=id, start=corners[i], end=corners[(i + 1) % count], construction=template.construction)
        for i, id in enumerate(kept)
    }
    new = old.model_copy(update={"sides": tuple(kept)})
    constraints = [new if c.id == old.id else c for c in sketch.constraints]
    known = {c.id for c in sketch.curves}
    curves = [lines.get(c.id, c) for c in sketch.curves] + [line for id, line in lines.items() if id not in known]
    sketch = sketch.with_curves(curves).with_constraints(constraints)
    if gone:
        sketch = without_curves(sketch, gone)
    return solved_or_refused(solve(sketch), "This number of sides")


def transformed(
    sketch: ValuedSketch, ids: Collection[str], f: Callable[[XY], XY], scale: float, *, turned: bool
) -> ValuedSketch:
    """Curves moved, turned or scaled. Constraints that hold them otherwise are dropped, the rest kept."""
    chosen = set(ids)
    moved = [c.moved(f, scale) if c.id in chosen and not c.taken else c for c in sketch.curves]
    if not any(a is not b for a, b in zip(moved, sketch.curves)):
        raise BadInput("Select the curves to be moved first; what is taken from the solid cannot be.")
    kept: list[Constraint] = []
    for c in sketch.constraints:
        inside = c.members() <= chosen
        if inside and isinstance(c, Dimensional) and c.driving and scale != 1 and c.scales:
            continue  # it would scale them back
        if inside and turned and "levels" in c.does:
            continue
        if inside and isinstance(c, Dimensional) and getattr(c, "way", "aligned") != "aligned" and turned:
            continue
        kept.append(c)
    after = sketch.with_curves(moved).with_constraints(kept)
    return settled(after, {c.id for c in kept if not c.members() <= chosen and c.members() & chosen})


def settled(sketch: ValuedSketch, doubtful: Collection[str]) -> ValuedSketch:
    """The sketch with those doubtful constraints dropped that the drawing does not satisfy any more, then solved."""
    from ..solver.compiling import compile_sketch

    system = compile_sketch(sketch, merge=False)
    residual = system.residual(system.start(system.rows.layout.values))
    broken = {owner for owner, r in zip(system.owners, residual) if owner in doubtful and abs(r) > 1e-7}
    pinned = {owner for _, owner in system.rows.pins if owner in doubtful}
    sketch = sketch.with_constraints(c for c in sketch.constraints if c.id not in broken | pinned)
    solution = solve(sketch)
    if solution.verdict is Verdict.SOLVED:
        return solution.sketch
    sketch = sketch.with_constraints(c for c in sketch.constraints if c.id not in doubtful)
    return solved_or_refused(solve(sketch), "This move")


def clipped(sketch: ValuedSketch, ids: Collection[str]) -> Clip:
    """Curves and the constraints among them, as plain data to be pasted anywhere."""
    chosen = {id.partition(".")[0] for id in ids}
    curves = [c for c in sketch.curves if c.id in chosen]
    if not curves:
        raise BadInput("Select the curves to be copied first.")
    inside = [c for c in sketch.constraints if c.members() <= chosen]
    return {
        "curves": [c.model_copy(update={"taken": False}).model_dump(mode="json") for c in curves],
        "constraints": [c.model_dump(mode="json") for c in inside],
    }


def pasted(
    sketch: ValuedSketch, fresh: Fresh, raw: Mapping[str, Any], by: XY, scale: float = 1.0
) -> tuple[ValuedSketch, list[str]]:
    """The sketch with curves from a clipboard, scaled, then moved by ``by`` (mm), and the new ids. Bad data raises
    ``BadInput``.
    """
    curves, constraints = raw.get("curves"), raw.get("constraints", [])
    if not isinstance(curves, list) or not curves or not isinstance(constraints, list):
        raise BadInput("What is on the clipboard is not from a sketch.")
    if len(sketch.curves) + len(curves) > MAX_CURVES:
        raise BadInput(f"A sketch may have at most {MAX_CURVES} curves; {len(curves)} were to be pasted.")
    if not all(isinstance(one, dict) for one in curves):
        raise BadInput("What is on the clipboard is not from a sketch.")
    ids = [fresh("c") for _ in curves]
    names = {str(one.get("id")): id for one, id in zip(curves, ids)}
    new: list[Curve] = []
    for one, id in zip(curves, ids):
        along = {"along": names.get(str(one["along"]), "")} if "along" in one else {}
        curve = CURVES.parse({**one, **along, "id": id, "taken": False})
        new.append(curve.moved(lambda p: (p[0] * scale + by[0], p[1] * scale + by[1]), scale))
    sketch = sketch.with_curves((*sketch.curves, *new))
    used = {c.name for c in sketch.constraints if isinstance(c, Dimensional)}
    for one in constraints[: 4 * MAX_CURVES]:
        try:
            made = CONSTRAINTS.parse(_renumbered(one, names, fresh("k")))
            if isinstance(made, Dimensional) and made.name in used:
                made = made.model_copy(update={"name": ""})
            if all(ref in sketch for ref in made.on):
                sketch = sketch.with_constraints((*sketch.constraints, made))
        except (Trouble, ValueError):
            continue
    return sketch, [c.id for c in new]


def _renumbered(raw: Any, names: dict[str, str], id: str) -> Any:
    """A constraint's data with ids of curves exchanged, wherever they stand."""

    def changed(value: Any) -> Any:
        if isinstance(value, str):
            head, dot, tail = value.partition(".")
            return names.get(head, head) + dot + tail
        if isinstance(value, list):
            return [changed(v) for v in value]
        return value

    if not isinstance(raw, dict):
        raise BadInput("What is on the clipboard is not from a sketch.")
    keep = ("kind", "value", "name", "way", "rim", "label")
    return {**{k: v if k in keep else changed(v) for k, v in raw.items()}, "id": id}


__all__ = ["CopyFields", "clipped", "mirrored", "pasted", "ring", "row", "settled", "transformed", "with_count"]
