"""Flex test, comparing: how often they are right, and how little they add to the kernel's own time."""

from __future__ import annotations

import math
import random
import statistics
import time
from collections.abc import Iterator

from tests.batteries import flexes
from tests.hand import Hand, box

from sketchlathe.core.inspect import flexing
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.model.knobs import knobs
from sketchlathe.core.solid.comparing import compared

from .measuring import Figure, seconds
from .solids import twelve_steps


def _kernel_share(rounds: int) -> float:
    """Of the time that a try takes: what goes into building the part, by itself."""
    m = twelve_steps()
    probe = flexing.Probe(m.model, "p1", BuildCache())
    inside: list[float] = []
    built = probe._built

    def timed(*args: object) -> object:
        started = time.perf_counter()
        try:
            return built(*args)  # type: ignore[arg-type]
        finally:
            inside.append(time.perf_counter() - started)

    probe._built = timed  # type: ignore[method-assign,assignment]
    numbers = [k for k in knobs(m.model, m.model.parts[0]) if k.value == 10][:1]
    shares = []
    for i in range(rounds):
        edit = numbers[0].turned(10 + 0.05 * (i + 1), m.model)
        whole = seconds(lambda edit=edit: probe.try_edits([edit]))  # type: ignore[misc]
        shares.append(inside[-1] / whole)
    return statistics.median(shares)


def _moon(rng: random.Random) -> float:
    """How far gone and come are from the two moons that a moved hole leaves, the worse of both, as a share."""
    h, r, x = rng.uniform(4, 9), rng.uniform(2, 3), rng.uniform(8, 12)
    d = rng.uniform(0.3, 1.8) * r

    def made(at: float) -> tuple[object, ...]:
        m = Hand()
        m.prism("top", box(0, 0, 40, 20), distance=f"{h!r}")
        s = m.sketch()
        m.draw(s, "circle", (at, 10), (at + r, 10), sizes=(f"{2 * r!r}",))
        m.step("extrude", regions=m.regions(s), distance="40", other="40", result="cut")
        return m.build().bodies

    lens = 2 * r * r * math.acos(d / (2 * r)) - d / 2 * math.sqrt(4 * r * r - d * d)
    moon = (math.pi * r * r - lens) * h
    found = compared(made(x), made(x + d))  # type: ignore[arg-type]
    return max(abs(v / moon - 1) for v in (found.gone_volume, found.come_volume))


def figures(quick: bool) -> Iterator[Figure]:
    """flex.found_pct, flex.false_alarms, flex.kernel_share, compare.volume_rel."""
    count, right, alarms = 0, 0, 0
    for _, case in flexes.cases(1 if quick else 6):
        wrong = flexes.wrong(case)
        count, right = count + 1, right + (not wrong)
        alarms += sum("false alarm" in w for w in wrong)
    yield Figure("flex.found_pct", 100 * right / count, 98, at_least=True)
    yield Figure("flex.false_alarms", alarms, 1)
    yield Figure("flex.kernel_share", _kernel_share(5 if quick else 15), 0.8, at_least=True)
    rng = random.Random(3)
    yield Figure("compare.volume_rel", max(_moon(rng) for _ in range(4 if quick else 20)), 1e-6)
