"""Placing by relations: every answer is checked by what the relation says, never by the solver's own equations."""

from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from sketchlathe.core.errors import BadInput
from sketchlathe.core.together import Grip, Pose, Relation, place
from sketchlathe.core.together.freedom import freedoms
from sketchlathe.core.together.grips import rotation, rotation_vector

STILL = Pose.still()


def plane(at, way):
    return Grip("plane", at, tuple(np.array(way) / np.linalg.norm(way)))


def line(at, way, radius=0.0, hollow=False):
    way = tuple(np.array(way) / np.linalg.norm(way))
    return Grip("cylinder" if radius else "line", at, way, radius, hollow)


def point(*at):
    return Grip("point", at)


def one(*relations, start=STILL):
    """Relations of one body (the first of each pair) to what stands."""
    return place([Relation(k, a, b, 0, None, *rest) for k, a, b, *rest in relations], [start])


def off_line(p, at, way):
    return float(np.linalg.norm(np.cross(np.array(p) - np.array(at), way)))


def some_pose(seed):
    rng = np.random.default_rng(seed)
    return Pose(Rotation.random(random_state=seed).as_matrix(), rng.normal(0, 40, 3))


@pytest.mark.parametrize("seed", range(12))
def test_rotation_vectors_agree_with_scipy(seed):
    vector = np.random.default_rng(seed).normal(0, 1.5, 3)
    assert rotation(vector) == pytest.approx(Rotation.from_rotvec(vector).as_matrix(), abs=1e-12)
    turn = Rotation.random(random_state=seed).as_matrix()
    assert rotation_vector(turn) == pytest.approx(Rotation.from_matrix(turn).as_rotvec(), abs=1e-9)


def test_half_turns_come_back():
    for way in np.vstack([np.eye(3), [[0.6, 0.8, 0], [1 / math.sqrt(3)] * 3]]):
        turn = rotation(way * math.pi)
        assert rotation(np.array(rotation_vector(turn))) == pytest.approx(turn, abs=1e-9)


@pytest.mark.parametrize("gap", [0.0, 0.2, -1.5])
def test_a_lid_seats_on_its_can(gap):
    # its underside looks down, the rim up; it stands beside the can and below the rim
    underside, rim = plane((70, 3, 0), (0, 0, -1)), plane((24, 0, 50), (0, 0, 1))
    found = one(("against", underside, rim, gap), ("on", line((70, 0, 0), (0, 0, 1), 30), line((0, 0, 9), (0, 0, 1))))
    assert not found.fights
    lid = found.poses[0]
    assert lid.point((70, 0, 0)) == pytest.approx((0, 0, 50 + gap), abs=1e-9)
    assert lid.turn == pytest.approx(np.eye(3), abs=1e-9), "it is not turned about its axis for nothing"
    assert freedoms(found.relations, found.poses)[0].said == "may still turn about an axis (z)"


def test_what_faces_the_wrong_way_is_turned_over():
    found = one(("against", plane((0, 0, 10), (0, 0, 1)), plane((5, 5, 50), (0, 0, 1))))
    assert not found.fights
    assert found.poses[0].way((0, 0, 1)) == pytest.approx((0, 0, -1), abs=1e-9)
    assert found.poses[0].point((0, 0, 10))[2] == pytest.approx(50, abs=1e-8)


def test_flush_lies_the_same_way():
    pose = some_pose(3)
    found = one(("flush", plane((1, 2, 3), (1, 1, 0)), plane((0, 0, 20), (0, 0, 1)), 2.0), start=pose)
    assert found.poses[0].way(np.array([1, 1, 0]) / math.sqrt(2)) == pytest.approx((0, 0, 1), abs=1e-8)
    assert found.poses[0].point((1, 2, 3))[2] == pytest.approx(22, abs=1e-8)


@pytest.mark.parametrize("seed", range(30))
def test_any_start_finds_a_pin_in_its_hole_seated(seed):
    axis, goal = line((1, 2, 3), (1, 2, 2), 4), line((30, -10, 5), (0.6, 0, 0.8))
    seat, on = plane((1, 2, 3), (-1, -2, -2)), plane((30, -10, 5), (0.6, 0, 0.8))
    found = one(("on", axis, goal), ("against", seat, on, 1.25), start=some_pose(seed))
    pose = found.poses[0]
    assert not found.fights
    assert off_line(pose.point((1, 2, 3)), goal.at, goal.way) < 1e-7
    assert (pose.point((1, 2, 3)) - np.array(goal.at)) @ np.array(goal.way) == pytest.approx(1.25, abs=1e-7)
    assert pose.way(seat.way) == pytest.approx([-w for w in on.way], abs=1e-8)


@pytest.mark.parametrize("seed", range(10))
def test_three_relations_hold_a_block_in_a_corner(seed):
    faces = [((1, 0, 0), (-1, 0, 0)), ((0, 1, 0), (0, -1, 0)), ((0, 0, 1), (0, 0, -1))]
    found = one(*(("against", plane((0, 0, 0), own), plane((7, 8, 9), to)) for own, to in faces), start=some_pose(seed))
    assert not found.fights
    assert found.poses[0].point((0, 0, 0)) == pytest.approx((7, 8, 9), abs=1e-7)
    assert freedoms(found.relations, found.poses)[0].count == 0


def test_points_on_points_axes_and_planes():
    found = one(
        ("on", point(1, 1, 1), point(9, 9, 9)),
        ("on", point(4, 1, 1), line((9, 9, 9), (0, 1, 0))),
        ("on", point(1, 5, 1), plane((0, 0, 9), (0, 0, 1))),
    )
    pose = found.poses[0]
    assert pose.point((1, 1, 1)) == pytest.approx((9, 9, 9), abs=1e-8)
    assert abs(pose.point((4, 1, 1)) - (9, 9, 9)) == pytest.approx((0, 3, 0), abs=1e-7)
    assert pose.point((1, 5, 1))[2] == pytest.approx(9, abs=1e-8)
    # said the other way round it is the same
    turned = one(("on", line((4, 0, 0), (1, 0, 0)), point(3, 3, 3)))
    assert off_line((3, 3, 3), turned.poses[0].point((4, 0, 0)), turned.poses[0].way((1, 0, 0))) < 1e-8


@pytest.mark.parametrize(
    ("a", "b", "far"),
    [
        (line((0, 0, 0), (0, 0, 1), 5), line((40, 0, 0), (0, 0, 1), 8), 13),
        (line((0, 0, 0), (0, 0, 1), 5), line((40, 0, 0), (0, 0, 1), 8, True), 3),
        (Grip("ball", (0, 0, 0), None, 5), Grip("ball", (40, 9, 0), None, 8), 13),
        (Grip("ball", (0, 0, 0), None, 5), line((40, 0, 0), (1, 0, 1), 8), 13),
    ],
)
def test_round_things_touch_where_their_radii_meet(a, b, far):
    for gap in (0.0, 0.3):
        found = one(("touching", a, b, gap))
        at = found.poses[0].point(a.at)
        apart = math.dist(at, b.at) if b.way is None else off_line(at, b.at, b.way)
        assert apart == pytest.approx(far + (-gap if a.hollow != b.hollow else gap), abs=1e-7)


def test_a_roll_lies_on_a_table():
    found = one(("touching", line((0, 0, 30), (1, 0, 0.4), 6), plane((0, 0, 2), (0, 0, 1))), start=some_pose(5))
    pose = found.poses[0]
    assert pose.point((0, 0, 30))[2] == pytest.approx(8, abs=1e-7)
    assert pose.way(np.array([1, 0, 0.4]) / math.hypot(1, 0.4))[2] == pytest.approx(0, abs=1e-8)
    assert freedoms(found.relations, found.poses)[0].count == 4


@pytest.mark.parametrize("degrees", [0, 1, 30, 90, 140, 180])
def test_angles(degrees):
    found = one(("angle", plane((0, 0, 0), (0, 0, 1)), plane((0, 0, 0), (1, 0, 0)), math.radians(degrees)))
    cosine = found.poses[0].way((0, 0, 1)) @ np.array([1, 0, 0])
    if degrees in (0, 180):
        assert abs(cosine) == pytest.approx(1, abs=1e-9)
    else:
        assert math.degrees(math.acos(cosine)) == pytest.approx(degrees, abs=1e-6)
    # of an axis and a flat face it is the angle to the face, not to its normal
    tilted = one(("angle", line((0, 0, 0), (0, 0, 1)), plane((0, 0, 0), (0, 0, 1)), math.radians(degrees)))
    assert abs(tilted.poses[0].way((0, 0, 1))[2]) == pytest.approx(math.sin(math.radians(degrees)), abs=1e-7)


def test_the_smallest_set_that_cannot_hold_is_named():
    top, side = plane((0, 0, 0), (0, 0, -1)), plane((0, 0, 0), (1, 0, 0))
    found = one(
        ("against", side, plane((50, 0, 0), (-1, 0, 0))),
        ("against", top, plane((0, 0, 10), (0, 0, 1))),
        ("against", top, plane((0, 0, 12), (0, 0, 1))),
    )
    assert found.fights == (1, 2)
    # two parallel axes, further apart than those they are asked to lie on
    found = one(
        ("on", line((0, 0, 0), (0, 0, 1)), line((0, 0, 0), (0, 0, 1))),
        ("on", line((10, 0, 0), (0, 0, 1)), line((12, 0, 0), (0, 0, 1))),
    )
    assert found.fights == (0, 1)


def test_a_sense_that_was_chosen_is_kept():
    pin, hole = line((0, 0, 0), (0, 0, 1)), line((5, 0, 0), (0, 0, 1))
    for sense in (1, -1):
        found = one(("on", pin, hole, 0.0, sense))
        assert found.poses[0].way((0, 0, 1))[2] == pytest.approx(sense, abs=1e-9)
    assert one(("on", pin, hole)).poses[0].turn == pytest.approx(np.eye(3), abs=1e-12), "left open it stays as it lies"


def test_what_cannot_be_said_of_two_things_is_told():
    with pytest.raises(BadInput, match="two flat faces; this is a round face and a flat face"):
        one(("against", line((0, 0, 0), (0, 0, 1), 4), plane((0, 0, 0), (0, 0, 1))))
    with pytest.raises(BadInput, match="same radius"):
        one(("touching", line((0, 0, 0), (0, 0, 1), 4), line((9, 0, 0), (0, 0, 1), 4, True)))


@pytest.mark.parametrize(
    ("relations", "said"),
    [
        ([], "may move freely"),
        ([("on", line((0, 0, 0), (1, 0, 0)), line((0, 0, 5), (1, 0, 0)))], "may still turn about an axis (x) and "
            "slide along x"),
        ([("against", plane((0, 0, 0), (0, 0, -1)), plane((0, 0, 5), (0, 0, 1)))],
         "may still turn about an axis (z) and slide on a plane"),
        ([("on", point(0, 0, 0), point(3, 4, 5))], "may still turn about a point"),
        ([("parallel", plane((0, 0, 0), (0, 0, 1)), plane((0, 0, 0), (0, 0, 1)))],
         "may still turn about an axis (z) and be shifted freely"),
    ],
)  # fmt: skip
def test_what_is_left_is_said(relations, said):
    found = one(*relations)
    assert freedoms(found.relations, found.poses)[0].said == said


def test_the_axis_something_turns_about_is_found():
    relations = [("on", line((3, 4, 0), (0, 0, 1)), line((20, 30, 0), (0, 0, 1))),
                 ("against", plane((0, 0, 2), (0, 0, -1)), plane((0, 0, 7), (0, 0, 1)))]  # fmt: skip
    found = one(*relations)
    free = freedoms(found.relations, found.poses)[0]
    at, way = free.axis
    assert abs(way[2]) == pytest.approx(1)
    assert off_line((20, 30, 0), at, way) < 1e-7


def test_a_chain_of_bodies_hangs_together():
    """A folding rule of six leaves: each turns on the pin of the one before, the first is fixed at one end."""
    leaves = 6
    pins = [Relation("on", line((0, 0, 0), (0, 0, 1)), line((100, 0, 0), (0, 0, 1)), i, i - 1 if i else None)
            for i in range(leaves)]  # fmt: skip
    flat = [Relation("on", point(50, 0, 0), plane((0, 0, 0), (0, 0, 1)), i, None) for i in range(leaves)]
    found = place([*pins, *flat], [some_pose(i) for i in range(leaves)])
    assert not found.fights
    for i in range(1, leaves):
        assert found.poses[i].point((0, 0, 0))[:2] == pytest.approx(found.poses[i - 1].point((100, 0, 0))[:2], abs=1e-6)
    assert [f.count for f in freedoms(found.relations, found.poses)] == [1, 2, 3, 3, 3, 3]


def test_what_stands_stays():
    found = place(
        [Relation("on", point(0, 0, 0), point(0, 0, 0), 0, 1)], [STILL, Pose.by(np.array([9.0, 0, 0]))], [False, True]
    )
    assert found.poses[0].vector() == STILL.vector()
    assert found.poses[1].shift == pytest.approx((0, 0, 0), abs=1e-9)
