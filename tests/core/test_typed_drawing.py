"""What is typed while drawing is what is drawn, measured as its field says; what a snap names is bound."""

from __future__ import annotations

import math

import pytest
from tests.hand import ORIGIN, Hand, plate

from sketchlathe.core.errors import BadInput
from sketchlathe.core.quantity import LENGTH, evaluate
from sketchlathe.core.sketch.solver.freedom import freedom


@pytest.fixture
def s(hand: Hand) -> str:
    return hand.sketch()


@pytest.mark.parametrize("start", [(0, 0), (20, 0), (-15, 7), (0.5, -3)])
@pytest.mark.parametrize("degrees", [30, 60, 120, 145, 179, 200, 255, 340, -30, -68, -145])
def test_a_line_runs_at_the_typed_angle(hand: Hand, s: str, start: tuple[float, float], degrees: float) -> None:
    (line,) = hand.draw(s, "line", start, (start[0] + 5, start[1] + 1), sizes=("10", str(degrees)))
    a, b = hand.curve(s, line).start, hand.curve(s, line).end
    assert a == pytest.approx(start)
    assert (b[0] - a[0], b[1] - a[1]) == pytest.approx(
        (10 * math.cos(math.radians(degrees)), 10 * math.sin(math.radians(degrees)))
    )
    (angle,) = hand.constraints(s, "angle")
    assert evaluate(angle.value).value == pytest.approx(math.radians(abs(degrees)))


def test_a_chain_of_typed_angles_leaves_what_it_is_drawn_on(hand: Hand, s: str) -> None:
    at, last, heading = (3.0, 4.0), None, (68, 112, 200, -20)
    for k, degrees in enumerate(heading):
        start = (*at, "end", f"{last}.end") if last else at
        (last,) = hand.draw(s, "line", start, (at[0] + 1, at[1] + 1), sizes=("12", str(degrees)))
        at = (at[0] + 12 * math.cos(math.radians(degrees)), at[1] + 12 * math.sin(math.radians(degrees)))
        assert hand.curve(s, last).end == pytest.approx(at), k
    assert hand.curves(s)[0].start == pytest.approx((3, 4))
    hand.dimension("12", "15")  # and the first one still turns nothing over


def test_negative_sizes_go_the_other_way(hand: Hand, s: str) -> None:
    lines = hand.draw(s, "rectangle", ORIGIN, (5, 5), sizes=("-8", "6"))
    assert hand.areas(s) == [pytest.approx(48)]
    xs = [p[0] for line in lines for p in (hand.curve(s, line).start,)]
    assert min(xs) == pytest.approx(-8)
    assert max(xs) == pytest.approx(0)
    assert all(not c.value.startswith("-") for c in hand.constraints(s, "distance"))


def test_an_arc_from_an_angle_by_a_sweep(hand: Hand, s: str) -> None:
    (arc,) = hand.draw(s, "arc_centre", ORIGIN, (3, 3), (0, 9), sizes=("10", "0", "90"))
    made = hand.curve(s, arc)
    assert made.start == pytest.approx((10, 0))
    assert made.end == pytest.approx((0, 10))
    (back,) = hand.draw(s, "arc_centre", (50, 0), (60, 0), (50, 9), sizes=("10", "0", "-90"))
    assert hand.curve(s, back).start == pytest.approx((50, -10))
    assert hand.curve(s, back).end == pytest.approx((60, 0))
    with pytest.raises(BadInput, match="circle"):
        hand.draw(s, "arc_centre", (0, 50), (10, 50), (0, 60), sizes=("10", "0", "360"))


def test_a_circle_by_radius_or_by_diameter(hand: Hand, s: str) -> None:
    (one,) = hand.draw(s, "circle", (0, 0), (3, 0), sizes=("", "7"))
    assert hand.curve(s, one).radius == pytest.approx(7)
    (size,) = hand.constraints(s, "radius")
    hand.do("set_dimension", sketch=s, id=size.id, value="⌀ 20")
    assert hand.constraints(s, "radius") == []
    assert hand.curve(s, one).radius == pytest.approx(10)
    (two,) = hand.draw(s, "circle", (50, 0), (53, 0))
    hand.do("add_dimension", sketch=s, on=[two], at=(60, 10), value="R6")
    assert hand.curve(s, two).radius == pytest.approx(6)
    with pytest.raises(BadInput, match="not both"):
        hand.draw(s, "circle", (0, 90), (3, 90), sizes=("5", "7"))


def test_a_point_midway_between_two(hand: Hand, s: str) -> None:
    hand.draw(s, "circle", (0, 0), (3, 0))
    hand.draw(s, "circle", (40, 10), (44, 10))
    hand.draw(s, "point", (21, 4))
    one, two, point = (c.id for c in hand.curves(s))
    hand.do("add_constraint", sketch=s, constraint="midpoint", on=[f"{one}.centre", point, f"{two}.centre"])
    (middle,) = hand.constraints(s, "midpoint")
    assert middle.on[0] == point
    sketch = hand.evaluated(s)
    places = [sketch.point(ref) for ref in (f"{point}.at", f"{one}.centre", f"{two}.centre")]
    assert places[0] == pytest.approx(tuple((a + b) / 2 for a, b in zip(*places[1:])))


def test_typed_positions_become_dimensions_where_that_is_wanted(hand: Hand, s: str) -> None:
    place = {"at": (-12, 0), "typed": ["-12", "0"]}
    hand.do("draw", sketch=s, tool="circle", places=[place, {"at": (-8, 0)}], sizes=["8"])
    assert freedom(hand.evaluated(s)).count == 0
    (away,) = hand.constraints(s, "distance")
    assert away.value == "12 mm"
    hand.do("set_dimension", sketch=s, id=away.id, value="20")
    assert hand.curves(s)[0].centre == pytest.approx((-20, 0))


def test_both_alignments_hold_when_both_are_shown(hand: Hand, s: str) -> None:
    hand.draw(s, "point", (10, 0))
    hand.draw(s, "point", (0, 20))
    one, two = (f"{c.id}.at" for c in hand.curves(s))
    place = {"at": (10, 20), "snap": "plumb with", "ref": one, "also": [{"snap": "level with", "ref": two}]}
    hand.do("draw", sketch=s, tool="point", places=[place])
    third = hand.curves(s)[-1].id
    kinds = {
        (c.kind, frozenset(r.partition(".")[0] for r in c.on)) for c in hand.model.sketch_step(s).sketch.constraints
    }
    assert ("vertical", frozenset({one[:-3], third})) in kinds
    assert ("horizontal", frozenset({two[:-3], third})) in kinds


def test_a_typed_size_is_kept_where_an_alignment_was_only_shown(hand: Hand, s: str) -> None:
    hand.draw(s, "line", ORIGIN, (20, 0), sizes=("20",))
    first = hand.curves(s)[0].id
    hand.draw(s, "line", (20, 0, "end", f"{first}.end"), (20, 30), sizes=("30",))
    second = hand.curves(s)[1].id
    start = {"at": (20, 30), "snap": "end", "ref": f"{second}.end"}
    end = {"at": (0, 30), "snap": "horizontal", "also": [{"snap": "plumb with", "ref": "origin"}]}
    hand.do("draw", sketch=s, tool="line", places=[start, end], sizes=["20"])
    assert sorted(c.value for c in hand.constraints(s, "distance")) == ["20 mm", "20 mm", "30 mm"]
    assert hand.curves(s)[2].end == pytest.approx((0, 30))


def test_level_with_the_middle_of_a_line_follows_that_middle(hand: Hand, s: str) -> None:
    (line,) = hand.draw(s, "line", (40, 0), (40, 30))
    place = {"at": (10, 15), "snap": "level with middle", "ref": line}
    hand.do("draw", sketch=s, tool="point", places=[place])
    point = hand.curves(s)[-1].id
    hand.do("move_geometry", sketch=s, curves={line: {"end": (40, 50)}})
    sketch = hand.evaluated(s)
    (_, y0), (_, y1) = sketch.ends(line)
    assert sketch.point(f"{point}.at")[1] == pytest.approx((y0 + y1) / 2)


def test_a_hole_drawn_at_the_centre_of_the_solid_follows_it(hand: Hand) -> None:
    from sketchlathe.core.solid.projecting import takeable

    hand = plate()
    boss = hand.round(hand.face((0, 0, 1)), 20, 20, 6, distance="4 mm")
    s = hand.sketch(hand.face((0, 0, 1)))
    built = hand.build()
    offers = takeable(built.bodies, built.steps[-1].sketch.frame)
    rim = next(o for o in offers if o["curve"]["kind"] == "circle")
    at = rim["curve"]["centre"]
    take = {"curve": rim["curve"], "edge": rim["edge"]}
    for number in range(2):  # what is there already is not taken twice
        place = {"at": at, "snap": "centre", "ref": "take.centre", "take": take}
        hand.do("draw", sketch=s, tool="circle", places=[place, {"at": (at[0] + 2 + number, at[1])}], sizes=[])
    assert [c.kind for c in hand.curves(s)] == ["circle"] * 3
    hand.step("extrude", regions=hand.regions(s), reach="through", result="cut", way="backwards")
    base = hand.model.part("p1").steps[hand.model.part("p1").index(boss) - 1].id
    circle = hand.curves(base)[0]
    hand.do("add_dimension", sketch=base, on=["origin", f"{circle.id}.centre"], at=(10, -5), value="33", way="across")
    moved = hand.build()
    assert [r.status for r in moved.steps] == ["ok"] * len(moved.steps)
    followed = moved.steps[-2].sketch.sketch
    assert followed.curve(hand.curves(s)[1].id).centre == pytest.approx(followed.curve(hand.curves(s)[0].id).centre)
    assert abs(followed.curve(hand.curves(s)[1].id).centre[0] - at[0]) > 5


@pytest.mark.parametrize(
    ("text", "inches"),
    [("1 1/4", 1.25), ('1-1/4"', 1.25), ('3/4"', 0.75), ("2-1/4", 1.75), ("5/8 in", 0.625), ("1 1/4 + 2 1/2", 3.75)],
)
def test_inches_as_drawings_write_them(text: str, inches: float) -> None:
    assert evaluate(text, wanted=LENGTH, length_unit="in").value == pytest.approx(25.4 * inches)


def test_a_plain_number_times_a_cosine_takes_the_unit_of_its_place() -> None:
    assert evaluate("37*cos(25°)", wanted=LENGTH).value == pytest.approx(37 * math.cos(math.radians(25)))
    with pytest.raises(BadInput):
        evaluate("cos(25°)", wanted=LENGTH)
