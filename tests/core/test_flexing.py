"""How far numbers go: against plane geometry; limits; ranges as typed."""

import math

import pytest
from tests.batteries import flexes
from tests.hand import Hand, plate

from sketchlathe.core.errors import BadInput
from sketchlathe.core.inspect.flexing import Probe, corners, reaches, span_of
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.model.advising import advise
from sketchlathe.core.model.knobs import knob_of, knobs


@pytest.mark.parametrize(("name", "case"), list(flexes.cases(1)))
def test_numbers_break_where_geometry_says(name, case) -> None:
    assert flexes.wrong(case) == []


def test_a_part_stays_what_it_is_when_only_sizes_change() -> None:
    hand = plate("60", "40", "5")
    probe = Probe(hand.model, "p1", BuildCache())
    for knob in knobs(hand.model, hand.model.parts[0]):
        outcome = probe.try_edits([knob.turned(knob.value * 1.5, hand.model)])
        assert outcome.holds, outcome
        assert not outcome.same


def test_a_parameter_that_nothing_uses_makes_no_difference() -> None:
    hand = plate()
    hand.do("add_parameter", name="idle", formula="3")
    knob = knob_of(hand.model, hand.model.parts[0], "p:idle")
    assert Probe(hand.model, "p1", BuildCache()).try_edits([knob.turned(9, hand.model)]).same


def _row_of_posts() -> tuple[Hand, str]:
    hand = plate("200", "40", "5")
    s = hand.sketch()
    hand.draw(s, "circle", (15, 20), (20, 20), sizes=("10",))
    post = hand.step("extrude", regions=hand.regions(s), distance="20")
    row = hand.step("pattern", form="row", axis={"axis": "x"}, steps=[post], count="3", spacing="40")
    return hand, row


def test_another_count_is_no_breakage() -> None:
    hand, row = _row_of_posts()
    assert all(r.status == "ok" for r in hand.build().steps)
    knob = next(k for k in knobs(hand.model, hand.model.parts[0]) if k.whole and k.step == row)
    probe = Probe(hand.model, "p1", BuildCache())
    assert probe.try_edits([knob.turned(4, hand.model)]).holds
    down, up = reaches(knob)
    assert all(v == round(v) >= 1 for v in (*down.rungs, *up.rungs))


def test_a_typed_range_is_walked_and_an_empty_one_refused() -> None:
    hand = plate("60", "40", "5")
    thick = next(k for k in knobs(hand.model, hand.model.parts[0]) if k.value == 5)
    assert span_of(thick, "", "", hand.model) is None
    down, up = reaches(thick, span_of(thick, "2", "1 cm", hand.model))
    assert down.rungs[-1] == 2
    assert up.rungs[-1] == 10
    assert span_of(thick, "", "8", hand.model) == (5, 8)
    with pytest.raises(BadInput, match="empty"):
        span_of(thick, "9", "3", hand.model)


def test_numbers_in_pairs_are_tried_at_all_four_ends() -> None:
    hand = plate("60", "40", "5")
    ids = [k.id for k in knobs(hand.model, hand.model.parts[0])][:3]
    found = corners(hand.model, hand.model.parts[0], [(id, 20, 80) for id in ids])
    assert len(found) == 3 * 4
    assert {tuple(c["values"]) for c in found} == {(20, 20), (20, 80), (80, 20), (80, 80)}


def test_limits_are_checked_from_then_on_and_follow_a_new_name() -> None:
    hand = Hand()
    hand.do("add_parameter", name="width", formula="40")
    s = hand.sketch()
    hand.draw(s, "rectangle", (0, 0, "origin", "origin"), (40, 30), sizes=("width", "30"))
    step = hand.step("extrude", regions=hand.regions(s), distance="4")

    def said() -> list[str]:
        part = hand.model.parts[0]
        return [a.text for found in advise(hand.model, part, hand.build()).values() for a in found]

    hand.do("set_limits", part="p1", knob="p:width", low="10", high="5 cm")
    hand.do("set_limits", part="p1", knob=f"f:{step}:distance", low="3")
    assert said() == []
    hand.do("set_parameter", name="width", formula="60")
    hand.do("set_fields", step=step, fields={"distance": "2"})
    assert any("width is 60 mm, above its limit of 5 cm" in t for t in said())
    assert any("distance of Extrude 1 is 2 mm, below its limit of 3" in t for t in said())
    hand.do("rename_parameter", name="width", to="w")
    assert any("w is 60 mm" in t for t in said())
    with pytest.raises(BadInput, match="leave nothing"):
        hand.do("set_limits", part="p1", knob="p:w", low="9", high="3")
    hand.do("delete_step", step=step)
    assert not any("distance" in t for t in said())
    assert math.isclose(hand.model.table["w"].value, 60)


def test_a_part_that_is_broken_as_it_is_says_so() -> None:
    hand = plate("60", "40", "5")
    assert Probe(hand.model, "p1", BuildCache()).try_edits([]).holds
    fillet = hand.step("fillet", edges=hand.edges((0, 0, 2.5)), radius="2")
    hand.do("set_fields", step=fillet, fields={"radius": "90"})
    outcome = Probe(hand.model, "p1", BuildCache()).try_edits([])
    assert (outcome.holds, outcome.step) == (False, fillet)
