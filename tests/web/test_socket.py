"""What the socket of an open sketch answers, in order and out of it."""

import json

import pytest
from tests.conftest import Hand

from sketchlathe.service import modelling, shelf
from sketchlathe.web.socket import _Conversation


@pytest.fixture
def conversation(database, person, project):
    hand = Hand()
    sketch = hand.sketch()
    line = hand.draw(sketch, "line", (0, 0, "origin", "origin"), (20, 5))[0]
    row = shelf.make_model(database, person.id, project.id, "Socket", model=hand.model)
    made = _Conversation(database, person.id, row.id, sketch)
    made.line, made.row, made.sketch_id = line, row, sketch
    return made


def say(conversation, **message):
    return conversation.answer(json.dumps(message))


def test_grab_follow_drop_and_keep(conversation, database, person) -> None:
    point = f"{conversation.line}.end"
    assert say(conversation, n=1, do="grab", ref=point, at=[20, 5]) == {"n": 1}
    for n in range(2, 12):
        view = say(conversation, n=n, do="to", at=[20 + n, 5 + 2 * n])["view"]
        assert view["curves"][conversation.line][1][1] == pytest.approx((20 + n, 5 + 2 * n), abs=1e-6)
    moved = say(conversation, n=12, do="drop")["coordinates"]
    raw = {"kind": "move_geometry", "sketch": conversation.sketch_id, "curves": moved}
    after = modelling.change(database, person.id, conversation.row.id, None, json.loads(json.dumps(raw)))
    assert after.model.sketch_step(conversation.sketch_id).sketch.point(point) == pytest.approx((31, 27), abs=1e-6)


def test_late_messages_are_told_so(conversation) -> None:
    say(conversation, n=5, do="grab", ref=f"{conversation.line}.end", at=[20, 5])
    assert say(conversation, n=4, do="to", at=[90, 90]) == {"n": 4, "late": True}
    assert "view" in say(conversation, n=6, do="to", at=[22, 6])


@pytest.mark.parametrize(
    "text",
    [
        "", "{", "[]", "null", '{"n": "one"}', '{"n": 1, "do": "to", "at": [1, 2]}', '{"n": 1, "do": "drop"}',
        '{"n": 1, "do": "grab", "ref": "c999.end", "at": [0, 0]}',
        '{"n": 1, "do": "grab", "ref": "x_axis", "at": [0, 0]}',
        '{"n": 1, "do": "dimension", "on": "c3", "at": [0, 0]}',
        '{"n": 1, "do": "dimension", "on": ["c3"], "at": [NaN, 0]}',
        '{"n": 1, "do": "dimension", "on": ["c3"], "at": [1e99, 0]}', '{"n": 1, "do": "dance"}', "[" * 5000,
        '{"n": 1, "do": "preview", "draw": 3}', '{"n": 1, "do": "preview", "draw": {"tool": "circle", "places": []}}',
        '{"n": 1, "do": "preview", "draw": {"tool": "arc", "places": [{"at": [NaN, 1]}]}}',
        '{"n": 1, "do": "stretch", "ref": "c999", "at": [0, 0]}',
    ],
)  # fmt: skip
def test_bad_messages_get_a_sentence(conversation, text) -> None:
    assert len(conversation.answer(text)["message"]) > 10


def test_nan_never_moves_anything(conversation) -> None:
    say(conversation, n=1, do="grab", ref=f"{conversation.line}.end", at=[20, 5])
    assert "message" in conversation.answer('{"n": 2, "do": "to", "at": [NaN, 3]}')
    assert say(conversation, n=3, do="drop")["coordinates"] == {}


def test_a_dimension_is_drawn_before_it_is_kept(conversation) -> None:
    got = say(conversation, n=1, do="dimension", on=[conversation.line], at=[10, -8])["dimension"]
    assert got["form"] == "linear"
    assert got["value"] == "20.616 mm"  # beside one line its length is meant: √(20² + 5²)


def test_what_a_tool_would_draw_is_shown_before_it_is_kept(conversation) -> None:
    places = [{"at": [0, 0]}, {"at": [10, 0]}]
    draw = {"tool": "polygon", "places": places, "sizes": [""], "options": {"sides": 5, "measured": "corners"}}
    paths = say(conversation, n=1, do="preview", draw=draw)["preview"]["paths"]
    assert len([p for p in paths if not p["construction"]]) == 5
    stretch = say(conversation, n=2, do="stretch", ref=conversation.line, at=[5, 1])["stretch"]
    assert stretch["path"].startswith("M0 0L20 5")
