"""Solving a sketch after an edit, without letting a corner turn inside out.

A direct solve first. If it fails, or an orientation changed its sign, the dimensions are walked from what the
drawing shows to what is asked, in steps that halve when a step fails or flips and double when it does not.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import Enum
from typing import TYPE_CHECKING

import numpy as np

from ..constraints.dimension import Dimensional
from .compiling import compile_sketch, with_scalars
from .newton import SOLVED
from .residuals import ANGLE
from .system import System

if TYPE_CHECKING:
    from ..document import Sketch

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
    sketch: Sketch
    system: System
    x: np.ndarray
    strained: tuple[str, ...] = ()  # after a conflict: who is not satisfied at the best compromise


class Guards:
    """What must not change sign: corners of lines, ways lines run, sweeps of arcs, radii and half axes."""

    def __init__(self, sketch: Sketch, system: System) -> None:
        layout, variable = system.rows.layout, system.variable
        self._sizes = np.array(layout.is_size, np.int64)
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
        return bool(np.any(after[self._sizes] <= 0.0))

    def flipped(self, before: np.ndarray, after: np.ndarray) -> bool:
        """Whether something turned inside out between two states (scalars, mm)."""
        d0, s0, w0 = self.state(before)
        d1, s1, w1 = self.state(after)
        turned = np.any(np.sum(d0 * d1, axis=1) < -1e-9)
        corner = np.any((s0 * s1 < 0) & (np.abs(s0) > 1e-6) & (np.abs(s1) > 1e-6))
        return bool(turned or corner or np.any(np.abs(w1 - w0) > math.pi) or self.vanished(after))


def solve(sketch: Sketch) -> Solution:
    """Solve ``sketch`` for its evaluated dimension values (``sketch.values``), moving as little as possible."""
    system = compile_sketch(sketch)
    values = system.rows.layout.values
    x0 = system.start(values)
    if system.solved(x0) and np.allclose(system.finish(x0), values, rtol=0, atol=1e-13 * system.scale):
        return Solution(Verdict.SOLVED, sketch, system, x0)
    x = x0.copy()
    status, _ = system.solve(x)
    guards = Guards(sketch, system)
    dimensions = {c.id for c in sketch.constraints if isinstance(c, Dimensional)}
    stepped = np.array([owner in dimensions for owner in system.owners], bool)
    start_residual = system.residual(x0)
    only_dimensions = not np.any(np.abs(start_residual[~stepped]) > 1e-7) if len(stepped) else True
    good = status == SOLVED and not guards.vanished(system.finish(x))
    if good and not (only_dimensions and guards.flipped(values, system.finish(x))):
        return _done(sketch, system, x)
    if only_dimensions and np.any(np.abs(start_residual) > 1e-10):
        walked = _walk(system, guards, x0, start_residual, stepped)
        if walked is not None:
            return _done(sketch, system, walked)
        if good:
            return Solution(Verdict.FLIPS, sketch, system, x0)
    strained = np.abs(system.residual(x)) > 1e-6 if len(stepped) else np.zeros(0, bool)
    owners = tuple(dict.fromkeys(o for o, bad in zip(system.owners, strained) if bad))
    return Solution(Verdict.CONFLICT, sketch, system, x0, owners)


def _done(sketch: Sketch, system: System, x: np.ndarray) -> Solution:
    solved = with_scalars(sketch, system, system.finish(x))
    return Solution(Verdict.SOLVED, solved, system, x)


def _walk(
    system: System, guards: Guards, x0: np.ndarray, residual: np.ndarray, stepped: np.ndarray
) -> np.ndarray | None:
    """Adaptive stepping of the dimensions from where they stand to their goal; None if it cannot."""
    goal = system.con.copy()
    gap = np.where(stepped, residual, 0.0)
    angle = system.kind == ANGLE
    if np.any(angle):
        gap[angle] = gap[angle] / _angle_scales(system, x0)[angle]
    try:
        x, t, h = x0.copy(), 0.0, 1.0
        previous: tuple[np.ndarray, float] | None = None
        while t < 1.0:
            h = min(h, 1.0 - t)
            system.con[:, 0] = goal[:, 0] + gap * (1.0 - t - h)
            trial = x.copy()
            if previous is not None:
                trial += (x - previous[0]) * (h / previous[1])
            ok = _try(system, guards, x, trial)
            if not ok and previous is not None:
                trial = x.copy()
                ok = _try(system, guards, x, trial)
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


def _try(system: System, guards: Guards, x: np.ndarray, trial: np.ndarray) -> bool:
    for mu in (1e-8, 1e-3, 1.0):
        attempt = trial.copy()
        if system.solve(attempt, mu)[0] == SOLVED and not guards.flipped(system.finish(x), system.finish(attempt)):
            trial[:] = attempt
            return True
    return False


def _angle_scales(system: System, x: np.ndarray) -> np.ndarray:
    """The local length by which each angle row is multiplied."""
    v = np.where(system.var >= 0, system.var, 0)
    u = np.hypot(x[v[:, 2]] - x[v[:, 0]], x[v[:, 3]] - x[v[:, 1]])
    w = np.hypot(x[v[:, 6]] - x[v[:, 4]], x[v[:, 7]] - x[v[:, 5]])
    return np.maximum(np.where(system.con[:, 1] > 0, system.con[:, 1], 0.5 * (u + w)), 1e-12)  # type: ignore[no-any-return]
