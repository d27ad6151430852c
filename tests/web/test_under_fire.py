"""The short form of ``./lathe prove kills``."""

from sketchlathe.commands.prove import kills


def test_nothing_acknowledged_is_lost_whoever_is_killed() -> None:
    found = kills(8, seed=5)
    assert sum(found.kills.values()) == 8
    assert len(found.kills) >= 3, found.kills
    assert found.acknowledged > 50
    assert (found.lost, found.doubled, found.unreadable) == ([], [], [])
    assert found.longest_away < 10
