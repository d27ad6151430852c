"""Whether bodies go together: overlaps against closed formulas, and a battery of pairs that
only look like collisions.
"""

from __future__ import annotations

import math

import pytest
from tests.core.test_parts import Parts
from tests.core.test_place_step import face
from tests.hand import Hand
from tests.hand import box as outline

from sketchlathe.core.inspect import fits
from sketchlathe.core.solid import fitting
from sketchlathe.core.solid.digest import digest, pick_of_face
from sketchlathe.core.solid.fitting import pairs
from sketchlathe.core.solid.naming import Body


def blocks(*shapes):
    """A hand with blocks as bodies of their own; each is a dict of fields."""
    hand = Parts()
    for fields in shapes:
        typed = {k: v if isinstance(v, str) else f"{v} mm" for k, v in fields.items()}
        hand.step("block", **{"result": "separate", **typed})
    return hand


def meeting(*shapes, within=2.0):
    hand = blocks(*shapes)
    bodies = hand.built().bodies
    assert len(bodies) == len(shapes), hand.messages()
    found = list(fitting.pairs(bodies, within))
    return found[0] if found else None


def box(w, d, h, x=0.0, y=0.0, z=0.0, **more):
    return {"shape": "box", "width": w, "depth": d, "height": h, "x": x, "y": y, "z": z, **more}


def rod(diameter, h, x=0.0, y=0.0, z=0.0, **more):
    return {"shape": "cylinder", "diameter": diameter, "height": h, "x": x, "y": y, "z": z, **more}


def ball(diameter, x=0.0, y=0.0, z=0.0):
    return {"shape": "sphere", "diameter": diameter, "x": x, "y": y, "z": z}


def lens(r, apart):
    """What two balls of radius r share, their middles ``apart`` (two caps)."""
    h = r - apart / 2
    return 2 * math.pi * h * h * (3 * r - h) / 3


@pytest.mark.parametrize(
    ("one", "other", "volume"),
    [
        (box(20, 20, 10), box(20, 20, 10, 12, 7, 4), 8 * 13 * 6),
        (box(20, 20, 10), box(5, 5, 5, 2, 2, 2), 125),  # wholly inside
        (box(20, 20, 10), box(20, 20, 10, 19.9, 0, 0), 0.1 * 200),
        (box(40, 40, 10), rod(12, 30, 20, 20, -10), math.pi * 36 * 10),
        (rod(20, 10), rod(20, 10, 0, 0, 9.5), math.pi * 100 * 0.5),
        (ball(20), ball(20, 15), lens(10, 15)),
        (ball(20), ball(20, 19.5), lens(10, 19.5)),
        (rod(20, 30), ball(20, 0, 0, 15), 4 / 3 * math.pi * 1000),
    ],
)
def test_overlaps_have_the_volume_of_their_formula(one, other, volume):
    found = meeting(one, other)
    assert found.shared == pytest.approx(volume, rel=1e-5)


SHAPES = {"box": box(20, 20, 10), "rod": rod(20, 10), "ball": ball(20)}


def _apart():
    """Pairs that touch, or miss by a hair, along x, y and z: (one, other, gap)."""
    for gap in (0.0, 1e-3, 0.05, 0.2):
        for (wx, wy, wz), at in (
            ((1, 0, 0), 20), ((0, 1, 0), 20), ((0, 0, 1), 10), ((-1, 0, 0), 20), ((0, 0, -1), 10),
        ):  # fmt: skip
            off = at + gap
            yield box(20, 20, 10), box(20, 20, 10, wx * off, wy * off, wz * off), gap
        yield rod(20, 10), rod(20, 10, 20 + gap), gap
        yield rod(20, 10), rod(20, 10, 0, 0, 10 + gap), gap
        yield ball(20), ball(20, 20 + gap), gap
        yield ball(20), box(20, 20, 10, 0, 0, 10 + gap), gap
        yield rod(20, 10), box(20, 20, 10, 10 + gap, -10, 0), gap
        yield box(20, 20, 10), rod(8, 10, 3, 3, 10 + gap), gap
        yield ball(20), rod(20, 10, 0, 0, 10 + gap), gap
        yield box(20, 20, 10), box(10, 10, 10, 20 + gap, 0, 3), gap
        yield box(20, 20, 10), box(20, 20, 10, 20 + gap, 20, 10), gap
        yield rod(10, 10), rod(30, 10, 0, 20 + gap), gap
        yield ball(10), rod(30, 10, 0, 20 + gap, -5), gap


APART = list(_apart())


def test_nothing_that_touches_or_misses_is_called_a_collision():
    assert len(APART) >= 60
    wrong = []
    for one, other, gap in APART:
        found = meeting(one, other)
        if found is None or found.shared or found.gap != pytest.approx(gap, abs=2e-6):
            wrong.append((one, other, gap, found and (found.shared, found.gap)))
    assert not wrong, wrong


def test_what_lies_on_each_other_has_the_area_of_contact():
    hand = blocks(box(20, 20, 10), box(20, 20, 10, 5, 5, 10), rod(8, 10, 15, 15, 20))
    low, high, pin = hand.built().bodies
    assert fitting.contact(low, high) == pytest.approx(15 * 15, rel=1e-9)
    assert fitting.contact(high, pin) == pytest.approx(math.pi * 16, rel=1e-9)
    assert fitting.contact(low, pin) == 0


def tube_and_pin(play):
    """A sleeve of 20 inside and a pin with ``play`` all round, as parts of their own, brought together."""
    hand = blocks(rod(30, 20))
    hand.step("block", shape="cylinder", diameter="20 mm", height="30 mm", z="-5 mm", result="cut")
    pin = hand.new(name="Pin")
    hand.at = pin
    hand.step("block", shape="cylinder", diameter=f"{20 - 2 * play} mm", height="20 mm")
    hand.at = hand.new(sort="together")
    hand.step("bring_part", part="p1")
    hand.step("bring_part", part=pin)
    return hand


def said(hand, play=0.2):
    bodies = hand.built().bodies
    meetings = [
        fits.Meeting(p.one.id, p.other.id, p.shared, p.gap, p.ends, 0.0, "", tuple(fitting.snug(p.one, p.other, 2.0)))
        for p in fitting.pairs(bodies, 2.0)
    ]
    return fits.findings(hand.model, hand.model.part(hand.at), meetings, play)


def test_the_play_of_a_pin_in_its_hole_is_told_with_the_sizes_that_would_do():
    (found,) = [f for f in said(tube_and_pin(0.05)) if "round thing" in f.text]
    assert (found.verdict, found.figure) == ("warn", "0.05 mm")
    assert "hole ⌀ 20.3 mm, or shaft ⌀ 19.6 mm" in found.text
    (found,) = [f for f in said(tube_and_pin(0.3)) if "round thing" in f.text]
    assert (found.verdict, found.figure) == ("fine", "0.3 mm")


@pytest.fixture
def stacked():
    """Two plates, the upper one placed on the lower by a gap that is a parameter."""
    hand = blocks(box(20, 20, 10))
    hand.do("rename_part", part="p1", name="Plate")
    hand.do("add_parameter", name="play", formula="0 mm")
    hand.at = hand.new(sort="together")
    low, high = (hand.step("bring_part", part="p1", z=z) for z in ("0 mm", "40 mm"))
    hand.step("place", a=face(hand, high, way=(0, 0, -1)), how="against", b=face(hand, low, way=(0, 0, 1)), gap="play")
    return hand


def test_what_seats_by_its_place_is_no_collision(stacked):
    (found,) = said(stacked)
    assert (found.verdict, found.text) == ("fine", "Seated, as its place says.")
    assert found.title == "Plate 1 and Plate 2"


@pytest.mark.parametrize(("play", "verdict"), [("-0.5 mm", "bad"), ("0.05 mm", "warn"), ("0.5 mm", "fine")])
def test_the_parameter_that_would_cure_it_is_named_and_does(stacked, play, verdict):
    stacked.do("set_parameter", name="play", formula=play)
    (found,) = said(stacked)
    assert found.verdict == verdict
    if verdict == "bad":
        assert found.figure == "200 mm³"
    if verdict == "fine":
        assert not found.edits
        return
    assert found.fix == "make play 0.2 mm"
    for edit in found.edits:
        stacked.do(**edit)
    (found,) = said(stacked)
    assert (found.verdict, found.figure) == ("fine", "0.2 mm")


def test_touching_by_chance_is_said():
    hand = blocks(box(20, 20, 10), box(20, 20, 10, 0, 0, 10))
    (found,) = said(hand)
    assert (found.verdict, found.fix) == ("warn", "")
    assert "nothing says that they should" in found.text


def test_shapes_that_others_hold_are_left_as_they_are():
    """The check may not damage what it looks at: the watch over kept shapes would tell; the same answer twice."""
    hand = blocks(box(20, 20, 10), rod(8, 30, 3, 3, -5))
    bodies = hand.built().bodies
    first = [(p.shared, p.gap) for p in fitting.pairs(bodies, 1.0)]
    fitting.contact(*bodies)
    assert [(p.shared, p.gap) for p in fitting.pairs(bodies, 1.0)] == first
    assert isinstance(bodies[0], Body)


def test_pairs_that_are_too_many_are_counted_not_kept_quiet(monkeypatch):
    hand = blocks(*(box(5, 5, 5, 5 * i) for i in range(6)))
    bodies = hand.built().bodies
    assert fitting.unseen(bodies, 0.5) == 0
    monkeypatch.setattr(fitting, "MOST_PAIRS", 3)
    assert len(list(fitting.pairs(bodies, 0.5))) == 3
    assert fitting.unseen(bodies, 0.5) == 2, "five neighbours touch"


def test_threads_that_turn_into_each_other_do_not_overlap_and_those_pushed_aside_do():
    """The kernel called the common part of the latter nothing."""
    m = Hand()
    m.step("block", shape="cylinder", diameter="12", height="6")
    bolt = m.build().bodies[0].id
    m.step("block", shape="cylinder", diameter="18", height="6", result="separate")
    nut = m.build().bodies[-1].id
    m.step("block", shape="cylinder", diameter="10.106", height="6", result="cut", bodies=[nut])
    m.step("thread", face=[of_radius(m, bolt, 6)], size="M12", play="0.4")
    m.step("thread", face=[of_radius(m, nut, 5.053)], size="M12", play="0.4")
    turn = m.step("move", how="turn", bodies=[nut], axis={"axis": "z"}, angle="0.01 deg")
    up = m.step("move", how="shift", bodies=[nut], dz="0.001")
    shares = []
    for turned, pushed in ((90, 1.75 / 4), (90, 1.75 / 2)):
        m.do("set_fields", step=turn, fields={"angle": f"{turned} deg"})
        m.do("set_fields", step=up, fields={"dz": f"{pushed}"})
        assert m.messages() == []
        (pair,) = pairs(m.build().bodies, 2.0)
        shares.append(pair.shared)
    assert shares[0] == 0
    # a quarter of the pitch off, half the flanks' height is shared along the helix: ten cubic millimetres and more
    assert 5 < shares[1] < 100


def of_radius(m, id, radius):
    body = next(b for b in m.build().bodies if b.id == id)
    faces = digest(body).faces
    return pick_of_face(
        body, next(i for i, f in enumerate(faces) if f.form == "cylindrical" and abs(f.radius - radius) < 1e-3)
    )


def test_rounded_corners_beside_each_other_are_no_shafts():
    """A lid's lip in a tray: four round corners with a little play, and no round thing in a hole."""
    hand = Hand()
    for w, h, r in ((60, 20, 8), (59.2, 12, 7.6)):
        at = (60 - w) / 2
        made = hand.prism("top", outline(at, at, w, w - 20), distance=f"{h}", result="separate")
        corners = [(x, y, h / 2) for x in (at, at + w) for y in (at, at + w - 20)]
        hand.step("fillet", edges=hand.edges(*corners), radius=f"{r}")
        if w == 60:
            hand.step("shell", thickness="2 mm", faces=[hand.face((0, 0, 1))], bodies=[made])
    one, other = hand.build().bodies
    assert fitting.snug(one, other, 2.0) == []
    # a pin in a bore, both in halves, is told once
    pin = Hand()
    pin.step("block", shape="cylinder", diameter="30", height="10")
    pin.step("block", shape="cylinder", diameter="10", height="10", result="cut")
    pin.step("block", shape="cylinder", diameter="9.6", height="10", result="separate")
    ring, shaft = pin.build().bodies
    assert [(s.shaft, s.hole) for s in fitting.snug(ring, shaft, 2.0)] == [(pytest.approx(4.8), pytest.approx(5.0))]


def test_a_pair_has_one_line_and_what_a_split_parts_is_as_it_parts_them():
    hand = Hand()
    hand.prism("top", outline(0, 0, 60, 40), distance="20")
    datum = hand.step("datum", plane={"plane": "right"}, offset="30")
    step = hand.step("split", by="plane", plane={"datum": datum}, joint="pegs", play="0.1 mm")
    one, other = hand.build().bodies
    from sketchlathe.workers.prints import _parted

    assert _parted(hand.model, one, other) == step
    met = [
        fits.Meeting(p.one.id, p.other.id, p.shared, p.gap, p.ends, fitting.contact(p.one, p.other), step,
                     tuple(fitting.snug(p.one, p.other, 2.0)))
        for p in fitting.pairs([one, other], 2.0)
    ]  # fmt: skip
    (found,) = fits.findings(hand.model, hand.model.parts[0], met, 0.2)
    assert found.verdict == "fine" and "parts them" in found.text
