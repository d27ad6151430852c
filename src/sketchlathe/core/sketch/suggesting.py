"""What would hold a sketch: proposals in the order a draughtsman would choose.

Relations that the drawing nearly shows first (level, plumb, square, tangent, equal, symmetric about an axis), then
sizes, then positions. A proposal is made only if it takes freedom away.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator
from typing import Any, NamedTuple

from ..errors import Trouble
from .constraints import CONSTRAINTS, Constraint, Dimensional
from .document import Sketch
from .solver.compiling import compile_sketch
from .solver.conflict import adds_nothing
from .solver.freedom import freedom, motions
from .solver.newton import SOLVED

NEAR_TURN = math.radians(4)
NEAR_SIZE = 0.02
MOST_LOOKED_AT = 120  # in a large sketch the first free things are enough to go on with


class Proposal(NamedTuple):
    """A constraint or dimension that would hold something: its words and the edit that makes it."""

    text: str
    refs: tuple[str, ...]
    edit: dict[str, Any]


def proposals(sketch: Sketch, *, most: int = 6) -> list[Proposal]:
    """The best few proposals for a sketch that can still move."""
    state = freedom(sketch)
    if not state.count:
        return []
    found: list[Proposal] = []
    for kind, refs, fields in _candidates(sketch, state.free):
        try:
            made = CONSTRAINTS[kind].made(sketch, "new", refs, **fields)
        except Trouble:
            continue
        if adds_nothing(sketch, made) or not _holds(sketch, made, state.count):
            continue
        found.append(_proposal(sketch, made))
        if len(found) >= most:
            break
    return found


def _holds(sketch: Sketch, made: Constraint, left: int) -> bool:
    """Whether it can be met, and less is free then. (A size measured where it cannot grow any more holds nothing.)"""
    bound = sketch.with_constraints((*sketch.constraints, made))
    if isinstance(made, Dimensional):
        bound = bound.with_value(made.id, made.measure(sketch))
    system = compile_sketch(bound)
    x = system.start(system.rows.layout.values)
    return system.solve(x)[0] == SOLVED and motions(system, x)[0] < left


def _proposal(sketch: Sketch, made: Constraint) -> Proposal:
    named = " and ".join(sketch.name_of(r) for r in made.on)
    if isinstance(made, Dimensional):
        edit = {"kind": "add_dimension", "on": list(made.on), "at": made.figure(sketch).label}
        if hasattr(made, "way"):
            edit["way"] = made.way
        return Proposal(f"give the {made.word} of {named} a size", made.on, edit)
    return Proposal(
        f"make {named} {made.word}", made.on, {"kind": "add_constraint", "constraint": made.kind, "on": list(made.on)}
    )


def _candidates(sketch: Sketch, free: frozenset[str]) -> Iterator[tuple[str, tuple[str, ...], dict[str, Any]]]:
    lines = [c for c in sketch.curves if "line" in c.tags and c.id in free][:MOST_LOOKED_AT]
    rounds = [c for c in sketch.curves if "round" in c.tags and c.id in free][:MOST_LOOKED_AT]
    for line in lines:
        (ax, ay), (bx, by) = line.place("start"), line.place("end")
        turn = math.atan2(by - ay, bx - ax)
        if abs(math.sin(turn)) < NEAR_TURN:
            yield "horizontal", (line.id,), {}
        elif abs(math.cos(turn)) < NEAR_TURN:
            yield "vertical", (line.id,), {}
    yield from _nearly_square(sketch, lines)
    yield from _nearly_symmetric(sketch, free)
    for curves, size in ((lines, lambda c: c.length()), (rounds, lambda c: sketch.radius(c.id))):
        ordered = sorted(curves, key=size)
        for a, b in itertools.pairwise(ordered):
            if size(b) - size(a) < NEAR_SIZE * size(b):
                yield "equal", (a.id, b.id), {}
    for curve in rounds:
        yield ("radius" if "arc" in curve.tags else "diameter"), (curve.id,), {}
    for curve in sketch.curves:
        if curve.id in free and "elliptic" in curve.tags:
            yield "half_axis", (curve.id,), {}
            yield "distance", (f"{curve.id}.centre", f"{curve.id}.tip"), {}
        if curve.id in free and "text" in curve.tags:
            yield "letter_height", (curve.id,), {}
    for line in lines:
        yield "distance", (line.id,), {}
    for a in lines:
        for b in lines:
            if a.id < b.id and {a.place("start"), a.place("end")} & {b.place("start"), b.place("end")}:
                yield "angle", (a.id, b.id), {}
    points = [f"{c.id}.{n}" for c in sketch.curves if c.id in free for n in c.points if f"{c.id}.{n}" in free]
    for ref in points:
        x, y = sketch.point(ref)
        near = 1e-3 * sketch.size
        if abs(x) < near and abs(y) < near:
            yield "coincident", (ref, "origin"), {}
        elif abs(x) < near:
            yield "vertical", (ref, "origin"), {}
        elif abs(y) < near:
            yield "horizontal", (ref, "origin"), {}
    for ref in points:
        yield "distance", ("origin", ref), {"way": "across"}
        yield "distance", ("origin", ref), {"way": "along"}


def _nearly_square(sketch: Sketch, lines: list[Any]) -> Iterator[tuple[str, tuple[str, ...], dict[str, Any]]]:
    near = 1e-6 * sketch.size
    for i, a in enumerate(lines):
        for b in lines[i + 1 :]:
            meet = any(math.dist(a.place(m), b.place(n)) <= near for m in ("start", "end") for n in ("start", "end"))
            (ux, uy), (vx, vy) = (
                (c.place("end")[0] - c.place("start")[0], c.place("end")[1] - c.place("start")[1]) for c in (a, b)
            )
            turn = math.atan2(ux * vy - uy * vx, ux * vx + uy * vy)
            if meet and abs(math.cos(turn)) < NEAR_TURN:
                yield "perpendicular", (a.id, b.id), {}
            elif not meet and abs(math.sin(turn)) < NEAR_TURN:
                yield "parallel", (a.id, b.id), {}


def _nearly_symmetric(sketch: Sketch, free: frozenset[str]) -> Iterator[tuple[str, tuple[str, ...], dict[str, Any]]]:
    """Points that have a twin across an axis."""
    points = [(f"{c.id}.{n}", c.place(n)) for c in sketch.curves for n in c.points][: 2 * MOST_LOOKED_AT]
    near = NEAR_SIZE * sketch.size
    for axis, flip in (("y_axis", (-1.0, 1.0)), ("x_axis", (1.0, -1.0))):
        for i, (a, p) in enumerate(points):
            if a not in free or math.dist(p, (p[0] * flip[0], p[1] * flip[1])) < 4 * near:
                continue
            for b, q in points[i + 1 :]:
                if not _alike(sketch, a, b):
                    continue
                if math.dist((p[0] * flip[0], p[1] * flip[1]), q) < near:
                    yield "symmetric", (a, b, axis), {}
                    break


def _alike(sketch: Sketch, a: str, b: str) -> bool:
    """Whether two points belong to two curves of one kind and about one size."""
    one, two = (sketch.curve(ref.partition(".")[0]) for ref in (a, b))
    if one.id == two.id:
        return a != b
    long, other = one.length(), two.length()
    return one.kind == two.kind and abs(long - other) <= NEAR_SIZE * max(long, other)
