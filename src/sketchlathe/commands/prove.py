"""Proof under fire, on loopback: a service of its own is killed, or crowded, while people work at it."""

from __future__ import annotations

import argparse

from . import say

GOALS = {"edit": 300.0, "drag": 60.0, "page": 500.0}  # ms that nineteen of twenty waits stay within


def _kills(options: argparse.Namespace) -> bool:
    """Processes killed at random while people edit: nothing acknowledged may be lost."""
    from ..proving.killing import kills

    found = kills(options.kills, options.seed, options.machines)
    told = ", ".join(f"{n} {sort}" for sort, n in sorted(found.kills.items()))
    say(f"killed: {told}; {found.acknowledged} edits acknowledged; longest away {found.longest_away:.1f} s")
    say("away, s: " + ", ".join(f"{sort} {s:.1f}" for sort, s in sorted(found.away.items())))
    for word in ("lost", "doubled", "unreadable", "left_behind"):
        if getattr(found, word):
            say(f"{word}: {', '.join(getattr(found, word)[:20])}")
    return found.sound


def _load(options: argparse.Namespace) -> bool:
    """People at work at the pace of hands: how long they wait."""
    from ..proving.crowding import load

    crowd = load(options.people, options.seconds, options.machines, options.each)
    for what, count, middle, slow in crowd.rows():
        goal = f"  goal {GOALS[what]:.0f}" if what in GOALS else ""
        say(f"{what:8} {count:6}  middle {middle:7.1f} ms  95 % within {slow:7.1f} ms{goal}")
    for problem in crowd.problems[:10]:
        say(f"problem: {problem}")
    if crowd.problems:
        say(f"{len(crowd.problems)} problems")
    return not crowd.problems and all(crowd.share(what, 0.95) < goal for what, goal in GOALS.items())


def _fuzz(options: argparse.Namespace) -> bool:
    """Nonsense at every door: no fault of ours, nothing slow, nothing left behind."""
    from ..proving.fuzzing import fuzz

    fuzzed = fuzz(options.inputs, options.seed)
    for sort, count in fuzzed.inputs.items():
        slow, what = fuzzed.slowest.get(sort, (0.0, ""))
        say(f"{sort:9} {count:7}  understood {fuzzed.taken[sort]:6}  slowest {slow:6.2f} s  {what[:60]!r}")
    for finding in fuzzed.findings[:40]:
        say(f"found: {finding}")
    say(f"{sum(fuzzed.inputs.values())} inputs, {len(fuzzed.findings)} findings")
    return not fuzzed.findings


def _soak(options: argparse.Namespace) -> bool:
    """People at work for long: what is held stays level."""
    from ..proving.soaking import soak

    soaked = soak(60 * options.minutes, machines=options.machines, browser=True)
    for what in sorted({key for _, look in soaked.looks for key in look}):
        early, late = soaked.series(what)
        scale, unit = (1e6, " MB") if what.endswith("bytes") else (1, "")
        say(f"{what:18} warm {early / scale:8.1f}{unit}  at the end {late / scale:8.1f}{unit}")
    for problem in (*soaked.grown, *soaked.problems[:20]):
        say(f"problem: {problem}")
    say(f"{soaked.acts} acts of people, {soaked.rounds} rounds at one page of a browser")
    return not soaked.grown and not soaked.problems


def _faults(options: argparse.Namespace) -> bool:
    """What is around the service fails: people keep what they had, and are told."""
    from ..proving.faults import faults

    found = faults()
    for name, told in found.items():
        say(f"{name.replace('_', ' ')}: {'; '.join(told.wrong) or 'as it should be'}")
        for said in dict.fromkeys(told.said):
            say(f"    said: {said}")
    return not any(told.wrong for told in found.values())


def run(argv: list[str]) -> int:
    """``./lathe prove kills | load | fuzz | soak | faults``, each with its measure"""
    parser = argparse.ArgumentParser(prog="lathe prove", description=__doc__)
    ways = {"kills": _kills, "load": _load, "fuzz": _fuzz, "soak": _soak, "faults": _faults}
    parser.add_argument("what", choices=list(ways))
    parser.add_argument("--kills", type=int, default=30, help="how many (default 30: about two minutes)")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--inputs", type=int, default=100_000, help="of the fuzz (default 100 000)")
    parser.add_argument("--minutes", type=float, default=60.0, help="of the soak (default 60)")
    parser.add_argument("--people", type=int, default=30)
    parser.add_argument("--seconds", type=float, default=60.0)
    parser.add_argument(
        "--machines", type=int, default=0,
        help="machines of workers behind two web processes, simulated here (default 0: one process with its own)",
    )  # fmt: skip
    parser.add_argument("--each", type=int, default=1, help="processes that compute on each machine (default 1)")
    options = parser.parse_args(argv)
    sound = ways[options.what](options)
    say("sound" if sound else "NOT sound")
    return 0 if sound else 1
