"""Advice over the whole part, proposals for lost picks, edits of the history, sections through bodies."""

import math

import pytest
from tests.conftest import Hand, plate

from sketchlathe.core.errors import BadInput, Refused
from sketchlathe.core.frames import ORIGIN_PLANES, frame_on
from sketchlathe.core.model.advising import advise
from sketchlathe.core.model.edits.steps import standings
from sketchlathe.core.solid.sectioning import section

PI = math.pi


def advised(hand: Hand) -> list[tuple[str, str, str]]:
    """(title of the step, text, word of the remedy)"""
    found = advise(hand.model, hand.model.parts[0], hand.build())
    return [(hand.model.title_of(id), a.text, a.fix) for id, all_ in found.items() for a in all_]


def take(hand: Hand, word: str) -> None:
    """Take the first remedy of a name, as a click does."""
    found = advise(hand.model, hand.model.parts[0], hand.build())
    advice = next(a for all_ in found.values() for a in all_ if a.fix.startswith(word))
    hand.do("together", edits=[dict(e) for e in advice.edits], word=advice.fix)


# --- advice


def test_a_fillet_before_the_shape_that_cuts_into_it_is_moved_behind_it() -> None:
    hand = plate("60", "40", "20")
    fillet = hand.step("fillet", edges=hand.edges((60, 20, 20)), radius="5")
    pocket = hand.sketch()
    hand.draw(pocket, "rectangle", (50, 10), (70, 30))
    hand.step("extrude", regions=hand.regions(pocket), reach="through", result="cut")
    assert [(t, fix) for t, _, fix in advised(hand)] == [("Fillet 1", "move it behind Extrude 2")]
    take(hand, "move it")
    assert hand.steps[-1].id == fillet
    assert hand.messages() == []
    assert advised(hand) == []
    # two strips of 10 are rounded now, at the two ends of that edge that are left
    assert hand.volume() == pytest.approx(60 * 40 * 20 - 10 * 20 * 20 - 20 * 25 * (1 - PI / 4))


def test_a_fillet_that_a_later_step_needs_stays_where_it_is() -> None:
    hand = plate("60", "40", "20")
    fillet = hand.step("fillet", edges=hand.edges((60, 20, 20)), radius="5")
    hand.step("mirror", what="steps", steps=[hand.steps[1].id, fillet], plane={"plane": "right"})
    pocket = hand.sketch()
    hand.draw(pocket, "rectangle", (50, 10), (70, 30))
    hand.step("extrude", regions=hand.regions(pocket), reach="through", result="cut")
    found = advised(hand)
    assert [fix for _, text, fix in found if "cuts into this rounding" in text] == [""]


def test_two_equal_distances_are_linked_by_a_parameter() -> None:
    hand = plate("60", "40", "20")
    second = hand.sketch()
    hand.draw(second, "rectangle", (0, 50), (10, 60))
    hand.step("extrude", regions=hand.regions(second), distance="20 mm", result="separate")
    assert [(t, fix) for t, _, fix in advised(hand)] == [("Extrude 2", "link them")]
    take(hand, "link")
    name = hand.model.parameters[0].name
    assert [s.distance for s in hand.steps if s.kind == "extrude"] == [name, name]
    hand.do("set_parameter", name=name, formula="25 mm")
    assert hand.volume() == pytest.approx(60 * 40 * 25 + 10 * 10 * 25)
    assert advised(hand) == []


def test_equal_numbers_of_different_sorts_are_no_advice() -> None:
    hand = plate("60", "40", "5")
    hand.step("fillet", edges=hand.edges((60, 0, 2.5)), radius="5")
    assert advised(hand) == []


# --- picks that are lost


def test_a_lost_edge_tells_its_place_and_the_nearest_like_it() -> None:
    hand = plate("60", "40", "20")
    step = hand.sketch(hand.face((0, 0, 1)))
    hand.draw(step, "rectangle", (10, 10), (20, 20))
    boss = hand.step("extrude", regions=hand.regions(step), distance="10")
    hand.step("fillet", edges=hand.edges((20, 20, 25), (60, 0, 10)), radius="2")
    # another outline under the boss: the picked edge's two sides are gone
    ids = [c.id for c in hand.curves(step)]
    hand.do("delete_from_sketch", sketch=step, ids=ids)
    hand.draw(step, "circle", (15, 15), (22, 15))
    hand.do("set_fields", step=boss, fields={"regions": hand.regions(step)})
    result = hand.build().steps[-1]
    assert result.status == "failed"
    fixes = {a.fix: a.fields for a in result.advice}
    assert "leave it out" in fixes
    assert len(fixes["leave it out"]["edges"]) == 1
    place = result.blame[0]["at"]
    assert math.dist(place, (20, 20, 25)) < 6
    hand.do("set_fields", step=result.step, fields=dict(fixes["leave it out"]))
    assert hand.messages() == []


def test_a_lost_face_offers_the_nearest_of_the_same_step() -> None:
    hand = plate("60", "40", "20")
    notch = hand.sketch()
    hand.draw(notch, "rectangle", (50, -10), (70, 15))
    cut = hand.step("extrude", regions=hand.regions(notch), reach="through", result="cut")
    wall = next(f["pick"] for f in hand.packed()["faces"] if f["pick"]["centre"][0] == pytest.approx(50 / 60, abs=0.01))
    hand.step("shell", faces=[wall], thickness="2")
    assert hand.messages() == []
    ids = [c.id for c in hand.curves(notch)]
    hand.do("delete_from_sketch", sketch=notch, ids=ids)
    hand.draw(notch, "rectangle", (45, -10), (70, 15))
    hand.do("set_fields", step=cut, fields={"regions": hand.regions(notch)})
    result = hand.build().steps[-1]
    assert result.status == "failed"
    nearest = next(a for a in result.advice if a.fix == "take the nearest one like it")
    hand.do("set_fields", step=result.step, fields=dict(nearest.fields))
    assert hand.messages() == []


# --- edits of the history


def test_a_copied_sketch_has_ids_of_its_own() -> None:
    hand = plate("60", "40", "20")
    first = hand.steps[0]
    hand.do("duplicate_step", step=first.id)
    copy = hand.steps[1]
    assert copy.kind == "sketch"
    assert not {c.id for c in first.sketch.curves} & {c.id for c in copy.sketch.curves}
    assert len(copy.sketch.constraints) == len(first.sketch.constraints)
    # changing a size of the copy leaves the first one alone
    size = next(k for k in copy.sketch.constraints if getattr(k, "value", "") == "60 mm")
    hand.do("set_dimension", sketch=copy.id, id=size.id, value="30 mm")
    assert hand.areas(copy.id) == [pytest.approx(1200)]
    assert hand.areas(first.id) == [pytest.approx(2400)]
    assert hand.volume() == pytest.approx(48000)


def test_deleting_what_others_use_is_a_choice() -> None:
    hand = plate("60", "40", "20")
    sketch, extrude = (s.id for s in hand.steps)
    with pytest.raises(Refused, match="Extrude 1 uses Sketch 1"):
        hand.do("delete_step", step=sketch)
    whole = hand.model
    hand.do("delete_step", step=sketch, with_users=True)
    assert hand.steps == ()
    hand.model = whole
    hand.do("delete_step", step=sketch, leave_users=True)
    assert [s.id for s in hand.steps] == [extrude]
    assert hand.messages() == ["What this step picked from was deleted. Pick again, or delete this step."]
    hand.model = whole
    hand.do("delete_step", step=extrude)
    assert [s.id for s in hand.steps] == [sketch]


def test_edits_made_together_are_all_made_or_none() -> None:
    hand = plate("60", "40", "20")
    before = hand.model
    good = {"kind": "rename_step", "step": hand.steps[0].id, "name": "Outline"}
    with pytest.raises(BadInput):
        hand.do("together", edits=[good, {"kind": "set_fields", "step": hand.steps[1].id, "fields": {"nothing": 1}}])
    assert hand.model == before
    with pytest.raises(BadInput):
        hand.do("together", edits=[{"kind": "together", "edits": [good]}])
    hand.do("together", edits=[good, {"kind": "skip_step", "step": hand.steps[1].id, "skipped": True}])
    assert hand.steps[0].name == "Outline"
    assert hand.steps[1].skipped


def test_where_steps_may_stand() -> None:
    hand = plate("60", "40", "20")
    block = hand.step("block")
    other = hand.sketch("front")
    stands = standings(hand.model.parts[0])
    sketch, extrude = (s.id for s in hand.steps[:2])
    assert stands[extrude].needs == {sketch}
    # the sketch stays before its extrude; the others go anywhere behind what they use
    assert stands[sketch][1:] == (0, 0)
    assert stands[extrude][1:] == (1, 3)
    assert stands[block][1:] == stands[other][1:] == (0, 3)
    for id in (sketch, extrude, block, other):
        for place in range(4):
            allowed = stands[id].first <= place <= stands[id].last
            copy = Hand(hand.model)
            if allowed:
                copy.do("move_step", step=id, to=place)
                assert copy.steps[place].id == id
            else:
                with pytest.raises(Refused):
                    copy.do("move_step", step=id, to=place)


def test_colours_are_kept_replaced_and_taken_away() -> None:
    hand = plate("60", "40", "20")
    top = hand.face((0, 0, 1))
    hand.do("paint", part="p1", face=top, colour="#336699")
    hand.do("paint", part="p1", face=top, colour="#993366")
    body = hand.build().bodies[0].id
    hand.do("paint", part="p1", body=body, colour="#222222")
    assert [p.colour for p in hand.model.parts[0].paints] == ["#993366", "#222222"]
    hand.do("paint", part="p1", face=top, colour="")
    assert [p.colour for p in hand.model.parts[0].paints] == ["#222222"]
    with pytest.raises(BadInput):
        hand.do("paint", part="p1", colour="#222222")
    with pytest.raises(BadInput):
        hand.do("paint", part="p1", body=body, colour="red")


# --- sections


@pytest.mark.parametrize(("z", "area"), [(0.5, 2400), (5.0, 2400), (-0.01, 0), (10.01, 0)])
def test_a_plate_cut_level(z: float, area: float) -> None:
    (body,) = plate("60", "40", "10").build().bodies
    found = section(body, frame_on((0, 0, z), (0, 0, 1)))
    assert (found.area if found else 0) == pytest.approx(area)


def test_a_slanted_cut_through_a_cylinder_is_an_ellipse() -> None:
    hand = Hand()
    hand.step("block", shape="cylinder", diameter="20", height="60")
    (body,) = hand.build().bodies
    found = section(body, frame_on((0, 0, 30), (0, math.sin(0.5), math.cos(0.5))))
    assert found is not None
    assert found.area == pytest.approx(PI * 10 * 10 / math.cos(0.5), rel=1e-9)
    # Ramanujan's second approximation of an ellipse's circumference
    a, b = 10 / math.cos(0.5), 10
    h = ((a - b) / (a + b)) ** 2
    assert found.outline == pytest.approx(PI * (a + b) * (1 + 3 * h / (10 + math.sqrt(4 - 3 * h))), rel=1e-5)
    # what is drawn is that ellipse, as nearly as chords go
    corners = found.positions[found.triangles]
    sides = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    import numpy as np

    drawn = np.linalg.norm(np.cross(*sides), axis=1).sum() / 2
    assert drawn == pytest.approx(found.area, rel=0.01)


def test_a_hollow_ball_shows_a_ring() -> None:
    hand = Hand()
    hand.step("block", shape="sphere", diameter="40")
    hand.step("shell", thickness="4")
    (body,) = hand.build().bodies
    found = section(body, ORIGIN_PLANES["right"])
    assert found is not None
    assert found.area == pytest.approx(PI * (400 - 256), rel=1e-9)
    assert found.outline == pytest.approx(2 * PI * (20 + 16), rel=1e-9)
