"""How often the answers are right: batteries whose truth is known by construction."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from tests.batteries import (
    formulas,
    hostile,
    known_bodies,
    mechanisms,
    prints,
    references,
    relations,
    slips,
    warm,
)

from sketchlathe.core.solid import kernel

from .measuring import Figure


def _tell(word: str, texts: Iterable[str], most: int = 8) -> None:
    for text in list(texts)[:most]:
        print(f"  {word}: {text}")


def figures(quick: bool) -> Iterator[Figure]:
    """references.survive_pct and .wrong, solids.volume_rel and .wrong, measure.right, place.right_pct,
    check.explained_pct, printcheck.found_pct.
    """
    kernel.silence()
    tally = references.Tally()
    for family, seed in references.cases(1 if quick else 30):
        references.judge(family, seed, tally)
    for name in relations.FAMILIES:
        for seed in range(1, 3 if quick else 61):
            relations.judge(name, seed, tally)
    _tell("pick", tally.cases or [], 12)
    yield Figure("references.survive_pct", 100 * tally.right / (tally.right + tally.asked + tally.wrong), 98.999, True)
    yield Figure("references.wrong", tally.wrong, 0.5)
    worst, wrong, timid = hostile.battery(2 if quick else 60)
    off, plain = formulas.errors(1 if quick else 5)
    _tell("wrong", wrong + plain)
    _tell("refused though possible", timid)
    yield Figure("solids.volume_rel", max(worst, off), 1e-6)
    yield Figure("solids.wrong", len(wrong + plain), 0.5)
    if not quick:
        differs = warm.judged(range(200))
        _tell("warm is not cold", differs)
        yield Figure("build.warm_differs", len(differs), 0.5)
        share, _, missed = slips.explained(27)
        _tell("not named", missed)
        yield Figure("check.explained_pct", share, 90, at_least=True)
    right, _, _, off_by = known_bodies.worst(18 if quick else 72)
    _tell("measured wrong", off_by)
    yield Figure("measure.right", right, 1e-10)
    placed, wrongly = mechanisms.judged(8 if quick else 64)
    _tell("placed wrong", wrongly)
    yield Figure("place.right_pct", placed, 99.999, at_least=True)
    share, missed, alarms = prints.judged()
    _tell("missed", missed)
    _tell("false alarm", alarms)
    yield Figure("printcheck.found_pct", share - 100 * bool(alarms), 99.999, at_least=True)
