"""Why a constraint too many is one too many: the smallest set it fights with.

A new constraint adds nothing when its residual stays the same under every finite motion that the others allow.
(Rank at the solution is not enough: a straight two-link arm loses rank there and is innocent.) The set is found
at the last consistent state, with every equality as a row of its own: the new gradient is a combination of
independent old ones in exactly one way, and the rows in it are the minimal set.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from scipy.linalg import qr
from scipy.sparse import bmat, csr_matrix, identity
from scipy.sparse.linalg import splu

from ..equations.residuals import SLOTS, residuals
from ..equations.rows import Rows
from .compiling import compile_sketch, gather
from .freedom import left_null, motions
from .newton import SOLVED
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


def is_so(sketch: Sketch, constraint: Constraint) -> bool:
    """Whether what a constraint asks is the case in a sketch as it is."""
    system = compile_sketch(sketch)
    values = system.rows.layout.values
    off = _new_residual(_speak(sketch, constraint), system.scale, values)
    return bool(np.all(np.abs(off) < 1e-7))


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
    if gradients.size == 0 or len(old.kind) == 0:
        return ()
    basis = _independent(old, x)
    jacobian = _sparse(old, x)[basis]
    ids = {c.id for c in sketch.constraints}
    found: dict[str, None] = {}
    for gradient, weights, left in zip(gradients, *_combinations(jacobian, gradients)):
        size = max(float(np.linalg.norm(gradient)), 1e-12)
        if float(np.linalg.norm(left)) > 1e-7 * size:
            continue
        for i in np.flatnonzero(np.abs(weights) > 1e-7):
            if old.owners[basis[i]] in ids:
                found[old.owners[basis[i]]] = None
    return tuple(c.id for c in sketch.constraints if c.id in found)


def _sparse(system: System, x: np.ndarray) -> csr_matrix:
    """J (rows, unknowns), sparse."""
    m = len(system.kind)
    r, g = np.empty(m), np.empty((m, SLOTS))
    residuals(system.kind, system.var, system.con, x, r, g)
    i, s = np.nonzero((system.var >= 0) & (system.var < system.count))
    return csr_matrix((g[i, s], (i, system.var[i, s])), shape=(m, system.count))


def _independent(system: System, x: np.ndarray) -> np.ndarray:
    """Rows that are independent and span all: of those that follow from others, which are few, as many are left out.

    Which may be left out is read off the left null space: the rows on which its basis is regular.
    """
    m = len(system.kind)
    silent = left_null(system, x, np.random.default_rng(20))
    if silent.shape[1] == 0:
        return np.arange(m)
    _, _, order = qr(silent.T, mode="economic", pivoting=True)
    return np.setdiff1d(np.arange(m), order[: silent.shape[1]])


def _combinations(jacobian: csr_matrix, gradients: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """For each gradient the weights with which independent rows come nearest to it, and what is left of it.

    ``[I Jᵀ; J 0][left; weights] = [gradient; 0]``, the normal equations without their squared condition.
    """
    m, n = jacobian.shape
    whole = splu(bmat([[identity(n), jacobian.T], [jacobian, None]], format="csc"), permc_spec="MMD_AT_PLUS_A")
    solved = whole.solve(np.vstack([gradients.T, np.zeros((m, len(gradients)))]))
    return solved[n:].T, solved[:n].T


def _in_scalars(new: System, x: np.ndarray, old: System) -> np.ndarray:
    """Gradients of the new rows over the old system's unknowns."""
    dense = new.gradients(x)
    out = np.zeros((dense.shape[0], old.count))
    for i, root in enumerate(new.roots[: new.count]):
        j = int(old.variable[root])
        if j < old.count:
            out[:, j] += dense[:, i]
    return out
