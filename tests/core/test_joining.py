"""Joins, tangencies where curves are joined, and what a first dimension does: accepted where a
motion satisfies them.
"""

from __future__ import annotations

import math
import random

import pytest
from tests.batteries import motions
from tests.batteries.sketches import Draft
from tests.hand import ORIGIN, Hand, plate

from sketchlathe.core.errors import Refused
from sketchlathe.core.sketch.changes import add_constraint
from sketchlathe.core.sketch.changes.removing import without_curves
from sketchlathe.core.sketch.constraints import CONSTRAINTS
from sketchlathe.core.sketch.document import Sketch
from sketchlathe.core.sketch.solver.freedom import freedom
from sketchlathe.core.sketch.solver.solving import Verdict, solve


def test_what_a_motion_satisfies_is_never_refused() -> None:
    assert motions.refused(270) == []


def put(sketch: Sketch, kind: str, *on: str, **fields: object) -> Sketch:
    id = f"n{len(sketch.constraints)}"
    return add_constraint(sketch, CONSTRAINTS[kind].made(sketch, id, on, **fields))


def pulleys(rng: random.Random) -> tuple[Sketch, list[tuple[str, str]], list[tuple[str, str]]]:
    """Two circles of given radii at given places, and two lines near their outer tangents; what is to be put on."""
    d = Draft()
    far, r1, r2 = rng.uniform(30, 50), rng.uniform(4, 9), rng.uniform(4, 9)
    one, two = d.circle((0.0, 0.0), r1), d.circle((far, 0.0), r2)
    d.hold("coincident", f"{one}.centre", "origin")
    d.hold("fixed", f"{two}.centre")
    d.size("diameter", one, value=2 * r1)
    d.size("diameter", two, value=2 * r2)
    lines = [d.line((rng.uniform(-2, 2), s * (r1 + 1)), (far + rng.uniform(-2, 2), s * (r2 - 0.5))) for s in (1, -1)]
    joins = [(f"{line}.{end}", c) for line in lines for end, c in (("start", one), ("end", two))]
    touches = [(line, c) for line in lines for c in (one, two)]
    return d.done(), joins, touches


@pytest.mark.parametrize("order", ["joined first", "tangent first", "mixed"])
@pytest.mark.parametrize("seed", range(3))
def test_a_belt_over_two_pulleys_has_no_freedom(order: str, seed: int) -> None:
    rng = random.Random(seed)
    sketch, joins, touches = pulleys(rng)
    wanted = [("coincident", j) for j in joins] + [("tangent", t) for t in touches]
    if order == "tangent first":
        wanted = wanted[::-1]
    elif order == "mixed":
        rng.shuffle(wanted)
    for kind, on in wanted:
        sketch = put(sketch, kind, *on)
    assert freedom(sketch).count == 0
    c1, c2 = sketch.curve("c0"), sketch.curve("c1")
    far = math.dist(c1.place("centre"), c2.place("centre"))
    long = math.sqrt(far**2 - (sketch.radius("c0") - sketch.radius("c1")) ** 2)  # Pythagoras
    for line in ("c2", "c3"):
        assert math.dist(*sketch.ends(line)) == pytest.approx(long, abs=1e-9)


def test_two_tangents_from_a_point_are_equal_already() -> None:
    d = Draft()
    circle = d.circle((0.0, 0.0), 8.0)
    one, two = d.line((30.0, 1.0), (2.0, 8.5)), d.line((30.0, 1.0), (2.5, -8.0))
    d.hold("coincident", f"{one}.start", f"{two}.start")
    d.hold("coincident", f"{circle}.centre", "origin")
    d.size("radius", circle, value=8.0)
    sketch = d.done()
    for line in (one, two):
        sketch = put(sketch, "coincident", f"{line}.end", circle)
        sketch = put(sketch, "tangent", line, circle)
    with pytest.raises(Refused, match="settled already"):
        put(sketch, "equal", one, two)


def test_a_tangency_outlives_its_joint_and_holds_then() -> None:
    d = Draft()
    line, arc = d.line((-20.0, 0.0), (0.0, 0.0)), d.arc((0.0, 6.0), (0.0, 0.0), (6.0, 6.0))
    d.hold("coincident", f"{line}.end", f"{arc}.start")
    joint = d.constraints[-1]["id"]
    sketch = put(d.done(), "tangent", line, arc)
    apart = without_curves(sketch, {joint})
    (touch,) = [c for c in apart.constraints if c.kind == "tangent"]
    moved = apart.with_curves(
        c.with_scalars({"start": (-20.0, 3.0), "end": (-2.0, 5.0)}) if c.id == line else c for c in apart.curves
    )
    after = solve(moved)
    assert after.verdict is Verdict.SOLVED
    (ax, ay), (bx, by) = after.sketch.ends(line)
    cx, cy = after.sketch.point(f"{arc}.centre")
    away = abs((bx - ax) * (cy - ay) - (by - ay) * (cx - ax)) / math.hypot(bx - ax, by - ay)
    assert away == pytest.approx(after.sketch.radius(arc), abs=1e-9)
    assert touch.on == (line, arc)


def test_curves_that_meet_at_both_ends_can_be_tangent_at_both() -> None:
    d = Draft()
    lower, upper = d.arc((0.0, 0.0), (-10.0, 0.0), (10.0, 0.0)), d.arc((0.0, -2.0), (10.0, 0.0), (-10.0, 0.0))
    d.hold("coincident", f"{lower}.start", f"{upper}.end")
    d.hold("coincident", f"{lower}.end", f"{upper}.start")
    sketch = put(d.done(), "tangent", lower, upper)
    (first,) = [c for c in sketch.constraints if c.kind == "tangent"]
    second = CONSTRAINTS["tangent"].made(sketch, "two", (lower, upper))
    assert second.shared != first.shared  # type: ignore[attr-defined]


def test_a_first_dimension_on_nought_does_not_swell_the_sketch() -> None:
    hand = Hand()
    s = hand.sketch()
    hand.draw(s, "point", (5.0, 5.0))
    hand.draw(s, "line", (5.0, 5.0), (25.0, 5.0))
    point, line = (c.id for c in hand.curves(s))
    hand.do("add_dimension", sketch=s, on=[f"{line}.start", point], at=(10, 10), value="12", way="aligned")
    sketch = hand.evaluated(s)
    assert sketch.size < 100
    assert math.dist(sketch.point(f"{line}.start"), sketch.point(f"{point}.at")) == pytest.approx(12)


def test_a_first_dimension_leaves_what_is_taken_from_the_solid() -> None:
    hand = plate()
    s = hand.sketch(hand.face((0, 0, 1)))
    from sketchlathe.core.solid.projecting import takeable

    built = hand.build()
    state = built.steps[-1].sketch
    offer = next(o for o in takeable(built.bodies, state.frame) if "edge" in o)
    hand.do("take_curves", sketch=s, offers=[{"curve": offer["curve"], "edge": offer["edge"]}])
    taken = hand.curves(s)[0]
    hand.draw(s, "circle", (20, 20), (25, 20))
    hand.do("add_dimension", sketch=s, on=[hand.curves(s)[1].id], at=(30, 30), value="30")
    assert hand.curves(s)[0].scalars == taken.scalars


def test_any_corner_of_a_rectangle_goes_to_the_origin() -> None:
    for corner in range(4):
        hand = Hand()
        s = hand.sketch()
        lines = hand.draw(s, "rectangle", (10, 10), (50, 30), sizes=("40", "20"))
        hand.do("add_constraint", sketch=s, constraint="coincident", on=[f"{lines[corner]}.start", ORIGIN[3]])
        assert hand.areas(s) == [pytest.approx(800)]
