"""Rounding and cutting off all corners of what is selected; expected areas from closed formulas."""

import math

import pytest
from tests.hand import ORIGIN, Hand

from sketchlathe.core.errors import Trouble


def rectangle() -> tuple[Hand, str, list[str]]:
    hand = Hand()
    s = hand.sketch()
    return hand, s, hand.draw(s, "rectangle", ORIGIN, (50, 30), sizes=("60", "40"))


def test_all_corners_of_a_rectangle_have_one_radius() -> None:
    hand, s, lines = rectangle()
    hand.do("fillet_corner", sketch=s, on=lines, radius="5")
    assert hand.areas(s) == pytest.approx([2400 - (4 - math.pi) * 25])
    assert hand.freedom(s) == 0
    (radius,) = hand.constraints(s, "radius")
    hand.do("set_dimension", sketch=s, id=radius.id, value="8 mm")
    assert hand.areas(s) == pytest.approx([2400 - (4 - math.pi) * 64])


def test_all_corners_of_a_rectangle_are_cut_off() -> None:
    hand, s, lines = rectangle()
    hand.do("chamfer_corner", sketch=s, on=lines, size="3")
    assert hand.areas(s) == pytest.approx([2400 - 4 * 4.5])
    assert hand.freedom(s) == 0


def test_only_corners_among_what_is_selected() -> None:
    hand, s, lines = rectangle()
    hand.do("fillet_corner", sketch=s, on=lines[:3], radius="5")
    assert hand.areas(s) == pytest.approx([2400 - (4 - math.pi) / 2 * 25])


def test_what_runs_on_without_a_corner_is_left() -> None:
    hand, s, lines = rectangle()
    hand.do("fillet_corner", sketch=s, on=lines[:2], radius="5")
    everything = [c.id for c in hand.curves(s) if c.kind in ("line", "arc")]
    hand.do("fillet_corner", sketch=s, on=everything, radius="3")
    assert hand.areas(s) == pytest.approx([2400 - (4 - math.pi) / 4 * (25 + 3 * 9)])


def test_no_corner_among_them_is_told() -> None:
    hand = Hand()
    s = hand.sketch()
    lines = [i for y in (0, 5, 10) for i in hand.draw(s, "line", (0, y), (20, y))]
    with pytest.raises(Trouble, match="meet in a corner"):
        hand.do("fillet_corner", sketch=s, on=lines, radius="2")
