"""The short form of ``./lathe prove kills``."""

import pytest

from sketchlathe.proving.crowding import load
from sketchlathe.proving.faults import faults
from sketchlathe.proving.fuzzing import SHARES, fuzz
from sketchlathe.proving.killing import kills
from sketchlathe.proving.soaking import Soaked, soak


@pytest.mark.parametrize(("machines", "count"), [(0, 4), (2, 5)])
def test_nothing_acknowledged_is_lost_whoever_is_killed(machines: int, count: int) -> None:
    found = kills(count, seed=5, machines=machines)
    assert sum(found.kills.values()) == count
    assert len(found.kills) >= 2, found.kills
    assert found.acknowledged > 30
    assert (found.lost, found.doubled, found.unreadable, found.left_behind) == ([], [], [], [])
    assert found.longest_away < 40  # beside other tests; by itself it is 10 s, which `./lathe prove kills` holds to


def test_a_few_people_at_work_meet_no_problem() -> None:
    crowd = load(3, 6)
    assert crowd.problems == []
    assert {"edit", "build"} <= set(crowd.waits)


def test_nonsense_at_every_door_is_answered() -> None:
    fuzzed = fuzz(2000, seed=11)
    assert fuzzed.findings == []
    assert set(fuzzed.inputs) == set(SHARES)
    # not all of it is so strange that it goes no further than the door
    assert all(fuzzed.taken[sort] > 0 for sort in SHARES)


def test_people_keep_what_they_had_and_are_told() -> None:
    only = "redis_is_gone", "clock_is_set", "disk_is_full"
    found = faults(*only)
    assert {name: told.wrong for name, told in found.items()} == {name: [] for name in only}
    assert any("disk of this server is full" in said for said in found["disk_is_full"].said)


def test_what_is_held_stays_level() -> None:
    soaked = soak(12, people=2)
    assert soaked.problems == []
    assert soaked.acts > 20 and len(soaked.looks) >= 2
    assert soaked.looks[-1][1]["web bytes"] > 1e8 and soaked.looks[-1][1]["database bytes"] > 1e6


def test_what_grows_is_seen() -> None:
    level = Soaked([(float(k), {"web bytes": 3e8, "web files": 40}) for k in range(100)])
    assert level.grown == []
    leak = Soaked([(float(k), {"web bytes": 3e8 + 2e6 * k, "web files": 40 + k}) for k in range(100)])
    assert len(leak.grown) == 2
