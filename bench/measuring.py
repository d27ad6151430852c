"""How figures are taken."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Figure:
    """A measured value and its goal; ``at_least`` when larger is better."""

    name: str
    value: float
    goal: float
    at_least: bool = False

    @property
    def ok(self) -> bool:
        """Whether the goal is reached."""
        return bool(self.value >= self.goal if self.at_least else self.value < self.goal)


def seconds(run: Callable[[], object]) -> float:
    """How long one call takes."""
    started = time.perf_counter()
    run()
    return time.perf_counter() - started


def ratio(run: Callable[[], object], yardstick: Callable[[], object], rounds: int = 7) -> float:
    """Median time of ``run`` over that of ``yardstick``, taken in turns so that both see the same machine."""
    run()
    yardstick()
    pairs = [(seconds(run), seconds(yardstick)) for _ in range(rounds)]
    return statistics.median(a for a, _ in pairs) / statistics.median(b for _, b in pairs)


def percentile(values: list[float], share: float) -> float:
    """The value below which a share of all lies."""
    ranked = sorted(values)
    return ranked[min(len(ranked) - 1, int(share * len(ranked)))]


def median_ms(run: Callable[[], object], rounds: int) -> float:
    """Median time of a call, ms."""
    run()
    taken = []
    for _ in range(rounds):
        started = time.perf_counter()
        run()
        taken.append(time.perf_counter() - started)
    return 1e3 * statistics.median(taken)
