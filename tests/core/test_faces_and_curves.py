"""Steps that work on a picked face or along picked curves: against prisms, half rounds, rings."""

import itertools
import math

import pytest
from tests.conftest import Hand, plate

PI = math.pi


def block(w: float = 60, d: float = 40, h: float = 20) -> Hand:
    return plate(str(w), str(d), str(h))


def chain(hand: Hand, plane: str, *points: tuple[float, float]) -> tuple[str, str]:
    """Lines end to end in a new sketch: its id and the first line's."""
    sketch = hand.sketch(plane)
    lines: list[str] = []
    for (ax, ay), (bx, by) in itertools.pairwise(points):
        start = (ax, ay, "end", f"{lines[-1]}.end") if lines else (ax, ay)
        lines += hand.draw(sketch, "line", start, (bx, by))[:1]
    return sketch, lines[0]


# --- extrude of a face, of open curves, with some bodies only


def test_a_face_is_extruded_and_follows_its_part() -> None:
    hand = block()
    hand.step("extrude", regions=[hand.face((1, 0, 0))], distance="15")
    assert hand.volume() == pytest.approx(75 * 40 * 20)
    hand.dimension("60", "80")
    assert hand.volume() == pytest.approx(95 * 40 * 20)


def test_a_tapered_face_is_a_frustum() -> None:
    hand = block()
    hand.step("extrude", regions=[hand.face((0, 0, 1))], distance="10", taper="10 deg")
    t = 10 * math.tan(math.radians(10))
    frustum = 10 / 6 * (60 * 40 + (60 - 2 * t) * (40 - 2 * t) + 4 * (60 - t) * (40 - t))
    assert hand.volume() == pytest.approx(48000 + frustum)


def test_cutting_a_face_goes_into_the_material() -> None:
    hand = block()
    hand.step("extrude", regions=[hand.face((0, 0, 1))], distance="5", result="cut", way="backwards")
    assert hand.volume() == pytest.approx(60 * 40 * 15)


def test_a_wall_along_an_open_chain() -> None:
    hand = Hand()
    sketch, line = chain(hand, "top", (0, 0), (50, 0), (50, 30))
    hand.step("extrude", regions=[{"sketch": sketch, "curve": line}], distance="8", wall="4")
    # an L of two bars: the inner line is shorter by half a thickness, the outer longer by as much
    assert hand.volume() == pytest.approx((50 + 30) * 4 * 8)
    hand.do("set_fields", step=hand.steps[-1].id, fields={"wall": ""})
    assert "as a wall" in hand.messages()[0]


def test_a_wall_within_a_region_runs_round_its_hole_too() -> None:
    hand = Hand()
    sketch = hand.sketch("top")
    hand.draw(sketch, "circle", (0, 0), (30, 0))
    hand.draw(sketch, "circle", (0, 0), (10, 0))
    ring = max(hand.regions(sketch), key=lambda r: len(r["sides"]))
    hand.step("extrude", regions=[ring], distance="5", wall="2")
    assert hand.volume() == pytest.approx(5 * PI * (30**2 - 28**2 + 12**2 - 10**2))


def test_a_cut_with_one_body_only_leaves_the_other() -> None:
    hand = Hand()
    for x in (0, 30):
        hand.step("block", width="20", depth="20", height="10", x=str(x), y="0", z="0", result="separate")
    first = hand.build().bodies[0].id
    sketch = hand.sketch("top")
    hand.draw(sketch, "rectangle", (0, -4), (60, 4))
    hand.step("extrude", regions=hand.regions(sketch), reach="through", way="both", result="cut", bodies=[first])
    whole = list(hand.build().bodies)
    volumes = sorted(hand.volumes())
    assert volumes[-1] == pytest.approx(4000)
    assert sum(volumes) < 8000 - 1e-3
    assert len(whole) >= 2


# --- hole on a face


def test_a_hole_at_distances_from_two_edges() -> None:
    hand = block()
    hand.step(
        "hole", at="face", face=[hand.face((0, 0, 1))], diameter="6",
        first="12", first_edge=hand.edges((0, 20, 20)), second="9", second_edge=hand.edges((30, 0, 20)),
    )  # fmt: skip
    assert hand.volume() == pytest.approx(48000 - PI * 9 * 20)
    low, high = hand.box_of_faces("wall")
    assert ((low[0] + high[0]) / 2, (low[1] + high[1]) / 2) == pytest.approx((12, 9))


def test_a_hole_amid_a_round_face_is_concentric() -> None:
    hand = Hand()
    hand.step("block", shape="cylinder", diameter="30", height="12", x="7", y="3")
    hand.step("hole", at="face", face=[hand.face((0, 0, 1))], diameter="10", reach="depth", depth="12")
    low, high = hand.box_of_faces("wall")
    assert ((low[0] + high[0]) / 2, (low[1] + high[1]) / 2) == pytest.approx((7, 3))
    assert "go through everything" in hand.advice()[-1].fix


def test_one_distance_is_not_enough() -> None:
    hand = block()
    hand.step("hole", at="face", face=[hand.face((0, 0, 1))], first="12", first_edge=hand.edges((0, 20, 20)))
    assert "two edges" in hand.messages()[0]


# --- full rounds


def test_the_end_of_a_bar_is_rounded_over_its_width() -> None:
    hand = block(60, 12, 8)
    hand.step(
        "fillet", form="width", middle=[hand.face((1, 0, 0))], sides=[hand.face((0, 1, 0)), hand.face((0, -1, 0))]
    )
    assert hand.volume() == pytest.approx(60 * 12 * 8 - 8 * (12 * 6 - PI * 36 / 2))


def test_the_narrow_top_of_a_bar_finds_its_sides() -> None:
    hand = block(60, 4, 20)
    hand.step("fillet", form="width", middle=[hand.face((0, 0, 1))])
    assert hand.volume() == pytest.approx(60 * 4 * 20 - 60 * (4 * 2 - PI * 4 / 2))
    hand.dimension("4", "6")
    assert hand.volume() == pytest.approx(60 * 6 * 20 - 60 * (6 * 3 - PI * 9 / 2))


def test_a_wedge_is_rounded_between_leaning_sides() -> None:
    hand = Hand()
    sketch = hand.sketch("front")
    # a trapezium 20 wide below, 8 above, 15 high
    points = [(-10, 0), (10, 0), (4, 15), (-4, 15)]
    lines: list[str] = []
    for i, p in enumerate(points):
        q = points[(i + 1) % 4]
        start = (*p, "end", f"{lines[-1]}.end") if lines else p
        end = (*q, "end", f"{lines[0]}.start") if i == 3 else q
        lines += hand.draw(sketch, "line", start, end)[:1]
    hand.step("extrude", regions=hand.regions(sketch), distance="30")
    before = hand.volume()
    hand.step("fillet", form="width", middle=[hand.face((0, 0, 1))])
    # the circle touching three lines: with the top and a side at the interior angle a, its radius is 4 tan(a/2)
    a = PI / 2 + math.atan2(6, 15)
    r = 4 * math.tan(a / 2)
    corner = r * r / math.tan(a / 2) - r * r * (PI - a) / 2
    assert before - hand.volume() == pytest.approx(30 * 2 * corner, rel=1e-6)


def test_the_rim_of_a_tube_is_rounded() -> None:
    hand = Hand()
    hand.step("block", shape="cylinder", diameter="40", height="30")
    hand.step("block", shape="cylinder", diameter="30", height="30", result="cut")
    hand.step("fillet", form="width", middle=[hand.face((0, 0, 1))])
    w = 2.5
    taken = 2 * w * w - PI * w * w / 2  # symmetric about the middle radius: Pappus
    assert hand.volume() == pytest.approx(PI * (400 - 225) * 30 - taken * 2 * PI * 17.5)


def test_a_full_round_needs_sides() -> None:
    hand = Hand()
    hand.step("block", shape="cylinder", diameter="40", height="30")
    hand.step("fillet", form="width", middle=[hand.face((0, 0, 1))])
    assert "two sides" in hand.messages()[0]


# --- shells with a second thickness


@pytest.mark.parametrize("way", ["inward", "outward"])
def test_a_shell_with_a_thicker_floor(way: str) -> None:
    hand = block()
    hand.step("shell", thickness="2", way=way, faces=[hand.face((0, 0, 1))], other="5", others=[hand.face((0, 0, -1))])
    expected = 48000 - 56 * 36 * 15 if way == "inward" else 64 * 44 * 25 - 48000
    assert hand.volume() == pytest.approx(expected)


# --- splits


def test_a_box_is_trimmed_to_a_drawn_line() -> None:
    hand = block()
    sketch, line = chain(hand, "front", (-5, 8), (70, 16))
    hand.step("split", by="curve", curve={"sketch": sketch, "curve": line}, keep="back")
    at = [8 + (x + 5) * 8 / 75 for x in (0, 60)]
    assert hand.volume() == pytest.approx(60 * 40 * sum(at) / 2)
    hand.do("set_fields", step=hand.steps[-1].id, fields={"keep": "both"})
    assert len(hand.build().bodies) == 2
    assert hand.volume() == pytest.approx(48000)


def test_a_line_that_ends_inside_cuts_one_face_without_a_seam() -> None:
    hand = block()
    sketch = hand.sketch(hand.face((0, 0, 1)))
    line = hand.draw(sketch, "line", (25, 10), (25, 30))[0]
    hand.step("split", by="curve", curve={"sketch": sketch, "curve": line}, keep="front")
    assert hand.messages() == []
    faces = hand.packed()["faces"]
    assert len(faces) == 6 and sum(any(":cut" in a for a in f["pick"]["atoms"]) for f in faces) == 1


def test_a_box_is_split_along_a_bent_chain() -> None:
    hand = block()
    sketch, line = chain(hand, "front", (20, 30), (20, 10), (40, 10), (40, 30))
    hand.step("split", by="curve", curve={"sketch": sketch, "curve": line}, keep="front")
    assert hand.volume() == pytest.approx(20 * 10 * 40)


def test_a_body_is_split_by_another_ones_round_face() -> None:
    hand = block()
    hand.step("block", shape="cylinder", diameter="20", height="40", x="30", y="20", z="30", result="separate")
    tall = next(b for b in hand.build().bodies if len(b.names) == 3)
    wall = hand.face_where(tall.id, "cylindrical")
    hand.step(
        "split", by="face", face=[wall], bodies=[b.id for b in hand.build().bodies if b.id != tall.id], keep="back"
    )
    assert sorted(hand.volumes()) == pytest.approx(sorted([PI * 100 * 20, PI * 100 * 40]))


def test_a_plane_beside_the_part_splits_nothing() -> None:
    hand = block()
    sketch, line = chain(hand, "front", (-5, 50), (70, 50))
    hand.step("split", by="curve", curve={"sketch": sketch, "curve": line})
    assert "nothing would be split" in hand.messages()[0]
