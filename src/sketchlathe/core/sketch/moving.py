"""How a sketch that is not held can still move: its independent motions, each followed for real."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from scipy.linalg import qr

from .document import ValuedSketch
from .solver.compiling import compile_sketch, with_scalars
from .solver.freedom import motions
from .solver.newton import SOLVED
from .solver.system import System

MOST = 8
FRAMES = 6  # to each side


class Motion(NamedTuple):
    """One free motion: what moves, in words, and the paths of the curves that move, frame by frame there and back."""

    text: str
    curves: tuple[str, ...]
    frames: list[dict[str, str]]  # curve id -> SVG path


def ways_to_move(sketch: ValuedSketch) -> list[Motion]:
    """Up to eight independent motions, each of as few things as possible."""
    system = compile_sketch(sketch)
    x = system.start(system.rows.layout.values)
    count, _ = motions(system, x)
    return [_followed(sketch, system, x, d) for d in _few_things(system, x, min(count, MOST))] if count else []


def _few_things(system: System, x: np.ndarray, wanted: int) -> list[np.ndarray]:
    """Independent directions, each the projection of moving one scalar alone: they stay local."""
    n = system.count
    rng = np.random.default_rng(3)
    free = np.nonzero(np.max(np.abs(system.null_block(x, rng.standard_normal((n, 4)))), axis=1) > 1e-8)[0]
    chosen = free if len(free) <= 200 else free[:: len(free) // 200 + 1]
    block = np.zeros((n, len(chosen)))
    block[chosen, np.arange(len(chosen))] = 1.0
    block = system.null_block(x, block)
    _, _, order = qr(block, mode="economic", pivoting=True)
    return [block[:, k] for k in order[:wanted]]


def _followed(sketch: ValuedSketch, system: System, x: np.ndarray, direction: np.ndarray) -> Motion:
    reach = 0.06 / max(float(np.max(np.abs(direction))), 1e-12)
    sides: list[list[ValuedSketch]] = []
    for sign in (1.0, -1.0):
        now, out = x.copy(), []
        for _ in range(FRAMES):
            trial = now.copy()
            trial[: system.count] += sign * direction * reach / FRAMES
            if system.solve(trial)[0] != SOLVED or np.max(np.abs(trial - now)) > 0.2:
                break
            now = trial
            out.append(with_scalars(sketch, system, system.finish(now)))
        sides.append(out)
    there, back = sides
    swing = [*there, *reversed(there), sketch, *back, *reversed(back), sketch]
    before = {c.id: c for c in sketch.curves}
    moving = [c.id for c in sketch.curves if any(s.curve(c.id) is not before[c.id] for s in swing)]
    frames: list[dict[str, str]] = [{id: _seen(s, id) for id in moving} for s in swing]
    return Motion(_in_words(sketch, moving, system, direction), tuple(moving), frames)


def _seen(sketch: ValuedSketch, id: str) -> str:
    """A curve's path; a lone point, which has none, as a small cross."""
    curve = sketch.curve(id)
    if path := curve.svg():
        return path
    (x, y), d = curve.place("at"), 0.02 * sketch.size
    return f"M{x - d:.6g} {y:.6g}H{x + d:.6g}M{x:.6g} {y - d:.6g}V{y + d:.6g}"


def _in_words(sketch: ValuedSketch, moving: list[str], system: System, direction: np.ndarray) -> str:
    """What moves and how, as far as it can be said shortly."""
    names = [sketch.name_of(id) for id in moving[:3]]
    more = f" and {len(moving) - 3} more" if len(moving) > 3 else ""
    what = ", ".join(names) + more
    if len(moving) != 1:
        return f"{what} move together" if moving else "nothing moves"
    first, last = system.rows.layout.spans[moving[0]]
    numbers = system.variable[first:last]
    step = np.abs(np.where(numbers < system.count, direction[np.minimum(numbers, system.count - 1)], 0.0))
    points = 2 * len(sketch.curve(moving[0]).points)
    moves, grows = bool(np.any(step[:points] > 1e-9)), bool(np.any(step[points:] > 1e-9))
    return f"{what} {'moves and changes its size' if grows and moves else 'changes its size' if grows else 'moves'}"
