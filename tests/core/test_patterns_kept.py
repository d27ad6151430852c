"""Patterns outlive changes of their originals and of their numbers; expected areas and volumes from closed formulas."""

from __future__ import annotations

import math

import pytest
from tests.hand import Hand, plate

from sketchlathe.core.errors import Trouble


@pytest.mark.parametrize(("about", "step"), [("x_axis", "30 mm"), ("origin", "")])
def test_trimming_the_original_circle_trims_every_member(about: str, step: str) -> None:
    hand = Hand()
    s = hand.sketch()
    (circle,) = hand.draw(s, "circle", (40, 0), (45, 0), sizes=("10 mm",))
    (cut,) = hand.draw(s, "line", (40, -8), (40, 8))
    hand.do("pattern_curves", sketch=s, ids=[circle, cut], about=about, count=3, step=step)
    before = hand.areas(s)
    hand.do("trim", sketch=s, stretches=[{"id": circle, "at": [35, 0]}])
    (pattern,) = (c for c in hand.model.sketch_step(s).sketch.constraints if c.kind in ("row", "ring"))
    assert pattern.count == 3
    arcs = [c for c in hand.curves(s) if c.kind == "arc"]
    assert len(arcs) == 3 and all(a.radius == pytest.approx(5, abs=1e-9) for a in arcs)
    assert len(before) == 6 and hand.areas(s) == pytest.approx([math.pi * 25 / 2] * 3, rel=1e-9)
    # the members follow still
    size = next(
        c.id for c in hand.model.sketch_step(s).sketch.constraints if c.kind in ("radius", "diameter", "round_size")
    )
    hand.do("set_dimension", sketch=s, id=size, value="12 mm")
    assert all(c.radius == pytest.approx(6, abs=1e-9) for c in hand.curves(s) if c.kind == "arc")


def test_an_original_cut_in_two_is_repeated_in_two() -> None:
    hand = Hand()
    s = hand.sketch()
    (line,) = hand.draw(s, "line", (0, 10), (20, 10))
    for x in (8, 12):
        hand.draw(s, "line", (x, 5), (x, 15))
    hand.do("pattern_curves", sketch=s, ids=[line], about="y_axis", count=3, step="10 mm")
    hand.do("trim", sketch=s, stretches=[{"id": line, "at": [10, 10]}])
    level = sorted((round(c.start[1], 6), round(min(c.start[0], c.end[0]), 6), round(max(c.start[0], c.end[0]), 6))
                   for c in hand.curves(s) if abs(c.start[1] - c.end[1]) < 1e-9)  # fmt: skip
    assert level == [(y, *ends) for y in (10, 20, 30) for ends in ((0, 8), (12, 20))]


def grid(hand: Hand, **fields: str) -> str:
    s = hand.sketch()
    hand.draw(s, "circle", (5, 5), (6, 5), sizes=("2 mm",))
    hole = hand.step("extrude", regions=hand.regions(s), result="cut", reach="through")
    return hand.step(
        "pattern", steps=[hole], form="row", axis={"axis": "x"}, count="3", spacing="8 mm", second={"axis": "y"},
        second_count="3", second_spacing="8 mm", **fields,
    )  # fmt: skip


def gaps(hand: Hand, columns: int, rows: int) -> list[tuple[int, int]]:
    """The (column, row) of a grid at which no round wall stands."""
    found = {(round((f["centre"][0] - 5) / 8) + 1, round((f["centre"][1] - 5) / 8) + 1)
             for f in hand.packed()["faces"] if f["form"] == "cylindrical"}  # fmt: skip
    return [(c, r) for r in range(1, rows + 1) for c in range(1, columns + 1) if (c, r) not in found]


def test_a_gap_of_a_grid_stays_where_it_is() -> None:
    hand = plate("60", "40", "10")
    pattern = grid(hand, leave_out="2.3, 3.1")
    assert gaps(hand, 3, 3) == [(3, 1), (2, 3)]
    hand.do("set_fields", step=pattern, fields={"count": "5"})
    assert gaps(hand, 5, 3) == [(3, 1), (2, 3)]


def test_running_numbers_of_a_grid_become_places_when_typed() -> None:
    hand = plate("60", "40", "10")
    pattern = grid(hand)
    hand.do("set_fields", step=pattern, fields={"leave_out": "6"})
    assert gaps(hand, 3, 3) == [(3, 2)]
    hand.do("set_fields", step=pattern, fields={"count": "4"})
    assert gaps(hand, 4, 3) == [(3, 2)]


@pytest.mark.parametrize("wrong", ["2.", "x", "2.3.1", "0.1", "-2"])
def test_a_place_that_is_not_in_form_is_told(wrong: str) -> None:
    hand = plate("60", "40", "10")
    try:
        grid(hand, leave_out=wrong)
    except Trouble as problem:
        assert problem.message
    else:
        assert any("left out" in m or "leave out" in m for m in hand.messages())


def round_centre(hand: Hand) -> tuple[float, ...]:
    found = [f["centre"] for b in hand.build().bodies for f in hand.packed(b.id)["faces"] if f["form"] == "cylindrical"]
    assert len(found) == 1 and hand.messages() == []
    return tuple(found[0])


def test_what_is_picked_of_a_member_of_a_grid_stays_there() -> None:
    hand = Hand()
    hand.step("block", width="4", depth="4", height="4")
    pattern = hand.step(
        "pattern", what="bodies", form="row", axis={"axis": "x"}, count="3", spacing="10", second={"axis": "y"},
        second_count="3", second_spacing="10", unite="separate",
    )  # fmt: skip
    hand.step("fillet", edges=hand.edges((22, 10, 4)), radius="1")
    before = round_centre(hand)
    assert before[0] > 15 and before[1] > 5
    hand.do("set_fields", step=pattern, fields={"count": "4"})
    assert round_centre(hand) == pytest.approx(before)


def test_an_axis_through_a_point_stands_on_the_sketch_and_turns_round() -> None:
    hand = Hand()
    s = hand.sketch("front")
    (point,) = hand.draw(s, "point", (7, 3))
    for reversed_, y in ((False, -1), (True, 1)):
        made = hand.step("datum", form="axis", axis={"sketch": s, "point": f"{point}.at", "reversed": reversed_})
        datum = next(r.datum for r in hand.build().steps if r.step == made)
        assert datum.origin == pytest.approx((7, 0, 3)) and datum.direction == pytest.approx((0, y, 0))


def test_a_turn_about_an_axis_the_other_way_round() -> None:
    middles = []
    for reversed_ in (False, True):
        hand = plate("60", "40", "5")
        hand.step("move", how="turn", axis={"axis": "z", "reversed": reversed_}, angle="90", keep="move")
        low, high = box(hand)
        middles.append(((low[0] + high[0]) / 2, (low[1] + high[1]) / 2))
    assert middles == [pytest.approx((-20, 30)), pytest.approx((20, -30))]


def box(hand: Hand) -> tuple[tuple[float, ...], tuple[float, ...]]:
    from sketchlathe.core.solid.measuring import box_of

    return box_of(hand.build().bodies[0].shape)
