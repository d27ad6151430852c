"""Edges and sections of the solid taken into a sketch: they are where the solid is, and follow it."""

import math
from typing import Any

import pytest
from tests.conftest import Hand, plate

from sketchlathe.core.solid.projecting import takeable


def offers(hand: Hand, sketch: str) -> list[dict[str, Any]]:
    built = hand.build()
    at = [r.step for r in built.steps].index(sketch)
    return takeable(built.steps[at - 1].bodies, built.steps[at].sketch.frame)


def take(hand: Hand, sketch: str, wanted: list[dict[str, Any]]) -> None:
    hand.do("take_curves", sketch=sketch, offers=[{"curve": o["curve"], "edge": o["edge"]} for o in wanted])


def on_top(hand: Hand) -> tuple[str, list[dict[str, Any]]]:
    s = hand.sketch(hand.face((0, 0, 1)))
    found = [o for o in offers(hand, s) if o["words"] == "edge"]
    return s, found


def test_the_edges_of_a_face_are_offered_first_and_are_where_they_are() -> None:
    _s, found = on_top(plate())
    assert len(found) == 4
    lengths = sorted(math.dist(o["curve"]["start"], o["curve"]["end"]) for o in found)
    assert lengths == pytest.approx([40, 40, 60, 60])


def test_taken_curves_cannot_be_moved_and_hold_what_is_put_on_them() -> None:
    hand = plate()
    s, found = on_top(hand)
    far = max(found, key=lambda o: o["curve"]["start"][0] + o["curve"]["end"][0])
    take(hand, s, [far])
    edge = hand.curves(s)[0].id
    assert hand.freedom(s) == 0
    circle = hand.draw(s, "circle", (20, 20), (24, 20), sizes=("8",))[0]
    hand.do("add_dimension", sketch=s, on=[f"{circle}.centre", edge], at=[40, 50], value="15")
    assert hand.curve(s, circle).centre[0] == pytest.approx(45)
    # the block grows: the hole keeps its distance from the far edge
    width = next(c for c in hand.constraints(hand.steps[0].id, "distance") if c.value == "60 mm")
    hand.do("set_dimension", sketch=hand.steps[0].id, id=width.id, value="100")
    hand.step("extrude", regions=hand.regions(s), reach="through", result="cut", way="backwards")
    built = hand.build()
    result = next(r for r in built.steps if r.step == s)
    assert result.sketch.sketch.curve(circle).centre[0] == pytest.approx(85)
    assert hand.volume() == pytest.approx(100 * 40 * 5 - math.pi * 16 * 5)
    hand.do("follow_solid", sketch=s, curves=dict(result.moved))
    assert hand.curve(s, circle).centre[0] == pytest.approx(85)


def test_the_section_of_a_drilled_block_has_its_outline_and_the_hole() -> None:
    hand = plate("60", "40", "20")
    s = hand.sketch()
    hand.draw(s, "circle", (30, 20), (35, 20), sizes=("10",))
    hand.step("extrude", regions=hand.regions(s), reach="through", result="cut")
    datum = hand.step("datum", plane={"plane": "top"}, offset="10")
    t = hand.step("sketch", plane={"datum": datum})
    cuts = [o["curve"] for o in offers(hand, t) if o["words"] == "section"]
    kinds = sorted(c["kind"] for c in cuts)
    assert kinds.count("line") == 4
    round_ = [c for c in cuts if c["kind"] in ("circle", "arc")]
    assert round_ and all(c["radius"] == pytest.approx(5) for c in round_)


def test_a_taken_edge_that_is_gone_stays_and_is_said() -> None:
    hand = plate()
    s, found = on_top(hand)
    take(hand, s, found[:1])
    before = hand.curves(s)[0]
    base = hand.steps[0].id
    hand.do("delete_from_sketch", sketch=base, ids=[hand.curves(base)[0].id])
    built = hand.build()
    assert hand.curves(s)[0] == before
    assert [r.status for r in built.steps][1] == "failed"


def cavity(radius: str) -> tuple[Hand, str, list[dict[str, Any]]]:
    """A tray of 60 x 40 x 20 with rounded corners and walls of 2, a sketch on its rim, the edges inside of the rim."""
    hand = plate("60", "40", "20")
    hand.step("fillet", edges=hand.edges((0, 0, 10), (60, 0, 10), (60, 40, 10), (0, 40, 10)), radius=radius)
    hand.step("shell", thickness="2 mm", faces=[hand.face((0, 0, 1))])
    s = hand.sketch(hand.face((0, 0, 1)))
    found = [o for o in offers(hand, s) if o["words"] == "edge"]

    def inside(o: dict[str, Any]) -> bool:
        ends = [o["curve"][n] for n in ("start", "end")]
        return all(1 < x < 59 and 1 < y < 39 for x, y in ends)

    return hand, s, [o for o in found if inside(o)]


@pytest.mark.parametrize("way", ["itself", "in", "out"])
def test_an_outline_follows_when_its_corners_go_sharp(way: str) -> None:
    hand, s, inner = cavity("4")
    assert sorted(o["curve"]["kind"] for o in inner) == ["arc"] * 4 + ["line"] * 4
    hand.do("take_curves", sketch=s, construction=False,
            offers=[{"curve": o["curve"], "edge": o["edge"]} for o in inner])  # fmt: skip
    play = {"itself": 0.0, "in": -0.5, "out": 0.5}[way]
    if play:
        ids = [c.id for c in hand.curves(s)]
        hand.do("offset", sketch=s, ids=ids, side=(30, 20) if play < 0 else (100, 20), distance="0.5")
    which = (0, 1) if way == "out" else (0,)
    step = hand.step("extrude", regions=hand.regions(s, *which), distance="3", result="separate")

    def area(r: float) -> float:
        """Of the cavity's outline with corners so round, moved out by the play."""
        return (56 + 2 * play) * (36 + 2 * play) - (4 - math.pi) * max(r + play, 0.0) ** 2

    def lid() -> float:
        built = hand.build()
        assert all(r.status == "ok" for r in built.steps), [r.message for r in built.steps]
        from sketchlathe.core.solid.measuring import volume

        return volume(next(b for b in built.bodies if b.id.startswith(step)).shape)

    assert lid() == pytest.approx(3 * area(2), rel=1e-9)
    fillet = hand.steps[2].id
    hand.do("set_fields", step=fillet, fields={"radius": "1.5"})
    # wall 2 and radius 1.5: the corners inside are sharp, an outline moved out keeps them so
    assert lid() == pytest.approx(3 * (56 + 2 * play) * (36 + 2 * play), rel=1e-9)
    assert any("goes on without them" in a.text for a in hand.advice())
    hand.do("set_fields", step=fillet, fields={"radius": "5"})
    assert lid() == pytest.approx(3 * area(3), rel=1e-9)
    assert not any("goes on without" in a.text for a in hand.advice())
