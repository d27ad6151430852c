"""Joins and changes of dimensions for which a continuous way exists by construction: each must be taken, none refused.

Where the way is known in closed form (a house's ridge, a linkage's crank) the end of it is known too and is held
against.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from sketchlathe.core.errors import Refused
from sketchlathe.core.sketch.changes import add_constraint
from sketchlathe.core.sketch.constraints import CONSTRAINTS
from sketchlathe.core.sketch.document import Sketch
from sketchlathe.core.sketch.solver.solving import Verdict, solve

from .sketches import XY, Draft

Proof = Callable[[Sketch], str]  # what is wrong with the end, in words; empty if nothing


@dataclass(frozen=True)
class Motion:
    """A dimension taken to another value (mm, rad), or a constraint put on; ``proof`` judges where that ended."""

    name: str
    sketch: Sketch
    proof: Proof
    id: str = ""
    value: float = 0.0
    join: tuple[str, tuple[str, ...]] = ("", ())


def _at(wanted: dict[str, XY]) -> Proof:
    def proof(sketch: Sketch) -> str:
        off = {ref: sketch.point(ref) for ref, p in wanted.items() if math.dist(sketch.point(ref), p) > 1e-6}
        return f"ended at {off} instead of {wanted}" if off else ""

    return proof


def _together(a: str, b: str, lengths: Sketch, keep: bool) -> Proof:
    """Two points are at one place, and (where all is dimensioned) every line is as long as it was."""

    def proof(sketch: Sketch) -> str:
        if math.dist(sketch.point(a), sketch.point(b)) > 1e-7:
            return "not joined"
        for curve in sketch.curves:
            if keep and "line" in curve.tags:
                was, now = (math.dist(*s.ends(curve.id)) for s in (lengths, sketch))
                if abs(was - now) > 1e-7:
                    return f"{curve.id} is {now:.6g} long instead of {was:.6g}"
        return ""

    return proof


def house(rng: random.Random) -> Motion:
    """Two walls and a roof: the ridge goes to any height, over or under the walls."""
    w, wall = rng.uniform(20, 60), rng.uniform(15, 40)
    was, now = wall + rng.uniform(2, 20), rng.uniform(2, wall + 20)
    d = Draft()
    p = [(0.0, 0.0), (w, 0.0), (w, wall), (w / 2, was), (0.0, wall)]
    lines = [d.line(p[i], p[(i + 1) % 5]) for i in range(5)]
    for i in range(5):
        d.hold("coincident", f"{lines[i]}.end", f"{lines[(i + 1) % 5]}.start")
    d.hold("coincident", f"{lines[0]}.start", "origin")
    d.hold("horizontal", lines[0])
    d.hold("vertical", lines[1])
    d.hold("vertical", lines[4])
    d.size("distance", lines[0], value=w)
    d.size("distance", lines[1], value=wall)
    d.size("distance", lines[4], value=wall)
    d.size("distance", f"{lines[2]}.end", lines[4], value=w / 2)
    ridge = d.size("distance", f"{lines[2]}.end", lines[0], value=was)
    return Motion("house", d.done(), _at({f"{lines[2]}.end": (w / 2, now)}), ridge, now)


def _angle(d: Draft, *on: str, value: float) -> str:
    id = d.hold("angle", *on, value=f"{math.degrees(value)!r} deg")
    d._values[id] = value
    return id


def typed_angle(rng: random.Random) -> Motion:
    """A line at an angle to a level one, taken to another angle, past straight and back, up to half a turn away."""
    a = math.radians(rng.uniform(12, 168))
    b = min(max(a + math.radians(rng.uniform(-150, 150)), math.radians(3)), math.radians(357))
    long = rng.uniform(10, 40)
    d = Draft()
    ground = d.line((0.0, 0.0), (30.0, 0.0))
    arm = d.line((0.0, 0.0), (long * math.cos(a), long * math.sin(a)))
    d.hold("coincident", f"{ground}.start", "origin")
    d.hold("coincident", f"{arm}.start", "origin")
    d.hold("horizontal", ground)
    d.size("distance", ground, value=30.0)
    d.size("distance", arm, value=long)
    id = _angle(d, ground, arm, value=a)
    return Motion("angle", d.done(), _at({f"{arm}.end": (long * math.cos(b), long * math.sin(b))}), id, b)


def chain(rng: random.Random) -> Motion:
    """A chain of lines of given lengths and typed angles between them; one angle is taken past straight."""
    count, which = rng.randint(3, 6), 0
    lengths = [rng.uniform(8, 25) for _ in range(count)]
    inner = [math.radians(rng.uniform(40, 170)) for _ in range(count - 1)]  # between a line read back and the next
    which = rng.randrange(count - 1)
    new = list(inner)
    new[which] = math.radians(rng.uniform(60, 300))

    def places(angles: list[float]) -> list[XY]:
        heading, out = 0.0, [(0.0, 0.0), (lengths[0], 0.0)]
        for long, angle in zip(lengths[1:], angles):
            heading = heading + math.pi + angle * -1.0
            out.append((out[-1][0] + long * math.cos(heading), out[-1][1] + long * math.sin(heading)))
        return out

    p, q = places(inner), places(new)
    d = Draft()
    lines = [d.line(p[i], p[i + 1]) for i in range(count)]
    d.hold("coincident", f"{lines[0]}.start", "origin")
    d.hold("horizontal", lines[0])
    ids = []
    for i, line in enumerate(lines):
        d.size("distance", line, value=lengths[i])
        if i:
            d.hold("coincident", f"{lines[i - 1]}.end", f"{line}.start")
            ids.append(_angle(d, lines[i - 1], line, value=inner[i - 1]))
    proof = _at({f"{line}.end": q[i + 1] for i, line in enumerate(lines)})
    return Motion("chain", d.done(), proof, ids[which], new[which])


def kite(rng: random.Random) -> Motion:
    """A kite whose tail is drawn in beyond its wings."""
    wing, half, long = rng.uniform(10, 20), rng.uniform(6, 15), rng.uniform(25, 40)
    new = rng.uniform(0.2, 0.95) * wing
    d = Draft()
    p = [(0.0, 0.0), (wing, half), (long, 0.0), (wing, -half)]
    lines = [d.line(p[i], p[(i + 1) % 4]) for i in range(4)]
    for i in range(4):
        d.hold("coincident", f"{lines[i]}.end", f"{lines[(i + 1) % 4]}.start")
    d.hold("coincident", f"{lines[0]}.start", "origin")
    d.hold("symmetric", f"{lines[0]}.end", f"{lines[2]}.end", "x_axis")
    d.hold("coincident", f"{lines[1]}.end", "x_axis")
    d.size("distance", lines[0], value=math.hypot(wing, half))
    d.size("distance", f"{lines[0]}.end", "x_axis", value=half)
    tail = d.size("distance", f"{lines[1]}.end", "origin", value=long)
    return Motion("kite", d.done(), _at({f"{lines[1]}.end": (new, 0.0)}), tail, new)


def rocker(rng: random.Random) -> Motion:
    """A crank that can go round drives a rocker; the coupler passes through straight with the crank (Grashof's
    condition).
    """
    crank = rng.uniform(4, 8)
    ground, coupler = crank * rng.uniform(3, 4), crank * rng.uniform(2.6, 3.6)
    arm = crank * rng.uniform(2.6, 3.6)
    while crank + max(ground, coupler, arm) >= sum((ground, coupler, arm)) - max(ground, coupler, arm) - 0.3 * crank:
        coupler, arm = coupler * 1.05, arm * 1.05

    def joint(t: float) -> XY:
        """Where coupler and rocker meet, on the upper side."""
        ax, ay = crank * math.cos(t), crank * math.sin(t)
        dx, dy = ground - ax, -ay
        far = math.hypot(dx, dy)
        along = (coupler**2 - arm**2 + far**2) / (2 * far)
        up = math.sqrt(coupler**2 - along**2)
        return (ax + (along * dx - up * dy) / far, ay + (along * dy + up * dx) / far)

    a = math.radians(rng.uniform(15, 345))
    b = min(max(a + math.radians(rng.uniform(-170, 170)), math.radians(2)), math.radians(358))
    d = Draft()
    pin, top = (crank * math.cos(a), crank * math.sin(a)), joint(a)
    base = d.line((0.0, 0.0), (ground, 0.0))
    one, two, three = d.line((0.0, 0.0), pin), d.line(pin, top), d.line(top, (ground, 0.0))
    for p, q in ((f"{base}.start", "origin"), (f"{one}.start", "origin"), (f"{one}.end", f"{two}.start"),
                 (f"{two}.end", f"{three}.start"), (f"{three}.end", f"{base}.end")):  # fmt: skip
        d.hold("coincident", p, q)
    d.hold("horizontal", base)
    for line, long in ((base, ground), (one, crank), (two, coupler), (three, arm)):
        d.size("distance", line, value=long)
    id = d.hold("angle", base, one, value=f"{math.degrees(a)!r} deg", flip_a=False, flip_b=False, sign=1.0)
    d._values[id] = a
    return Motion("rocker", d.done(), _at({f"{two}.end": joint(b)}), id, b)


def _rectangle(d: Draft, x: float, y: float, w: float, h: float, turn: float = 0.0, sized: bool = True) -> list[str]:
    c, s = math.cos(turn), math.sin(turn)
    p = [(x + u * c - v * s, y + u * s + v * c) for u, v in ((0, 0), (w, 0), (w, h), (0, h))]
    lines = [d.line(p[i], p[(i + 1) % 4]) for i in range(4)]
    for i in range(4):
        d.hold("coincident", f"{lines[i]}.end", f"{lines[(i + 1) % 4]}.start")
    if turn:
        for i in range(3):
            d.hold("perpendicular", lines[i], lines[i + 1])
    else:
        for i, line in enumerate(lines):
            d.hold("vertical" if i % 2 else "horizontal", line)
    if sized:
        d.size("distance", lines[0], value=w)
        d.size("distance", lines[1], value=h)
    return lines


def corner_to_origin(rng: random.Random) -> Motion:
    d = Draft()
    turn = rng.choice([0.0, rng.uniform(0.2, 6)])
    sized = rng.random() < 0.6
    lines = _rectangle(
        d, rng.uniform(-60, 60), rng.uniform(-60, 60), rng.uniform(10, 50), rng.uniform(8, 40), turn, sized
    )
    corner = f"{rng.choice(lines)}.start"
    sketch = d.done()
    proof = _together(corner, "origin", sketch, sized)
    return Motion("corner to origin", sketch, proof, join=("coincident", (corner, "origin")))


def line_ends(rng: random.Random) -> Motion:
    d = Draft()
    one = d.line(*((rng.uniform(-50, 50), rng.uniform(-50, 50)) for _ in range(2)))
    two = d.line(*((rng.uniform(-50, 50), rng.uniform(-50, 50)) for _ in range(2)))
    sized = rng.random() < 0.5
    if sized:
        for line in (one, two):
            a, b = d.curves[int(line[1:])]["start"], d.curves[int(line[1:])]["end"]
            d.size("distance", line, value=math.dist(a, b))
    a, b = f"{one}.{rng.choice(['start', 'end'])}", f"{two}.{rng.choice(['start', 'end'])}"
    sketch = d.done()
    return Motion("line ends", sketch, _together(a, b, sketch, sized), join=("coincident", (a, b)))


def _polygon(d: Draft, rng: random.Random) -> list[str]:
    """A polygon with equal sides on a circle, as the tool makes it."""
    sides, r, t = rng.randint(3, 8), rng.uniform(6, 20), rng.uniform(0, 6)
    cx, cy = rng.uniform(-60, 60), rng.uniform(-60, 60)
    p = [
        (cx + r * math.cos(t + math.tau * i / sides), cy + r * math.sin(t + math.tau * i / sides)) for i in range(sides)
    ]
    circle = d.circle((cx, cy), r)
    lines = [d.line(p[i], p[(i + 1) % sides]) for i in range(sides)]
    for i in range(sides):
        d.hold("coincident", f"{lines[i]}.end", f"{lines[(i + 1) % sides]}.start")
        d.hold("coincident", f"{lines[i]}.start", circle)
        if i:
            d.hold("equal", lines[0], lines[i])
    return lines


def polygon_corners(rng: random.Random) -> Motion:
    d = Draft()
    one, two = _polygon(d, rng), _polygon(d, rng)
    a, b = f"{rng.choice(one)}.start", f"{rng.choice(two)}.start"
    sketch = d.done()
    return Motion("polygon corners", sketch, _together(a, b, sketch, False), join=("coincident", (a, b)))


def arm_onto(rng: random.Random) -> Motion:
    """An arm of two bars, held at one end, reaches for a place within reach."""
    one, two = rng.uniform(15, 30), rng.uniform(15, 30)
    a, b = rng.uniform(0, 6), rng.uniform(0.3, 2.8)
    elbow = (one * math.cos(a), one * math.sin(a))
    hand = (elbow[0] + two * math.cos(a + b), elbow[1] + two * math.sin(a + b))
    t, far = rng.uniform(0, 6), rng.uniform(abs(one - two) + 2, one + two - 2)
    goal = (far * math.cos(t), far * math.sin(t))
    d = Draft()
    first, second = d.line((0.0, 0.0), elbow), d.line(elbow, hand)
    post = d.line(goal, (goal[0] + 9.0, goal[1] + 4.0))
    d.hold("coincident", f"{first}.start", "origin")
    d.hold("coincident", f"{first}.end", f"{second}.start")
    d.hold("fixed", f"{post}.start")
    d.hold("fixed", f"{post}.end")
    d.size("distance", first, value=one)
    d.size("distance", second, value=two)
    sketch = d.done()
    ends = (f"{second}.end", f"{post}.start")
    return Motion("arm", sketch, _together(*ends, sketch, True), join=("coincident", ends))


FAMILIES = (house, typed_angle, chain, kite, rocker, corner_to_origin, line_ends, polygon_corners, arm_onto)


def motions(count: int) -> Iterator[tuple[int, Motion]]:
    """``count`` motions over all families, each with its seed."""
    for seed in range(count):
        yield seed, FAMILIES[seed % len(FAMILIES)](random.Random(seed))


def outcome(motion: Motion) -> str:
    """What went wrong with a motion, in words; empty if nothing."""
    try:
        if motion.join[0]:
            made = CONSTRAINTS[motion.join[0]].made(motion.sketch, "new", motion.join[1])
            return motion.proof(add_constraint(motion.sketch, made))
        solution = solve(motion.sketch.with_values({**motion.sketch.values, motion.id: motion.value}))
    except Refused as refused:
        return f"refused: {refused.message}"
    return motion.proof(solution.sketch) if solution.verdict is Verdict.SOLVED else solution.verdict.value


def refused(count: int) -> list[str]:
    """The motions that were refused or ended elsewhere, in words."""
    found: list[Any] = [(f"{m.name} {seed}", outcome(m)) for seed, m in motions(count)]
    return [f"{name}: {text}" for name, text in found if text]
