"""The short form of ``./lathe prove kills``."""

from sketchlathe.proving.crowding import load
from sketchlathe.proving.killing import kills


def test_nothing_acknowledged_is_lost_whoever_is_killed() -> None:
    found = kills(4, seed=5)
    assert sum(found.kills.values()) == 4
    assert len(found.kills) >= 2, found.kills
    assert found.acknowledged > 30
    assert (found.lost, found.doubled, found.unreadable) == ([], [], [])
    assert found.longest_away < 10


def test_a_few_people_at_work_meet_no_problem() -> None:
    crowd = load(3, 8)
    assert crowd.problems == []
    assert {"edit", "build"} <= set(crowd.waits)
