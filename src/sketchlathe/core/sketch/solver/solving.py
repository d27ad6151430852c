"""Solving a sketch after an edit, along a continuous way: nothing jumps to another solution.

A direct solve first, believed only where nothing turned far and no corner changed its sense. Otherwise what is not
satisfied yet is walked: every equation starts at what it reads in the drawing and goes to nought together with the
others, in steps that halve when one fails and double when it does not (a homotopy; E. Allgower and K. Georg,
Numerical Continuation Methods, 1990). The first walk lets no corner change its sense; a second one lets corners pass
through straight, since what is reached step by step is right whatever signs it crosses. Only a jump is refused: a
line that turns far in one small step.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass, replace
from enum import Enum
from typing import TYPE_CHECKING

import numpy as np

from ..constraints.dimension import Dimensional
from ..coupling import portion, put_back
from ..equations.residuals import ANGLE, OFFSET
from .compiling import compile_sketch, with_scalars
from .newton import SOLVED
from .system import System

if TYPE_CHECKING:
    from ..document import ValuedSketch

SMALLEST_STEP = 1 / 256


class Verdict(Enum):
    """How a solve ended."""

    SOLVED = "solved"
    CONFLICT = "conflict"  # nothing nearby satisfies everything
    FLIPS = "flips"  # only by turning a corner or an arc inside out


@dataclass(frozen=True)
class Solution:
    """A solve's outcome. ``sketch`` is solved, or the one given when it could not be."""

    verdict: Verdict
    sketch: ValuedSketch
    system: System
    x: np.ndarray
    strained: tuple[str, ...] = ()  # after a conflict: who is not satisfied at the best compromise


FAR = math.cos(math.radians(30))  # a line that turns by more in one step has jumped
FAR_ROUND = 0.6  # rad: as much of an arc's sweep


class Guards:
    """What must not jump: corners of lines, ways lines run, sweeps of arcs, radii and half axes."""

    def __init__(self, sketch: ValuedSketch, system: System) -> None:
        layout, variable = system.rows.layout, system.variable
        self._sizes = np.array(layout.is_size, np.int64)
        self._least = 1e-9 * system.scale  # mm
        self._lines = np.array([layout.ends(c.id) for c in sketch.curves if "line" in c.tags], np.int64).reshape(-1, 4)
        ends: dict[tuple[int, int], list[tuple[int, int]]] = {}
        for i, (ax, ay, bx, by) in enumerate(self._lines):
            ends.setdefault((int(variable[ax]), int(variable[ay])), []).append((i, 1))
            ends.setdefault((int(variable[bx]), int(variable[by])), []).append((i, -1))
        pairs = [(*a, *b) for meeting in ends.values() if len(meeting) == 2 for a, b in [meeting]]
        self._corners = np.array(pairs, np.int64).reshape(-1, 4)
        self._arcs = np.array(
            [
                (*layout.xy(f"{c.id}.centre"), *layout.xy(f"{c.id}.start"), *layout.xy(f"{c.id}.end"))
                for c in sketch.curves
                if "arc" in c.tags
            ],
            np.int64,
        ).reshape(-1, 6)

    def state(self, scalars: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        """Unit directions of lines, sines at corners, sweeps of arcs."""
        p = scalars[self._lines]
        d = p[:, 2:] - p[:, :2]
        d = d / np.maximum(np.hypot(d[:, 0], d[:, 1]), 1e-300)[:, None]
        i, si, j, sj = self._corners.T if len(self._corners) else np.zeros((4, 0), np.int64)
        u, v = d[i] * si[:, None], d[j] * sj[:, None]
        a = scalars[self._arcs]
        first = np.arctan2(a[:, 3] - a[:, 1], a[:, 2] - a[:, 0])
        last = np.arctan2(a[:, 5] - a[:, 1], a[:, 4] - a[:, 0])
        return d, u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0], np.mod(last - first, 2 * math.pi)

    def vanished(self, after: np.ndarray) -> bool:
        """Whether a radius or half axis is no length any more."""
        return bool(np.any(after[self._sizes] <= self._least))

    def flipped(self, before: np.ndarray, after: np.ndarray) -> bool:
        """Whether a line turned about, or a corner or an arc changed its sense, between two states (scalars, mm)."""
        d0, s0, w0 = self.state(before)
        d1, s1, w1 = self.state(after)
        turned = np.any(np.sum(d0 * d1, axis=1) < -1e-9)
        corner = np.any((s0 * s1 < 0) & (np.abs(s0) > 1e-6) & (np.abs(s1) > 1e-6))
        return bool(turned or corner or np.any(np.abs(w1 - w0) > math.pi) or self.vanished(after))

    def jumped(self, before: np.ndarray, after: np.ndarray) -> bool:
        """Whether something moved in one step as only another solution would: a line turned far, an arc grew by far."""
        d0, _, w0 = self.state(before)
        d1, _, w1 = self.state(after)
        turned = np.any(np.sum(d0 * d1, axis=1) < FAR)
        return bool(turned or np.any(np.abs(w1 - w0) > FAR_ROUND) or self.vanished(after))


def solve(sketch: ValuedSketch, fresh: Collection[str] = ()) -> Solution:
    """Solve ``sketch`` for its evaluated dimension values (``sketch.values``), moving as little as possible.

    ``fresh``: constraints that have just been added. What they join is brought together step by step, not put together.
    """
    system = compile_sketch(sketch)
    values = system.rows.layout.values
    x0 = system.start(values)
    if system.solved(x0) and np.allclose(system.finish(x0), values, rtol=0, atol=1e-13 * system.scale):
        return Solution(Verdict.SOLVED, sketch, system, x0)
    guards = Guards(sketch, system)
    joins = [s for s in system.rows.sames if s.owner in fresh]
    if any(abs(values[s.a] - values[s.b]) > 1e-9 * system.scale for s in joins):
        apart = compile_sketch(sketch, apart=fresh)
        found = _reached(apart, guards, values, fresh)
        if found is not None:
            x = system.start(apart.finish(found))
            if system.solve(x)[0] == SOLVED and not guards.jumped(apart.finish(found), system.finish(x)):
                return _done(sketch, system, x)
    x = x0.copy()
    status, _ = system.solve(x)
    good = status == SOLVED and not guards.vanished(system.finish(x))
    if good and not guards.flipped(values, system.finish(x)):
        return _done(sketch, system, x)
    walked = _walked(system, guards, x0)
    if walked is not None:
        return _done(sketch, system, walked)
    if good:
        start = np.abs(system.residual(x0)) > 1e-7
        dimensions = {c.id for c in sketch.constraints if isinstance(c, Dimensional)}
        if {o for o, off in zip(system.owners, start) if off} <= dimensions:
            return Solution(Verdict.FLIPS, sketch, system, x0)
        # what is not a size (a place dragged to, a relation asked for) is met as best it can be
        return _done(sketch, system, x)
    strained = np.abs(system.residual(x)) > 1e-6 if len(system.kind) else np.zeros(0, bool)
    owners = tuple(dict.fromkeys(o for o, bad in zip(system.owners, strained) if bad))
    return Solution(Verdict.CONFLICT, sketch, system, x0, owners)


def solve_about(sketch: ValuedSketch, refs: Iterable[str]) -> Solution:
    """As ``solve``, for a sketch in which only what hangs together with some curves can be off: nothing else is looked
    at. The system and its unknowns are those of that portion.
    """
    part = portion(sketch, refs)
    found = solve(part)
    return replace(found, sketch=put_back(sketch, found.sketch))


def _done(sketch: ValuedSketch, system: System, x: np.ndarray) -> Solution:
    solved = with_scalars(sketch, system, system.finish(x))
    return Solution(Verdict.SOLVED, solved, system, x)


def _reached(system: System, guards: Guards, values: np.ndarray, fresh: Collection[str]) -> np.ndarray | None:
    """A state in which joins that are equations still are satisfied, by a continuous way; None if there is none."""
    x0 = system.start(values)
    x = x0.copy()
    if system.solve(x)[0] == SOLVED and not guards.flipped(values, system.finish(x)):
        return x
    return _walked(system, guards, x0)


def _walked(system: System, guards: Guards, x0: np.ndarray) -> np.ndarray | None:
    """The end of a walk in which no corner changes its sense or, where there is none, of one in which nothing jumps."""
    for passes in (guards.flipped, guards.jumped):
        walked = _walk(system, passes, x0)
        if walked is not None:
            return walked
    return None


Stop = Callable[[np.ndarray, np.ndarray], bool]


def _walk(system: System, stop: Stop, x0: np.ndarray) -> np.ndarray | None:
    """Adaptive stepping of every equation from what it reads at ``x0`` to nought; None if it cannot."""
    goal = system.con.copy()
    gap = system.residual(x0)
    angle = system.kind == ANGLE
    turn = np.where(angle, gap / _angle_scales(system, x0), 0.0) if np.any(angle) else np.zeros(len(gap))
    gap = np.where(angle, 0.0, gap)
    try:
        x, t, h = x0.copy(), 0.0, 1.0
        previous: tuple[np.ndarray, float] | None = None
        while t < 1.0:
            h = min(h, 1.0 - t)
            left = max(1.0 - t - h, 0.0)
            system.con[:, 0] = goal[:, 0] + turn * left
            system.con[:, OFFSET] = gap * left
            trial = x.copy()
            if previous is not None:
                trial += (x - previous[0]) * (h / previous[1])
            ok = _try(system, stop, x, trial)
            if not ok and previous is not None:
                trial = x.copy()
                ok = _try(system, stop, x, trial)
            if ok:
                previous = (x, h)
                x, t, h = trial, t + h, h * 2
            else:
                h /= 2
                if h < SMALLEST_STEP:
                    return None
        return x
    finally:
        system.con[:] = goal


def _try(system: System, stop: Stop, x: np.ndarray, trial: np.ndarray) -> bool:
    for mu in (1e-8, 1e-3, 1.0):
        attempt = trial.copy()
        if system.solve(attempt, mu)[0] == SOLVED and not stop(system.finish(x), system.finish(attempt)):
            trial[:] = attempt
            return True
    return False


def _angle_scales(system: System, x: np.ndarray) -> np.ndarray:
    """The local length by which each angle row is multiplied."""
    v = np.where(system.var >= 0, system.var, 0)
    u = np.hypot(x[v[:, 2]] - x[v[:, 0]], x[v[:, 3]] - x[v[:, 1]])
    w = np.hypot(x[v[:, 6]] - x[v[:, 4]], x[v[:, 7]] - x[v[:, 5]])
    return np.maximum(np.where(system.con[:, 1] > 0, system.con[:, 1], 0.5 * (u + w)), 1e-12)  # type: ignore[no-any-return]
