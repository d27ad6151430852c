"""The short form of ``./lathe prove kills``."""

from sketchlathe.commands.prove import kills


def test_nothing_acknowledged_is_lost_whoever_is_killed() -> None:
    found = kills(4, seed=5)
    assert sum(found.kills.values()) == 4
    assert len(found.kills) >= 2, found.kills
    assert found.acknowledged > 30
    assert (found.lost, found.doubled, found.unreadable) == ([], [], [])
    assert found.longest_away < 10
