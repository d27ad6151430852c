"""What was picked stays picked, whatever is drawn in it; and two equal steps are two."""

import math
from typing import Any

import pytest
from tests.hand import Hand, box

from sketchlathe.core.advice import Advice
from sketchlathe.core.solid.projecting import takeable


def framed(inner: str = "rectangle") -> tuple[Hand, str, list[str], str]:
    """An outline in an outline, both regions extruded by 5: model, sketch, the inner outline's curves, the step."""
    hand = Hand()
    s = hand.sketch()
    hand.draw(s, "rectangle", (-40, -30), (40, 30))
    if inner == "rectangle":
        ids = hand.draw(s, "rectangle", (-30, -20), (30, 20))
    else:
        ids = hand.draw(s, "circle", (0, 0), (20, 0))
    return hand, s, ids, hand.step("extrude", regions=hand.regions(s, 0, 1), distance="5")


def offset(hand: Hand, s: str, ids: list[str], side: tuple[float, float], distance: str) -> None:
    lines = [i for i in ids if "line" in hand.model.sketch_step(s).sketch.tags_of(i)]
    hand.do("offset", sketch=s, ids=lines or ids, side=side, distance=distance)


def insert(hand: Hand, s: str, ids: list[str], what: str) -> None:
    """Something drawn inside of what is picked."""
    if what == "offset in":
        offset(hand, s, ids, (0, 0), "0.15")
    elif what == "offset out":
        offset(hand, s, ids, (39, 0), "2")
    elif what == "circle":
        hand.draw(s, "circle", (0, 0), (3, 0))
    elif what == "text":
        hand.draw(s, "text", (-15, -2), (100, -2), sizes=("6",), words="Mast 8")
    elif what == "pattern":
        (seed,) = hand.draw(s, "circle", (12, 0), (14, 0))
        hand.do("pattern_curves", sketch=s, ids=[seed], about="origin", count=5)
    elif what == "two in each other":
        hand.draw(s, "circle", (0, 0), (9, 0))
        hand.draw(s, "circle", (0, 0), (4, 0))
    elif what == "a line across":
        hand.draw(s, "line", (-60, 3), (60, 3))
    elif what == "over the edge":
        hand.draw(s, "circle", (40, 0), (45, 0))


KINDS = ("offset in", "offset out", "circle", "text", "pattern", "two in each other", "a line across", "over the edge")


@pytest.mark.parametrize("inner", ["rectangle", "circle"])
@pytest.mark.parametrize("what", KINDS)
def test_what_is_drawn_in_a_picked_region_takes_nothing_of_it(what: str, inner: str) -> None:
    hand, s, ids, step = framed(inner)
    insert(hand, s, ids, what)
    assert hand.volume() == pytest.approx(80 * 60 * 5, rel=1e-9)
    (advice,) = [a for a in hand.advice() if "picked region" in a.text or "region picked" in a.text] or [Advice("")]
    assert advice.text
    hand.do("set_fields", step=step, fields=_plain(advice.settled))
    assert hand.volume() == pytest.approx(80 * 60 * 5, rel=1e-9)
    assert not hand.advice()  # a person has said that it is right


@pytest.mark.parametrize(
    ("what", "area"),
    [("circle", math.pi * 9), ("pattern", 5 * math.pi * 4), ("offset in", 59.7 * 39.7)],
)
def test_new_outlines_can_be_left_out(what: str, area: float) -> None:
    hand, s, ids, step = framed()
    insert(hand, s, ids, what)
    (advice,) = hand.advice()
    assert advice.fix == "leave them out"
    hand.do("set_fields", step=step, fields=_plain(advice.fields))
    assert hand.volume() == pytest.approx((80 * 60 - area) * 5, rel=1e-9)
    assert not hand.advice()


def _plain(fields: Any) -> dict[str, Any]:
    import json

    plain: dict[str, Any] = json.loads(json.dumps(dict(fields)))
    return plain


def test_an_outline_taken_from_the_solid_inside_of_what_is_picked() -> None:
    hand = Hand()
    hand.prism("top", box(10, 10, 20, 10), distance="3")
    s = hand.sketch({"plane": "top"})
    hand.polygon(s, *box(0, 0, 60, 40))
    hand.step("extrude", regions=hand.regions(s), distance="5", result="separate")
    before = hand.volumes()
    built = hand.build()
    at = [r.step for r in built.steps].index(s)
    found = takeable(built.steps[at - 1].bodies, built.steps[at].sketch.frame)
    cuts = [{"curve": o["curve"], "edge": o["edge"]} for o in found if o["words"] == "edge"]
    assert len(cuts) >= 4
    hand.do("take_curves", sketch=s, offers=cuts, construction=False)
    assert hand.volumes() == pytest.approx(before, rel=1e-9)


@pytest.mark.parametrize("kind", ["sketch", "datum"])
def test_two_equal_steps_are_two(kind: str) -> None:
    """A kept result came back with the id of a step that was deleted, and nothing opened any more."""
    hand = Hand()
    hand.prism("top", box(0, 0, 20, 20), distance="10")
    fields: dict[str, Any] = {"plane": {"face": hand.face((0, 0, 1))}}
    first = hand.step(kind, **fields)
    hand.build()
    hand.do("delete_step", step=first)
    again = hand.step(kind, **fields)
    third = hand.step(kind, **fields)
    assert len({first, again, third}) == 3
    assert [r.step for r in hand.build().steps] == [s.id for s in hand.steps]
    hand.do("duplicate_step", step=again)
    built = hand.build()
    assert [r.step for r in built.steps] == [s.id for s in hand.steps]
    assert all(r.status == "ok" for r in built.steps)


def test_a_distance_back_into_the_material_cuts_and_says_so() -> None:
    """Pulled or typed below nought on a face it cuts, above it adds; what is kept says the way in words."""
    from sketchlathe.core.making.context import Context

    hand = Hand()
    hand.prism("top", box(0, 0, 40, 30), distance="20")
    s = hand.sketch(hand.face((0, 0, 1)))
    hand.draw(s, "circle", (20, 15), (25, 15), sizes=("10",))

    def likely(distance: str, way: str = "forwards", result: str = "add") -> dict[str, Any]:
        draft = Hand(hand.model)
        step = draft.step("extrude", regions=draft.regions(s), distance=distance, way=way, result=result)
        built = draft.build()
        context = Context(
            draft.model, built.steps[-2].left, {r.step: r for r in built.steps[:-1]}, draft.model.parts[0].steps[-1]
        )
        assert step == draft.model.parts[0].steps[-1].id
        return draft.model.parts[0].steps[-1].better_defaults(context, {"regions", "distance"})

    assert likely("-5") == {"result": "cut", "way": "forwards"}
    assert likely("-5", result="cut") == {"result": "cut", "way": "forwards"}
    assert likely("5", result="cut") == {"result": "add", "way": "forwards"}
    step = hand.step("extrude", regions=hand.regions(s), distance="-5", result="cut")
    kept = hand.model.part_of(step).steps[-1]
    assert (kept.distance, kept.way) == ("5 mm", "backwards")
    assert hand.volume() == pytest.approx(40 * 30 * 20 - math.pi * 25 * 5)
    hand.do("add_parameter", name="d", formula="-3 mm")
    hand.do("set_fields", step=step, fields={"distance": "-d", "way": "forwards", "result": "add"})
    assert hand.model.part_of(step).steps[-1].distance == "-d"  # what follows a parameter stays as it is said


def test_a_body_is_turned_over_about_its_own_middle() -> None:
    """A lid drawn far from the origin, laid on its face, stays there; it went to the other side of the origin."""
    from tests.batteries.mechanisms import UP, Placing

    m = Placing()
    base, lid = m.block(20, 20, 10), m.prism("top", box(100, 20, 20, 20), distance="4", result="separate")
    m.step("place", a=m.flat(lid, UP), how="against", b=m.flat(base, UP))
    assert m.messages() == []
    from sketchlathe.core.solid.measuring import box_of

    (x0, y0, z0), (x1, y1, _) = box_of(m.body(lid).shape)
    assert (x0, y0, x1, y1, z0) == pytest.approx((100, 20, 120, 40, 10), abs=1e-6)
