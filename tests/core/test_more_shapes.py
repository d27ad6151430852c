"""What the newer steps refuse, and what their faces are called; volumes stand in the battery of formulas."""

from __future__ import annotations

import itertools
import math

import numpy as np
import pytest
from tests.batteries.further import thread_section
from tests.batteries.making import Sizes, edge, face, level, plate
from tests.hand import ORIGIN, Hand, box

from sketchlathe.core.solid import meshing
from sketchlathe.core.solid.digest import digest, pick_of_face
from sketchlathe.core.solid.measuring import _optimal, box_of, volume

PI = math.pi


def swept(profile=(0.0, 0.0, 3.0), path=((0, 0), (0, 20), (30, 20)), **fields):
    """A circle (x, y, radius) on the top plane along lines of the front plane; the hand and the result."""
    m = Hand()
    s = m.sketch("top")
    x, y, r = profile
    m.draw(s, "circle", (x, y), (x + r, y), sizes=(f"{2 * r}",))
    p = m.sketch("front")
    ids = [m.draw(p, "line", a, b)[0] for a, b in itertools.pairwise(path)]
    m.step("sweep", regions=m.regions(s), path=[{"sketch": p, "curve": ids[0]}], **fields)
    return m


@pytest.mark.parametrize(
    "fields, says",
    [
        ({"path": ((0, 5), (0, 30))}, "begin in the plane of the profile: its nearer end is 5 mm off"),
        ({"path": ((0, 0), (30, 0))}, "runs along the plane of the profile"),
        ({"path": ((0, 0), (0, 20), (30, 20), (30, -10), (-20, 10))}, "cross itself"),
        ({"twist": "90 deg"}, "cannot twist or narrow: round its corners first"),
        ({"scale": "0"}, "from 0.01 to 100"),
        ({"scale": "0.5", "twist": "1 deg"}, "not both at once"),
    ],
)
def test_sweeps_that_cannot_be_say_why(fields, says):
    m = swept(**fields)
    assert says in m.messages()[0]


def test_a_bend_tighter_than_the_profile_is_refused_and_a_wider_one_is_not():
    for bend, fits in ((2.0, False), (4.0, True)):
        m = Hand()
        s = m.sketch("top")
        m.draw(s, "circle", ORIGIN, (3, 0), sizes=("6",))
        p = m.sketch("front")
        (line,) = m.draw(p, "line", ORIGIN, (0, 20))[:1]
        m.draw(p, "arc", (0, 20), (bend, 20 + bend), (bend * (1 - 0.5**0.5), 20 + bend * 0.5**0.5))
        m.step("sweep", regions=m.regions(s), path=[{"sketch": p, "curve": line}])
        if fits:
            assert m.volume() == pytest.approx(PI * 9 * (20 + PI / 2 * bend), rel=1e-6)
        else:
            assert "cross itself" in m.messages()[0]


def test_faces_of_a_sweep_are_told_by_profile_and_path():
    m = swept()
    names = {a.partition(":")[2] for n in m.build().bodies[0].names for a in n}
    sides = {n for n in names if n.startswith("side:")}
    assert {"start", "end"} < names and len(sides) == 2 and len({n.split("/")[1] for n in sides}) == 2


def test_a_path_that_forks_or_is_in_pieces_is_refused():
    m, w, d, h = plate(Sizes("fork"))
    for picks, says in (
        ([edge(m, (w / 2, 0, h)), edge(m, (0, d / 2, h)), edge(m, (0, 0, h / 2))], "forks"),
        ([edge(m, (w / 2, 0, h)), edge(m, (w / 2, d, 0))], "in pieces"),
    ):
        s = m.sketch("right")
        m.draw(s, "circle", (0, h), (1, h), sizes=("2",))
        step = m.step("sweep", regions=m.regions(s), path=picks)
        assert any(says in text for text in m.messages()), m.messages()
        m.do("delete_step", step=step)


def lofted(*sections, **fields):
    """Through outlines, each (height, corners) or (height, radius)."""
    m, picks = Hand(), []
    for z, what in sections:
        s = m.sketch(level(m, z))
        if isinstance(what, list):
            m.polygon(s, *what)
        else:
            m.draw(s, "circle", (0.0, 0.0), (what, 0.0), sizes=(f"{2 * what}",))
        picks += m.regions(s)
    m.step("loft", regions=picks, **fields)
    return m


def ngon(count, radius, turn=0.0):
    angles = [turn + 2 * PI * k / count for k in range(count)]
    return [(radius * math.cos(a), radius * math.sin(a)) for a in angles]


@pytest.mark.parametrize("turn", [0, 30, 60, 72, 90, 120, 180, 240])
def test_a_loft_turns_no_more_than_it_must_however_its_sections_begin(turn):
    """A hexagon over a hexagon: corners go to the nearest, at most 30 degrees off; the middle cut says the volume."""
    m = lofted((0.0, ngon(6, 10.0)), (20.0, ngon(6, 10.0, math.radians(turn))))
    off = math.radians(min(turn % 60, 60 - turn % 60))
    area = 3 * math.sqrt(3) / 2 * 100
    half = area * math.cos(off / 2) ** 2  # midway corners are the means of both: nearer to the middle by that
    assert m.volume() == pytest.approx(20 / 6 * (2 * area + 4 * half), rel=1e-6)


def test_a_loft_from_a_square_to_a_circle_lies_between_them_and_matches_corners():
    m = lofted((0.0, box(-10, -10, 20, 20)), (30.0, 5.0))
    # parallel cuts have areas between the ends' and beyond their geometric mean (Brunn and Minkowski)
    low = 30 / 3 * (400 + 25 * PI + math.sqrt(400 * 25 * PI))
    assert low * 0.999 < m.volume() < low * 1.05
    assert len(m.build().bodies[0].names) == 6


@pytest.mark.parametrize(
    "sections, fields, says",
    [
        (((0.0, 10.0),), {}, "region of another sketch too"),
        (((0.0, 10.0), (0.0, 5.0)), {}, "lie on each other"),
        (((0.0, 10.0), (10.0, 1.0), (11.0, 10.0)), {"form": "smooth"}, "pass through itself"),
        (((0.0, box(-10, -10, 20, 20)), (30.0, box(-10, -10, 20, 20))), {"shift": "2"}, "pass through itself"),
        (((0.0, 10.0), (30.0, 5.0)), {"shift": "0.5"}, "whole number"),
    ],
)
def test_lofts_that_cannot_be_say_why(sections, fields, says):
    assert says in lofted(*sections, **fields).messages()[0]


def test_a_loft_of_unequal_holes_is_refused():
    m, picks = Hand(), []
    for z, radii in ((0.0, (10.0, 5.0)), (20.0, (8.0,))):
        s = m.sketch(level(m, z))
        for r in radii:
            m.draw(s, "circle", (0.0, 0.0), (r, 0.0), sizes=(f"{2 * r}",))
        picks += m.regions(s)
    m.step("loft", regions=picks)
    assert "different numbers of holes" in m.messages()[0]


@pytest.mark.parametrize(
    "fields, says",
    [
        ({"pitch": "1.5 mm"}, "run into each other"),
        ({"wire": "30 mm"}, "thicker than the coil"),
        ({"turns": "0"}, "from 0.05 to 200 turns"),
        ({"pitch": "0"}, "must be above zero"),
    ],
)
def test_coils_that_cannot_be_say_why(fields, says):
    m = Hand()
    m.step("coil", **fields)
    assert says in m.messages()[0]


def rod(diameter="12", height="20"):
    m = Hand()
    m.step("block", shape="cylinder", diameter=diameter, height=height)
    return m


def thread(m, **fields):
    m.step("thread", face=[m.face_where(m.build().bodies[0].id, "cylindrical")], **fields)
    return m


@pytest.mark.parametrize(
    "make, fields, says",
    [
        (lambda: rod("15"), {"size": "M12"}, "the rod must be 12 mm wide; this one is 15 mm"),
        (lambda: rod("12", "0.5"), {}, "longer than half a pitch"),
        (lambda: rod("3"), {"size": "typed", "pitch": "5"}, "too coarse"),
        (lambda: rod(), {"play": "5"}, "less than a quarter"),
        (lambda: rod(), {"length_word": "part", "length": "100"}, "the face is 20 mm long"),
        (lambda: rod("12", "1000"), {}, "at most 120 turns"),
    ],
)
def test_threads_that_cannot_be_say_why(make, fields, says):
    assert says in thread(make(), **fields).messages()[0]


def test_a_thread_needs_material_round_a_hole():
    m = Hand()
    m.step("block", shape="cylinder", diameter="11.5", height="10")
    m.step("block", shape="cylinder", diameter="10.106", height="40", z="-10", result="cut")
    body = m.build().bodies[0]
    inner = next(i for i, f in enumerate(digest(body).faces) if f.radius and abs(f.radius - 5.053) < 1e-6)
    m.step("thread", face=[pick_of_face(body, inner)], size="M12")
    assert "too little material round this hole" in m.messages()[0]


def test_a_threaded_rod_keeps_its_head_and_begins_at_its_upper_end():
    m = thread(rod(), size="M12")
    low, high = box_of(m.build().bodies[0].shape)
    assert (low[2], high[2]) == pytest.approx((0, 20), abs=1e-6)
    assert high[0] == pytest.approx(5.9, abs=1e-4), "0.2 mm of play on the diameter"
    section = thread_section(11.8, 1.75)
    # all but one pitch of it is threaded; the tip is about as wide as the root
    assert section * 18.25 < m.volume() < section * 18.25 + PI * 4.9**2 * 1.75


def test_marked_threads_change_nothing():
    m = thread(rod(), form="marked")
    assert m.volume() == pytest.approx(PI * 36 * 20, rel=1e-9)


def edges_met_twice(mesh):
    pairs = np.sort(mesh.triangles[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
    return (np.unique(pairs, axis=0, return_counts=True)[1] == 2).all()


@pytest.mark.parametrize("kind", ["bolt", "left", "long", "coil", "square coil"])
def test_meshes_of_long_free_faces_are_closed_and_as_fine_as_asked(kind):
    make = {
        "bolt": lambda: thread(rod()),
        "left": lambda: thread(rod(), hand="left", lead="full"),
        "long": lambda: thread(rod("6", "40")),
        "coil": lambda: _step("coil", turns="12"),
        "square coil": lambda: _step("coil", section="square", end="12"),
    }[kind]
    body = make().build().bodies[0]
    for chord, share in ((0.05, 0.03), (0.01, 0.01)):
        mesh = meshing.for_export(body.shape, chord, 0.3)
        assert edges_met_twice(mesh)
        corners = mesh.positions.astype(float)[mesh.triangles]
        got = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
        assert got == pytest.approx(volume(body.shape), rel=share)


def _step(kind, **fields):
    m = Hand()
    m.step(kind, **fields)
    return m


@pytest.mark.parametrize("make", [lambda: thread(rod("6", "5"), lead="full"), lambda: _step("coil", end="10")])
def test_boxes_of_free_faces_are_those_the_kernel_takes_seconds_for(make):
    shape = make().build().bodies[0].shape
    ours, kernels = np.array(box_of(shape)), np.array(_optimal([shape]))
    assert ours == pytest.approx(kernels, abs=2e-4)


def test_what_cannot_lean_heal_or_be_pushed_says_why_and_offers_what_works():
    m, *_ = plate(Sizes("lean"))
    healed = m.step("heal", faces=[face(m, (0, 0, 1))])
    assert "do not close over" in m.messages()[-1]
    m.do("delete_step", step=healed)
    m.step("draft", faces=[face(m, (1, 0, 0)), face(m, (-1, 0, 0))], angle="80 deg")
    assert "below 80" in m.messages()[-1]
    m.do("set_fields", step=m.steps[-1].id, fields={"angle": "75 deg"})
    assert "largest that works is about" in m.messages()[-1]
    offered = next(a for a in m.advice() if a.fix)
    m.do("set_fields", step=m.steps[-1].id, fields=offered.fields)
    assert m.messages() == []
    m.step("push", faces=[face(m, (0, 1, 0))], way="in", by="500")
    assert "farthest that works is about" in m.messages()[-1]
    offered = [a for a in m.advice() if a.fix][-1]
    m.do("set_fields", step=m.steps[-1].id, fields=offered.fields)
    assert m.messages() == []


def test_a_rib_takes_the_side_that_closes_and_refuses_the_other():
    m = Hand()
    m.prism("front", [(0, 0), (40, 0), (40, 5), (5, 5), (5, 30), (0, 30)], distance="20", way="both")
    s = m.sketch("front")
    (line,) = m.draw(s, "line", (12.0, 20.0), (28.0, 10.0))[:1]
    step = m.step("rib", curve={"sketch": s, "curve": line})
    assert m.messages() == []
    right = m.volume()
    sides = []
    for side in ("left", "right"):
        m.do("set_fields", step=step, fields={"side": side})
        sides.append(m.messages())
    assert sorted(map(bool, sides)) == [False, True]
    assert "does not run into material" in (sides[0] or sides[1])[0]
    m.do("set_fields", step=step, fields={"side": "auto"})
    assert m.volume() == pytest.approx(right, rel=1e-12)


@pytest.mark.parametrize(
    "fields, says",
    [
        ({"deep": "300"}, "too thin for so deep holes"),
        ({"across": "25"}, "too narrow for holes"),
        ({"count": "20"}, "There is room for"),
        ({"count": "1.5"}, "whole number, from"),
        ({"play": "4"}, "the play small"),
    ],
)
def test_joints_that_do_not_fit_say_why(fields, says):
    m = Hand()
    m.step("block", width="150", depth="30", height="20")
    at = m.step("datum", form="offset", plane={"plane": "right"}, offset="90")
    m.step("split", plane={"datum": at}, joint="dowels", **fields)
    assert says in m.messages()[0]


def test_hooks_are_told_their_strain():
    m, *_ = plate(Sizes("hook"))
    m.step("snap_hook", at="face", face=[face(m, (0, 0, 1))], length="6", thickness="1.6", catch="1")
    # 3/2 t y / l²
    assert "6.7 %" in m.advice()[-1].text
    needed = math.sqrt(1.5 * 1.6 / 0.02)
    told = float(m.advice()[-1].fields["length"].removesuffix(" mm"))
    assert needed <= told < needed * 1.02


def test_a_hole_that_stands_upright_needs_no_roof():
    m, *_ = plate(Sizes("roof"))
    m.step("hole", at="face", face=[face(m, (0, 0, 1))], diameter="3", roof="teardrop")
    assert "needs no roof" in m.messages()[0]


def test_a_radius_that_grows_too_far_is_offered_both_radii_that_work():
    m, _, d, h = plate(Sizes("grow"))
    step = m.step("fillet", edges=[edge(m, (0, d / 2, h))], radius="1", grows="80")
    assert "The largest that works here is" in m.messages()[0]
    offered = next(a for a in m.advice() if a.fix)
    assert set(offered.fields) == {"radius", "grows"}
    m.do("set_fields", step=step, fields=offered.fields)
    assert m.messages() == []
    both = []
    for way in ("one", "other"):
        m.do("set_fields", step=step, fields={"radius": "1", "grows": "5", "towards": way})
        both.append(m.volume())
    assert both[0] == pytest.approx(both[1], rel=1e-6), "the same edge, whichever end"


def test_a_closed_edge_cannot_have_a_radius_that_grows():
    m = rod()
    m.step("fillet", edges=[edge(m, (0, 0, 20))], radius="1", grows="2")
    assert "ends at corners" in m.messages()[0]


@pytest.mark.parametrize(
    "plane, outline, fields, says",
    [
        ("top", box(-2, -2, 4, 4), {}, "must lie along the axis"),
        ("front", box(-40, 5, 80, 4), {}, "wider than once round the face"),
        ("front", box(-2, 5, 4, 4), {"way": "engrave", "height": "5.9 mm"}, "nothing left of the round part"),
        ("front", box(-2, 50, 4, 4), {"way": "engrave"}, "nothing to cut here"),
    ],
)
def test_what_cannot_be_wrapped_says_why(plane, outline, fields, says):
    m = rod()
    side = m.face_where(m.build().bodies[0].id, "cylindrical")
    s = m.sketch(plane)
    m.polygon(s, *outline)
    m.step("emboss", regions=m.regions(s), face=[side], **fields)
    assert says in m.messages()[0]


def test_letters_keep_their_distance_from_each_other_round_a_rod():
    """A square 10 mm off the axis in the sketch stands 10 mm along the surface: an angle of length over radius."""
    m = rod("40", "30")
    side = m.face_where(m.build().bodies[0].id, "cylindrical")
    s = m.sketch("front")
    m.polygon(s, *box(9, 10, 2, 2))
    m.step("emboss", regions=m.regions(s), face=[side], height="2 mm")
    low, high = m.box_of_faces(":end")
    middle = math.atan2((low[0] + high[0]) / 2, -(low[1] + high[1]) / 2)
    assert middle == pytest.approx(10 / 20, abs=2e-3)
    assert (low[2], high[2]) == pytest.approx((10, 12), abs=1e-6)


def test_vents_keep_their_rim_and_follow_the_face():
    counts = []
    for width in (40, 60):
        m = Hand()
        m.step("block", width=f"{width}", depth="30", height="3")
        m.step("vents", face=[face(m, (0, 0, 1))], form="hexagons", size="4", gap="1", rim="3")
        low, high = m.box_of_faces("#")
        assert low[0] >= 3 - 1e-6 and low[1] >= 3 - 1e-6 and high[0] <= width - 3 + 1e-6 and high[1] <= 27 + 1e-6
        holes = (width * 30 * 3 - m.volume()) / (16 * math.sqrt(3) / 2 * 3)
        assert holes == pytest.approx(round(holes), abs=1e-6)
        counts.append(round(holes))
    assert counts[1] > counts[0] > 10


def test_vents_go_through_the_wall_behind_and_not_through_the_part():
    m = Hand()
    m.step("block", width="40", depth="30", height="20")
    m.step("shell", thickness="2", faces=[])
    closed = m.volume()
    m.step("vents", face=[face(m, (0, 0, 1))], form="round", size="4")
    holes = (closed - m.volume()) / (PI * 4 * 2)
    assert holes == pytest.approx(round(holes), abs=1e-3), "as deep as the wall, 2 mm"


@pytest.mark.parametrize(
    "fields, says",
    [
        ({"rim": "100"}, "too small for an opening"),
        ({"rim": "-1"}, "must not be below zero"),
        ({"size": "0.5", "gap": "0.2", "rim": "1", "form": "round"}, "at most 400"),
    ],
)
def test_vents_that_cannot_be_say_why(fields, says):
    m, *_ = plate(Sizes("vents"))
    m.step("vents", face=[face(m, (0, 0, 1))], **fields)
    assert says in m.messages()[0]


def test_spans_of_a_spline_are_no_edges_to_be_seen_and_corners_are():
    """An extruded ellipse drawn by formulas: its wall is many faces of one name; only its two rims are edges."""
    m = Hand()
    s = m.sketch("top")
    m.do("plot_formulas", sketch=s, x="20 mm * cos(t)", y="8 mm * sin(t)", start="0 deg", end="360 deg")
    m.step("extrude", regions=m.regions(s), distance="5")
    edges = m.packed()["edges"]
    upright = [e for e in edges if not e.get("seam") and e["form"] == "straight"]
    assert len(upright) <= 2, "where the two halves meet"
    assert sum(bool(e.get("seam")) for e in edges) > 10
    n = Hand()
    n.step("block", width="10", depth="10", height="10")
    assert not any(e.get("seam") for e in n.packed()["edges"])


def test_of_a_part_that_was_brought_in_a_hole_goes_and_a_face_moves():
    """A block with a hole through it and a rounded edge, out as STEP and in again: its numbers
    are gone, its faces not.
    """
    from sketchlathe.core.bringing import read_file
    from sketchlathe.core.exchange import FORMATS, Export

    made = Hand()
    made.step("block", width="40", depth="30", height="10")
    made.round("top", 20, 15, 4, reach="through", result="cut")
    data = FORMATS["step"]().write(Export(made.model, made.model.parts[0], made.build().bodies))
    m = Hand()
    found = read_file(data, "bought.step")
    m.do("bring_file", part="p1", step=found.step, file="bought", data=found.fields["data"], fields={})
    assert m.volume() == pytest.approx(40 * 30 * 10 - PI * 16 * 10, rel=1e-9)
    m.step("heal", faces=[m.face_where("", "cylindrical")])
    assert m.volume() == pytest.approx(40 * 30 * 10, rel=1e-9)
    m.step("push", faces=[face(m, (1, 0, 0))], by="5")
    assert m.volume() == pytest.approx(45 * 30 * 10, rel=1e-9)


def test_a_screw_and_a_nut_in_step_clear_each_other_by_their_play():
    """Both with 0.2 mm off or on the diameter: the flanks are 0.2 mm apart across the axis, half of that square to them
    (60 degrees between flanks).
    """
    from sketchlathe.core.solid import fitting

    m = Hand()
    m.step("block", shape="cylinder", diameter="8", height="8")
    m.step("thread", face=[m.face_where("", "cylindrical")], size="M8", lead="full")
    m.step("block", width="16", depth="16", height="3.75", x="-8", y="-8", z="3", result="separate")
    nut = m.build().bodies[1].id
    m.step("block", shape="cylinder", diameter="6.647", height="40", z="-10", result="cut", bodies=[nut])
    body = next(b for b in m.build().bodies if b.id == nut)
    bore = next(i for i, f in enumerate(digest(body).faces) if f.form == "cylindrical")
    m.step("thread", face=[pick_of_face(body, bore)], size="M8")
    assert m.messages() == []
    (pair,) = fitting.pairs(m.build().bodies, 2.0)
    assert pair.shared == 0
    assert pair.gap == pytest.approx(0.1, abs=0.01)
