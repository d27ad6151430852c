"""What one limit refuses on reading, no edit may make: each limit of the document is gone past
by one, through edits.
"""

from __future__ import annotations

import json
import re
from typing import Any

import pytest
from tests.hand import Hand, plate

from sketchlathe.core.errors import BadInput, Trouble
from sketchlathe.core.model.document import Parameter, read_model
from sketchlathe.core.model.edits import apply_edit, parse_edit


def grown(hand: Hand, **update: Any) -> Hand:
    """A hand whose part has fields filled to their limit (as an older program, or many edits, would)."""
    part = hand.model.parts[0]
    hand.model = hand.model.with_part(part.model_copy(update=update))
    return hand


def at_limit(what: str) -> tuple[Hand, dict[str, Any], str]:
    """A hand at some limit, the edit that goes one past it, and what the refusal says."""
    hand = plate()
    if what == "parameters":
        hand.model = hand.model.changed(parameters=tuple(Parameter(name=f"v{i}", formula="1 mm") for i in range(500)))
        return hand, {"kind": "add_parameter", "name": "more", "formula": "2"}, "at most 500 parameters"
    if what == "materials":
        for i in range(100):
            hand.do("keep_material", name=f"Stuff {i}", density=1.0)
        return hand, {"kind": "keep_material", "name": "One more", "density": 1.0}, "at most 100 materials"
    if what == "paints":
        one = hand.do("paint", part="p1", body="s9", colour="#112233").parts[0].paints[0]
        grown(hand, paints=tuple(one.model_copy(update={"body": f"b{i}"}) for i in range(500)))
        return hand, {"kind": "paint", "part": "p1", "body": "other", "colour": "#112233"}, "at most 500 colours"
    if what == "made_of":
        one = hand.do("set_material", part="p1", material="pla", body="s9").parts[0].made_of[0]
        grown(hand, made_of=tuple(one.model_copy(update={"body": f"b{i}"}) for i in range(500)))
        edit = {"kind": "set_material", "part": "p1", "material": "pla", "body": "other"}
        return hand, edit, "at most 500 bodies with a material"
    if what == "a renamed parameter":
        hand.do("add_parameter", name="w", formula="1")
        hand.do("add_parameter", name="long", formula=" + ".join(["w"] * 100))
        return hand, {"kind": "rename_parameter", "name": "w", "to": "very_wide"}, "at most 400 characters"
    step = hand.steps[1]
    grown(hand, steps=(*hand.steps, *(step.model_copy(update={"id": f"x{i}"}) for i in range(498))))
    hand.model = hand.model.changed(next_id=9000)
    return hand, {"kind": "duplicate_step", "step": step.id}, "500 steps"


@pytest.mark.parametrize("what", ["parameters", "materials", "paints", "made_of", "a renamed parameter", "steps"])
def test_one_past_a_limit_is_refused_and_nothing_changes(what: str) -> None:
    hand, edit, says = at_limit(what)
    before = hand.model
    with pytest.raises(Trouble, match=says) as refused:
        hand.model = apply_edit(hand.model, parse_edit(edit))
    assert hand.model is before
    assert not re.search(r"[_›{}]|\bctx\b|Value error", refused.value.message)
    assert read_model(json.loads(json.dumps(hand.model.as_json()))).as_json() == hand.model.as_json()


def test_what_edits_make_reads_again(monkeypatch) -> None:
    """Every document on the way of whole parts made by hand is read again, and is the same."""
    from tests.batteries import formulas

    done = Hand.do

    def and_read(self: Hand, kind: str, **fields: Any) -> Any:
        model = done(self, kind, **fields)
        again = read_model(json.loads(json.dumps(model.as_json())))
        assert again.as_json() == model.as_json()
        return model

    monkeypatch.setattr(Hand, "do", and_read)
    assert formulas.errors(1)[1] == []


def test_bad_data_is_told_without_paths_or_class_names() -> None:
    document = plate().model.as_json()
    for change in (
        {"units": "mile"}, {"parameters": [{"name": "a"}]}, {"parameters": [{"name": "a", "formula": 3}]},
        {"parts": [{**document["parts"][0], "steps": [{"kind": "extrude", "id": "s1", "regions": 4}]}]},
        {"parts": [{**document["parts"][0], "now": 700}]}, {"version": 1.5}, {"materials": "wood"},
        {"parts": [{**document["parts"][0], "paints": [{"colour": "red"}]}]},
    ):  # fmt: skip
        with pytest.raises(BadInput) as told:
            read_model({**document, **change})
        assert not re.search(r"›|_type|Value error|input should|\[type|pydantic", told.value.message, re.IGNORECASE), (
            told.value
        )
        assert told.value.message[0].isupper()
