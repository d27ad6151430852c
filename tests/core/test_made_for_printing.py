"""Feet, grips, tilts, dovetails, uneven scale and rings: what they refuse, what stays as it was, how picks come
along.
"""

from __future__ import annotations

import math

import pytest
from tests.batteries.further import loft_ring_straight
from tests.batteries.making import Sizes, edge, face, plate
from tests.hand import Hand, box

from sketchlathe.core.errors import Trouble
from sketchlathe.core.solid.digest import digest, pick_of_face

PI = math.pi


def knob(**fields):
    m = Hand()
    m.step("block", shape="cylinder", diameter="30", height="12")
    side = m.face_where(m.build().bodies[0].id, "cylindrical")
    m.step("grip", face=[side], **fields)
    return m


def bar(**fields):
    m = Hand()
    m.step("block", width="150", depth="30", height="20")
    at = m.step("datum", form="offset", plane={"plane": "right"}, offset="90")
    m.step("split", plane={"datum": at}, joint="dovetails", **fields)
    return m


def tilt(**fields):
    m, w, d, _ = plate(Sizes("tilt"))
    m.step("tilt", **{"face": [face(m, (1, 0, 0))], "axis": {"edge": edge(m, (w, d / 2, 0))}, **fields})
    return m


@pytest.mark.parametrize(
    "made, fields, says",
    [
        (knob, {"rim": "6"}, "nothing is left between two such rims"),
        (knob, {"size": "29", "gap": "20"}, "Fewer than three"),
        (knob, {"size": "40"}, "wider or deeper than the whole side"),
        (knob, {"size": "6", "depth": "0.2"}, "make them deeper or narrower"),
        (knob, {"turn": "10 deg"}, "leave the turn empty"),
        (knob, {"rim": "-1"}, "must not be below zero"),
        (knob, {"size": "0.05", "gap": "0.05", "depth": "0.02"}, "at most"),
        (bar, {"across": "8", "deep": "14"}, "necks of the tongues get too thin"),
        (bar, {"across": "10", "count": "4"}, "There is room for 2 tongues"),
        (tilt, {"angle": "0"}, "above 0° and below 80°"),
        (tilt, {"axis": {"axis": "x"}}, "must lie in the plane of the face"),
        (tilt, {"face": []}, "Pick the flat face"),
    ],
)
def test_what_cannot_be_says_why(made, fields, says):
    assert says in made(**fields).messages()[0]


def test_a_grip_stands_on_round_sides_from_outside_only():
    m, w, d, _ = plate(Sizes("bore"))
    m.round("top", w / 2, d / 2, 4, reach="through", result="cut")
    m.step("grip", face=[m.face_where("", "cylindrical")])
    assert "seen from outside" in m.messages()[0]


def test_grooves_follow_their_knob():
    """As many as go round it, whatever its size."""
    m = knob(size="2", gap="2")
    block = m.steps[0].id
    for across in (20, 40, 77):
        m.do("set_fields", step=block, fields={"diameter": f"{across}"})
        assert m.messages() == []
        grooves = [f for f in digest(m.build().bodies[0]).faces if f.form == "cylindrical" and f.radius < 3]
        assert len(grooves) == math.floor(PI * across / 4)


def test_a_foot_takes_the_lowest_face_and_asks_where_none_is_flat():
    m, w, d, _ = plate(Sizes("foot"))
    foot = m.step("foot", size="1")
    low = [f for f in digest(m.build().bodies[0]).faces if f.frame and f.frame.normal[2] < -0.999]
    assert [f.area for f in low] == [pytest.approx((w - 2) * (d - 2), rel=1e-9)]
    m.do("set_fields", step=foot, fields={"size": "3"})
    assert "take Chamfer" in m.messages()[0]
    ball = Hand()
    ball.step("block", shape="sphere", diameter="20")
    ball.step("foot")
    assert "no flat face below" in ball.messages()[0]


def test_a_tilted_face_does_not_care_which_way_an_edge_runs():
    """Positive is outwards, about either edge of the face."""
    for low in (True, False):
        m, w, d, h = plate(Sizes("tilt"))
        side = {"face": [face(m, (1, 0, 0))], "axis": {"edge": edge(m, (w, d / 2, 0 if low else h))}}
        m.step("tilt", **side, angle="10 deg")
        assert m.volume() == pytest.approx(d * (w * h + h * h / 2 * math.tan(math.radians(10))), rel=1e-9)


def test_what_is_drawn_out_can_be_drawn_on_and_its_picks_hold():
    m, w, d, h = plate(Sizes("stretch"))
    body = m.build().bodies[0].id
    step = m.step("move", how="scale", bodies=[body], factor="1", along_z="3")
    top = face(m, (0, 0, 1))
    s = m.sketch({"face": top})
    m.polygon(s, *box(3, 3, 6, 6))
    m.step("extrude", regions=m.regions(s), distance="2")
    assert m.volume() == pytest.approx(3 * w * d * h + 72, rel=1e-8)
    for factor in ("0.5", "7"):
        m.do("set_fields", step=step, fields={"along_z": factor})
        assert m.messages() == []
        assert m.volume() == pytest.approx(float(factor) * w * d * h + 72, rel=1e-8)
    m.do("set_fields", step=step, fields={"along_z": "0"})
    assert "from 0.001 to 1000" in m.messages()[0]


def test_a_ring_needs_three_places_and_comes_back_to_its_corners():
    m, _ = loft_ring_straight(Sizes("ring"))
    loft = m.steps[-1]
    m.do("set_fields", step=loft.id, fields={"regions": [p.model_dump(mode="json") for p in loft.regions[:2]]})
    assert "three places at least" in m.messages()[0]
    turned, _ = loft_ring_straight(Sizes("ring"))
    turned.do("set_fields", step=turned.steps[-1].id, fields={"shift": "1"})
    # each matched with the corner one farther on: after a round that is no whole turn they do not meet
    count = len(turned.steps[-1].regions)
    assert bool(turned.messages()) == bool((count - 1) % 4)


def test_a_side_of_a_ring_keeps_its_name():
    m, right = loft_ring_straight(Sizes("named"))
    body = m.build().bodies[0]
    sides = [pick_of_face(body, i) for i, f in enumerate(digest(body).faces) if f.frame and f.frame.normal[2] > 0.999]
    step = m.step("push", faces=sides[:1], by="0.5")
    assert m.messages() == [] and m.volume() > right
    loft = m.steps[-2]
    m.do("set_fields", step=loft.id, fields={"form": "ruled"})
    assert [s.id for s in m.steps][-1] == step and m.messages() == []


def insert_hole():
    m, w, d, h = plate(Sizes("insert"))
    m.step("hole", at="face", face=[face(m, (0, 0, 1))], screw="M4", fit="insert")
    return m, w * d * h, h


def test_bores_for_inserts_follow_the_model_s_own_table():
    m, whole, h = insert_hole()
    usual = m.volume()
    m.do("set_sizes", table="inserts", sizes={"M4": "5 mm", "M3": ""})
    assert m.volume() == pytest.approx(whole - PI * 6.25 * h, rel=1e-9)
    m.do("set_sizes", table="inserts", sizes={"M4": "5.6 mm"})
    assert m.volume() == usual and m.model.sizes == {}


@pytest.mark.parametrize(
    "fields, says",
    [
        ({"table": "inserts", "sizes": {"M4": "0"}}, "from 0.1 to 100 mm"),
        ({"table": "inserts", "sizes": {"M4": "wide"}}, "wide"),
        ({"table": "inserts", "sizes": {"M99": "5 mm"}}, "no size “M99”"),
        ({"table": "nails", "sizes": {}}, "no such table"),
    ],
)
def test_a_table_takes_no_nonsense(fields, says):
    m, *_ = insert_hole()
    with pytest.raises(Trouble, match=says):
        m.do("set_sizes", **fields)


@pytest.mark.parametrize(
    "fields, says",
    [
        ({"regions": []}, "at least one closed region"),
        ({"axis": {"axis": "y"}}, "in a plane in which the axis lies"),
        ({"pitch": "3"}, "run into each other"),
        ({"turns": "500"}, "from 0.05 to 200"),
        ({"pitch": "0"}, "pitch"),
    ],
)
def test_regions_that_cannot_be_wound_say_why(fields, says):
    m = Hand()
    s = m.sketch("front")
    m.polygon(s, *box(10, 0, 4, 4))
    m.step("coil", **{"section": "drawn", "regions": m.regions(s), "turns": "3", "pitch": "6", **fields})
    assert says in m.messages()[0]


def test_regions_across_the_axis_are_not_wound_and_a_flat_wire_needs_room():
    m = Hand()
    s = m.sketch("front")
    m.polygon(s, *box(-2, 0, 4, 4))
    m.step("coil", section="drawn", regions=m.regions(s))
    assert "beside the axis" in m.messages()[0]
    flat = Hand()
    step = flat.step("coil", pitch="0")
    assert "needs another diameter" in flat.messages()[0]
    flat.do("set_fields", step=step, fields={"end": "24 mm"})
    assert "run into each other" in flat.messages()[0]
    flat.do("set_fields", step=step, fields={"end": "60 mm"})
    assert flat.messages() == []


def test_what_is_left_to_the_hand_is_told_with_sizes_and_counts():
    m = Hand()
    m.step("block", shape="cylinder", diameter="6", height="20")
    m.step("thread", face=[m.face_where("", "cylindrical")], form="marked", size="M6", hand="left")
    part, _, _ = insert_hole()
    s = part.sketch({"face": face(part, (0, 0, 1))})
    ids = [part.draw(s, "point", at)[0] for at in ((5.0, 5.0), (12.0, 5.0))]
    picks = [{"sketch": s, "ref": f"{i}.at"} for i in ids]
    part.step("hole", points=picks, screw="M5", fit="tapping", form="counterbored", layer="0.3")
    told = [words for made in (m, part) for _, words in made.build().afterwards]
    assert told == [
        "Cut with a die M6 × 1, 20 mm long, left-handed",
        "Set heat-set inserts M4 into 1 hole",
        "Drill through the layer in 2 holes",
        "Tap M5 in 2 holes",
    ]


def test_the_smallest_pitch_and_the_largest_twist_that_work_are_offered():
    m = Hand()
    s = m.sketch("front")
    m.polygon(s, *box(10, 0, 4, 4))
    m.step("coil", section="drawn", regions=m.regions(s), turns="3", pitch="3")
    offered = next(a for a in m.advice() if a.fix)
    m.do("set_fields", step=m.steps[-1].id, fields=offered.fields)
    assert m.messages() == [] and 4 < float(offered.fields["pitch"].removesuffix(" mm")) < 4.05
    bent = Hand()
    s = bent.sketch("top")
    bent.polygon(s, *box(-4, -4, 8, 8))
    p = bent.sketch("front")
    (line,) = bent.draw(p, "line", (0.0, 0.0), (0.0, 20.0))[:1]
    bent.draw(p, "arc", (0.0, 20.0), (8.0, 28.0), (8 * (1 - 0.5**0.5), 20 + 8 * 0.5**0.5))
    step = bent.step("sweep", regions=bent.regions(s), path=[{"sketch": p, "curve": line}], scale="6")
    assert "largest change that works" in bent.messages()[0]
    offered = next(a for a in bent.advice() if a.fix)
    bent.do("set_fields", step=step, fields=offered.fields)
    assert bent.messages() == []
