"""The model as data: files, versions, hostile input, edits, kinds that register themselves, layers."""

import json
from typing import Annotated, Literal

import jsonpatch
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.conftest import Hand, plate

from sketchlathe.core.blanks import Blank, Formula
from sketchlathe.core.errors import BadInput, Refused, Trouble
from sketchlathe.core.exchange.modelfile import dump_model, load_model
from sketchlathe.core.model.edits import EDITS, parse_edit
from sketchlathe.core.model.patches import difference
from sketchlathe.core.steps.base import STEPS, Step, describe_steps, plain_sentence

JSON = st.recursive(
    st.none() | st.booleans() | st.integers(-9, 9) | st.text(max_size=3),
    lambda inner: st.lists(inner, max_size=5) | st.dictionaries(st.text("ab/~", max_size=2), inner, max_size=4),
    max_leaves=20,
)


@given(JSON, JSON)
def test_patches_lead_there_and_back(old: object, new: object) -> None:
    a, b = {"x": old}, {"x": new}
    assert jsonpatch.apply_patch(a, difference(a, b)) == b
    assert jsonpatch.apply_patch(b, difference(b, a)) == a


def test_a_model_file_comes_back_the_same() -> None:
    hand = plate()
    hand.do("add_parameter", name="höhe", formula="4 mm", note="größe")
    again = load_model(dump_model(hand.model))
    assert again.as_json() == hand.model.as_json()
    assert Hand(again).volume() == hand.volume()


def broken(**change: object) -> bytes:
    raw = plate().model.as_json()
    raw.update(change)
    return json.dumps(raw).encode()


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "damaged"), (b"\xff\xfe\x00\x01", "not text"), (b'{"format": "sketch-lathe-model", "ver', "cut short"),
        (b"[]", "not a Sketch Lathe"), (b'{"format": "other"}', "not a Sketch Lathe"), (b"[" * 500, "nested"),
        (broken(version=99), "version 99"), (broken(version="1"), "which version"),
        (broken(parts=[]), "at least 1 part"),
        (broken(surprise=1), "surprise"), (broken(name="x" * 5000), "name"), (broken(next_id=1), "next_id"),
        (broken(parameters=[{"name": "a", "formula": "b"}, {"name": "b", "formula": "a"}]), "loop"),
        (dump_model(plate().model).replace(b"60 mm", b"60 m$"), "damaged|cannot|sound|60"),
        (b'{"format": "sketch-lathe-model", "version": 1, "name": NaN}', "NaN"), (b"x" * 20_000_001, "too large"),
    ],
)  # fmt: skip
def test_hostile_files_get_a_sentence(data: bytes, says: str) -> None:
    if b"60 m$" in data:
        assert "60 m$" in Hand(load_model(data)).build().steps[0].message  # readable: the step says what is wrong
        return
    with pytest.raises(BadInput, match=says):
        load_model(data)


@pytest.mark.parametrize(
    "raw",
    [
        None, {}, {"kind": "no_such"}, {"kind": "draw"}, {"kind": "rename_model", "name": "x" * 1_000_000},
        {"kind": "move_geometry", "sketch": "s2", "curves": {"c3": {"start": [float("nan"), 0]}}},
        {"kind": "draw", "sketch": "s2", "tool": "line", "places": [{"at": [float("inf"), 0]}, {"at": [0, 0]}]},
        {"kind": "draw", "sketch": "s2", "tool": "line", "places": [{"at": [1, 1]}, {"at": [1, 1]}]},
        {"kind": "draw", "sketch": "s2", "tool": "circle", "places": [{"at": [1, 1]}, {"at": [2, 1]}], "sizes": ["-4"]},
        {"kind": "draw", "sketch": "s2", "tool": "line", "places": [{"at": [0, 0]}]},
        {"kind": "add_constraint", "sketch": "s2", "constraint": "parallel", "on": ["origin", "origin"]},
        {"kind": "add_constraint", "sketch": "s2", "constraint": "equal", "on": ["c99", "c98"]},
        {"kind": "add_dimension", "sketch": "s2", "on": ["c3"], "at": [0, 0], "value": "0"},
        {"kind": "add_dimension", "sketch": "s2", "on": ["c3"], "at": [0, 0], "value": "1/0"},
        {"kind": "set_dimension", "sketch": "s2", "id": "k999", "value": "3"},
        {"kind": "delete_from_sketch", "sketch": "s2", "ids": ["c999"]},
        {"kind": "set_fields", "step": "s2", "fields": {"sketch": {}}},
        {"kind": "add_step", "part": "p1", "step": "extrude", "fields": {"regions": [{"sketch": "s2"}]}},
        {"kind": "add_parameter", "name": "sin", "formula": "1"},
        {"kind": "add_parameter", "name": "a", "formula": "a"},
        {"kind": "set_parameter", "name": "none", "formula": "1"}, {"kind": "set_units", "units": "furlong"},
        {"kind": "set_material", "part": "p1", "material": "cheese"}, {"kind": "move_step", "step": "s2", "to": -1},
    ],
)  # fmt: skip
def test_bad_edits_get_a_sentence_and_change_nothing(raw: object) -> None:
    hand = plate()
    before = hand.model
    with pytest.raises(Trouble) as problem:
        hand.do(**raw) if isinstance(raw, dict) and "kind" in raw else parse_edit(raw)  # type: ignore[arg-type]
    assert str(problem.value).strip()
    assert hand.model is before


def test_ids_are_never_used_again() -> None:
    hand = plate()
    first = {c.id for c in hand.curves(hand.steps[0].id)}
    hand.do("delete_from_sketch", sketch=hand.steps[0].id, ids=sorted(first))
    hand.draw(hand.steps[0].id, "circle", (0, 0), (5, 0))
    assert not first & {c.id for c in hand.curves(hand.steps[0].id)}


def test_renaming_a_parameter_is_followed_everywhere() -> None:
    hand = Hand()
    hand.do("add_parameter", name="wide", formula="60")
    hand.do("add_parameter", name="half", formula="wide / 2")
    s = hand.sketch()
    hand.draw(s, "rectangle", (0, 0, "origin", "origin"), (9, 9), sizes=("wide", "half"))
    hand.step("extrude", regions=hand.regions(s), distance="wide / 10")
    before = hand.volume()
    hand.do("rename_parameter", name="wide", to="breadth")
    assert "wide" not in json.dumps(hand.model.as_json())
    assert hand.volume() == before == pytest.approx(60 * 30 * 6)
    with pytest.raises(Refused, match="used by"):
        hand.do("delete_parameter", name="breadth")


def test_changing_units_changes_no_size() -> None:
    hand = plate("60", "40", "5")
    before = hand.volume()
    hand.do("set_units", units="in")
    assert hand.volume() == before
    hand.do("set_fields", step=hand.steps[1].id, fields={"distance": "1"})
    assert hand.volume() == pytest.approx(before / 5 * 25.4)


def test_every_edit_says_what_it_was() -> None:
    hand = Hand()
    said = []
    for raw in (
        {"kind": "add_parameter", "name": "a", "formula": "3"},
        {"kind": "rename_parameter", "name": "a", "to": "b"},
        {"kind": "set_units", "units": "in"},
        {"kind": "rename_part", "part": "p1", "name": "Lid"},
        {"kind": "add_step", "part": "p1", "step": "sketch", "fields": {"plane": {"plane": "front"}}},
        {"kind": "delete_parameter", "name": "b"},
    ):
        before = hand.model
        said.append(parse_edit(raw).summary(before, hand.do(**raw)))
    assert said[0] == "Parameter a = 3 mm"
    assert all(text and text[0].isupper() for text in said)
    assert len(list(EDITS)) >= 18


def test_a_new_kind_of_step_needs_its_module_only() -> None:
    """Registered here, it is described, parsed, said and built like any other."""

    class Halve(Step):
        kind: Literal["halve_for_test"] = "halve_for_test"
        word = "Halve"
        sentence = "Halve it {much}"
        much: Annotated[Formula, Blank("length", "how much")] = "1 mm"

        def build(self, context: object) -> None:
            context.bodies = context.bodies[:1] if context.value(self, "much") > 0 else ()  # type: ignore[attr-defined]

    try:
        described = next(k for k in describe_steps() if k["kind"] == "halve_for_test")
        assert described["blanks"]["much"]["type"] == "length"
        hand = plate()
        step = hand.step("halve_for_test", much="2 in")
        assert plain_sentence(hand.model.step(step), hand.model) == "Halve it 2 in"
        assert hand.build().steps[-1].status == "ok"
        assert load_model(dump_model(hand.model)).step(step).kind == "halve_for_test"
    finally:
        STEPS.forget("halve_for_test")


def test_the_web_process_never_loads_the_kernel() -> None:
    import subprocess
    import sys

    look = "import sys, sketchlathe.web.app, sketchlathe.commands.demo as d; sys.exit('OCP' in sys.modules)"
    assert subprocess.run([sys.executable, "-c", look], check=False).returncode == 0


def test_an_evaluated_sketch_is_another_thing_than_the_stored_one() -> None:
    hand = Hand()
    hand.do("add_parameter", name="wide", formula="40 mm")
    sketch = hand.sketch()
    (line,) = hand.draw(sketch, "line", (0, 0, "origin", "origin"), (30, 0))
    hand.do("add_dimension", sketch=sketch, on=[line], value="wide", at=[15, 5])
    stored = hand.model.sketch_step(sketch).sketch
    valued = hand.evaluated(sketch)
    (size,) = hand.constraints(sketch, "distance")
    # 40 mm by the parameter, in mm; the stored one knows the formula only
    assert (valued.value_of(size.id), stored.value_of(size.id)) == (40.0, None)
    assert valued.model_dump() == stored.model_dump() and valued.plain() == stored != valued
    assert b'"values"' not in dump_model(hand.model)
    # what is drawn otherwise keeps the values; what was found out goes along with the same curves only
    assert valued.with_curves(valued.curves[:0]).values == valued.values
    asked: list[int] = []
    assert [s.found("count", lambda s: asked.append(1) or len(s.curves)) for s in (valued, valued.plain())] == [1, 1]
    assert len(asked) == 1
    assert valued.with_curves(()).found("count", lambda s: len(s.curves)) == 0
    # one more size, beside those that are known
    assert valued.with_value("k99", 2.5).values == {**valued.values, "k99": 2.5}
    assert stored.with_value("k99", 2.5).values == {"k99": 2.5}
