"""Every kind of step against closed formulas: prisms, Pappus, spherical caps, fillet and chamfer strips."""

import math
from typing import Any

import pytest
from tests.batteries.making import face
from tests.conftest import Hand, plate

from sketchlathe.core.steps.base import STEPS

ORIGIN = (0.0, 0.0, "origin", "origin")
PI = math.pi


def block(w: float = 60, d: float = 40, h: float = 20) -> Hand:
    return plate(str(w), str(d), str(h))


def test_a_ring_is_what_pappus_says() -> None:
    hand = Hand()
    s = hand.sketch("front")
    hand.draw(s, "circle", (30, 0), (35, 0), sizes=("10",))
    hand.step("revolve", regions=hand.regions(s), axis={"axis": "z"})
    assert hand.volume() == pytest.approx(2 * PI * 30 * PI * 25)
    step = hand.steps[-1].id
    hand.do("set_fields", step=step, fields={"reach": "angle", "angle": "90"})
    assert hand.volume() == pytest.approx(PI / 2 * 30 * PI * 25)
    hand.do("set_fields", step=step, fields={"reach": "both"})
    assert hand.volume() == pytest.approx(PI / 2 * 30 * PI * 25)


def test_a_ball_from_half_a_circle_about_a_line_of_the_sketch() -> None:
    hand = Hand()
    s = hand.sketch("front")
    line = hand.draw(s, "line", (0, -10), (0, 10))[0]
    hand.draw(s, "arc", (0, -10, "end", f"{line}.start"), (0, 10, "end", f"{line}.end"), (10, 0))
    hand.step("revolve", regions=hand.regions(s), axis={"sketch": s, "line": line})
    assert hand.volume() == pytest.approx(4 / 3 * PI * 1000)


def test_a_profile_across_its_axis_is_refused() -> None:
    hand = Hand()
    s = hand.sketch("front")
    hand.draw(s, "circle", (3, 0), (8, 0))
    hand.step("revolve", regions=hand.regions(s), axis={"axis": "z"})
    assert "both sides of its axis" in hand.messages()[0]


@pytest.mark.parametrize("r", [0.5, 3, 19.999])
def test_a_rounded_edge_loses_its_strip(r: float) -> None:
    hand = block()
    hand.step("fillet", edges=hand.edges((30, 0, 20)), radius=str(r))
    assert hand.volume() == pytest.approx(48000 - 60 * r * r * (1 - PI / 4))


def test_two_radii_in_one_fillet() -> None:
    hand = block()
    hand.step("fillet", edges=hand.edges((30, 0, 20)), radius="3", more=hand.edges((30, 40, 20)), more_radius="5")
    assert hand.volume() == pytest.approx(48000 - 60 * (9 + 25) * (1 - PI / 4))


def test_a_fillet_too_big_names_the_largest_and_offers_it() -> None:
    hand = block()
    hand.step("fillet", edges=hand.edges((30, 0, 20), (30, 40, 20)), radius="25")
    result = hand.build().steps[-1]
    assert result.status == "failed"
    assert "largest that works here is" in result.message
    fix = result.advice[0].fields["radius"]
    assert 19.5 < float(fix.split()[0]) <= 20
    hand.do("set_fields", step=hand.steps[-1].id, fields={"radius": fix})
    assert hand.build().steps[-1].status == "ok"


@pytest.mark.parametrize(
    ("fields", "cut"),
    [
        ({"size": "4"}, 8),
        ({"size": "4", "form": "two", "second": "6"}, 12),
        ({"size": "4", "form": "angle", "angle": "60"}, 8 * math.tan(PI / 3)),
    ],
)
def test_a_chamfer_loses_its_triangle(fields: dict[str, str], cut: float) -> None:
    hand = block()
    hand.step("chamfer", edges=hand.edges((30, 0, 20)), **fields)
    assert hand.volume() == pytest.approx(48000 - 60 * cut)


def test_all_edges_of_a_face_are_chamfered_at_once() -> None:
    hand = block()
    hand.step("chamfer", edges=[hand.face((0, 0, 1))], size="2")
    # a frustum on top: the prism formula of the cut-off rim
    top, low = 56 * 36, 60 * 40
    frustum = 2 / 6 * (top + low + 4 * 58 * 38)
    assert hand.volume() == pytest.approx(60 * 40 * 18 + frustum)


@pytest.mark.parametrize("t", [0.5, 2, 8])
def test_an_open_box_has_walls_of_its_thickness(t: float) -> None:
    hand = block()
    hand.step("shell", thickness=str(t), faces=[hand.face((0, 0, 1))])
    assert hand.volume() == pytest.approx(48000 - (60 - 2 * t) * (40 - 2 * t) * (20 - t))
    hand.do("set_fields", step=hand.steps[-1].id, fields={"faces": []})
    assert hand.volume() == pytest.approx(48000 - (60 - 2 * t) * (40 - 2 * t) * (20 - 2 * t))


def test_an_outward_shell_of_a_box_keeps_sharp_edges() -> None:
    hand = block()
    hand.step("shell", thickness="3", way="outward", faces=[hand.face((0, 0, 1))])
    assert hand.volume() == pytest.approx(66 * 46 * 23 - 48000)


@pytest.mark.parametrize("t", ["10", "20", "25", "1000"])
def test_walls_too_thick_are_an_error_never_a_wrong_solid(t: str) -> None:
    hand = block()
    hand.step("shell", thickness=t)
    assert "too thick" in hand.messages()[0]


def drilled(form: str, **fields: Any) -> float:
    hand = block()
    top = hand.face((0, 0, 1))
    s = hand.sketch(top)
    points = [hand.draw(s, "point", (x, 20))[0] for x in (15, 45)]
    hand.step("hole", points=[{"sketch": s, "ref": f"{p}.at"} for p in points], form=form, **fields)
    return 48000 - hand.volume()


def test_sizes_that_a_table_gives_are_said() -> None:
    hand = block()
    made = hand.step("hole", at="face", face=[hand.face((0, 0, 1))], form="counterbored", screw="M4")
    # ISO 273 medium, and room for the head of an ISO 4762 screw
    assert list(hand.build().steps[-1].took) == ["⌀ 4.5 mm", "seat ⌀ 8 mm", "4.4 mm deep"]
    hand.do("set_fields", step=made, fields={"seat_depth": "5"})
    assert list(hand.build().steps[-1].took) == ["⌀ 4.5 mm", "seat ⌀ 8 mm"]


def test_holes_take_away_what_they_should() -> None:
    assert drilled("plain", diameter="6") == pytest.approx(2 * PI * 9 * 20)
    tip = PI * 9 * (3 / math.tan(math.radians(59))) / 3
    assert drilled("plain", diameter="6", reach="depth", depth="8") == pytest.approx(2 * (PI * 9 * 8 + tip))
    seat = PI * (25 - 9) * 4
    assert drilled("counterbored", diameter="6", seat_diameter="10", seat_depth="4") == pytest.approx(
        2 * (PI * 9 * 20 + seat)
    )
    h = 2.0  # from radius 5 to 3 at 90 degrees
    cone = PI * h / 3 * (25 + 15 + 9) - PI * 9 * h
    assert drilled("countersunk", diameter="6", seat_diameter="10") == pytest.approx(2 * (PI * 9 * 20 + cone))
    # ISO 273 medium for M5 is 5.5
    assert drilled("plain", screw="M5", fit="medium") == pytest.approx(2 * PI * 2.75**2 * 20)


def test_a_hole_goes_into_the_material_from_either_side() -> None:
    hand = block()
    s = hand.sketch("top")
    p = hand.draw(s, "point", (30, 20))[0]
    hand.step("hole", points=[{"sketch": s, "ref": f"{p}.at"}], diameter="6", reach="depth", depth="5")
    assert hand.volume() < 48000 - PI * 9 * 5 + 1e-6


def test_a_hole_in_the_middle_of_round_edges_is_concentric_and_follows() -> None:
    hand = block()
    boss = hand.step("block", shape="cylinder", diameter="16", height="10", x="22", y="13", z="20")
    hand.step("hole", at="round", rounds=hand.edges((22, 21, 30)), diameter="6", reach="depth", depth="8")
    tip = PI * 9 * (3 / math.tan(math.radians(59))) / 3
    assert hand.volume() == pytest.approx(48000 + PI * 64 * 10 - PI * 9 * 8 - tip)
    hand.do("set_fields", step=boss, fields={"x": "35", "diameter": "20"})
    assert hand.volume() == pytest.approx(48000 + PI * 100 * 10 - PI * 9 * 8 - tip)
    bored = [f for f in hand.packed()["faces"] if f["form"] == "cylindrical"]
    assert any(f["centre"][:2] == pytest.approx([35, 13]) for f in bored)


def test_a_seat_in_a_ring_goes_into_it_and_a_straight_edge_is_refused() -> None:
    hand = Hand()
    hand.step("block", shape="cylinder", diameter="30", height="20")
    hand.step("hole", at="round", rounds=hand.edges((-15, 0, 20)), diameter="10")
    ring = PI * (225 - 25) * 20
    assert hand.volume() == pytest.approx(ring)
    inner = hand.edges((-5, 0, 20))
    hand.step("hole", at="round", rounds=inner, diameter="16", reach="depth", depth="4")
    tip = (
        PI * 64 * (8 / math.tan(math.radians(59))) / 3
        - PI * 25 * (8 / math.tan(math.radians(59)))
        - (PI * 25 * (5 / math.tan(math.radians(59))) / 3 - PI * 25 * (5 / math.tan(math.radians(59))))
    )
    assert hand.volume() == pytest.approx(ring - PI * (64 - 25) * 4 - tip)
    flat = block()
    flat.step("hole", at="round", rounds=flat.edges((30, 0, 20)), diameter="6")
    assert "not round" in flat.messages()[0]


def half_bracket() -> tuple[Hand, str, str]:
    hand = block(30, 40, 10)
    s = hand.sketch(hand.face((0, 0, 1)))
    p = hand.draw(s, "point", (20, 20))[0]
    hole = hand.step("hole", points=[{"sketch": s, "ref": f"{p}.at"}], diameter="8")
    return hand, hand.steps[1].id, hole


def test_a_mirrored_body_is_twice_the_half() -> None:
    hand, _, _ = half_bracket()
    hand.step("mirror", plane={"plane": "right"})
    assert hand.volume() == pytest.approx(2 * (12000 - PI * 16 * 10))
    assert len(hand.build().bodies) == 1


def test_mirrored_steps_follow_their_originals() -> None:
    hand, base, hole = half_bracket()
    hand.step("mirror", what="steps", steps=[base, hole], plane={"plane": "right"})
    assert hand.volume() == pytest.approx(2 * (12000 - PI * 16 * 10))
    hand.do("set_fields", step=hole, fields={"diameter": "12"})
    assert hand.volume() == pytest.approx(2 * (12000 - PI * 36 * 10))


def test_a_mirror_that_forgot_a_step_names_it_and_offers_it() -> None:
    hand, base, hole = half_bracket()
    mirror = hand.step("mirror", what="steps", steps=[hole], plane={"plane": "right"})
    result = hand.build().steps[-1]
    assert "Extrude 1" in result.message
    assert list(result.advice[0].fields["steps"]) == [base, hole]
    hand.do("set_fields", step=mirror, fields=dict(result.advice[0].fields))
    assert hand.volume() == pytest.approx(2 * (12000 - PI * 16 * 10))


def test_a_mirrored_fillet_is_the_sliver_it_took() -> None:
    hand, base, _ = half_bracket()
    fillet = hand.step("fillet", edges=hand.edges((30, 0, 5)), radius="4")
    hand.step("mirror", what="steps", steps=[base, fillet], plane={"plane": "right"})
    assert hand.volume() == pytest.approx(24000 - PI * 16 * 10 - 2 * 10 * 16 * (1 - PI / 4))


@pytest.mark.parametrize("count", [2, 6, 24])
def test_a_ring_of_holes_is_one_operation_with_so_many_holes(count: int) -> None:
    hand = Hand()
    s = hand.sketch()
    hand.draw(s, "circle", ORIGIN, (50, 0), sizes=("100",))
    hand.step("extrude", regions=hand.regions(s), distance="5")
    t = hand.sketch()
    hand.draw(t, "circle", (40, 0), (42, 0), sizes=("4",))
    hole = hand.step("extrude", regions=hand.regions(t), reach="through", result="cut")
    hand.step("pattern", steps=[hole], axis={"axis": "z"}, count=str(count))
    assert hand.volume() == pytest.approx(5 * (PI * 2500 - count * PI * 4))
    if count == 2:
        return
    hand.do("set_fields", step=hand.steps[-1].id, fields={"leave_out": "2"})
    assert hand.volume() == pytest.approx(5 * (PI * 2500 - (count - 1) * PI * 4))


def test_a_grid_of_bodies() -> None:
    hand = Hand()
    hand.step("block", width="4", depth="4", height="4")
    hand.step(
        "pattern", what="bodies", form="row", axis={"axis": "x"}, count="3", spacing="10",
        second={"axis": "y"}, second_count="2", second_spacing="8", unite="separate",
    )  # fmt: skip
    built = hand.build()
    assert len(built.bodies) == 6
    assert hand.volume() == pytest.approx(6 * 64)


@pytest.mark.parametrize(
    ("fields", "volume"),
    [
        ({"shape": "box", "width": "3", "depth": "4", "height": "5"}, 60),
        ({"shape": "cylinder", "diameter": "6", "height": "5"}, 45 * PI),
        ({"shape": "cone", "diameter": "6", "top": "0", "height": "5"}, 15 * PI),
        ({"shape": "cone", "diameter": "6", "top": "2", "height": "5"}, 5 * PI / 3 * (9 + 3 + 1)),
        ({"shape": "sphere", "diameter": "6"}, 36 * PI),
        ({"shape": "torus", "diameter": "20", "tube": "4"}, 2 * PI * 10 * PI * 4),
    ],
)
def test_blocks(fields: dict[str, str], volume: float) -> None:
    hand = Hand()
    hand.step("block", **fields, x="7", tilt="30", turn="45")
    assert hand.volume() == pytest.approx(volume)


def test_a_turned_cylinder_is_subtracted_from_a_box() -> None:
    hand = Hand()
    box = hand.step("block", width="40", depth="40", height="40", x="-20", y="-20", z="-20")
    tube = hand.step("block", shape="cylinder", diameter="10", height="100", y="50", tilt="90", result="separate")
    hand.step("combine", how="subtract", target=[box], tools=[tube])
    assert hand.volume() == pytest.approx(64000 - PI * 25 * 40)
    hand.do("set_fields", step=hand.steps[-1].id, fields={"how": "intersect"})
    assert hand.volume() == pytest.approx(PI * 25 * 40)
    hand.do("set_fields", step=hand.steps[-1].id, fields={"how": "unite", "keep": "keep"})
    assert len(hand.build().bodies) == 2


def test_moving_and_scaling_bodies() -> None:
    hand = block()
    hand.step("move", dx="100")
    assert hand.build().bodies[0].id
    hand.step("move", how="scale", factor="0.5")
    assert hand.volume() == pytest.approx(6000)
    hand.step("move", how="turn", axis={"axis": "z"}, angle="90", keep="copy")
    assert hand.volume() == pytest.approx(12000)


def test_splitting_by_a_datum_plane() -> None:
    hand = block()
    datum = hand.step("datum", plane={"plane": "right"}, offset="15")
    hand.step("split", plane={"datum": datum})
    from sketchlathe.core.solid.measuring import volume

    assert sorted(volume(b.shape) for b in hand.build().bodies) == pytest.approx([12000, 36000])
    hand.do("set_fields", step=hand.steps[-1].id, fields={"keep": "back"})
    assert hand.volume() == pytest.approx(12000)
    hand.do("set_fields", step=datum, fields={"offset": "20"})
    assert hand.volume() == pytest.approx(16000)


def test_a_sketch_on_a_tilted_datum_plane() -> None:
    hand = Hand()
    datum = hand.step("datum", form="turned", plane={"plane": "top"}, axis={"axis": "x"}, angle="30")
    s = hand.step("sketch", plane={"datum": datum})
    hand.draw(s, "circle", ORIGIN, (5, 0), sizes=("10",))
    hand.step("extrude", regions=hand.regions(s), distance="10")
    assert hand.volume() == pytest.approx(250 * PI)


@pytest.mark.parametrize("kind", [k.model_fields["kind"].default for k in STEPS if not k.on_sheet])
@pytest.mark.parametrize("value", ["0", "-3", "1e9", "nan", "x / 0"])
def test_every_number_of_every_step_may_be_nonsense(kind: str, value: str) -> None:
    """The step says what is wrong, or makes something sound; what was there before stays."""
    from sketchlathe.core.errors import BadInput

    hand = block()
    s = hand.sketch()
    hand.draw(s, "circle", (10, 10), (12, 10))
    fields: dict[str, Any] = {"regions": hand.regions(s)} if "regions" in STEPS[kind].blanks() else {}
    for name, blank in STEPS[kind].blanks().items():
        if blank.type not in ("length", "angle", "count"):
            continue
        try:
            hand.step(kind, **fields, **{name: value})
        except BadInput:
            continue
        result = hand.build().steps[-1]
        assert result.status == "ok" or len(result.message) > 15
        hand.do("delete_step", step=hand.steps[-1].id)
    assert hand.volume() == pytest.approx(48000)


def sketched(place: Any = "top") -> tuple[Hand, str]:
    hand = Hand()
    s = hand.sketch(place)
    hand.draw(s, "rectangle", ORIGIN, (50, 30), sizes=("60", "40"))
    return hand, s


@pytest.mark.parametrize(
    ("fields", "volume"),
    [
        ({"distance": "10", "other": "5"}, 2400 * 15),
        ({"distance": "10", "start": "3"}, 24000),
        ({"distance": "10", "wall": "2"}, (2400 - 56 * 36) * 10),
        ({"distance": "10", "taper": "45"}, 10 / 6 * (2400 + 40 * 20 + 4 * 50 * 30)),
        ({"distance": "10", "taper": "-45"}, 10 / 6 * (2400 + 80 * 60 + 4 * 70 * 50)),
    ],
)
def test_ways_to_extrude(fields: dict[str, str], volume: float) -> None:
    hand, s = sketched()
    hand.step("extrude", regions=hand.regions(s), **fields)
    assert hand.volume() == pytest.approx(volume)


def test_a_taper_that_closes_before_the_end_is_refused() -> None:
    hand, s = sketched()
    hand.step("extrude", regions=hand.regions(s), distance="30", taper="45")
    assert "smaller angle" in hand.messages()[0]


def test_feet_reach_up_to_a_slanted_or_round_face() -> None:
    hand = Hand()
    hand.step("block", shape="cylinder", diameter="40", height="100", y="-50", z="60", tilt="-90")
    s = hand.sketch()
    hand.draw(s, "rectangle_centred", ORIGIN, (5, 5), sizes=("10", "10"))
    round_face = next(
        {"atoms": sorted(name)}
        for b in hand.build().bodies
        for name in b.names
        if any(a.endswith(":side:0") for a in name)
    )
    hand.step("extrude", regions=hand.regions(s), reach="face", target=[round_face], result="separate")
    # a 10 x 10 foot under a cylinder of radius 20 whose axis is 60 up: 10 times the area under the arc
    under = 60 * 10 - (5 * math.sqrt(400 - 25) + 400 * math.asin(5 / 20))
    from sketchlathe.core.solid.measuring import volume

    assert hand.messages() == []
    assert volume(hand.build().bodies[-1].shape) == pytest.approx(10 * under, rel=1e-6)


def test_up_to_a_face_behind_offers_to_go_backwards() -> None:
    hand = Hand()
    hand.step("block", width="60", depth="40", height="20", z="-50")
    s = hand.sketch()
    hand.draw(s, "circle", (30, 20), (35, 20), sizes=("10",))
    pillar = hand.step("extrude", regions=hand.regions(s), reach="face", target=[hand.face((0, 0, 1))])
    failed = hand.build().steps[-1]
    assert "behind the sketch" in failed.message
    assert failed.advice[0].fields == {"way": "backwards"}
    hand.do("set_fields", step=pillar, fields=dict(failed.advice[0].fields))
    assert hand.volume() == pytest.approx(48000 + PI * 25 * 30)


def test_a_cut_that_just_reaches_the_far_face_is_advised_to_go_through() -> None:
    hand = block()
    s = hand.sketch(hand.face((0, 0, 1)))
    hand.draw(s, "circle", (30, 20), (35, 20))
    cut = hand.step("extrude", regions=hand.regions(s), distance="20", way="backwards", result="cut")
    advice = hand.build().steps[-1].advice
    assert advice and advice[0].fields == {"reach": "through"}
    hand.do("set_fields", step=cut, fields=dict(advice[0].fields))
    assert hand.build().steps[-1].advice == ()


def test_what_a_person_names_a_step_makes_it_depend_on_nothing() -> None:
    """Names are typed freely: only picks say what a step stands on."""
    hand = block()
    other = hand.step("block", width="5", depth="5", height="5", x="100", result="separate")
    hand.do("rename_step", step=other, name="s2:end of the lid")
    first = hand.steps[0]
    drawn = hand.sketch(hand.face((0, 0, 1)))
    named = {s.id: s.needs() for s in hand.steps}
    assert named[other] == set()
    assert named[drawn] and all(n.startswith("s") for n in named[drawn])
    hand.do("move_step", step=other, to=0)
    assert hand.steps[0].id == other and hand.steps[1].id == first.id


def test_a_repeated_step_is_not_said_to_need_what_only_its_name_mentions() -> None:
    hand = block()
    other = hand.step("block", width="5", depth="5", height="5", x="100", result="separate")
    top = hand.sketch(hand.face((0, 0, 1)))
    hand.draw(top, "circle", (10, 10), (13, 10))
    cut = hand.step("extrude", regions=hand.regions(top), distance="5", way="backwards", result="cut")
    hand.do("rename_step", step=cut, name=f"{other}: a groove")
    hand.step("mirror", what="steps", steps=[cut], plane={"plane": "right"})
    failed = hand.build().steps[-1]
    assert failed.status == "failed" and "is not repeated" in failed.message
    assert other not in failed.advice[0].fields["steps"]


def test_it_is_said_over_how_many_edges_a_rounding_runs() -> None:
    """A slot's rim is one smooth chain of two lines and two half circles; a box's edges end at corners."""
    hand = Hand()
    s = hand.sketch("top")
    hand.draw(s, "slot", (0, 0), (30, 0), (30, 8))
    hand.step("extrude", regions=hand.regions(s), distance="5")
    hand.step("fillet", edges=hand.edges((15, 8, 5)), radius="1")
    assert hand.build().steps[-1].along == 4
    box = Hand()
    box.step("block", width="20", depth="20", height="5")
    box.step("fillet", edges=box.edges((10, 0, 5), (0, 10, 5)), radius="1")
    assert box.build().steps[-1].along == 2
    box.step("fillet", edges=[face(box, (0, 0, -1))], radius="1")
    assert box.build().steps[-1].along == 4, "all edges of a face"
