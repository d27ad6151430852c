"""Solids against closed formulas, and references that hold."""

import math

import pytest
from tests.conftest import Hand, plate

from sketchlathe.core.errors import BadInput, Refused
from sketchlathe.core.solid.measuring import measures


def test_plate_with_a_hole_follows_its_parameter() -> None:
    hand = Hand()
    hand.do("add_parameter", name="wide", formula="60")
    s = hand.sketch()
    hand.draw(s, "rectangle", (0, 0, "origin", "origin"), (50, 30), sizes=("wide", "40"))
    hand.draw(s, "circle", (20, 20), (25, 20), sizes=("10",))
    hand.step("extrude", regions=hand.regions(s), distance="5")
    assert hand.volume() == pytest.approx((60 * 40 - 25 * math.pi) * 5, rel=1e-9)
    hand.do("set_parameter", name="wide", formula="3 in")
    assert hand.volume() == pytest.approx((76.2 * 40 - 25 * math.pi) * 5, rel=1e-9)
    m = measures(hand.build().bodies[0].shape)
    assert [h - l for l, h in zip(*m.box)] == pytest.approx([76.2, 40, 5], abs=1e-6)
    sides = 2 * (76.2 + 40) * 5 + 2 * math.pi * 5 * 5
    assert m.area == pytest.approx(2 * (76.2 * 40 - 25 * math.pi) + sides, rel=1e-9)


@pytest.mark.parametrize(
    ("fields", "low", "high"),
    [
        ({"way": "forwards"}, 0, 8), ({"way": "backwards"}, -8, 0), ({"way": "both"}, -4, 4),
        ({"way": "forwards", "distance": "-8"}, -8, 0),
    ],
)  # fmt: skip
@pytest.mark.parametrize("plane", ["top", "front", "right"])
def test_ways_and_planes(fields: dict[str, str], low: float, high: float, plane: str) -> None:
    hand = Hand()
    s = hand.sketch(plane)
    hand.draw(s, "rectangle", (1, 2), (11, 22), sizes=("10", "20"))
    hand.step("extrude", regions=hand.regions(s), **{"distance": "8", **fields})
    box = measures(hand.build().bodies[0].shape).box
    axis, sign = {"top": (2, 1), "front": (1, -1), "right": (0, 1)}[plane]
    assert sorted((sign * low, sign * high)) == pytest.approx([box[0][axis], box[1][axis]], abs=1e-6)
    assert hand.volume() == pytest.approx(10 * 20 * 8)


def test_add_cut_overlap_separate() -> None:
    results = {}
    for result in ("add", "cut", "overlap", "separate"):
        hand = plate("40", "40", "10")
        s = hand.sketch()
        hand.draw(s, "circle", (20, 20), (25, 20), sizes=("20",))
        hand.step("extrude", regions=hand.regions(s), distance="15", result=result)
        results[result] = (hand.volume(), len(hand.build().bodies))
    disc = math.pi * 100
    assert results["add"] == (pytest.approx(16000 + disc * 5), 1)
    assert results["cut"] == (pytest.approx(16000 - disc * 10), 1)
    assert results["overlap"] == (pytest.approx(disc * 10), 1)
    assert results["separate"] == (pytest.approx(16000 + disc * 15), 2)


def test_several_regions_are_united_before_they_are_extruded() -> None:
    hand = Hand()
    s = hand.sketch()
    hand.draw(s, "circle", (0, 0, "origin", "origin"), (10, 0), sizes=("20",))
    hand.draw(s, "circle", (12, 0), (22, 0), sizes=("20",))
    hand.step("extrude", regions=hand.regions(s, 0, 1, 2), distance="3")
    lens = 2 * 100 * math.acos(0.6) - 6 * math.sqrt(400 - 144)
    assert hand.volume() == pytest.approx((200 * math.pi - lens) * 3, rel=1e-7)
    faces = hand.build().bodies[0].names
    assert len(faces) == 4  # two round sides, two ends: no edge between the regions is left


def test_cut_on_a_face_holds_when_the_block_grows() -> None:
    hand = plate("60", "40", "10")
    top = hand.sketch(hand.face((0, 0, 1)))
    hand.draw(top, "circle", (30, 20), (33, 20), sizes=("6",))
    hand.step("extrude", regions=hand.regions(top), way="backwards", reach="through", result="cut")
    assert hand.volume() == pytest.approx(24000 - 9 * math.pi * 10)
    extrude = hand.steps[1].id
    hand.do("set_fields", step=extrude, fields={"distance": "25 mm"})
    assert hand.volume() == pytest.approx((2400 - 9 * math.pi) * 25)
    sketch = hand.steps[0]
    width = next(k.id for k in sketch.sketch.constraints if k.kind == "distance")
    hand.do("set_dimension", sketch=sketch.id, id=width, value="90")
    assert hand.volume() == pytest.approx((3600 - 9 * math.pi) * 25)


def test_face_pick_holds_through_a_step_put_in_before_it() -> None:
    hand = plate("60", "40", "10")
    side = hand.sketch(hand.face((1, 0, 0)))
    hand.draw(side, "circle", (20, 5), (22, 5), sizes=("4",))
    hand.step("extrude", regions=hand.regions(side), distance="6", way="backwards", result="cut")
    before = hand.volume()
    hand.do("set_now", part="p1", now=2)
    corner = hand.sketch("top")
    hand.draw(corner, "rectangle", (0, 0, "origin", "origin"), (10, 10), sizes=("10", "10"))
    hand.step("extrude", regions=hand.regions(corner), distance="10", result="cut")
    hand.do("set_now", part="p1", now=None)
    assert hand.volume() == pytest.approx(before - 1000)


def test_a_face_that_is_gone_says_why_and_the_rest_builds() -> None:
    hand = plate("60", "40", "10")
    disc = hand.sketch(hand.face((0, 0, 1)))
    hand.draw(disc, "circle", (30, 20), (35, 20), sizes=("10",))
    raised = hand.step("extrude", regions=hand.regions(disc), distance="8")
    on_disc = hand.sketch(hand.face((0, 0, 1)))
    hand.draw(on_disc, "circle", (30, 20), (32, 20), sizes=("4",))
    hand.step("extrude", regions=hand.regions(on_disc), distance="3", way="backwards", result="cut")
    hand.do("skip_step", step=raised, skipped=True)
    built = hand.build()
    status = {r.step: r for r in built.steps}
    assert status[on_disc].status == "failed"
    assert "makes nothing any more" in status[on_disc].message
    assert status[hand.steps[-1].id].status == "failed"
    assert measures(built.bodies[0].shape).volume == pytest.approx(24000)
    hand.do("skip_step", step=raised, skipped=False)
    assert hand.volume() == pytest.approx(24000 + 25 * math.pi * 8 - 4 * math.pi * 3)


@pytest.mark.parametrize(
    ("fields", "says"),
    [
        ({"distance": "0"}, "0 makes nothing"),
        ({"distance": "nope"}, "nope"),
        ({"distance": "1e9"}, "at most"),
        ({"reach": "through"}, "for cutting"),
        ({"result": "cut", "way": "forwards", "distance": "3"}, "nothing to cut"),
        ({"result": "overlap", "way": "forwards", "distance": "3"}, "do not overlap"),
    ],
)
def test_what_cannot_be_built_says_why(fields: dict[str, str], says: str) -> None:
    hand = plate("60", "40", "10")
    s = hand.sketch(hand.face((0, 0, 1)))
    hand.draw(s, "circle", (30, 20), (35, 20), sizes=("10",))
    try:
        hand.step("extrude", regions=hand.regions(s), **fields)
        built = hand.build()
        message = built.steps[-1].message
        assert built.steps[-1].status == "failed"
        assert measures(built.bodies[0].shape).volume == pytest.approx(24000)
    except BadInput as problem:
        message = str(problem)
    assert says in message


def test_cut_the_wrong_way_offers_the_other() -> None:
    hand = plate("60", "40", "10")
    s = hand.sketch(hand.face((0, 0, 1)))
    hand.draw(s, "circle", (30, 20), (35, 20), sizes=("10",))
    cut = hand.step("extrude", regions=hand.regions(s), distance="4", result="cut", way="forwards")
    fix = hand.build().steps[-1].advice[0]
    hand.do("set_fields", step=cut, fields=dict(fix.fields))
    assert hand.volume() == pytest.approx(24000 - 25 * math.pi * 4)


def test_everything_cut_away_is_refused() -> None:
    hand = plate("60", "40", "10")
    s = hand.sketch()
    hand.draw(s, "rectangle", (-5, -5), (80, 60), sizes=("90", "70"))
    hand.step("extrude", regions=hand.regions(s), distance="20", result="cut")
    assert "leave nothing" in hand.build().steps[-1].message


def test_only_what_depends_on_a_change_is_built_again() -> None:
    hand = plate("60", "40", "10")
    s = hand.sketch()
    hand.draw(s, "circle", (30, 20), (35, 20), sizes=("10",))
    last = hand.step("extrude", regions=hand.regions(s), distance="20")
    first = {r.step: r.key for r in hand.build().steps}
    hand.do("set_fields", step=last, fields={"distance": "22 mm"})
    second = {r.step: r.key for r in hand.build().steps}
    assert [i for i in first if first[i] != second[i]] == [last]
    told: list[str] = []
    from sketchlathe.core.model.building import build

    build(hand.model, hand.model.parts[0], hand.cache, progress=lambda step, *_: told.append(step))
    assert told == []


def test_order_delete_skip_and_now() -> None:
    hand = plate("60", "40", "10")
    sketch, extrude = (s.id for s in hand.steps)
    with pytest.raises(Refused, match="must come before"):
        hand.do("move_step", step=extrude, to=0)
    with pytest.raises(Refused, match="use"):
        hand.do("delete_step", step=sketch)
    hand.do("set_now", part="p1", now=1)
    assert hand.build().bodies == ()
    hand.do("set_now", part="p1", now=None)
    hand.do("rename_step", step=extrude, name="Base plate")
    assert hand.model.title_of(extrude) == "Base plate"
    hand.do("delete_step", step=sketch, with_users=True)
    assert hand.steps == ()


def test_a_sketch_that_cannot_follow_a_parameter_says_so_and_recovers() -> None:
    hand = Hand()
    hand.do("add_parameter", name="side", formula="50")
    s = hand.sketch()
    a = hand.draw(s, "line", (0, 0, "origin", "origin"), (40, 0, "horizontal", None), sizes=("40",))[0]
    b = hand.draw(s, "line", (40, 0, "end", f"{a}.end"), (10, 30), sizes=("side",))[0]
    hand.draw(s, "line", (*hand.evaluated(s).point(f"{b}.end"), "end", f"{b}.end"), (0, 0, "origin", "origin"))
    c = hand.curves(s)[-1].id
    hand.do("add_dimension", sketch=s, on=[c], at=[2, 15], value="30")
    hand.step("extrude", regions=hand.regions(s), distance="2")
    heron = math.sqrt(60 * 20 * 10 * 30)
    assert hand.volume() == pytest.approx(heron * 2, rel=1e-7)
    hand.do("set_parameter", name="side", formula="200")
    assert "cannot have all its sizes" in hand.build().steps[0].message
    hand.do("set_parameter", name="side", formula="50")
    assert hand.volume() == pytest.approx(heron * 2, rel=1e-7)
