"""Input nobody should send: a clear sentence or a sane result, and the sketch is what it was."""

import math
from typing import Any

import pytest
from pydantic import ValidationError
from tests.hand import Hand

from sketchlathe.core.errors import BadInput, Trouble
from sketchlathe.core.sketch.document import MAX_CURVES

ORIGIN = (0.0, 0.0, "origin", "origin")


@pytest.fixture
def s(hand: Any) -> str:
    return hand.sketch()


def unchanged(hand: Any, **edit: Any) -> str:
    """The message of an edit that is refused and changes nothing."""
    before = hand.model
    with pytest.raises((Trouble, ValidationError)) as caught:
        hand.do(**edit)
    assert hand.model is before
    return str(caught.value)


@pytest.mark.parametrize("value", ["0", "-5", "1/0", "nan", "inf", "1e99", "", "5 kg", "12 deg", "(((", "__import__"])
def test_a_dimension_needs_a_sane_size(hand: Any, s: str, value: str) -> None:
    line = hand.draw(s, "line", ORIGIN, (30, 0, "horizontal", None))[0]
    assert len(unchanged(hand, kind="add_dimension", sketch=s, on=[line], at=[10, -5], value=value)) > 10
    hand.do("add_dimension", sketch=s, on=[line], at=[10, -5], value="30")
    k = hand.constraints(s, "distance")[0]
    assert len(unchanged(hand, kind="set_dimension", sketch=s, id=k.id, value=value)) > 10


@pytest.mark.parametrize(
    "constraint", ["tangent", "concentric", "smooth", "crossing", "symmetric", "midpoint", "nonsense"]
)
def test_constraints_between_things_that_cannot_take_them(hand: Any, s: str, constraint: str) -> None:
    a = hand.draw(s, "line", (0, 0), (10, 0))[0]
    b = hand.draw(s, "line", (0, 5), (10, 9))[0]
    assert len(unchanged(hand, kind="add_constraint", sketch=s, constraint=constraint, on=[a, b])) > 10


@pytest.mark.parametrize("kind", ["trim", "extend", "split", "fillet_corner", "offset", "mirror_curves", "set_count"])
def test_changes_of_what_is_not_there(hand: Any, s: str, kind: str) -> None:
    fields = {
        "trim": {"stretches": [{"id": "c99", "at": [0, 0]}]},
        "extend": {"curve": {"id": "c99", "at": [0, 0]}},
        "split": {"curve": {"id": "c99", "at": [0, 0]}},
        "fillet_corner": {"on": ["c99.end"], "radius": "3"},
        "offset": {"ids": ["c99"], "side": [1, 1], "distance": "3"},
        "mirror_curves": {"ids": ["c99"], "axis": "y_axis"},
        "set_count": {"id": "k99", "count": 5},
    }[kind]
    if kind == "trim":
        hand.do(kind, sketch=s, **fields)  # what is gone already needs no trimming
        return
    assert len(unchanged(hand, kind=kind, sketch=s, **fields)) > 10


@pytest.mark.parametrize("count", [-1, 0, 1, 201, 100_000])
def test_patterns_need_a_sane_number(hand: Any, s: str, count: int) -> None:
    circle = hand.draw(s, "circle", (10, 0), (12, 0))[0]
    assert unchanged(hand, kind="pattern_curves", sketch=s, ids=[circle], about="origin", count=count)


def test_three_thousand_curves_can_be_pasted_and_no_more(hand: Any, s: str) -> None:
    curves = [
        {"kind": "line", "id": f"a{i}", "start": [i % 60, i // 60], "end": [i % 60 + 0.5, i // 60]}
        for i in range(MAX_CURVES)
    ]
    hand.do("paste", sketch=s, clip={"curves": curves})
    assert len(hand.curves(s)) == MAX_CURVES
    assert str(MAX_CURVES) in unchanged(hand, kind="paste", sketch=s, clip={"curves": curves[:1]})
    assert "at most" in unchanged(hand, kind="draw", sketch=s, tool="point", places=[{"at": [1, 1]}])


def test_coordinates_that_are_no_numbers(hand: Any, s: str) -> None:
    line = hand.draw(s, "line", (0, 0), (10, 0))[0]
    for bad in (math.nan, math.inf, 1e9):
        with pytest.raises((BadInput, ValidationError)):
            hand.do("move_geometry", sketch=s, curves={line: {"end": [bad, 0]}})
        with pytest.raises((BadInput, ValidationError)):
            hand.draw(s, "line", (0, 0), (bad, 1))
    with pytest.raises(BadInput):
        hand.do("move_geometry", sketch=s, curves={line: {"radius": 3.0}})
    circle = hand.draw(s, "circle", (0, 0), (5, 0))[0]
    with pytest.raises(BadInput):
        hand.do("move_geometry", sketch=s, curves={circle: {"radius": -3.0}})


def test_curves_without_length_are_offered_to_be_deleted(hand: Any, s: str) -> None:
    from sketchlathe.core.sketch.changes.repairing import repairs

    dot = {"kind": "line", "id": "a", "start": [5, 5], "end": [5, 5]}
    clip = {"curves": [dot, {"kind": "circle", "id": "b", "centre": [0, 0], "radius": 20}]}
    hand.do("paste", sketch=s, clip=clip)
    found = [r for r in repairs(hand.evaluated(s), ()) if r.what == "empty"]
    assert len(found) == 1
    hand.do("repair_sketch", sketch=s, finding="empty", on=list(found[0].refs))
    assert len(hand.curves(s)) == 1


def test_a_constraint_added_twice_is_one_too_many(hand: Any, s: str) -> None:
    a = hand.draw(s, "line", (0, 0), (10, 3))[0]
    b = hand.draw(s, "line", (0, 5), (10, 9))[0]
    hand.do("add_constraint", sketch=s, constraint="parallel", on=[a, b])
    assert "settled already" in unchanged(hand, kind="add_constraint", sketch=s, constraint="parallel", on=[b, a])


def test_dimensions_that_each_need_all_before_them_are_evaluated_once_each() -> None:
    """Each was evaluated again for whoever needed it: twice as often with every one, for ever at forty."""
    import time

    from sketchlathe.core.sketch.document import Sketch

    count = 400
    lines = [{"kind": "line", "id": f"c{i}", "start": [0, i], "end": [5, i]} for i in range(count)]
    sizes = [
        {"kind": "distance", "id": f"k{i}", "on": [f"c{i}"], "name": f"d{i}",
         "value": "1 mm" if i == 0 else f"d{i - 1} + d{max(0, i - 2)} - d{max(0, i - 2)} + 0.01 mm"}
        for i in reversed(range(count))
    ]  # fmt: skip
    began = time.process_time()
    valued = Sketch.model_validate({"curves": lines, "constraints": sizes}).valued({})
    assert valued.value_of(f"k{count - 1}") == pytest.approx(1 + 0.01 * (count - 1))
    assert time.process_time() - began < 20
    sizes[-1]["value"] = "d399"
    with pytest.raises(BadInput, match="in a loop"):
        Sketch.model_validate({"curves": lines, "constraints": sizes}).valued({})


def test_parts_brought_as_variants_are_built_once_for_each_set_of_values() -> None:
    """A part that brings one as two variants, which brings one as two...: 2^n builds at n storeys."""
    from sketchlathe.core.model import building

    hand = Hand()
    hand.do("add_parameter", name="w", formula="10 mm")
    hand.step("block", width="w", depth="10", height="10")
    for name, value in (("narrow", "8 mm"), ("wide", "12 mm")):
        hand.do("add_variant", name=name)
        made = hand.model.variants[-1].id
        hand.do("set_variant", variant=made, head="w", text=value)
    below = "p1"
    for storey in range(9):
        known = {p.id for p in hand.model.parts}
        hand.do("add_part", name=f"Storey {storey}")
        part = next(p.id for p in hand.model.parts if p.id not in known)
        for variant in hand.model.variants:
            x = f"{20 * 2**storey} mm" if variant.name == "wide" else "0 mm"
            fields = {"part": below, "variant": variant.id, "x": x}
            hand.do("add_step", part=part, step="bring_part", fields=fields)
        below = part
    builds = []
    original = building.build

    def counted(*args, **more):
        builds.append(args[1].id)
        return original(*args, **more)

    building.build = counted
    try:
        counted(hand.model, hand.model.part(below), hand.cache)
    finally:
        building.build = original
    assert len(builds) <= 3 * 10
