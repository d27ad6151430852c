"""Blind holes: flat where it is asked for and for inserts, as deep as an insert needs; what comes out is said."""

import math

import pytest
from tests.hand import Hand, plate

from sketchlathe.core.sizes.tables import TABLES

PI = math.pi


def drilled(thick: str, **fields: str) -> tuple[Hand, str, float]:
    hand = plate("60", "40", thick)
    whole = 60 * 40 * float(thick)
    step = hand.step("hole", at="face", face=[hand.face((0, 0, 1))], **fields)
    return hand, step, whole


def test_a_flat_bottom_takes_no_tip() -> None:
    hand, _, whole = drilled("20", diameter="6", reach="depth", depth="8", bottom="flat")
    assert hand.volume() == pytest.approx(whole - PI * 9 * 8, rel=1e-12)
    hand, step, _ = drilled("20", diameter="6", reach="depth", depth="8")
    assert hand.volume() == pytest.approx(whole - PI * 9 * (8 + 3 / math.tan(math.radians(59)) / 3), rel=1e-12)
    hand.do("set_fields", step=step, fields={"bottom": "flat"})
    assert hand.volume() == pytest.approx(whole - PI * 9 * 8, rel=1e-12)


def test_an_insert_stands_on_a_flat_bottom_and_is_as_deep_as_it_is_long() -> None:
    from sketchlathe.core.making.context import Context

    hand, step, whole = drilled("20", screw="M3", fit="insert", reach="depth", depth="5")
    bore = hand.model.part_of(step).steps[-1]
    wide = TABLES["inserts"].usual["M3"]
    assert hand.volume() == pytest.approx(whole - PI * (wide / 2) ** 2 * 5, rel=1e-12)  # no tip
    built = hand.build()
    context = Context(hand.model, built.steps[-2].left, {r.step: r for r in built.steps[:-1]}, bore)
    assert bore.better_defaults(context, {"screw", "fit"}) == {"reach": "depth", "depth": "6.7 mm"}
    assert "depth" not in bore.better_defaults(context, {"screw", "fit", "depth"})


@pytest.mark.parametrize(
    ("thick", "fields", "said", "fix"),
    [
        ("6", {"diameter": "4.2", "depth": "5"}, "comes out on the other side, 6 mm", {"bottom": "flat"}),
        ("6", {"diameter": "4.2", "depth": "5.9", "bottom": "flat"}, "Only 0.1 mm are left", {"reach": "through"}),
        ("6", {"diameter": "4.2", "depth": "5", "bottom": "flat"}, "", {}),
        ("12", {"diameter": "4.2", "depth": "5"}, "", {}),
    ],
)
def test_what_comes_out_or_leaves_less_than_a_layer_is_said(
    thick: str, fields: dict[str, str], said: str, fix: dict[str, str]
) -> None:
    hand, _, _ = drilled(thick, reach="depth", **fields)
    advice = hand.advice()
    assert bool(advice) == bool(said)
    if said:
        assert said in advice[0].text and dict(advice[0].fields) == fix
