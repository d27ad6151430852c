"""Place as a step: a can and its lid, a rod through a block, corners; expected places from the drawings themselves."""

from __future__ import annotations

import math
import random

import pytest
from tests.batteries import mechanisms
from tests.hand import Hand

from sketchlathe.core.solid.digest import digest, pick_of_face
from sketchlathe.core.solid.edges import named_edges, pick_of
from sketchlathe.core.solid.measuring import box_of, volume


def block(hand, w, d, h, at=(0, 0)):
    """A block w x d x h with its lower corner at a place of the plane; its step."""
    (x, y) = at
    outline = [(x, y), (x + w, y), (x + w, y + d), (x, y + d)]
    return hand.prism("top", outline, distance=f"{h} mm", result="separate")


def rod(hand, radius, h, at):
    return hand.round("top", *at, radius, distance=f"{h} mm", result="separate")


def body_of(hand, step):
    return next(b for b in hand.build().bodies if b.id.split(".")[0] == step)


def face(hand, step, form="flat", way=None, inside=None):
    """A face of a step's body by form and outward normal, as a browser stores it."""
    body = body_of(hand, step)
    for i, f in enumerate(digest(body).faces):
        if f.form == form and (way is None or (f.frame and f.frame.normal == pytest.approx(way, abs=1e-9))):
            return {"face": pick_of_face(body, i)}
    raise AssertionError("no such face")


def corner(hand, step, at):
    """A corner of a step's body, by its place."""
    body = body_of(hand, step)
    low, high = box_of(body.shape)
    edges = named_edges(body)
    where = [(a - l) / (h - l) for a, l, h in zip(at, low, high)]
    near = min(edges, key=lambda e: math.dist(e.centre, where))
    return {"edge": pick_of(near, edges), "at": where}


UP, DOWN = (0, 0, 1), (0, 0, -1)


@pytest.fixture
def can():
    """A block of 40 x 40 x 30, and a rod of radius 6 and 20 mm beside it."""
    hand = Hand()
    return hand, block(hand, 40, 40, 30), rod(hand, 6, 20, (80, 10))


def free_of(hand, result):
    """What the body that a step placed may still do."""
    return hand.build().free[result.step]


def placed(hand, **fields):
    step = hand.step("place", **fields)
    built = hand.build()
    result = next(r for r in built.steps if r.step == step)
    return result


def test_a_rod_stands_on_a_block_with_a_gap(can):
    hand, base, pin = can
    before = volume(body_of(hand, pin).shape)
    result = placed(hand, a=face(hand, pin, way=DOWN), how="against", b=face(hand, base, way=UP), gap="1.5 mm")
    assert result.status == "ok", result.message
    low, high = box_of(body_of(hand, pin).shape)
    assert low == pytest.approx((74, 4, 31.5), abs=1e-6), "it only rises: what was free stays as it was"
    assert high[2] == pytest.approx(51.5, abs=1e-6)
    assert volume(body_of(hand, pin).shape) == pytest.approx(before, rel=1e-12)
    assert free_of(hand, result) == "may still turn about an axis (z) and slide on a plane"


def test_coaxial_and_seated_then_turned(can):
    hand, base, pin = can
    result = placed(
        hand, a=face(hand, pin, form="cylindrical"), how="on", b={"axis": "x"},
        a2=face(hand, pin, way=UP), how2="against", b2=face(hand, base, way=(1, 0, 0)), gap2="2 mm",
    )  # fmt: skip
    assert result.status == "ok", result.message
    low, high = box_of(body_of(hand, pin).shape)
    assert low == pytest.approx((42, -6, -6), abs=1e-6)
    assert high == pytest.approx((62, 6, 6), abs=1e-6)
    assert free_of(hand, result) == "may still turn about an axis (x)"
    hand.do("set_fields", step=result.step, fields={"turn": "30 deg"})
    assert free_of(hand, result) == ""


def test_corner_on_corner_and_flush_sides_hold_it(can):
    hand, base, _ = can
    other = block(hand, 10, 10, 10, (100, 100))
    result = placed(
        hand, a=corner(hand, other, (100, 100, 0)), how="on", b=corner(hand, base, (40, 40, 30)),
        a2=face(hand, other, way=DOWN), how2="against", b2=face(hand, base, way=UP),
        a3=face(hand, other, way=(1, 0, 0)), how3="flush", b3=face(hand, base, way=(1, 0, 0)), gap3="10 mm",
    )  # fmt: skip
    assert result.status == "ok", result.message
    assert free_of(hand, result) == ""
    low, high = box_of(body_of(hand, other).shape)
    assert low == pytest.approx((40, 40, 30), abs=1e-6)
    assert high == pytest.approx((50, 50, 40), abs=1e-6)


def test_it_follows_when_what_it_stands_on_changes(can):
    hand, base, pin = can
    result = placed(hand, a=face(hand, pin, way=DOWN), how="against", b=face(hand, base, way=UP))
    hand.do("set_fields", step=base, fields={"distance": "55 mm"})
    assert box_of(body_of(hand, pin).shape)[0][2] == pytest.approx(55, abs=1e-6)
    assert next(r for r in hand.build().steps if r.step == result.step).status == "ok"


def test_a_number_for_what_is_free(can):
    hand, _, pin = can
    placed(hand, a=face(hand, pin, form="cylindrical"), how="on", b={"axis": "z"}, slide="-3 mm")
    low, high = box_of(body_of(hand, pin).shape)
    assert (low[0], low[2], high[2]) == pytest.approx((-6, -3, 17), abs=1e-6)


def test_what_cannot_hold_is_named_and_the_rest_is_built(can):
    hand, base, pin = can
    result = placed(
        hand, a=face(hand, pin, way=DOWN), how="against", b=face(hand, base, way=UP),
        a2=face(hand, pin, way=DOWN), how2="against", b2={"plane": "top"},
    )  # fmt: skip
    assert result.status == "failed"
    assert "first relation, “against” and the second relation, “against” cannot hold together" in result.message
    assert len(hand.build().bodies) == 2


@pytest.mark.parametrize(
    ("fields", "said"),
    [
        ({"a": "pin side", "how": "against", "b": "top"}, "needs two flat faces"),
        ({"a": "pin foot", "how": "against", "b": "pin top"}, "cannot be placed by itself"),
        ({"a": "origin", "how": "on", "b": "top"}, "Pick something of a body"),
        ({"a": "pin foot", "how": "against", "b": "top", "slide": "4 mm"}, "no one way to slide it"),
        ({"a": "pin foot", "how": "against", "b": "top", "gap": "1e6 m"}, "at most 100 m"),
        ({"a": "pin foot", "how": "against"}, "Pick where it goes"),
    ],
)
def test_bad_relations_say_what_is_wrong(can, fields, said):
    hand, base, pin = can
    things = {
        "pin side": face(hand, pin, form="cylindrical"), "pin foot": face(hand, pin, way=DOWN),
        "pin top": face(hand, pin, way=UP), "top": face(hand, base, way=UP), "origin": {"origin": True},
    }  # fmt: skip
    result = placed(hand, **{k: things[v] if k in "ab" else v for k, v in fields.items()})
    assert result.status == "failed"
    assert said in result.message


def test_the_sentence_says_it(can):
    from sketchlathe.core.steps.base import plain_sentence

    hand, base, pin = can
    result = placed(hand, a=face(hand, pin, way=DOWN), how="against", b=face(hand, base, way=UP), gap="0.2 mm")
    said = plain_sentence(hand.model.step(result.step), hand.model)
    assert said == "Place the start face of Extrude 2 against the end face of Extrude 1 leaving 0.2 mm"
    assert hand.model.step(result.step).needs() == {base, pin}


def test_one_lid_on_three_cans_of_different_heights():
    from tests.core.test_parts import Parts

    hand = Parts()
    hand.do("rename_part", part="p1", name="Lid")
    hand.step("block", shape="cylinder", diameter="40 mm", height="4 mm")
    cans = []
    for high in (20, 35, 50):
        hand.at = hand.new(name=f"Can {high}")
        hand.step("block", shape="cylinder", diameter="40 mm", height=f"{high} mm")
        cans.append(hand.at)
    hand.at = hand.new(sort="together")
    for n, can in enumerate(cans):
        below = hand.step("bring_part", part=can, x=f"{60 * n} mm")
        lid = hand.step("bring_part", part="p1", y="90 mm", z="80 mm")
        step = hand.step(
            "place", a=face(hand, lid, way=DOWN), how="against", b=face(hand, below, way=UP), gap="0.5 mm",
            a2=face(hand, lid, form="cylindrical"), how2="on", b2=face(hand, below, form="cylindrical"),
        )  # fmt: skip
        result = next(r for r in hand.build().steps if r.step == step)
        assert (result.status, free_of(hand, result)) == ("ok", "may still turn about an axis (z)"), result.message
    lids = [b for b in hand.build().bodies if b.came.of == "p1.s2"]
    lows = [box_of(b.shape)[0] for b in lids]
    assert [low[2] for low in lows] == pytest.approx([20.5, 35.5, 50.5], abs=1e-6)
    assert [low[0] for low in lows] == pytest.approx([-20, 40, 100], abs=1e-6)
    # a wider lid is wider everywhere
    hand.do("set_fields", step=hand.model.parts[0].steps[0].id, fields={"diameter": "44 mm"})
    assert [box_of(b.shape)[0][0] for b in hand.build().bodies if b.came.of == "p1.s2"] == pytest.approx(
        [-22, 38, 98], abs=1e-6
    )


@pytest.mark.parametrize("seed", range(8))
def test_what_was_picked_survives_changes_of_both(seed):
    """A pin with a shoulder in a stepped hole, sizes changed at random: it stays coaxial and seated."""
    import random

    rng = random.Random(seed)
    hand = Hand()
    plate = hand.prism("top", [(0, 0), (60, 0), (60, 40), (0, 40)], distance="12 mm")
    hole = hand.round("top", 30, 20, 6, reach="through", result="cut")
    shaft = hand.round("top", 100, 0, 5, distance="20 mm", result="separate")
    head = hand.round(face(hand, shaft, way=UP)["face"], 100, 0, 9, distance="4 mm")
    # the underside of the head lies on the plate, the shaft in the hole
    pin = next(b for b in hand.build().bodies if b.id.split(".")[0] == shaft)
    shoulder = next(
        i for i, f in enumerate(digest(pin).faces)
        if f.frame and f.frame.normal == pytest.approx(DOWN, abs=1e-9) and f.centre[2] > 1
    )  # fmt: skip
    step = hand.step(
        "place", a={"face": pick_of_face(pin, shoulder)}, how="against", b=face(hand, plate, way=UP),
        a2=face(hand, shaft, form="cylindrical"), how2="on", b2=face(hand, plate, form="cylindrical"),
    )  # fmt: skip
    for _ in range(4):
        high, bore, long = rng.uniform(6, 20), rng.uniform(8, 17), rng.uniform(15, 40)
        hand.do("set_fields", step=plate, fields={"distance": f"{high} mm"})
        hand.do("set_fields", step=shaft, fields={"distance": f"{long} mm"})
        for sketch in [s.id for s in hand.steps if s.kind == "sketch" and len(s.sketch.curves) == 1]:
            (size,) = hand.constraints(sketch, "diameter") or hand.constraints(sketch, "radius")
            if hand.model.step(hole).regions[0].sketch == sketch:
                hand.do("set_dimension", sketch=sketch, id=size.id, value=f"{bore} mm")
        result = next(r for r in hand.build().steps if r.step == step)
        assert result.status == "ok", result.message
        placed = next(b for b in hand.build().bodies if b.id.split(".")[0] == shaft)
        low, top = box_of(placed.shape)
        assert (low[2], top[2]) == pytest.approx((high - long, high + 4), abs=1e-6)
        assert ((low[0] + top[0]) / 2, (low[1] + top[1]) / 2) == pytest.approx((30, 20), abs=1e-6)
    assert head


def test_a_face_that_became_round_is_said_at_its_place():
    """A box becomes a ball: what was placed against one of its sides says so, and the rest stands."""
    hand = Hand()
    base = hand.step("block", width="40 mm", depth="40 mm", height="30 mm")
    pin = rod(hand, 6, 20, (80, 10))
    result = placed(hand, a=face(hand, pin, way=DOWN), how="against", b=face(hand, base, way=(1, 0, 0)))
    assert result.status == "ok", result.message
    hand.do("set_fields", step=base, fields={"shape": "sphere"})
    after = next(r for r in hand.build().steps if r.step == result.step)
    assert after.status == "failed" and after.where in ("b", "how"), (after.message, after.where)
    assert len(hand.build().bodies) == 2


def test_middles_and_centres_are_points(can):
    """The middle of an edge on a centre of a circle, and the other way round."""
    hand, base, pin = can
    body = body_of(hand, base)
    edges = named_edges(body)
    low, high = box_of(body.shape)
    front = min(edges, key=lambda e: math.dist(e.centre, (0.5, 0.0, 1.0)))  # upper front edge, its middle at 20, 0, 30
    rims = named_edges(body_of(hand, pin))
    lower = min((e for e in rims if e.first != e.second), key=lambda e: e.centre[2])
    result = placed(
        hand,
        a={"edge": pick_of(lower, rims), "spot": "centre"},
        how="on",
        b={"edge": pick_of(front, edges), "spot": "middle"},
    )
    assert result.status == "ok", result.message
    assert free_of(hand, result) == "may still turn about a point"
    moved = box_of(body_of(hand, pin).shape)
    assert moved[0] == pytest.approx((14, -6, 30), abs=1e-6)
    from sketchlathe.core.steps.base import plain_sentence

    said = plain_sentence(hand.model.step(result.step), hand.model)
    assert "the centre of an edge of the" in said and "on the middle of an edge of the" in said
    assert low and high


def test_the_faces_of_a_block_are_called_by_where_they_are():
    from sketchlathe.core.steps.wording import say_face

    hand = Hand()
    step = hand.step("block", width="10 mm", depth="20 mm", height="30 mm")
    body = body_of(hand, step)
    said = {f.frame.normal: say_face(tuple(sorted(f.name)), hand.model) for f in digest(body).faces}
    assert {tuple(round(v) + 0 for v in n): s for n, s in said.items()} == {
        (-1, 0, 0): "left side of Block 1", (1, 0, 0): "right side of Block 1", (0, -1, 0): "front of Block 1",
        (0, 1, 0): "back of Block 1", (0, 0, -1): "underside of Block 1", (0, 0, 1): "top of Block 1",
    }  # fmt: skip
    hand.do("set_fields", step=step, fields={"shape": "cylinder"})
    body = body_of(hand, step)
    assert {
        f.form if f.frame is None else round(f.frame.normal[2]): say_face(tuple(sorted(f.name)), hand.model)
        for f in digest(body).faces
    } == {"cylindrical": "round side of Block 1", 1: "top of Block 1", -1: "underside of Block 1"}


def test_picks_of_relations_survive_changed_numbers():
    from tests.batteries import references, relations

    tally = references.Tally()
    for name in relations.FAMILIES:
        for seed in range(100, 104):
            relations.judge(name, seed, tally)
    assert tally.right == 4 * len(relations.FAMILIES), tally.cases


@pytest.mark.parametrize("family", mechanisms.FAMILIES, ids=lambda f: f.__name__)
def test_relations_of_several_steps_hold_together(family):
    assert [said for seed in (1, 2) if (said := family(random.Random(seed)))] == []
