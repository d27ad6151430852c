"""Planes, axes and points to build on: where they are by hand, and that they follow what they are set from."""

import math

import pytest
from tests.hand import Hand, plate

from sketchlathe.core.frames import ORIGIN_PLANES, dot


def datum(hand: Hand, **fields):
    """What a new datum step amounts to."""
    id = hand.step("datum", **fields)
    result = next(r for r in hand.build().steps if r.step == id)
    assert result.status == "ok", result.message
    return result.datum


def on_plane(frame, point) -> float:
    """How far a point is from a plane, mm."""
    return abs(frame.height(point))


@pytest.mark.parametrize(
    ("plane", "offset", "through"),
    [("top", "12", (0, 0, 12)), ("top", "-5", (0, 0, -5)), ("front", "7", (0, -7, 0)), ("right", "1 in", (25.4, 0, 0))],
)
def test_a_plane_off_another(plane, offset, through) -> None:
    made = datum(Hand(), form="offset", plane={"plane": plane}, offset=offset)
    assert on_plane(made.frame, through) < 1e-12
    assert dot(made.frame.normal, ORIGIN_PLANES[plane].normal) == pytest.approx(1)


@pytest.mark.parametrize("degrees", [0, 15, 45, 90, 135, -30])
@pytest.mark.parametrize("axis", ["x", "y"])
def test_a_plane_turned_about_an_axis(axis, degrees) -> None:
    """The top plane turned about x by t: its normal is (0, -sin t, cos t); about y: (sin t, 0, cos t)."""
    made = datum(Hand(), form="turned", plane={"plane": "top"}, axis={"axis": axis}, angle=f"{degrees}")
    t = math.radians(degrees)
    wanted = (0, -math.sin(t), math.cos(t)) if axis == "x" else (math.sin(t), 0, math.cos(t))
    assert made.frame.normal == pytest.approx(wanted, abs=1e-12)
    along = (5, 0, 0) if axis == "x" else (0, 5, 0)
    assert on_plane(made.frame, along) < 1e-12


def test_a_plane_midway_between_two_faces_follows_the_part() -> None:
    hand = plate("60", "40", "12")
    top, bottom = hand.face((0, 0, 1)), hand.face((0, 0, -1))
    id = hand.step("datum", form="midway", plane={"face": top}, other={"face": bottom})

    def height() -> float:
        return next(r for r in hand.build().steps if r.step == id).datum.frame.origin[2]

    assert height() == pytest.approx(6)
    hand.do("set_fields", step=hand.steps[1].id, fields={"distance": "30"})
    assert height() == pytest.approx(15)


def test_a_plane_midway_between_two_that_meet_halves_their_angle() -> None:
    made = datum(Hand(), form="midway", plane={"plane": "top"}, other={"plane": "right"})
    assert abs(made.frame.normal[1]) < 1e-12
    assert abs(dot(made.frame.normal, (0, 0, 1))) == pytest.approx(abs(dot(made.frame.normal, (1, 0, 0))))
    assert on_plane(made.frame, (0, 8, 0)) < 1e-12  # the line where they meet lies in it


def points(hand: Hand, *places: tuple[float, float]) -> list[dict[str, str]]:
    sketch = hand.sketch()
    return [{"sketch": sketch, "ref": f"{hand.draw(sketch, 'point', p)[0]}.at"} for p in places]


def test_a_plane_through_three_points() -> None:
    hand = Hand()
    flat = points(hand, (3, 4), (20, 5))
    upright = hand.sketch("front")
    third = {"sketch": upright, "ref": f"{hand.draw(upright, 'point', (6, 17))[0]}.at"}
    made = datum(hand, form="points", points=[*flat, third])
    for place in ((3, 4, 0), (20, 5, 0), (6, 0, 17)):
        assert on_plane(made.frame, place) < 1e-9


@pytest.mark.parametrize("places", [[(0, 0), (5, 5)], [(0, 0), (5, 5), (10, 10)], [(0, 0), (1, 0), (0, 1), (2, 2)]])
def test_points_that_give_no_plane_are_refused_with_words(places) -> None:
    hand = Hand()
    hand.step("datum", form="points", points=points(hand, *places))
    (message,) = hand.messages()
    assert "three points" in message


def test_an_axis_along_an_edge_and_of_a_round_face() -> None:
    hand = plate("60", "40", "10")
    edge = datum(hand, form="axis", axis={"edge": hand.edges((60, 20, 10))[0]})
    assert abs(edge.direction[1]) == pytest.approx(1)
    assert (edge.origin[0], edge.origin[2]) == pytest.approx((60, 10))
    s = hand.sketch()
    hand.draw(s, "circle", (22, 13), (25, 13), sizes=("6",))
    hand.step("extrude", regions=hand.regions(s), reach="through", result="cut")
    bore = datum(hand, form="axis", axis={"face": hand.face_where("", "cylindrical")})
    assert abs(bore.direction[2]) == pytest.approx(1)
    assert bore.origin[:2] == pytest.approx((22, 13))


def test_an_axis_along_a_drawn_line_turns_with_it() -> None:
    hand = Hand()
    s = hand.sketch()
    (line,) = hand.draw(s, "line", (0, 0, "origin", "origin"), (20, 10))
    id = hand.step("datum", form="axis", axis={"sketch": s, "line": line})

    def direction():
        return next(r for r in hand.build().steps if r.step == id).datum.direction

    assert direction() == pytest.approx((2 / math.sqrt(5), 1 / math.sqrt(5), 0))
    hand.do("delete_from_sketch", sketch=s, ids=[line])
    assert "not in Sketch 1 any more" in hand.messages()[0]


def test_a_point_by_formulas() -> None:
    hand = Hand()
    hand.do("add_parameter", name="reach", formula="14 mm")
    made = datum(hand, form="point", x="reach", y="reach / 2", z="-3")
    assert made.origin == pytest.approx((14, 7, -3))


def test_a_ring_of_holes_about_a_datum_axis() -> None:
    """Six holes about the axis of a bore that is nowhere near the origin."""
    hand = Hand()
    s = hand.sketch()
    hand.draw(s, "circle", (50, 30), (80, 30), sizes=("60",))
    hand.draw(s, "circle", (50, 30, "centre", f"{hand.curves(s)[0].id}.centre"), (58, 30), sizes=("16",))
    regions = hand.regions(s, 0)
    hand.step("extrude", regions=regions, distance="5")
    axis = hand.step("datum", form="axis", axis={"face": hand.face_where("", "cylindrical")})
    h = hand.sketch()
    hand.draw(h, "circle", (70, 30), (72, 30), sizes=("4",))
    hole = hand.step("extrude", regions=hand.regions(h), reach="through", result="cut")
    before = hand.volume()
    hand.step("pattern", steps=[hole], axis={"datum": axis}, count="6")
    assert hand.messages() == []
    assert before - hand.volume() == pytest.approx(5 * 4 * math.pi * 5)


def test_a_loop_or_a_lost_plane_says_which(hand) -> None:
    first = hand.step("datum", form="offset", plane={"plane": "top"}, offset="5")
    s = hand.step("sketch", plane={"datum": first})
    hand.do("delete_step", step=first, leave_users=True)
    assert any("deleted" in m for m in hand.messages())
    assert hand.model.sketch_step(s)


def test_an_axis_is_not_a_plane() -> None:
    hand = Hand()
    axis = hand.step("datum", form="axis", axis={"axis": "z"})
    hand.step("sketch", plane={"datum": axis})
    assert "is not a plane" in hand.messages()[0]
