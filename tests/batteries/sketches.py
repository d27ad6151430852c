"""Sketches with known answers, generated from seeds: linkages, trusses, filleted outlines, slots, gears.

Each case changes one dimension to a value for which a shape on the same side exists by construction.
"""

from __future__ import annotations

import math
import random
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np

from sketchlathe.core.errors import Refused
from sketchlathe.core.sketch.changes import add_constraint
from sketchlathe.core.sketch.constraints import CONSTRAINTS, Dimensional
from sketchlathe.core.sketch.document import Sketch
from sketchlathe.core.sketch.solver.compiling import compile_sketch
from sketchlathe.core.sketch.solver.solving import Guards, Verdict, solve

XY = tuple[float, float]


@dataclass(frozen=True)
class Change:
    """Change dimension ``id`` of a solved sketch to ``value`` mm; ``family`` and ``seed`` replay it."""

    family: str
    seed: int
    sketch: Sketch
    id: str
    value: float


class Draft:
    """A sketch being put together: solved as drawn."""

    def __init__(self) -> None:
        self.curves: list[dict[str, Any]] = []
        self.constraints: list[dict[str, Any]] = []
        self._values: dict[str, float] = {}

    def line(self, a: XY, b: XY) -> str:
        id = f"c{len(self.curves)}"
        self.curves.append({"kind": "line", "id": id, "start": a, "end": b})
        return id

    def arc(self, centre: XY, start: XY, end: XY) -> str:
        id = f"c{len(self.curves)}"
        radius = math.dist(centre, start)
        self.curves.append({"kind": "arc", "id": id, "centre": centre, "start": start, "end": end, "radius": radius})
        return id

    def circle(self, centre: XY, radius: float) -> str:
        id = f"c{len(self.curves)}"
        self.curves.append({"kind": "circle", "id": id, "centre": centre, "radius": radius})
        return id

    def hold(self, kind: str, *on: str, **fields: Any) -> str:
        id = f"k{len(self.constraints)}"
        self.constraints.append({"kind": kind, "id": id, "on": list(on), **fields})
        return id

    def size(self, kind: str, *on: str, value: float, **fields: Any) -> str:
        id = self.hold(kind, *on, value=f"{value!r} mm", **fields)
        self._values[id] = value
        return id

    def done(self) -> Sketch:
        """The sketch; constraints that depend on the drawing (signs) are made from it."""
        from sketchlathe.core.sketch.constraints import CONSTRAINTS

        sketch = Sketch.model_validate({"curves": self.curves})
        made = [
            CONSTRAINTS[raw["kind"]].made(
                sketch, raw["id"], tuple(raw["on"]), **{k: v for k, v in raw.items() if k not in ("kind", "id", "on")}
            )
            for raw in self.constraints
        ]
        return sketch.with_constraints(made).with_values(self._values)


def _near(rng: random.Random) -> float:
    """A factor from 0.02 to 50, every order as likely."""
    return math.exp(rng.uniform(math.log(0.02), math.log(50)))


def truss(rng: random.Random, panels: int) -> tuple[Draft, list[tuple[str, float, float]]]:
    """A row of triangles, every bar dimensioned. For each bar: id and the open range of lengths that keep both
    triangles.
    """
    draft = Draft()
    top = [(i * 10 + rng.uniform(-2, 2), 8 + rng.uniform(-2, 2)) for i in range(panels)]
    low = [(i * 10 - 5 + rng.uniform(-1, 1), rng.uniform(-1, 1)) for i in range(panels + 1)]
    low[0] = (0.0, 0.0)
    nodes = {("l", 0): low[0]}
    bars: dict[tuple[Any, Any], str] = {}
    places: dict[Any, XY] = {("l", i): p for i, p in enumerate(low)} | {("t", i): p for i, p in enumerate(top)}
    ends: dict[Any, str] = {}

    def bar(a: Any, b: Any) -> None:
        id = draft.line(places[a], places[b])
        bars[a, b] = id
        for node, end in ((a, "start"), (b, "end")):
            if node in ends:
                draft.hold("coincident", ends[node], f"{id}.{end}")
            else:
                ends[node] = f"{id}.{end}"

    for i in range(panels):
        bar(("l", i), ("t", i))
        bar(("t", i), ("l", i + 1))
        bar(("l", i), ("l", i + 1))
        if i:
            bar(("t", i - 1), ("t", i))
    draft.hold("coincident", ends["l", 0], "origin")
    draft.hold("fixed", ends["l", 1])
    del nodes
    sized: dict[tuple[Any, Any], str] = {}
    for (a, b), id in bars.items():
        if (a, b) != (("l", 0), ("l", 1)):
            sized[a, b] = draft.size("distance", id, value=math.dist(places[a], places[b]))

    def long(a: Any, b: Any) -> float:
        return math.dist(places[a], places[b])

    triangles = [(("l", i), ("t", i), ("l", i + 1)) for i in range(panels)]
    triangles += [(("t", i - 1), ("l", i), ("t", i)) for i in range(1, panels)]
    changes = []
    for (a, b), id in sized.items():
        low_limit, high_limit = 0.0, math.inf
        for tri in triangles:
            if a in tri and b in tri:
                (c,) = (n for n in tri if n not in (a, b))
                u, v = long(a, c), long(b, c)
                low_limit, high_limit = max(low_limit, abs(u - v)), min(high_limit, u + v)
        changes.append((id, low_limit, high_limit))
    return draft, changes


def filleted(rng: random.Random) -> tuple[Draft, list[tuple[str, float, float]]]:
    """A stepped outline with rounded corners, sizes between the straight sides."""
    w, h, r = rng.uniform(40, 90), rng.uniform(30, 60), rng.uniform(2, 6)
    draft = Draft()
    corners = [(0.0, 0.0), (w, 0.0), (w, h), (0.0, h)]
    lines, arcs = [], []
    for i in range(4):
        (ax, ay), (bx, by) = corners[i], corners[(i + 1) % 4]
        ux, uy = (bx - ax) / math.dist((ax, ay), (bx, by)), (by - ay) / math.dist((ax, ay), (bx, by))
        lines.append(draft.line((ax + ux * r, ay + uy * r), (bx - ux * r, by - uy * r)))
    for i in range(4):
        (cx, cy) = corners[(i + 1) % 4]
        sx, sy = (1 if cx else -1), (1 if cy else -1)
        centre = (cx - sx * r, cy - sy * r)
        a, b = draft.curves[i]["end"], draft.curves[(i + 1) % 4]["start"]
        arcs.append(draft.arc(centre, a, b))
        draft.hold("coincident", f"{arcs[i]}.start", f"{lines[i]}.end")
        draft.hold("coincident", f"{arcs[i]}.end", f"{lines[(i + 1) % 4]}.start")
        draft.hold("tangent", lines[i], arcs[i])
        draft.hold("tangent", lines[(i + 1) % 4], arcs[i])
    draft.hold("horizontal", lines[0])
    draft.hold("vertical", lines[1])
    draft.hold("horizontal", lines[2])
    draft.hold("vertical", lines[3])
    for other in arcs[1:]:
        draft.hold("equal", arcs[0], other)
    draft.hold("fixed", f"{arcs[3]}.centre")
    wide = draft.size("distance", lines[3], lines[1], value=w)
    high = draft.size("distance", lines[0], lines[2], value=h)
    round_ = draft.size("radius", arcs[0], value=r)
    return draft, [(wide, 2 * r, math.inf), (high, 2 * r, math.inf), (round_, 0.0, min(w, h) / 2)]


def slot(rng: random.Random) -> tuple[Draft, list[tuple[str, float, float]]]:
    """A slot at an angle: distance between centres and radius."""
    d, r, t = rng.uniform(10, 60), rng.uniform(2, 8), rng.uniform(0, math.tau)
    u, n = (math.cos(t), math.sin(t)), (-math.sin(t) * r, math.cos(t) * r)
    b = (u[0] * d, u[1] * d)
    draft = Draft()
    axis = draft.line((0.0, 0.0), b)
    right = draft.line((-n[0], -n[1]), (b[0] - n[0], b[1] - n[1]))
    left = draft.line((b[0] + n[0], b[1] + n[1]), n)
    cap = draft.arc(b, (b[0] - n[0], b[1] - n[1]), (b[0] + n[0], b[1] + n[1]))
    tail = draft.arc((0.0, 0.0), n, (-n[0], -n[1]))
    for p, q in (
        (f"{right}.end", f"{cap}.start"), (f"{cap}.end", f"{left}.start"), (f"{left}.end", f"{tail}.start"),
        (f"{tail}.end", f"{right}.start"), (f"{axis}.start", f"{tail}.centre"), (f"{axis}.end", f"{cap}.centre"),
        (f"{axis}.start", "origin"),
    ):  # fmt: skip
        draft.hold("coincident", p, q)
    draft.hold("equal", cap, tail)
    for line, arc in ((right, cap), (left, cap), (left, tail), (right, tail)):
        draft.hold("tangent", line, arc)
    return draft, [
        (draft.size("distance", axis, value=d), 0.0, math.inf),
        (draft.size("radius", cap, value=r), 0.0, math.inf),
    ]


def linkage(rng: random.Random) -> tuple[Draft, list[tuple[str, float, float]]]:
    """A chain of bars that hangs between two fixed points, closed into triangles by ties."""
    draft, changes = truss(rng, 2)
    return draft, changes


def gear(rng: random.Random) -> tuple[Draft, list[tuple[str, float, float]]]:
    """A train of circles, each touching the next, centres on a line; radii dimensioned."""
    draft = Draft()
    count = rng.randrange(3, 7)
    radii = [rng.uniform(3, 15) for _ in range(count)]
    x, circles = 0.0, []
    for i, r in enumerate(radii):
        if i:
            x += radii[i - 1] + r
        circles.append(draft.circle((x, 0.0), r))
    draft.hold("coincident", f"{circles[0]}.centre", "origin")
    for a, b in pairwise(circles):
        draft.hold("tangent", a, b)
        draft.hold("horizontal", f"{a}.centre", f"{b}.centre")
    return draft, [(draft.size("radius", c, value=r), 0.0, math.inf) for c, r in zip(circles, radii)]


FAMILIES = {"truss": lambda rng: truss(rng, rng.randrange(2, 8)), "filleted": filleted, "slot": slot,
            "linkage": linkage, "gear": gear}  # fmt: skip


def changes(count: int, first_seed: int = 1) -> Iterator[Change]:
    """``count`` changes over all families, factors from 0.02 to 50 where a same-side shape exists."""
    made, seed = 0, first_seed
    names = sorted(FAMILIES)
    while made < count:
        rng = random.Random(seed)
        family = names[seed % len(names)]
        draft, possible = FAMILIES[family](rng)
        sketch = draft.done()
        id, low, high = rng.choice(possible)
        now = sketch.values[id]
        value = now * _near(rng)
        slack = 0.02 * (min(high, 1e3) - low) if math.isfinite(high) else 0.02 * now
        if not low + slack < value < (high - slack if math.isfinite(high) else math.inf):
            # not every factor is possible here: take the same factor of the range there is
            top = high if math.isfinite(high) else max(50 * now, 10 * low)
            value = low + slack + (top - low - 2 * slack) * rng.random()
        yield Change(family, seed, sketch, id, value)
        made, seed = made + 1, seed + 1


def grid_truss(constraints: int, seed: int = 7) -> Sketch:
    """A solved sketch with this many constraints (about): a long truss, every bar dimensioned,
    every node coincident.
    """
    rng = random.Random(seed)
    draft, _ = truss(rng, max(constraints // 11, 2))
    return draft.done()


# What fights: (name, sketch, the constraint too many, the smallest set it is settled by)
Conflict = tuple[str, Sketch, dict[str, Any], frozenset[str] | None]


def conflicts() -> Iterator[Conflict]:
    """Redundant, conflicting and innocent constraints with the answer known; ``None``: innocent."""
    for seed in range(8):
        rng = random.Random(seed)
        w, h = rng.uniform(20, 80), rng.uniform(15, 60)
        draft = Draft()
        lines = [draft.line(*p) for p in (((0, 0), (w, 0)), ((w, 0), (w, h)), ((w, h), (0, h)), ((0, h), (0, 0)))]
        for i in range(4):
            draft.hold("coincident", f"{lines[i]}.end", f"{lines[(i + 1) % 4]}.start")
        levels = [draft.hold("vertical" if i % 2 else "horizontal", line) for i, line in enumerate(lines)]
        draft.hold("coincident", f"{lines[0]}.start", "origin")
        wide = draft.size("distance", lines[0], value=w)
        high = draft.size("distance", lines[1], value=h)
        box = draft.done()
        # the opposite side's length: settled by the width, and by both sides that carry it across
        yield (
            f"opposite side {seed}",
            box,
            {"kind": "distance", "on": [lines[2]], "value": f"{w} mm"},
            frozenset({wide, levels[1], levels[3]}),
        )
        yield (
            f"other height {seed}",
            box,
            {"kind": "distance", "on": [lines[3]], "value": f"{h * 2} mm"},
            frozenset({high, levels[0], levels[2]}),
        )
        yield (
            f"parallel {seed}",
            box,
            {"kind": "parallel", "on": [lines[0], lines[2]]},
            frozenset({levels[0], levels[2]}),
        )
        yield (
            f"perpendicular {seed}",
            box,
            {"kind": "perpendicular", "on": [lines[0], lines[1]]},
            frozenset({levels[0], levels[1]}),
        )
        loose = Sketch.model_validate(
            {"curves": [c.model_dump() for c in box.curves], "constraints": [
                c.model_dump() for c in box.constraints if c.id not in (high,)]}
        ).with_values({wide: w})  # fmt: skip
        yield f"innocent height {seed}", loose, {"kind": "distance", "on": [lines[3]], "value": f"{h} mm"}, None
        # a straight two-link arm loses rank at the solution and is innocent
        arm = Draft()
        a, b = rng.uniform(5, 30), rng.uniform(5, 30)
        one, two = arm.line((0, 0), (a, 0)), arm.line((a, 0), (a + b, 0))
        arm.hold("coincident", f"{one}.start", "origin")
        arm.hold("coincident", f"{one}.end", f"{two}.start")
        arm.size("distance", one, value=a)
        arm.size("distance", two, value=b)
        yield f"straight arm {seed}", arm.done(), {"kind": "horizontal", "on": [two]}, None
        # a triangle with three sides given: an angle is settled by all three
        tri = Draft()
        p = [(0.0, 0.0), (rng.uniform(20, 40), 0.0), (rng.uniform(5, 15), rng.uniform(10, 30))]
        sides = [tri.line(p[i], p[(i + 1) % 3]) for i in range(3)]
        for i in range(3):
            tri.hold("coincident", f"{sides[i]}.end", f"{sides[(i + 1) % 3]}.start")
        tri.hold("coincident", f"{sides[0]}.start", "origin")
        tri.hold("horizontal", sides[0])
        sized = [tri.size("distance", sides[i], value=math.dist(p[i], p[(i + 1) % 3])) for i in range(3)]
        angle = math.degrees(math.atan2(p[2][1], p[2][0]))
        yield f"angle {seed}", tri.done(), {
            "kind": "angle", "on": [sides[0], sides[2]], "value": f"{angle} deg",
        }, frozenset(sized)  # fmt: skip
        # a circle touching two lines and through a distance: its radius is settled
        ring = Draft()
        r = rng.uniform(3, 9)
        ground, wall = ring.line((0, 0), (50, 0)), ring.line((0, 0), (0, 50))
        ring.hold("coincident", f"{ground}.start", "origin")
        ring.hold("coincident", f"{wall}.start", "origin")
        level, plumb = ring.hold("horizontal", ground), ring.hold("vertical", wall)
        circle = ring.circle((r, r), r)
        touch = [ring.hold("tangent", ground, circle), ring.hold("tangent", wall, circle)]
        away = ring.size("distance", f"{circle}.centre", wall, value=r)
        yield (
            f"radius {seed}",
            ring.done(),
            {"kind": "radius", "on": [circle], "value": f"{r} mm"},
            frozenset({touch[1], away}),
        )
        del level, plumb


def soup(count: int, seed: int, side: float) -> Sketch:
    """Random lines, circles and arcs in a square."""
    rng = random.Random(seed)

    def place() -> tuple[float, float]:
        return (rng.uniform(0, side), rng.uniform(0, side))

    curves: list[dict[str, Any]] = []
    for i in range(count):
        sort, c, r = rng.randrange(3), place(), rng.uniform(2, 20)
        if sort == 0:
            t, long = rng.uniform(0, math.tau), rng.uniform(5, 60)
            end = (c[0] + long * math.cos(t), c[1] + long * math.sin(t))
            curves.append({"kind": "line", "id": f"c{i}", "start": c, "end": end})
        elif sort == 1:
            curves.append({"kind": "circle", "id": f"c{i}", "centre": c, "radius": r})
        else:
            a = rng.uniform(0, math.tau)
            b = a + rng.uniform(0.5, 4)
            ends = [(c[0] + r * math.cos(t), c[1] + r * math.sin(t)) for t in (a, b)]
            curves.append({"kind": "arc", "id": f"c{i}", "centre": c, "radius": r, "start": ends[0], "end": ends[1]})
    return Sketch.model_validate({"curves": curves})


def flips(count: int) -> tuple[int, list[str]]:
    """Changes that ended wrong (flipped, or refused though a same-side shape exists), and which."""
    wrong = []
    for case in changes(count):
        asked = case.sketch.with_values({**case.sketch.values, case.id: case.value})
        solution = solve(asked)
        label = f"{case.family} seed {case.seed}: {case.id} {case.sketch.values[case.id]:.5g} -> {case.value:.5g}"
        if solution.verdict is not Verdict.SOLVED:
            wrong.append(f"{label}: {solution.verdict.value}")
            continue
        guards = Guards(case.sketch, solution.system)
        _, before, sweeps = guards.state(solution.system.rows.layout.values)
        after = compile_sketch(solution.sketch).rows.layout.values
        _, now, swept = guards.state(after)
        turned = np.any((before * now < 0) & (np.abs(before) > 1e-6) & (np.abs(now) > 1e-6))
        if turned or np.any(np.abs(sweeps - swept) > math.pi):
            wrong.append(f"{label}: flipped")
    return len(wrong), wrong


def conflict_share() -> tuple[float, list[str]]:
    """Percentage of cases answered exactly, and the others."""
    total, wrong = 0, []
    for name, sketch, raw, wanted in conflicts():
        total += 1
        fields = {k: v for k, v in raw.items() if k not in ("kind", "on")}
        made = CONSTRAINTS[raw["kind"]].made(sketch, "new", tuple(raw["on"]), **fields)
        if isinstance(made, Dimensional):
            from sketchlathe.core.quantity import evaluate

            value = evaluate(made.value, {}, wanted=made.measures).value
            sketch = sketch.with_values({**sketch.values, "new": value})
        try:
            add_constraint(sketch, made)
            found: frozenset[str] | None = None
        except Refused as refused:
            kinds = {c.id: c.kind for c in sketch.constraints}
            found = frozenset(i for i in refused.fights if kinds[i] != "coincident")
        if found != wanted:
            wrong.append(f"{name}: {sorted(found or ())} instead of {sorted(wanted or ())}")
    return 100 * (1 - len(wrong) / total), wrong
