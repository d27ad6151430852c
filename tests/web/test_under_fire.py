"""The short form of ``./lathe prove kills``."""

import pytest

from sketchlathe.proving.crowding import load
from sketchlathe.proving.fuzzing import SHARES, fuzz
from sketchlathe.proving.killing import kills


@pytest.mark.parametrize(("machines", "count"), [(0, 4), (2, 8)])
def test_nothing_acknowledged_is_lost_whoever_is_killed(machines: int, count: int) -> None:
    found = kills(count, seed=5, machines=machines)
    assert sum(found.kills.values()) == count
    assert len(found.kills) >= 2, found.kills
    assert found.acknowledged > 30
    assert (found.lost, found.doubled, found.unreadable, found.left_behind) == ([], [], [], [])
    assert found.longest_away < 10


def test_a_few_people_at_work_meet_no_problem() -> None:
    crowd = load(3, 8)
    assert crowd.problems == []
    assert {"edit", "build"} <= set(crowd.waits)


def test_nonsense_at_every_door_is_answered() -> None:
    fuzzed = fuzz(5000, seed=11)
    assert fuzzed.findings == []
    assert set(fuzzed.inputs) == set(SHARES)
    # not all of it is so strange that it goes no further than the door
    assert all(fuzzed.taken[sort] > 0 for sort in SHARES)
