"""Every drawing tool: what it draws has the typed sizes, closes, and is free only where nothing was said."""

import math
from typing import Any

import pytest
from tests.hand import Hand

from sketchlathe.core.errors import BadInput, Trouble
from sketchlathe.core.model.edits import parse_edit
from sketchlathe.core.sketch.curves.lettering import FONTS, glyph, outlines
from sketchlathe.core.sketch.tools import TOOLS

ORIGIN = (0.0, 0.0, "origin", "origin")


@pytest.fixture
def s(hand: Any) -> str:
    return hand.sketch()


def test_a_rectangle_about_the_origin_is_held_by_its_two_sizes(hand: Any, s: str) -> None:
    hand.draw(s, "rectangle_centred", ORIGIN, (20, 11), sizes=("60", "40"))
    assert hand.areas(s) == [pytest.approx(2400)]
    assert hand.freedom(s) == 0
    lines = [c for c in hand.curves(s) if c.kind == "line" and not c.construction]
    assert {round(abs(v), 9) for c in lines for v in c.start} == {30.0, 20.0}


def test_a_turned_rectangle_keeps_right_angles_when_one_side_is_turned(hand: Any, s: str) -> None:
    hand.draw(s, "rectangle_turned", ORIGIN, (30, 40), (0, 60), sizes=("50", "20"))
    assert hand.areas(s) == [pytest.approx(1000)]
    assert hand.freedom(s) == 1  # it still turns about the origin


def test_a_square_that_was_offered_stays_one(hand: Any, s: str) -> None:
    hand.draw(s, "rectangle", ORIGIN, (30, 30.0, "square", None))
    hand.do("add_dimension", sketch=s, on=[hand.curves(s)[0].id], at=[15, -5], value="12 mm")
    assert hand.areas(s) == [pytest.approx(144)]


@pytest.mark.parametrize(
    ("tool", "places", "radius"),
    [
        ("circle_across", [(0, 0), (30, 40)], 25),
        ("circle_through", [(5, 0), (0, 5), (-5, 0)], 5),
    ],
)
def test_circles_through_points(hand: Any, s: str, tool: str, places: list[Any], radius: float) -> None:
    hand.draw(s, tool, *places)
    assert hand.areas(s) == [pytest.approx(math.pi * radius**2)]


def test_points_on_one_line_are_refused_with_the_reason(hand: Any, s: str) -> None:
    with pytest.raises(BadInput, match="one line"):
        hand.draw(s, "circle_through", (0, 0), (1, 1), (2, 2))


def test_the_circle_in_a_triangle_touches_its_three_sides(hand: Any, s: str) -> None:
    a, b, c = (0, 0), (40, 0), (0, 30)
    one = hand.draw(s, "line", a, b)[0]
    two = hand.draw(s, "line", (*b, "end", f"{one}.end"), c)[0]
    three = hand.draw(s, "line", (*c, "end", f"{two}.end"), (*a, "end", f"{one}.start"))[0]
    circle = hand.draw(
        s, "circle_tangent", (12, 0, "on line", one), (20, 15, "on line", two), (0, 12, "on line", three)
    )[0]
    # inradius of a right triangle: (a + b - c) / 2
    assert hand.curve(s, circle).radius == pytest.approx(10)
    assert len(hand.constraints(s, "tangent")) == 3
    # it stays the inscribed circle when a side changes
    hand.do("add_dimension", sketch=s, on=[one], at=[20, -5], value="80 mm")
    lines = [hand.curve(s, i).length() for i in (one, two, three)]
    p = sum(lines) / 2
    heron = math.sqrt(p * math.prod(p - x for x in lines))
    assert hand.curve(s, circle).radius == pytest.approx(heron / p, rel=1e-8)


def test_a_circle_touching_two_lines_has_the_typed_size(hand: Any, s: str) -> None:
    one = hand.draw(s, "line", (0, 0), (50, 0))[0]
    two = hand.draw(s, "line", (0, 0, "end", f"{one}.start"), (0, 50))[0]
    circle = hand.draw(
        s, "circle_tangent_sized", (12, 0, "on line", one), (0, 12, "on line", two), (20, 20), sizes=("16",)
    )[0]
    found = hand.curve(s, circle)
    assert (found.radius, *found.centre) == pytest.approx((8, 8, 8))


def test_arcs(hand: Any, s: str) -> None:
    through = hand.curve(s, hand.draw(s, "arc", (10, 0), (-10, 0), (0, 10))[0])
    assert through.radius == pytest.approx(10)
    assert through.length() == pytest.approx(10 * math.pi)
    typed = hand.curve(s, hand.draw(s, "arc", (100, 0), (130, 0), (115, 3), sizes=("17",))[0])
    assert typed.radius == pytest.approx(17)
    assert typed.length() == pytest.approx(2 * 17 * math.asin(15 / 17))
    centred = hand.curve(s, hand.draw(s, "arc_centre", (200, 0), (210, 0), (200, 5), sizes=("12", "", "90"))[0])
    assert centred.length() == pytest.approx(12 * math.pi / 2)


def test_a_tangent_arc_runs_on_from_a_line_and_stays_tangent(hand: Any, s: str) -> None:
    line = hand.draw(s, "line", ORIGIN, (40, 0, "horizontal", None))[0]
    arc = hand.draw(s, "arc_tangent", (40, 0, "end", f"{line}.end"), (40, 20))[0]
    assert hand.curve(s, arc).radius == pytest.approx(10)
    hand.do("add_dimension", sketch=s, on=[line], at=[20, -5], value="80 mm")
    found = hand.curve(s, arc)
    (cx, cy), (ex, ey) = found.centre, hand.curve(s, line).end
    assert cx == pytest.approx(ex)  # the radius stands upright on a level line
    assert abs(cy - ey) == pytest.approx(found.radius)


@pytest.mark.parametrize("sides", [3, 6, 17])
@pytest.mark.parametrize("measured", ["flats", "corners"])
def test_polygons_have_the_size_across_and_one_motion_left(hand: Any, s: str, sides: int, measured: str) -> None:
    hand.draw(s, "polygon", ORIGIN, (9, 2), sizes=("20",), sides=sides, measured=measured)
    r = 10 if measured == "flats" else 10 * math.cos(math.pi / sides)
    assert hand.areas(s) == [pytest.approx(sides * r * r * math.tan(math.pi / sides))]
    assert hand.freedom(s) == 1  # it turns
    pattern = hand.constraints(s, "regular")[0]
    for other in (sides + 4, 3, 8):
        hand.do("set_count", sketch=s, id=pattern.id, count=other)
        r = 10 if measured == "flats" else 10 * math.cos(math.pi / other)
        assert hand.areas(s) == [pytest.approx(other * r * r * math.tan(math.pi / other))]
        assert hand.freedom(s) == 1


@pytest.mark.parametrize("sides", [2, 10_000, 5.5, "many"])
def test_a_polygon_with_impossible_sides_is_refused(hand: Any, s: str, sides: Any) -> None:
    with pytest.raises(BadInput):
        hand.draw(s, "polygon", ORIGIN, (9, 2), sides=sides)


def test_slots(hand: Any, s: str) -> None:
    hand.draw(s, "slot", ORIGIN, (30, 0, "horizontal", None), (10, 4), sizes=("40", "12"))
    assert hand.areas(s) == [pytest.approx(40 * 12 + math.pi * 36)]
    assert hand.freedom(s) == 0
    other = hand.sketch()
    hand.draw(other, "arc_slot", ORIGIN, (30, 0), (0, 30), (33, 0), sizes=("30", "8"))
    assert hand.areas(other) == [pytest.approx(math.pi / 2 * 30 * 8 + math.pi * 16)]
    assert hand.freedom(other) == 2  # where it begins and ends


def test_an_ellipse_has_its_typed_axes(hand: Any, s: str) -> None:
    hand.draw(s, "ellipse", ORIGIN, (30, 0, "horizontal", None), (0, 8), sizes=("25", "10"))
    assert hand.areas(s) == [pytest.approx(math.pi * 250)]
    assert hand.freedom(s) == 0


def test_a_half_ellipse_closed_by_a_line(hand: Any, s: str) -> None:
    arc = hand.draw(s, "ellipse_arc", ORIGIN, (30, 0), (0, 12), (30, 0), (-30, 0))[0]
    hand.draw(s, "line", (30, 0, "end", f"{arc}.start"), (-30, 0, "end", f"{arc}.end"))
    assert hand.areas(s) == [pytest.approx(math.pi * 30 * 12 / 2)]


def test_a_spline_goes_through_its_points_and_moves_with_them(hand: Any, s: str) -> None:
    points = [(0, 0), (10, 8), (25, -4), (40, 6)]
    id = hand.draw(s, "spline", *points)[0]
    curve = hand.curve(s, id)
    assert [p.first for p in curve.pieces()] == points[:-1]
    hand.do("add_dimension", sketch=s, on=[f"{id}.p0", f"{id}.p3"], at=[20, -20], value="80 mm")
    moved = hand.curve(s, id)
    # curvature is continuous at the inner points (second derivatives by the parameter agree)
    for i, (a, b) in enumerate(zip(moved.pieces(), moved.pieces()[1:])):
        before, after = moved.spans[i], moved.spans[i + 1]
        for k in (0, 1):
            left = 6 * (a.p3[k] - 2 * a.p2[k] + a.p1[k]) / before**2
            right = 6 * (b.p0[k] - 2 * b.p1[k] + b.p2[k]) / after**2
            assert left == pytest.approx(right, rel=1e-6, abs=1e-9)


def test_doubled_points_of_a_spline_are_taken_once(hand: Any, s: str) -> None:
    id = hand.draw(s, "spline", (0, 0), (0, 0), (10, 5), (10, 5), (20, 0))[0]
    assert len(hand.curve(s, id).through) == 3
    with pytest.raises(BadInput, match="two points"):
        hand.draw(s, "spline", (3, 3), (3, 3))


def test_a_spline_that_starts_at_the_end_of_a_line_runs_on_from_it(hand: Any, s: str) -> None:
    line = hand.draw(s, "line", (0, 0), (20, 0))[0]
    id = hand.draw(s, "spline", (20, 0, "end", f"{line}.end"), (40, 15), (60, 0))[0]
    lead = hand.curve(s, id).place("lead")
    assert lead[1] == pytest.approx(0, abs=1e-9)
    assert lead[0] > 20


def test_a_smooth_join_has_the_arcs_curvature(hand: Any, s: str) -> None:
    arc = hand.draw(s, "arc_centre", (0, 0), (20, 0), (0, 20))[0]
    id = hand.draw(s, "spline", (0, 20, "end", f"{arc}.end"), (-30, 15), (-50, 30))[0]
    hand.do("add_constraint", sketch=s, constraint="smooth", on=[arc, id])
    p, q, r = (hand.curve(s, id).place(n) for n in ("p0", "lead", "q0"))
    cross = (q[0] - p[0]) * (r[1] - q[1]) - (q[1] - p[1]) * (r[0] - q[0])
    curvature = 2 / 3 * cross / math.dist(p, q) ** 3
    assert abs(curvature) == pytest.approx(1 / hand.curve(s, arc).radius, rel=1e-6)


@pytest.mark.parametrize("font", sorted(FONTS))
def test_text_has_the_typed_height_and_letters_are_one_region(hand: Any, s: str, font: str) -> None:
    hand.draw(s, "text", ORIGIN, (100, 0, "horizontal", None), sizes=("10",), words="IHBo", font=font)
    path = [p for piece in hand.curves(s)[0].pieces() for p in (piece.first, piece.last)]
    assert max(y for _, y in path) == pytest.approx(10, rel=0.08)  # letters overshoot a little
    s_ = hand.evaluated(s)
    from sketchlathe.core.sketch.regions import arrange

    keys = {r.key for r in arrange(s_.curves, s_.size).regions}
    assert (f"{s_.curves[0].id}+",) in keys
    assert hand.freedom(s) == 0


def test_the_ink_of_a_text_scales_with_the_square_of_its_height(hand: Any, s: str) -> None:
    hand.draw(s, "text", ORIGIN, (100, 0, "horizontal", None), sizes=("10",), words="Mast 7")
    ink = max(hand.areas(s))
    k = hand.constraints(s, "letter_height")[0]
    hand.do("set_dimension", sketch=s, id=k.id, value="25 mm")
    assert max(hand.areas(s)) == pytest.approx(ink * 6.25)


def test_mirrored_and_bent_text_keep_their_ink() -> None:
    from sketchlathe.core.sketch.curves.lettering import area

    plain = sum(area(c) for c in outlines("NORD", "plain", 8, 1.0, (0, 0), (1, 0)))
    for bend in ("", "outside", "inside"):
        for mirrored in (False, True):
            made = outlines("NORD", "plain", 8, 1.0, (0, 40), (0, 0), bend=bend, mirrored=mirrored)
            assert sum(area(c) for c in made) == pytest.approx(plain)


def test_text_round_a_centre_stands_on_its_circle() -> None:
    made = outlines("IIIIIIII", "plain", 5, 1.0, (0, 30), (0, 0), bend="outside")
    away = [math.dist(p, (0, 0)) for c in made for piece in c for p in (piece.first, piece.last)]
    assert min(away) == pytest.approx(30, abs=0.05)
    assert max(away) == pytest.approx(35, abs=0.2)


def test_a_letter_that_the_font_lacks_is_named(hand: Any, s: str) -> None:
    with pytest.raises(BadInput, match="☃"):
        hand.draw(s, "text", ORIGIN, (100, 0), words="Snow ☃")
    with pytest.raises(BadInput, match="☃"):
        glyph("serif", "☃")


def test_a_centre_mark_follows_its_circle(hand: Any, s: str) -> None:
    circle = hand.draw(s, "circle", (10, 5), (15, 5))[0]
    marks = hand.draw(s, "centre_mark", (15, 5, "on circle", circle))
    assert all(hand.curve(s, m).construction for m in marks)
    hand.do("add_dimension", sketch=s, on=["origin", f"{circle}.centre"], at=[5, -9], value="100 mm")
    cx, cy = hand.curve(s, circle).centre
    assert hand.curve(s, marks[0]).middle() == pytest.approx((cx, cy))


@pytest.mark.parametrize("tool", [t.kind for t in TOOLS])
def test_every_tool_refuses_points_at_one_place_or_draws_something_sound(hand: Any, s: str, tool: str) -> None:
    places = [(3.0, 4.0)] * len(TOOLS[tool].steps)
    before = hand.model
    try:
        hand.draw(s, tool, *places)
    except BadInput as problem:
        assert len(str(problem)) > 20
        assert hand.model is before


@pytest.mark.parametrize("tool", [t.kind for t in TOOLS])
def test_the_wrong_number_of_points_is_said(tool: str, hand: Any, s: str) -> None:
    if TOOLS[tool].more:
        return
    count = len(TOOLS[tool].steps) + 1
    with pytest.raises(BadInput, match="needs"):
        edit = {"kind": "draw", "sketch": s, "tool": tool, "places": [{"at": [i, 2 * i]} for i in range(count)]}
        parse_edit(edit).apply(hand.model)


@pytest.mark.parametrize("word, at", [("level with", (36.0, 0.0)), ("plumb with", (0.0, 36.0))])
def test_a_rim_that_is_lined_up_with_its_centre_does_not_go_through_it(word, at):
    """The circle shrank to nothing without a word: the place was taken to lie on what it was only level with."""
    m = Hand()
    s = m.sketch()
    (circle,) = m.draw(s, "circle", (0.0, 0.0, "origin", "origin"), (*at, word, "origin"))
    assert m.curve(s, circle).radius == 36
    (arc,) = m.draw(s, "arc", (50.0, 0.0), (70.0, 0.0), (60.0, 12.0, "level with", f"{circle}.centre"))
    assert m.curve(s, arc).place("start") == (50.0, 0.0) or m.curve(s, arc).place("end") == (50.0, 0.0)
    assert not any(c.kind == "coincident" and f"{circle}.centre" in c.on and arc in c.on for c in
                   m.model.sketch_step(s).sketch.constraints)  # fmt: skip


def test_nothing_makes_a_circle_vanish():
    m = Hand()
    s = m.sketch()
    (circle,) = m.draw(s, "circle", (0.0, 0.0, "origin", "origin"), (20.0, 0.0))
    with pytest.raises(Trouble):
        m.do("add_constraint", sketch=s, constraint="coincident", on=["origin", circle])
    assert m.curve(s, circle).radius == pytest.approx(20)
