"""What was worked out of a frozen thing is that of this very thing, and goes with it."""

from __future__ import annotations

import gc

from tests.hand import plate

from sketchlathe.core.model.edits import apply_edit, parse_edit
from sketchlathe.core.remembering import once_each
from sketchlathe.core.steps.base import sentence_of


class Thing:
    def __init__(self, says: int) -> None:
        self.says = says

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Thing) and self.says == other.says

    def __hash__(self) -> int:
        return hash(self.says)


def test_each_thing_is_asked_once_and_equal_ones_by_themselves() -> None:
    asked: list[Thing] = []

    @once_each
    def twice(thing: Thing) -> int:
        asked.append(thing)
        return 2 * thing.says

    one, other = Thing(3), Thing(3)
    assert [twice(one), twice(one), twice(other)] == [6, 6, 6]
    assert len(asked) == 2 and asked[0] is one and asked[1] is other


def test_nothing_is_left_of_things_that_are_gone() -> None:
    seen: list[int] = []

    @once_each
    def number(thing: Thing) -> int:
        seen.append(thing.says)
        return thing.says

    # things that come where others were must not get what was found of those
    for says in range(2000):
        assert number(Thing(says)) == says
    gc.collect()
    assert seen == list(range(2000))
    (kept,) = (cell.cell_contents for cell in number.__closure__ if isinstance(cell.cell_contents, dict))
    assert kept == {}


def test_a_changed_step_says_what_it_is_now() -> None:
    hand = plate("60", "40", "5")
    step = hand.steps[1]

    def said(model) -> str:
        return "".join(piece["text"] for piece in sentence_of(model.step(step.id), model))

    before = said(hand.model)
    edit = {"kind": "set_fields", "step": step.id, "fields": {"distance": "7 mm"}}
    after = apply_edit(hand.model, parse_edit(edit))
    assert "5" in before and "7 mm" in said(after) and said(hand.model) == before
    named = apply_edit(after, parse_edit({"kind": "rename_step", "step": hand.steps[0].id, "name": "Outline"}))
    assert named.title_of(hand.steps[0].id) == "Outline" != after.title_of(hand.steps[0].id)
