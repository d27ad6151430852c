"""Edits of a sketch: what is implied, proposed, changed, deleted, shown."""

import math

import pytest
from tests.conftest import Hand

from sketchlathe.core.errors import BadInput, NotFound, Refused
from sketchlathe.core.sketch.dimensioning import propose
from sketchlathe.core.sketch.inference import SNAPS, implied
from sketchlathe.core.sketch.tools import describe_tools
from sketchlathe.core.sketch.view import facts, full_view, offers


@pytest.fixture
def drawn() -> tuple[Hand, str, dict[str, str]]:
    """A free line, a level line, a circle and a point."""
    hand = Hand()
    s = hand.sketch()
    slanted = hand.draw(s, "line", (0, 0), (30, 40))[0]
    level = hand.draw(s, "line", (0, -10), (50, -10, "horizontal", None))[0]
    circle = hand.draw(s, "circle", (80, 20), (90, 20))[0]
    point = hand.draw(s, "point", (10, 60))[0]
    return hand, s, {"slanted": slanted, "level": level, "circle": circle, "point": point}


@pytest.mark.parametrize(
    ("on", "pointer", "kind", "way", "value"),
    [
        (["slanted"], (15, 20), "distance", "aligned", 50),
        (["slanted"], (15, -48), "distance", "across", 30),
        (["slanted"], (-40, 20), "distance", "along", 40),
        (["level"], (20, -30), "distance", "aligned", 50),
        (["circle"], (99, 30), "diameter", None, 20),
        (["slanted", "level"], (25, 5), "angle", None, math.atan2(40, 30)),
        (["point", "level"], (12, 20), "distance", "aligned", 70),
        (["circle", "level"], (70, 5), "distance", "aligned", 30),
        (["slanted.start", "slanted.end"], (15, 60), "distance", "across", 30),
    ],
)
def test_the_dimension_follows_from_picks_and_pointer(drawn, on, pointer, kind, way, value) -> None:
    hand, s, ids = drawn
    refs = tuple(".".join([ids[r.split(".")[0]], *r.split(".")[1:]]) for r in on)
    made = propose(hand.evaluated(s), refs, pointer)
    assert made.kind == kind
    assert way is None or made.way == way
    assert made.measure(hand.evaluated(s)) == pytest.approx(value)


def test_one_point_alone_cannot_be_dimensioned(drawn) -> None:
    hand, s, ids = drawn
    with pytest.raises(BadInput, match="second thing"):
        propose(hand.evaluated(s), (f"{ids['slanted']}.start",), (0, 0))


def test_angle_is_reached_and_keeps_its_sense(drawn) -> None:
    hand, s, ids = drawn
    hand.do("add_dimension", sketch=s, on=[ids["slanted"], ids["level"]], at=[25, 5], value="30")
    (ax, ay), (bx, by) = hand.evaluated(s).ends(ids["slanted"])
    (cx, cy), (dx, dy) = hand.evaluated(s).ends(ids["level"])
    turn = math.degrees(math.atan2(by - ay, bx - ax) - math.atan2(dy - cy, dx - cx))
    assert turn == pytest.approx(30, abs=1e-7)


@pytest.mark.parametrize("word", sorted(SNAPS))
def test_every_snap_implies_something_that_can_be_made(drawn, word) -> None:
    from sketchlathe.core.sketch.constraints import CONSTRAINTS

    hand, s, ids = drawn
    sketch = hand.evaluated(s)
    targets = {
        "origin": "origin", "end": f"{ids['level']}.end", "centre": f"{ids['circle']}.centre", "point": ids["point"],
        "middle": ids["level"], "quadrant": ids["circle"], "on line": ids["level"], "on circle": ids["circle"],
        "level with": f"{ids['level']}.end", "plumb with": f"{ids['level']}.end", "parallel": ids["level"],
        "at right angles": ids["level"], "equal length": ids["level"], "tangent": ids["circle"],
        "on curve": ids["circle"], "touching": ids["circle"],
        "intersection": f"{ids['level']}+{ids['circle']}",
    }  # fmt: skip
    wanted = implied(sketch, f"{ids['slanted']}.end", word, targets.get(word))
    assert wanted
    for kind, refs in wanted:
        assert CONSTRAINTS[kind].fits(sketch, refs)


def test_a_snap_on_what_is_gone_implies_nothing(drawn) -> None:
    hand, s, ids = drawn
    assert implied(hand.evaluated(s), f"{ids['slanted']}.end", "end", "c999.start") == []


def test_the_middle_snap_keeps_the_middle(drawn) -> None:
    hand, s, ids = drawn
    new = hand.draw(s, "line", (25, -10, "middle", ids["level"]), (25, -30))[0]
    hand.do("add_dimension", sketch=s, on=[ids["level"]], at=[20, -40], value="80")
    sketch = hand.evaluated(s)
    (ax, ay), (bx, by) = sketch.ends(ids["level"])
    assert sketch.point(f"{new}.start") == pytest.approx(((ax + bx) / 2, (ay + by) / 2), abs=1e-9)


def test_a_line_drawn_from_circle_to_circle_touches_both_and_goes_on_doing_so() -> None:
    hand = Hand()
    s = hand.sketch()
    big = hand.draw(s, "circle", (0, 0, "origin", "origin"), (15, 0))[0]
    small = hand.draw(s, "circle", (60, 0), (70, 0))[0]
    shown = math.acos(5 / 60)  # the normal of a line that touches both
    start = {"at": [6, 189**0.5], "snap": "on circle", "ref": big}
    end = {
        "at": [60 + 10 * math.cos(shown), 10 * math.sin(shown)], "snap": "touching", "ref": small,
        "also": [{"snap": "tangent", "ref": big}],
    }  # fmt: skip
    hand.do("draw", sketch=s, tool="line", places=[start, end])
    hand.do("add_dimension", sketch=s, on=[small], at=[80, 20], value="24")
    sketch = hand.evaluated(s)
    (line,) = [c.id for c in sketch.curves if c.kind == "line"]
    (ax, ay), (bx, by) = sketch.ends(line)
    (cx, cy), (dx, dy) = sketch.point(f"{big}.centre"), sketch.point(f"{small}.centre")
    for x, y, ox, oy, radius in ((ax, ay, cx, cy, sketch.radius(big)), (bx, by, dx, dy, 12)):
        assert math.hypot(x - ox, y - oy) == pytest.approx(radius, abs=1e-9)
        assert (x - ox) * (bx - ax) + (y - oy) * (by - ay) == pytest.approx(0, abs=1e-6)
    assert ay > 0 and by > 0


def test_reference_dimensions_measure_and_do_not_hold(drawn) -> None:
    hand, s, ids = drawn
    hand.do("add_dimension", sketch=s, on=[ids["level"]], at=[20, -30], value="50")
    hand.do("add_dimension", sketch=s, on=[ids["level"]], at=[20, -40], driving=False)
    view = full_view(hand.evaluated(s), "mm")
    assert [d["text"] for d in view["dimensions"]] == ["50", "(50)"]
    first, second = (d["id"] for d in view["dimensions"])
    with pytest.raises(Refused, match="One too many"):
        hand.do("set_dimension", sketch=s, id=second, driving=True)
    hand.do("set_dimension", sketch=s, id=first, driving=False)
    hand.do("set_dimension", sketch=s, id=second, driving=True)
    hand.do("set_dimension", sketch=s, id=second, value="2 in")
    assert hand.evaluated(s).curve(ids["level"]).length() == pytest.approx(50.8)


def test_deleting_a_curve_takes_what_speaks_of_it(drawn) -> None:
    hand, s, ids = drawn
    hand.do("add_constraint", sketch=s, constraint="parallel", on=[ids["slanted"], ids["level"]])
    hand.do("delete_from_sketch", sketch=s, ids=[ids["level"]])
    sketch = hand.evaluated(s)
    assert sketch.constraints == ()
    assert {c.id for c in sketch.curves} == {ids["slanted"], ids["circle"], ids["point"]}
    with pytest.raises(NotFound):
        sketch.curve(ids["level"])


def test_offers_and_facts_of_a_selection(drawn) -> None:
    hand, s, ids = drawn
    sketch = hand.evaluated(s)
    kinds = {o["kind"] for o in offers(sketch, (ids["slanted"], ids["level"]))}
    assert {"equal", "parallel", "perpendicular"} <= kinds
    assert "concentric" not in kinds
    assert dict(facts(sketch, (ids["slanted"],), "mm")) == {"length": "50 mm"}
    assert dict(facts(sketch, (ids["circle"],), "in"))["radius"] == "0.394 in"


def test_formula_dimensions_show_their_value_and_say_they_are_formulas(drawn) -> None:
    hand, s, ids = drawn
    hand.do("add_parameter", name="rim", formula="24")
    hand.do("add_dimension", sketch=s, on=[ids["circle"]], at=[99, 30], value="rim / 2")
    (shown,) = full_view(hand.evaluated(s), "mm")["dimensions"]
    assert (shown["text"], shown["formula"], shown["value"]) == ("⌀12", True, "rim / 2")
    hand.do("set_dimension", sketch=s, id=shown["id"], value="4*3")
    (shown,) = full_view(hand.evaluated(s), "mm")["dimensions"]
    assert (shown["text"], shown["formula"], shown["value"]) == ("⌀12", True, "(4*3) mm")
    assert hand.evaluated(s).radius(ids["circle"]) == pytest.approx(6)


def test_construction_curves_stop_bounding() -> None:
    hand = Hand()
    s = hand.sketch()
    lines = hand.draw(s, "rectangle", (0, 0), (10, 5))
    assert len(full_view(hand.evaluated(s), "mm")["regions"]) == 1
    hand.do("set_construction", sketch=s, ids=[lines[0]], construction=True)
    view = full_view(hand.evaluated(s), "mm")
    assert view["regions"] == []
    assert len(view["open_ends"]) == 2
    hand.do("set_construction", sketch=s, ids=[lines[0]], construction=False)
    assert len(full_view(hand.evaluated(s), "mm")["regions"]) == 1


def test_a_line_typed_by_length_and_angle() -> None:
    hand = Hand()
    s = hand.sketch()
    line = hand.draw(s, "line", (0, 0, "origin", "origin"), (5, 1), sizes=("20", "60"))[0]
    assert hand.evaluated(s).point(f"{line}.end") == pytest.approx((10, 20 * math.sin(math.pi / 3)), abs=1e-9)
    level = hand.draw(s, "line", (30, 0), (40, 1), sizes=("", "90"))[0]
    assert [k.kind for k in hand.evaluated(s).users_of(level)] == ["vertical"]


def test_tools_describe_themselves() -> None:
    for tool in describe_tools():
        assert tool["word"] and tool["hint"] and tool["icon"].startswith("M")
        assert len(tool["chord"]) == 2
    assert len({t["chord"] for t in describe_tools()}) == len(describe_tools())
