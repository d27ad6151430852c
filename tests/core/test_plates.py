"""Bodies on beds: nothing overlaps, nothing hangs over, equal copies lie alike, no more beds than need be."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.core.test_fits import blocks, box

from sketchlathe.core.errors import Trouble
from sketchlathe.core.printing import plates
from sketchlathe.core.printing.packing import pack
from sketchlathe.core.printing.printable import printable
from sketchlathe.core.printing.process import Process

SIZES = st.lists(st.tuples(st.floats(1, 120), st.floats(1, 120)), min_size=1, max_size=30)


@settings(max_examples=60, deadline=None)
@given(SIZES, st.floats(0, 10))
def test_what_is_packed_lies_on_its_bed_apart_from_the_others(sizes, apart):
    spots = pack(sizes, (150.0, 130.0), apart)
    lying = []
    for (w, d), spot in zip(sizes, spots):
        assert spot is not None, "each of these fits the bed"
        a, b = (d, w) if spot.turned else (w, d)
        assert spot.x >= -1e-6 and spot.x + a <= 150 + 1e-6 and spot.y >= -1e-6 and spot.y + b <= 130 + 1e-6
        lying.append((spot.bed, spot.x, spot.y, a, b))
    for i, (bed, x, y, a, b) in enumerate(lying):
        for other, u, v, c, e in lying[:i]:
            if bed == other:
                assert (
                    x + a + apart <= u + 1e-6
                    or u + c + apart <= x + 1e-6
                    or y + b + apart <= v + 1e-6
                    or v + e + apart <= y + 1e-6
                )
    assert {bed for bed, *_ in lying} == set(range(1 + max(bed for bed, *_ in lying))), "no bed is left empty"


def test_what_tiles_a_bed_takes_one():
    assert {s.bed for s in pack([(50, 50)] * 9, (150, 150), 0)} == {0}
    assert {s.bed for s in pack([(44, 44)] * 9, (144, 144), 6)} == {0}, "the distance is between them, not at the edge"
    assert {s.bed for s in pack([(50, 50)] * 10, (150, 150), 0)} == {0, 1}
    assert pack([(60, 20), (200, 10)], (100, 100), 0)[1] is None
    turned = pack([(20, 100), (100, 20)], (100, 40), 0)
    assert {s.bed for s in turned} == {0}


def laid(hand, alike=None, **process):
    bodies = hand.built().bodies
    return plates.lay_out(
        [printable([b]) for b in bodies], [b.id for b in bodies], alike or [b.id for b in bodies], Process(**process)
    )


def test_bodies_lie_as_is_best_for_each_and_keep_their_volume():
    # a bar that stands, a plate on its edge
    hand = blocks(box(60, 4, 40), box(10, 8, 80, 100, 0), box(20, 20, 20, 0, 100))
    (plate,) = laid(hand)
    whole = plate.part.surface
    assert whole.volume == pytest.approx(60 * 4 * 40 + 10 * 8 * 80 + 8000, rel=1e-9)
    low, high = whole.box
    assert low[2] == pytest.approx(0, abs=1e-9)
    assert high[2] == pytest.approx(20, abs=1e-6), "the plate and the bar lie flat"
    assert plate.bodies == (0, 1, 2)


def test_more_than_a_bed_holds_goes_on_the_next():
    hand = blocks(*(box(60, 60, 5, 70 * i) for i in range(5)))
    beds = laid(hand, ["a"] * 5, bed_x=130, bed_y=130)
    assert [len(b.bodies) for b in beds] == [4, 1]
    assert sorted(i for b in beds for i in b.bodies) == [0, 1, 2, 3, 4]
    for bed in beds:
        low, high = bed.part.surface.box
        assert max(abs(v) for v in (*low[:2], *high[:2])) <= 65 + 1e-6


def test_what_is_too_large_is_named():
    hand = blocks(box(10, 10, 10), box(300, 300, 10, 40))
    with pytest.raises(Trouble, match="is too large for the bed of 220 × 220 mm"):
        laid(hand)


def test_copies_lie_alike_however_they_stand_where_they_are_put_together():
    """A plate that lies and one that stands on its edge: on the bed both lie flat."""
    from tests.core.test_parts import Parts

    from sketchlathe.workers.prints import _laid

    hand = Parts()
    hand.step("block", width="60 mm", depth="40 mm", height="4 mm")
    hand.at = hand.new(sort="together")
    hand.step("bring_part", part="p1")
    hand.step("bring_part", part="p1", x="100 mm", tilt="90 deg", turn="33 deg")
    built, process = hand.built(), Process()
    put = _laid(hand.model, hand.model.part(hand.at), built.bodies, process, "")
    laid = put.part
    low, high = laid.surface.box
    assert high[2] - low[2] == pytest.approx(4, abs=1e-6)
    assert laid.surface.volume == pytest.approx(2 * 60 * 40 * 4, rel=1e-9)
    assert (put.chosen, put.bed, put.beds) == (plates.BY_ITSELF, 1, 1) and put.ways[0]["name"] == plates.BY_ITSELF


def test_what_is_put_by_hand_stays_there_and_the_rest_goes_round_it():
    hand = blocks(*(box(60, 30, 5, 70 * i) for i in range(3)))
    bodies = hand.built().bodies
    names = [b.id for b in bodies]
    corner = plates.Lying(0, -20, 40, math.radians(90))
    (plate,) = plates.lay_out(
        [printable([b]) for b in bodies], names, names, Process(bed_x=130, bed_y=130), {1: corner}
    )
    assert plate.lying[1] == corner
    mine = plate.part.surface.positions[np.unique(plate.part.surface.triangles[plate.part.bodies == 1])]
    assert mine.min(axis=0) == pytest.approx([-35, 10, 0], abs=1e-9)
    assert mine.max(axis=0) == pytest.approx([-5, 70, 5], abs=1e-9), "turned by a right angle: 30 across, 60 deep"
    assert plates.amiss(plate, names, Process(bed_x=130, bed_y=130)) == [f"{names[1]} hangs over the edge of the bed"]
    assert plates.amiss(plate, names, Process(bed_x=130, bed_y=140)) == []


@pytest.mark.parametrize("x, wrong", [(22.0, True), (30.0 - 1e-2, True), (30.0, False)])
def test_bodies_that_lie_on_each_other_are_told(x, wrong):
    hand = blocks(box(30, 30, 5), box(30, 30, 5, 100))
    bodies = hand.built().bodies
    names = [b.id for b in bodies]
    there = {0: plates.Lying(0, 0, 0), 1: plates.Lying(0, x, 0)}
    (plate,) = plates.lay_out([printable([b]) for b in bodies], names, names, Process(), there)
    said = plates.amiss(plate, names, Process())
    assert said == ([f"{names[0]} and {names[1]} lie on each other"] if wrong else [])


def test_one_in_the_hollow_of_another_seen_from_above_is_no_fault():
    from tests.core.test_parts import Parts

    hand = Parts()
    hand.step("block", width="60 mm", depth="60 mm", height="5 mm")
    hand.step("block", width="40 mm", depth="40 mm", height="5 mm", x="10 mm", y="10 mm", result="cut")
    hand.step("block", width="20 mm", depth="20 mm", height="5 mm", x="100 mm", result="separate")
    bodies = hand.built().bodies
    assert len(bodies) == 2
    names = [b.id for b in bodies]
    there = {0: plates.Lying(0, 0, 0), 1: plates.Lying(0, 0, 0)}
    (plate,) = plates.lay_out([printable([b]) for b in bodies], names, names, Process(), there)
    assert plates.amiss(plate, names, Process()) == []


def test_an_emptied_bed_is_no_bed():
    hand = blocks(box(60, 60, 5), box(60, 60, 5, 70))
    bodies = hand.built().bodies
    names = [b.id for b in bodies]
    there = {0: plates.Lying(3, 0, 0), 1: plates.Lying(3, 70, 0)}
    (plate,) = plates.lay_out([printable([b]) for b in bodies], names, names, Process(), there)
    assert plate.bodies == (0, 1) and {at.bed for at in plate.lying} == {0}
