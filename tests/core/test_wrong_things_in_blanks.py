"""Every blank of every step filled with every wrong thing: a sentence a person can act on, never an internal word."""

from __future__ import annotations

import re
from typing import Any

import pytest
from tests.hand import Hand, plate

from sketchlathe.core.errors import Trouble
from sketchlathe.core.registry import kind_of
from sketchlathe.core.steps.base import STEPS

FACE = {"atoms": ["s2:end"], "neighbours": [], "siblings": [], "centre": [0.5, 0.5, 1]}
EDGE = {"first": ["s2:end"], "second": ["s2:side:c9"], "ends": [[], []], "siblings": [], "centre": [0.5, 0, 1]}
WRONG: list[Any] = [
    None, True, 7, -3.5, 1e30, "", "words", "no_such_name + 1", "5 kg", "0", "-4 mm", "1/0", "9" * 500, [], [[]],
    [None], {}, ["s99"],
    [FACE], [EDGE], FACE, EDGE, {"plane": "slanted"}, {"plane": "top"}, {"axis": "w"}, {"face": FACE}, {"edge": EDGE},
    [{"sketch": "s1", "ref": "nothing"}], [{"sketch": "s99", "sides": ["c1+"], "known": []}],
    {"sketch": "s1", "line": "c999"},
    {"sketch": "s1", "curve": "c999"}, [{"sketch": "s1", "curve": "c999"}], {"atoms": []},
]  # fmt: skip
INTERNAL = re.compile(
    r"›|_type\b|Value error|[Ii]nput should|pydantic|NoneType|Traceback|object at 0x|KeyError|\bNone\b"
    r"|'[a-z_]+'|\b[a-z]+_[a-z]+\b|\bs\d+\b"
    r"|\(s\d+|Error\b|\bnull\b|\bdict\b|\btuple\b|FacePick|EdgePick|PlaneRef|AxisRef|RegionPick"
)


def wrong_message(message: str) -> str:
    """What is wrong with a refusal; empty if a person would say it so."""
    text = message.replace("no_such_name", "name")
    if not text or not (text[0].isupper() or text[0] in "“"):
        return "does not begin as a sentence"
    if text.rstrip()[-1] not in ".?!:)”":
        return "does not end as a sentence"
    found = INTERNAL.search(text)
    return f"says {found[0]!r}" if found else ""


@pytest.mark.parametrize("kind", [kind_of(k) for k in STEPS if not k.drawn])
def test_a_refusal_is_a_sentence(kind: str) -> None:
    hand, off = plate(), []
    base = hand.model
    for name in STEPS[kind].blanks():
        for value in WRONG:
            hand.model = base
            try:
                hand.step(kind, **{name: value})
                messages = hand.messages()
            except Trouble as problem:
                messages = [problem.message]
            off += [f"{name}={value!r}"[:80] + f": {bad}: {m[:150]}" for m in messages if (bad := wrong_message(m))]
    assert off == []


def test_a_blank_for_an_edge_refuses_a_face() -> None:
    hand: Hand = plate()
    for pick in ([FACE], FACE):
        with pytest.raises(Trouble) as told:
            hand.step("hole", at="face", face=[hand.face((0, 0, 1))], first="5 mm", first_edge=pick)
        assert wrong_message(told.value.message) == ""
