"""Why a constraint too many is one too many: the smallest set it fights with.

A new constraint adds nothing when its residual stays the same under every finite motion that the others allow.
(Rank at the solution is not enough: a straight two-link arm loses rank there and is innocent.) The set is found
at the last consistent state, with every equality as a row of its own: the new gradient is a combination of
independent old ones in exactly one way, and the rows in it are the minimal set.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from scipy.linalg import lstsq, qr

from .compiling import compile_sketch, gather
from .freedom import motions
from .newton import SOLVED
from .residuals import SLOTS, residuals
from .rows import Rows
from .system import System, compile_rows

if TYPE_CHECKING:
    from ..constraints import Constraint
    from ..document import Sketch


def _speak(sketch: Sketch, constraint: Constraint) -> Rows:
    rows = gather(sketch.with_constraints(()))
    start = len(rows.rows)
    rows.owner = constraint.id
    constraint.say(rows, sketch)
    del rows.rows[:start]
    return rows


def _new_residual(rows: Rows, scale: float, scalars: np.ndarray) -> np.ndarray:
    """What the constraint's own equations read at given scalars (mm), scaled."""
    alone = compile_rows(rows, scale, merge=False)
    if len(alone.kind) == 0:
        return np.zeros(0)
    r, g = np.empty(len(alone.kind)), np.empty((len(alone.kind), SLOTS))
    x = np.empty(len(alone.roots))
    x[alone.variable] = scalars[: len(alone.variable)]  # after them come unknowns of other constraints
    x /= alone.units
    residuals(alone.kind, alone.var, alone.con, x, r, g)
    return r


def adds_nothing(sketch: Sketch, constraint: Constraint) -> bool:
    """Whether what ``constraint`` asks is settled already (to the same value or another) by a solved sketch.

    A pinned thing that could still move, or an equation whose value changes under a motion, adds something.
    """
    if constraint.unknowns:
        return _leaves_freedom(sketch, constraint)
    system = compile_sketch(sketch)
    x = system.start(system.rows.layout.values)
    count, block = motions(system, x)
    rows = _speak(sketch, constraint)
    if count == 0:
        return True
    base = system.finish(x)
    for column in range(min(block.shape[1], 3)):
        direction = block[:, column]
        direction = direction / max(np.max(np.abs(direction)), 1e-300)
        moved = x.copy()
        moved[: system.count] += 1e-3 * direction
        if system.solve(moved)[0] != SOLVED:
            continue
        after = system.finish(moved)
        if any(abs(after[s] - base[s]) > 1e-8 * system.scale for s, _ in rows.pins):
            return False
        change = _new_residual(rows, system.scale, after) - _new_residual(rows, system.scale, base)
        if np.any(np.abs(change) > 1e-9):
            return False
    return True


def _leaves_freedom(sketch: Sketch, constraint: Constraint) -> bool:
    """For one that brings unknowns of its own: whether, once satisfied, as much is free as before."""
    system = compile_sketch(sketch)
    before = motions(system, system.start(system.rows.layout.values))[0]
    bound = compile_sketch(sketch.with_constraints((*sketch.constraints, constraint)))
    x = bound.start(bound.rows.layout.values)
    return bound.solve(x)[0] == SOLVED and motions(bound, x)[0] >= before


def fights_with(sketch: Sketch, constraint: Constraint) -> tuple[str, ...]:
    """The smallest set of constraints (ids) that already settles what ``constraint`` asks; empty if none does."""
    if constraint.unknowns:
        return ()
    old = compile_sketch(sketch, merge=False)
    x = old.start(old.rows.layout.values)
    rows = _speak(sketch, constraint)
    new = compile_rows(rows, old.scale, merge=False)
    # the unknowns that other constraints bring come after the curves'
    gradients = _in_scalars(new, new.start(old.rows.layout.values[: len(new.variable)]), old)
    if gradients.size == 0:
        return ()
    jacobian = old.gradients(x)
    if jacobian.shape[0] == 0:
        return ()
    _, r, order = qr(jacobian.T, mode="economic", pivoting=True)
    diagonal = np.abs(np.diag(r))
    rank = int(np.sum(diagonal > 1e-9 * max(float(diagonal[0]), 1e-300)))
    basis = np.sort(order[:rank])
    ids = {c.id for c in sketch.constraints}
    found: dict[str, None] = {}
    for gradient in gradients:
        weights, *_ = lstsq(jacobian[basis].T, gradient)
        size = max(float(np.linalg.norm(gradient)), 1e-12)
        if float(np.linalg.norm(jacobian[basis].T @ weights - gradient)) > 1e-7 * size:
            continue
        for i, weight in zip(basis, weights):
            if abs(weight) > 1e-7 and old.owners[i] in ids:
                found[old.owners[i]] = None
    return tuple(c.id for c in sketch.constraints if c.id in found)


def _in_scalars(new: System, x: np.ndarray, old: System) -> np.ndarray:
    """Gradients of the new rows over the old system's unknowns."""
    dense = new.gradients(x)
    out = np.zeros((dense.shape[0], old.count))
    for i, root in enumerate(new.roots[: new.count]):
        j = int(old.variable[root])
        if j < old.count:
            out[:, j] += dense[:, i]
    return out
