"""Trim, extend, split, corners, offset, copies, moves, repairs: areas by closed formulas, constraints kept where they
make sense.
"""

import math
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sketchlathe.core.errors import BadInput, Refused
from sketchlathe.core.sketch.changes.chains import connected
from sketchlathe.core.sketch.changes.repairing import repairs
from sketchlathe.core.sketch.curves.line import Line
from sketchlathe.core.sketch.document import Sketch
from sketchlathe.core.sketch.regions import arrange

ORIGIN = (0.0, 0.0, "origin", "origin")


@pytest.fixture
def s(hand: Any) -> str:
    return hand.sketch()


def box(hand: Any, s: str, width: str = "60", height: str = "40") -> list[str]:
    return hand.draw(s, "rectangle", ORIGIN, (50, 30), sizes=(width, height))


def sizes(hand: Any, s: str) -> list[str]:
    return sorted(c.value for k in ("distance", "radius", "diameter") for c in hand.constraints(s, k))


def test_trimming_the_middle_of_a_line_leaves_two_in_line(hand: Any, s: str) -> None:
    line = hand.draw(s, "line", ORIGIN, (90, 0, "horizontal", None))[0]
    for x in (30, 60):
        hand.draw(s, "line", (x, -10), (x, 10, "vertical", None))
    hand.do("trim", sketch=s, stretches=[{"id": line, "at": [45, 0]}])
    lines = [c for c in hand.curves(s) if c.start[1] == c.end[1] == 0]
    assert [x for c in sorted(lines, key=lambda c: c.start) for x in (c.start[0], c.end[0])] == pytest.approx(
        [0, 30, 60, 90]
    )
    assert len(hand.constraints(s, "collinear")) == 1
    assert any(c.on == (line,) for c in hand.constraints(s, "horizontal"))


def test_trimming_a_circle_by_two_lines_makes_arcs_that_close(hand: Any, s: str) -> None:
    circle = hand.draw(s, "circle", ORIGIN, (10, 0), sizes=("20",))[0]
    chord = hand.draw(s, "line", (-20, 6), (20, 6, "horizontal", None))[0]
    hand.do(
        "trim",
        sketch=s,
        stretches=[{"id": circle, "at": [0, 10]}, {"id": chord, "at": [-18, 6]}, {"id": chord, "at": [18, 6]}],
    )
    segment = math.acos(0.6) * 100 - 6 * 8  # the part cut off: r² acos(h/r) - h √(r² - h²)
    assert hand.areas(s) == [pytest.approx(math.pi * 100 - segment)]
    assert hand.curve(s, circle).kind == "arc"
    assert sizes(hand, s) == ["20 mm"]  # the diameter stays


def test_trimming_what_nothing_crosses_deletes_it(hand: Any, s: str) -> None:
    line = hand.draw(s, "line", (0, 0), (5, 5))[0]
    hand.do("trim", sketch=s, stretches=[{"id": line, "at": [2, 2]}])
    assert not hand.curves(s)


@pytest.mark.parametrize("tool", ["spline", "ellipse"])
def test_trimmed_free_curves_keep_their_shape(hand: Any, s: str, tool: str) -> None:
    places = [(0, 0), (20, 10), (40, -10), (60, 0)] if tool == "spline" else [(30, 0), (60, 0), (30, 12)]
    id = hand.draw(s, tool, *places)[0]
    hand.draw(s, "line", (25, -30), (25, 30, "vertical", None))
    before = hand.curve(s, id)
    if tool == "ellipse":
        hand.draw(s, "line", (45, -30), (45, 30, "vertical", None))
    hand.do("trim", sketch=s, stretches=[{"id": id, "at": [60, 0] if tool == "ellipse" else [10, 6]}])
    after = hand.curve(s, id)
    assert after.length() < before.length()
    from sketchlathe.core.sketch.changes import spans

    for piece in after.pieces():
        low, high = (piece.a0, piece.a1) if hasattr(piece, "a0") else (0, 1)
        for f in (0, 0.3, 0.7, 1):
            assert spans.lies_on(before, piece.at(low + f * (high - low)), 1e-6)


def test_extending_reaches_the_next_curve_and_stays_on_it(hand: Any, s: str) -> None:
    wall = hand.draw(s, "line", (50, -20), (50, 20, "vertical", None))[0]
    line = hand.draw(s, "line", ORIGIN, (20, 0, "horizontal", None))[0]
    hand.do("extend", sketch=s, curve={"id": line, "at": [19, 0]})
    assert hand.curve(s, line).end == pytest.approx((50, 0))
    hand.do("add_dimension", sketch=s, on=["origin", wall], at=[20, 30], value="70 mm")
    assert hand.curve(s, line).end[0] == pytest.approx(hand.curve(s, wall).start[0])
    with pytest.raises(BadInput, match="in the way"):
        hand.do("extend", sketch=s, curve={"id": line, "at": [1, 0]})


def test_an_arc_is_extended_round_its_circle(hand: Any, s: str) -> None:
    arc = hand.draw(s, "arc_centre", ORIGIN, (20, 0), (0, 20))[0]
    hand.draw(s, "line", (-40, 0), (-10, 0, "horizontal", None))
    hand.do("extend", sketch=s, curve={"id": arc, "at": [0, 20]})
    assert hand.curve(s, arc).length() == pytest.approx(20 * math.pi)


def test_split_halves_stay_together(hand: Any, s: str) -> None:
    lines = box(hand, s)
    hand.do("split", sketch=s, curve={"id": lines[0], "at": [20, 0]})
    assert hand.areas(s) == [pytest.approx(2400)]
    assert len(hand.curves(s)) == 5


def test_a_fillet_keeps_the_overall_sizes(hand: Any, s: str) -> None:
    lines = box(hand, s)
    for i in range(4):
        hand.do("fillet_corner", sketch=s, on=[f"{lines[i]}.end"], radius="5")
    assert hand.areas(s) == [pytest.approx(2400 - (4 - math.pi) * 25)]
    assert sizes(hand, s) == ["40 mm", "5 mm", "5 mm", "5 mm", "5 mm", "60 mm"]
    assert hand.freedom(s) == 0
    width = next(c for c in hand.constraints(s, "distance") if c.value == "60 mm")
    hand.do("set_dimension", sketch=s, id=width.id, value="100 mm")
    assert hand.areas(s) == [pytest.approx(4000 - (4 - math.pi) * 25)]


def test_a_fillet_too_big_names_the_largest(hand: Any, s: str) -> None:
    lines = box(hand, s)
    with pytest.raises(BadInput, match="40 mm"):
        hand.do("fillet_corner", sketch=s, on=[f"{lines[0]}.end"], radius="41")


def test_a_fillet_between_a_line_and_an_arc_is_tangent_to_both(hand: Any, s: str) -> None:
    arc = hand.draw(s, "arc_centre", ORIGIN, (20, 0), (0, 20))[0]
    line = hand.draw(s, "line", (20, 0, "end", f"{arc}.start"), (60, 0))[0]
    hand.do("fillet_corner", sketch=s, on=[arc, line], radius="6")
    made = hand.curves(s)[-2] if hand.curves(s)[-1].kind == "point" else hand.curves(s)[-1]
    (cx, cy), (ox, oy) = made.centre, hand.curve(s, arc).centre
    assert made.radius == pytest.approx(6)
    assert math.dist((cx, cy), (ox, oy)) == pytest.approx(hand.curve(s, arc).radius + 6, rel=1e-9)


def test_a_chamfer_has_its_size_from_the_sharp_corner(hand: Any, s: str) -> None:
    lines = box(hand, s)
    hand.do("chamfer_corner", sketch=s, on=[f"{lines[0]}.end"], size="4")
    hand.do("chamfer_corner", sketch=s, on=[f"{lines[1]}.end"], size="3", other="8")
    assert hand.areas(s) == [pytest.approx(2400 - 8 - 12)]
    assert hand.freedom(s) == 0
    four = next(c for c in hand.constraints(s, "distance") if c.value == "4 mm")
    hand.do("set_dimension", sketch=s, id=four.id, value="10 mm")
    assert hand.areas(s) == [pytest.approx(2400 - 50 - 12)]


@pytest.mark.parametrize(("side", "area"), [((30, 20), 50 * 30), ((-5, 20), 70 * 50)])
def test_an_offset_box_follows_its_distance(hand: Any, s: str, side: tuple[float, float], area: float) -> None:
    lines = box(hand, s)
    hand.do("offset", sketch=s, ids=lines, side=side, distance="5")
    found = sorted([area, 2400])
    assert hand.areas(s) == pytest.approx([abs(2400 - area), min(found)][:: 1 if abs(2400 - area) < min(found) else -1])
    assert hand.freedom(s) == 0
    k = hand.constraints(s, "offset")[0]
    hand.do("set_dimension", sketch=s, id=k.id, value="2 mm")
    step = -4 if area < 2400 else 4
    assert max(sum(hand.areas(s)), 2400) == pytest.approx(max(2400, (60 + step) * (40 + step)))


def test_an_offset_slot_is_parallel_all_round(hand: Any, s: str) -> None:
    slot = hand.draw(s, "slot", ORIGIN, (30, 0, "horizontal", None), (10, 4), sizes=("40", "12"))
    outline = [c for c in slot if not hand.curve(s, c).construction]
    hand.do("offset", sketch=s, ids=outline, side=[20, 30], distance="3")
    assert sum(hand.areas(s)) == pytest.approx(40 * 18 + math.pi * 81)
    assert hand.freedom(s) == 0
    with pytest.raises(BadInput, match="radius"):
        hand.do("offset", sketch=s, ids=outline, side=[20, 1], distance="7")


def test_a_mirrored_half_closes_and_follows(hand: Any, s: str) -> None:
    a = hand.draw(s, "line", ORIGIN, (30, 0, "horizontal", None))[0]
    b = hand.draw(s, "line", (30, 0, "end", f"{a}.end"), (30, 20, "vertical", None))[0]
    c = hand.draw(s, "arc", (30, 20, "end", f"{b}.end"), (0, 30, "on line", "y_axis"), (18, 30))[0]
    hand.do("mirror_curves", sketch=s, ids=[a, b, c], axis="y_axis")
    half = hand.areas(s)
    assert len(half) == 1
    free = hand.freedom(s)
    hand.do("add_dimension", sketch=s, on=[a], at=[15, -5], value="45 mm")
    assert hand.freedom(s) == free - 1
    xs = [x for q in hand.curves(s) if q.kind == "line" for x in (q.start[0], q.end[0])]
    assert min(xs) == pytest.approx(-max(xs))


def test_a_ring_of_slots_can_be_counted_again(hand: Any, s: str) -> None:
    hand.draw(s, "circle", ORIGIN, (50, 0), sizes=("100",))
    slot = hand.draw(s, "slot", (20, 0), (40, 0, "horizontal", None), (30, 3), sizes=("15", "6"))
    hand.do("pattern_curves", sketch=s, ids=slot, about="origin", count=8)
    hole = 15 * 6 + math.pi * 9
    assert sorted(hand.areas(s))[-1] == pytest.approx(math.pi * 2500 - 8 * hole)
    free = hand.freedom(s)
    ring = hand.constraints(s, "ring")[0]
    for count in (5, 11, 3):
        hand.do("set_count", sketch=s, id=ring.id, count=count)
        assert sorted(hand.areas(s))[-1] == pytest.approx(math.pi * 2500 - count * hole)
        assert hand.freedom(s) == free
    width = next(c for c in hand.constraints(s, "distance") if c.value == "6 mm")
    hand.do("set_dimension", sketch=s, id=width.id, value="8 mm")
    assert sorted(hand.areas(s))[-1] == pytest.approx(math.pi * 2500 - 3 * (15 * 8 + math.pi * 16))


def test_a_row_follows_its_spacing(hand: Any, s: str) -> None:
    circle = hand.draw(s, "circle", ORIGIN, (3, 0), sizes=("6",))[0]
    hand.do("pattern_curves", sketch=s, ids=[circle], about="x_axis", count=4, step="10")
    assert sorted(c.centre[0] for c in hand.curves(s)) == pytest.approx([0, 10, 20, 30])
    row = hand.constraints(s, "row")[0]
    hand.do("set_dimension", sketch=s, id=row.id, value="12.5 mm")
    assert sorted(c.centre[0] for c in hand.curves(s)) == pytest.approx([0, 12.5, 25, 37.5])
    assert hand.freedom(s) == 0
    hand.do("delete_from_sketch", sketch=s, ids=[hand.curves(s)[2].id])
    assert len(hand.curves(s)) == 3
    hand.do("delete_from_sketch", sketch=s, ids=[circle])
    assert not hand.curves(s)


def test_moving_turning_and_scaling(hand: Any, s: str) -> None:
    lines = hand.draw(s, "rectangle", (0, 0), (10, 6))
    hand.do("transform_curves", sketch=s, ids=lines, to=[7, 3])
    assert min(c.start[0] for c in hand.curves(s)) == pytest.approx(7)
    hand.do("transform_curves", sketch=s, ids=lines, turn="90 deg", about=[7, 3])
    assert hand.areas(s) == [pytest.approx(60)]
    hand.do("transform_curves", sketch=s, ids=lines, factor=2.0)
    assert hand.areas(s) == [pytest.approx(240)]
    hand.do("transform_curves", sketch=s, ids=lines, to=[100, 0], copied=True)
    assert hand.areas(s) == pytest.approx([240, 240])


def test_paste_brings_the_constraints_among_the_copied(hand: Any, s: str) -> None:
    from sketchlathe.core.sketch.changes.copying import clipped

    lines = box(hand, s)
    clip = clipped(hand.evaluated(s), lines)
    other = hand.sketch()
    hand.do("paste", sketch=other, clip=clip, by=[5, 5])
    assert hand.areas(other) == [pytest.approx(2400)]
    assert hand.freedom(other) == 2  # only where it is
    for bad in (
        {},
        {"curves": "x"},
        {"curves": [{"kind": "line"}]},
        {"curves": [3]},
        {"curves": [{"kind": "line", "id": "a", "start": [0, float("nan")], "end": [1, 1]}]},
    ):
        with pytest.raises((BadInput, ValueError)):
            hand.do("paste", sketch=other, clip=bad)


def test_repairs_find_gaps_duplicates_and_near_tangents(hand: Any, s: str) -> None:
    a = hand.draw(s, "line", (0, 0), (40, 0))[0]
    b = hand.draw(s, "line", (40.1, 0.05), (40, 30))[0]
    c = hand.draw(s, "line", (40, 30, "end", f"{b}.end"), (0, 0, "end", f"{a}.start"))[0]
    sketch = hand.evaluated(s)
    found = repairs(sketch, arrange(sketch.curves, sketch.size).open_ends)
    gap = next(r for r in found if r.what == "gap")
    assert set(gap.refs) == {f"{a}.end", f"{b}.start"}
    assert not hand.areas(s)
    hand.do("repair_sketch", sketch=s, finding="gap", on=list(gap.refs))
    assert len(hand.areas(s)) == 1
    hand.draw(s, "line", hand.curve(s, c).start, hand.curve(s, c).end)
    found = repairs(hand.evaluated(s), ())
    twice = next(r for r in found if r.what == "duplicate")
    hand.do("repair_sketch", sketch=s, finding="duplicate", on=list(twice.refs))
    assert len(hand.curves(s)) == 3


def test_named_dimensions_feed_others_and_loops_are_shown(hand: Any, s: str) -> None:
    box(hand, s)
    width, height = hand.constraints(s, "distance")
    hand.do("set_dimension", sketch=s, id=width.id, name="width")
    hand.do("set_dimension", sketch=s, id=height.id, value="width / 2 + 3 mm")
    assert hand.areas(s) == [pytest.approx(60 * 33)]
    hand.do("set_dimension", sketch=s, id=width.id, value="80")
    assert hand.areas(s) == [pytest.approx(80 * 43)]
    hand.do("set_dimension", sketch=s, id=width.id, name="breadth")
    assert hand.evaluated(s).constraint(height.id).value == "breadth / 2 + 3 mm"
    hand.do("set_dimension", sketch=s, id=height.id, name="tall")
    with pytest.raises(BadInput, match=r"breadth → tall|tall → breadth"):
        hand.do("set_dimension", sketch=s, id=width.id, value="tall * 2")
    with pytest.raises(Refused, match="used by"):
        hand.do("delete_from_sketch", sketch=s, ids=[width.id])
    with pytest.raises(BadInput, match="zero"):
        hand.do("set_dimension", sketch=s, id=height.id, value="5 / (3 - 3)")


@pytest.mark.parametrize(("rim", "expected"), [("centre", 35.0), ("near", 25.0), ("far", 45.0)])
def test_a_distance_to_a_circle_means_its_centre_or_a_rim(hand: Any, s: str, rim: str, expected: float) -> None:
    circle = hand.draw(s, "circle", (30, 10), (40, 10), sizes=("20",))[0]
    line = hand.draw(s, "line", ORIGIN, (0, 30, "vertical", None))[0]
    hand.do("add_dimension", sketch=s, on=[circle, line], at=[15, 40], value="35", rim=rim)
    shift = {"centre": 0, "near": 10, "far": -10}[rim]
    # the first size of the drawing is the circle's, so nothing is scaled: the centre moves
    away = hand.curve(s, circle).centre[0] - hand.curve(s, line).start[0]
    assert away == pytest.approx(35 + shift)
    assert expected > 0


def test_symmetric_lines_and_circles(hand: Any, s: str) -> None:
    a = hand.draw(s, "circle", (20, 5), (24, 5), sizes=("8",))[0]
    b = hand.draw(s, "circle", (-22, 6), (-17, 6))[0]
    hand.do("add_constraint", sketch=s, constraint="symmetric", on=[a, b, "y_axis"])
    one, two = hand.curve(s, a), hand.curve(s, b)
    assert two.centre == pytest.approx((-one.centre[0], one.centre[1]))
    assert two.radius == pytest.approx(4)


@pytest.mark.parametrize("first", ["line", "circle"])
def test_an_ellipse_touches_a_line_or_a_circle(hand: Any, s: str, first: str) -> None:
    ellipse = hand.draw(s, "ellipse", ORIGIN, (30, 0), (0, 8), sizes=("25", "10"))[0]
    if first == "line":
        other = hand.draw(s, "line", (-40, 13), (40, 16))[0]
    else:
        other = hand.draw(s, "circle", (10, 20), (10, 13), sizes=("14",))[0]
    hand.do("add_constraint", sketch=s, constraint="tangent", on=[other, ellipse])
    sketch = hand.evaluated(s)
    from sketchlathe.core.sketch.changes import spans

    e = sketch.curve(ellipse).pieces()[0]
    points = [e.at(2 * math.pi * i / 20000) for i in range(20000)]
    if first == "line":
        (ax, ay), (bx, by) = sketch.ends(other)
        n = math.dist((ax, ay), (bx, by))
        gaps = [((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / n for x, y in points]
        assert max(gaps) == pytest.approx(0, abs=1e-5)  # it touches and does not cross
    else:
        gaps = [math.dist(p, sketch.curve(other).centre) - 7 for p in points]
        assert min(gaps) == pytest.approx(0, abs=1e-5)
    assert len(spans.cuts(sketch, sketch.curve(ellipse))) <= 2


@settings(max_examples=60, deadline=None)
@given(
    lines=st.lists(st.tuples(st.integers(0, 5), st.integers(0, 5), st.integers(0, 5), st.integers(0, 5)), max_size=24),
    noise=st.floats(0, 2e-6),
)
def test_what_hangs_together_is_found_as_by_looking_at_every_pair(lines, noise) -> None:
    """Against the shortest program there is: join whatever touches until nothing changes."""
    curves = [
        Line(id=f"c{i}", start=(10.0 * a + noise, 10.0 * b), end=(10.0 * c, 10.0 * d), construction=i % 7 == 6)
        for i, (a, b, c, d) in enumerate(lines)
    ]
    sketch = Sketch(curves=tuple(curves))
    near = 1e-6 * sketch.size
    groups = [{c.id} for c in curves]
    ends = {c.id: (c.start, c.end) for c in curves if not c.construction}

    def touch(one: str, other: str) -> bool:
        return one in ends and other in ends and any(math.dist(p, q) <= near for p in ends[one] for q in ends[other])

    changed = True
    while changed:
        changed = False
        for a in groups:
            for b in groups:
                if a is not b and any(touch(x, y) for x in a for y in b):
                    a |= b
                    groups = [g for g in groups if g is not b]
                    changed = True
                    break
            if changed:
                break
    for group in groups:
        for id in group:
            assert connected(sketch, id) == tuple(c.id for c in curves if c.id in group)
