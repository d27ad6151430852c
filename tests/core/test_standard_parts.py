"""Bought parts: sizes as their standards give them, put into holes, weighed as what they are, never printed."""

from __future__ import annotations

import math

import pytest
from tests.conftest import Hand, plate

from sketchlathe.core.inspect import fits
from sketchlathe.core.inspect.parts_list import parts_list
from sketchlathe.core.making.context import Context
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.model.building import build
from sketchlathe.core.model.document import new_model
from sketchlathe.core.model.made_of import bought_as, key_for, printed
from sketchlathe.core.solid import fitting
from sketchlathe.core.solid.edges import edge_shape, middle_of, named_edges, pick_of
from sketchlathe.core.solid.measuring import measures
from sketchlathe.core.solid.naming import Body
from sketchlathe.workers.prints import _from_the_shop

PI = math.pi


def hexagon(across: float) -> float:
    return math.sqrt(3) / 2 * across * across


def lying(what: str, **fields: str) -> Hand:
    hand = plate("60", "40", "20")
    hand.step("standard_part", what=what, at="face", face=[hand.face((0, 0, 1))], **fields)
    return hand


@pytest.mark.parametrize(
    ("what", "fields", "volume", "height"),
    [
        # ISO 4762 M4: head 7 × 4, socket 3 × 2
        ("cap", {"size": "M4", "length": "16"}, PI * 3.5**2 * 4 - 2 * hexagon(3) + PI * 4 * 16, 4),
        # ISO 10642 M5: head 11.2 wide at 90°, its cone ends where the shank begins
        ("sunk", {"size": "M5", "length": "12"},
         PI * 3.1 / 3 * (5.6**2 + 5.6 * 2.5 + 2.5**2) + PI * 2.5**2 * (12 - 3.1) - 1.9 * hexagon(3), 0),
        # ISO 4017 M8: 13 across flats, 5.3 high
        ("hexagon", {"size": "M8", "length": "25"}, hexagon(13) * 5.3 + PI * 16 * 25, 5.3),
        ("nut", {"size": "M6"}, (hexagon(10) - PI * 9) * 5.2, 5.2),
        ("thin_nut", {"size": "M6"}, (hexagon(10) - PI * 9) * 3.2, 3.2),
        ("washer", {"size": "M6"}, PI * (6**2 - 3.2**2) * 1.6, 1.6),
        ("bearing", {"bearing": "608", "lies": "on"}, PI * (11**2 - 4**2) * 7, 7),
    ],
)  # fmt: skip
def test_they_are_as_large_as_their_standards_say(what, fields, volume, height) -> None:
    hand = lying(what, **fields)
    body = hand.build().bodies[-1]
    m = measures(body.shape)
    assert m.volume == pytest.approx(volume, rel=1e-9)
    assert m.box[1][2] == pytest.approx(20 + height, abs=1e-6)


def test_a_button_head_is_the_cap_of_a_ball_with_a_socket() -> None:
    body = lying("button", size="M6", length="10").build().bodies[-1]
    ball, shank = PI * 3.3 / 6 * (3 * 5.25**2 + 3.3**2), PI * 9 * 10
    # the socket begins somewhere under the round top: between a prism of its depth and one less the bulge over it
    radius = (5.25**2 + 3.3**2) / 6.6
    bulge = radius - math.sqrt(radius**2 - (4 / math.sqrt(3)) ** 2)
    gone = ball + shank - measures(body.shape).volume
    assert (2.08 - bulge) * hexagon(4) < gone < 2.08 * hexagon(4)


def defaults(hand: Hand, made: str, touched: set[str]) -> dict[str, str]:
    """What would stand in blanks of the last step that nobody has touched."""
    step, built = hand.model.part_of(made).steps[-1], hand.build()
    context = Context(hand.model, built.steps[-2].left, {r.step: r for r in built.steps[:-1]}, step)
    return step.better_defaults(context, touched)


def bored(**fields: str) -> Hand:
    hand = plate("60", "40", "20")
    hand.step("hole", at="face", face=[hand.face((0, 0, 1))], **fields)
    return hand


def put(hand: Hand, z: float, **fields: str) -> str:
    return hand.step("standard_part", at="round", rounds=hand.edges((30 + 1e-3, 20, z)), **fields)


def test_a_screw_sinks_to_the_seat_of_its_hole_and_goes_together_with_nut_and_washer() -> None:
    hand = bored(form="counterbored", screw="M4", fit="medium")
    put(hand, 20.0, size="M4", length="20")
    screw = hand.build().bodies[-1]
    low, high = measures(screw.shape).box
    # the seat is 4.4 deep: the head, 4 high, lies wholly in it
    assert (low[2], high[2]) == pytest.approx((20 - 4.4 - 20, 20 - 0.4), abs=1e-6)
    put(hand, 0.0, what="nut", size="M4")
    low, high = measures(hand.build().bodies[-1].shape).box
    assert (low[2], high[2]) == pytest.approx((-3.2, 0.0), abs=1e-6)
    told = checked(hand)
    assert {f.verdict for f in told} <= {"fine", "warn"}
    assert any("made to go together" in f.text for f in told)


def checked(hand: Hand) -> list[fits.Finding]:
    """What the fit check says of a part, as a worker asks it."""
    model, part = hand.model, hand.model.parts[0]
    meetings = []
    for pair in fitting.pairs(hand.build().bodies, 2.0):
        bought, threads = _from_the_shop(model, part, pair)
        ids = (pair.one.id, pair.other.id)
        meetings.append(fits.Meeting(*ids, pair.shared, pair.gap, pair.ends, bought=bought, threads=threads))
    return fits.findings(model, part, meetings, 0.2)


def test_a_screw_that_cuts_its_thread_overlaps_by_no_more_than_that() -> None:
    hand = bored(screw="M4", fit="tapping")
    put(hand, 20.0, size="M4", length="16")
    (pair,) = fitting.pairs(hand.build().bodies, 2.0)
    assert pair.shared == pytest.approx(PI / 4 * (16 - 3.3**2) * 16, rel=1e-6)
    (told,) = checked(hand)
    assert (told.verdict, told.text) == ("fine", "Its thread cuts in here.")
    # mirrored as well
    hand.step("mirror", what="bodies", plane={"plane": "right"}, unite="separate")
    assert [f.text for f in checked(hand) if f.verdict == "fine"].count("Its thread cuts in here.") == 2


def test_a_screw_in_too_little_a_hole_in_none_or_against_a_wall_is_a_clash() -> None:
    tight = bored(screw="M2.5", fit="medium")
    put(tight, 20.0, size="M4", length="12")
    none = lying("cap", size="M4", length="12")
    # its head runs into a wall by half a millimetre: far less than a thread takes, and no thread
    wall = bored(screw="M4", fit="medium")
    wall.step("block", width="4", depth="4", height="6", x="33", y="18", z="20")
    put(wall, 20.0, size="M4", length="12")
    for hand in (tight, none, wall):
        assert [f.verdict for f in checked(hand) if "overlap" in f.text] == ["bad"]


@pytest.mark.parametrize(("screw", "fit"), [("M3", "medium"), ("M5", "close"), ("M6", "tapping"), ("M8", "free")])
def test_what_goes_through_a_hole_is_chosen_by_its_size(screw: str, fit: str) -> None:
    hand = bored(screw=screw, fit=fit)
    made = put(hand, 20.0)
    assert defaults(hand, made, {"what"})["size"] == screw


def test_they_are_bought_weighed_counted_and_not_printed() -> None:
    hand = plate("60", "40", "20")
    s = hand.sketch(hand.face((0, 0, 1)))
    points = [{"sketch": s, "ref": f"{hand.draw(s, 'point', (x, 20))[0]}.at"} for x in (15, 45)]
    hand.step("hole", points=points, screw="M4")
    hand.step("standard_part", points=points, size="M4", length="12")
    built, model = hand.build(), hand.model
    part = model.parts[0]
    assert [bought_as(model, part, b) for b in built.bodies] == ["", *["ISO 4762 M4 × 12"] * 2]
    assert [b.id for b in printed(model, part, built.bodies)] == [built.bodies[0].id]
    assert key_for(model, part, built.bodies[1]) == "steel"
    facts = [
        {
            "id": b.id, "volume": measures(b.shape).volume, "density": 7.85, "material": "steel",
            "box": measures(b.shape).box, "bought": bought_as(model, part, b),
        }
        for b in built.bodies
    ]  # fmt: skip
    entries = parts_list(model, part, facts)
    assert [(e.name, e.count) for e in entries][1:] == [("ISO 4762 M4 × 12", 2)]
    # a copy of a bought one is bought
    hand.step("mirror", what="some", bodies=[built.bodies[1].id], plane={"plane": "right"}, unite="separate")
    last = hand.build().bodies[-1]
    assert bought_as(hand.model, hand.model.parts[0], last) == "ISO 4762 M4 × 12"


@pytest.mark.parametrize(
    ("fields", "words"),
    [
        ({"what": "sunk", "size": "M2"}, "There is no ISO 10642 M2: the smallest is M3."),
        ({"size": "M4", "length": "17"}, "ISO 4762 M4 is not made 17 mm long: take 16 mm or 20 mm."),
        ({"size": "M4", "length": "300"}, "ISO 4762 M4 is not made 300 mm long: take 40 mm."),
        ({"size": "M12", "length": "5"}, "ISO 4762 M12 is not made 5 mm long: take 20 mm."),
    ],
)
def test_what_is_not_made_is_refused(fields: dict[str, str], words: str) -> None:
    hand = plate("60", "40", "20")
    hand.step("standard_part", at="face", face=[hand.face((0, 0, 1))], **fields)
    assert hand.messages() == [words]


def test_an_inch_model_takes_them_in_millimetres() -> None:
    hand = Hand(new_model("Inches", "in"))
    hand.step("block", width="3", depth="2", height="1")
    fields = {"size": "M6", "length": "20 mm"}
    made = hand.step("standard_part", at="face", face=[hand.face((0, 0, 1))], **fields)
    assert hand.messages() == []
    assert bought_as(hand.model, hand.model.parts[0], hand.build().bodies[-1]) == "ISO 4762 M6 × 20"
    hand.do("set_fields", step=made, fields={"length": "1"})
    assert hand.messages() == ["ISO 4762 M6 is not made 25.4 mm long: take 25 mm or 30 mm."]


def test_an_insert_and_a_bearing_are_chosen_by_the_hole_they_go_into() -> None:
    hand = bored(screw="M5", fit="insert", reach="depth", depth="12")
    made = put(hand, 20.0, what="insert")
    assert defaults(hand, made, {"what"}) == {"lies": "in", "size": "M5"}
    hand = bored(diameter="16", reach="depth", depth="5", bottom="flat")
    made = put(hand, 20.0, what="bearing")
    assert defaults(hand, made, {"what"})["bearing"] == "625"


@pytest.mark.parametrize("way", ["end", "side"])
def test_a_nut_pocket_brings_the_hole_of_its_screw(way: str) -> None:
    hand = plate("60", "40", "20")
    top = hand.face((0, 0, 1))
    fields = {"at": "face", "face": [top], "size": "M4", "way": way, "deep": "5", "side": {"axis": "x"}}
    pocket = hand.step("nut_pocket", **fields)
    alone = hand.volume()
    hand.do("set_fields", step=pocket, fields={"bore": "through"})
    # ISO 273 medium for M4 is 4.5; the room for the nut is 3.4 high
    assert alone - hand.volume() == pytest.approx(PI / 4 * 4.5**2 * (20 - 3.4), rel=1e-9)
    assert hand.build().afterwards[0][1] == "Put nuts M4 into 1 pocket"


def test_what_is_brought_with_hardware_in_it_is_printed_without() -> None:
    hand = bored(screw="M4", fit="medium")
    put(hand, 20.0, size="M4", length="25")
    hand.do("add_part", name="Both", sort="together")
    there = hand.model.parts[-1].id

    def bodies() -> tuple[Body, ...]:
        built = build(hand.model, hand.model.part(there), BuildCache())
        assert [r.message for r in built.steps if r.status == "failed"] == []
        return built.bodies

    hand.do("add_step", part=there, step="bring_part", fields={"part": "p1"})
    part, brought = hand.model.part(there), bodies()
    assert [bought_as(hand.model, part, b) for b in brought] == ["", "ISO 4762 M4 × 25"]
    assert [b.id for b in printed(hand.model, part, brought)] == [brought[0].id]
    # and put there: a nut under what was brought, on the round edge of its hole
    edges = named_edges(brought[0])
    rim = min(edges, key=lambda e: math.dist(middle_of(edge_shape(e)), (30, 20, 0)))
    fields = {"what": "nut", "size": "M4", "at": "round", "rounds": [pick_of(rim, edges)]}
    hand.do("add_step", part=there, step="standard_part", fields=fields)
    assert measures(bodies()[-1].shape).box[0][2] == pytest.approx(-3.2, abs=1e-6)
