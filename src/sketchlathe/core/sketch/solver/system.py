"""A sketch as arrays: merged scalars, equations, and the ordered pattern of the KKT matrix.

Made once per topology; a change of a dimension's value only changes constants.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Collection
from dataclasses import dataclass
from hashlib import blake2b
from typing import Any

import numpy as np
from scipy.sparse import csc_matrix
from scipy.sparse.linalg import splu

from ..equations.residuals import ANGLE, DIFFERENCE, SLOTS, blank_rows, residuals
from ..equations.rows import Row, Rows
from . import ldl
from .newton import SOLVED, newton, project, project_left

TOLERANCE = 1e-12


class Merged:
    """Union-find over scalars; the leader of a class is its held member, if it has one."""

    def __init__(self, count: int, fixed: list[int]) -> None:
        self.parent = list(range(count))
        self.held = [False] * count
        for scalar in fixed:
            self.held[scalar] = True

    def find(self, a: int) -> int:
        """The class of a scalar."""
        parent = self.parent
        while parent[a] != a:
            parent[a] = parent[parent[a]]
            a = parent[a]
        return a

    def union(self, a: int, b: int) -> bool:
        """Make two scalars one; False when they already were (or both are held)."""
        a, b = self.find(a), self.find(b)
        if a == b or (self.held[a] and self.held[b]):
            return False
        if self.held[b]:
            a, b = b, a
        self.parent[b] = a
        return True


@dataclass
class System:
    """The compiled form. ``x`` (scaled) holds ``count`` unknowns, then the values that are held."""

    rows: Rows
    scale: float  # mm; ``x`` and length constants are divided by it
    units: np.ndarray  # (len(x),) what each variable is divided by: the scale, or 1 for plain numbers
    variable: np.ndarray  # (scalars,) where each scalar is in x
    roots: np.ndarray  # (len(x),) the scalar that leads each variable's class
    count: int
    kind: np.ndarray
    var: np.ndarray
    con: np.ndarray
    owners: list[str]  # who said each row
    hpos: np.ndarray
    lpos: np.ndarray
    jpos: np.ndarray
    pattern: tuple[Any, ...]
    work: tuple[Any, ...]
    is_size: np.ndarray  # (count,) whether a variable is a radius
    idle: set[str]  # who added nothing: all their merges were already so, and they have no row

    def start(self, values: np.ndarray) -> np.ndarray:
        """Variables from scalar values (mm): a free class starts at its mean, a held one where it is held."""
        total = np.bincount(self.variable, values, len(self.roots))
        x = total / np.bincount(self.variable, minlength=len(self.roots))
        x[self.count :] = values[self.roots[self.count :]]
        return x / self.units  # type: ignore[no-any-return]

    def finish(self, x: np.ndarray) -> np.ndarray:
        """Scalar values (mm) from variables."""
        return (x * self.units)[self.variable]  # type: ignore[no-any-return]

    def arguments(self) -> tuple[Any, ...]:
        """What the compiled kernels take before ``x``."""
        return (self.kind, self.var, self.con, self.hpos, self.lpos, self.jpos, self.pattern, self.work)

    def solve(self, x: np.ndarray, mu: float = 1e-8, limit: int = 60) -> tuple[int, float]:
        """Bring ``x`` onto the equations in place; (status, largest scaled residual)."""
        status, _, worst = newton(*self.arguments(), x, np.ones(self.count), mu, TOLERANCE, limit)
        return status, worst

    def null_block(self, x: np.ndarray, block: np.ndarray) -> np.ndarray:
        """Directions (count, k) projected on the motions that keep every equation at ``x``."""
        project(*self.arguments(), x, block)
        return block

    def silent_block(self, x: np.ndarray, block: np.ndarray) -> np.ndarray:
        """Combinations of equations (rows, k) projected on those that say nothing at ``x``."""
        project_left(*self.arguments(), x, block)
        return block

    def residual(self, x: np.ndarray) -> np.ndarray:
        """Every equation's residual, scaled."""
        r = np.empty(len(self.kind))
        residuals(self.kind, self.var, self.con, x, r, np.empty((len(self.kind), SLOTS)))
        return r

    def gradients(self, x: np.ndarray) -> np.ndarray:
        """J as a dense array (rows, count)."""
        r, g = np.empty(len(self.kind)), np.empty((len(self.kind), SLOTS))
        residuals(self.kind, self.var, self.con, x, r, g)
        dense = np.zeros((len(self.kind), len(x) + 1))
        i = np.repeat(np.arange(len(self.kind)), SLOTS)
        np.add.at(dense, (i, self.var.ravel()), g.ravel())
        return dense[:, : self.count]

    def solved(self, x: np.ndarray) -> bool:
        """Whether ``x`` satisfies everything to 1e-10 of the sketch's size."""
        return len(self.kind) == 0 or bool(np.max(np.abs(self.residual(x))) <= 1e-10)


def compile_rows(rows: Rows, scale: float, *, merge: bool = True, apart: Collection[str] = ()) -> System:
    """Merge, number and order. ``scale`` (mm) is the sketch's size.

    With ``merge=False`` equalities become rows: the form in which conflicts are explained. ``apart``: those whose
    equalities become rows though the others' are merged, so that what they ask can be approached step by step.
    """
    layout = rows.layout
    total = len(layout.values)
    merged = Merged(total, layout.fixed)
    did: dict[str, bool] = {}
    for scalar, owner in rows.pins:
        did[owner] = did.get(owner, False) or not merged.held[scalar]
        merged.held[scalar] = True
    told = [s for s in rows.sames if not merge or s.owner in apart]
    for same in rows.sames if merge else ():
        if same.owner in apart:
            continue
        a, b = merged.find(same.a), merged.find(same.b)
        if a != b and merged.held[a] and merged.held[b] and abs(layout.values[a] - layout.values[b]) > 1e-9 * scale:
            told.append(same)  # two that cannot move lie apart: nothing makes them one, and that must be said
        did[same.owner] = merged.union(same.a, same.b) or did.get(same.owner, False)
    leader = [merged.find(i) for i in range(total)]
    free = [i for i in range(total) if leader[i] == i and not merged.held[i]]
    held = [i for i in range(total) if leader[i] == i and merged.held[i]]
    roots = np.array(free + held, np.int64)
    number = np.empty(total, np.int64)
    number[roots] = np.arange(len(roots))
    variable = number[leader]
    count = len(free)
    equations = [*rows.rows, *(Row(DIFFERENCE, (s.a, s.b), (0.0,), s.owner) for s in told)]
    kind, var, con = blank_rows(len(equations))
    for i, row in enumerate(equations):
        kind[i] = row.kind
        var[i, : len(row.variables)] = variable[list(row.variables)]
        for s, constant in enumerate(row.constants):
            con[i, s] = constant / scale if s in row.lengths else constant
    owners = [row.owner for row in equations]
    hpos, lpos, jpos, pattern = _kept_order(count, len(kind), np.where(var < count, var, -1))
    size = count + len(kind)
    fill = max(int(pattern[3][-1]), 1)
    ints = [
        np.empty(fill, np.int64),
        np.empty(size, np.int64),
        np.empty(size, np.int64),
        np.empty(size, np.int64),
    ]
    work = (
        ints[0],
        np.empty(fill),
        np.empty(size),
        ints[1],
        ints[2],
        np.zeros(size),
        ints[3],
        np.empty(size),
    )
    units = np.full(len(roots), scale)
    units[variable[layout.numbers]] = 1.0
    is_size = np.zeros(len(roots), bool)
    is_size[variable[layout.is_size]] = True
    is_size[variable[layout.numbers]] = False
    speaking = set(owners)
    idle = {owner for owner, useful in did.items() if not useful and owner not in speaking}
    return System(
        rows,
        scale,
        units,
        variable,
        roots,
        count,
        kind,
        var,
        con,
        owners,
        hpos,
        lpos,
        jpos,
        pattern,
        work,
        is_size[:count],
        idle,
    )


Order = tuple[np.ndarray, np.ndarray, np.ndarray, tuple[Any, ...]]
_ORDERS: OrderedDict[bytes, Order] = OrderedDict()
_MOST_ORDERS = 200


def _kept_order(n: int, m: int, jvar: np.ndarray) -> Order:
    """The order for a structure, kept: another number in the same sketch has the same one. Nobody writes into it."""
    key = blake2b(jvar.tobytes() + n.to_bytes(8, "little") + m.to_bytes(8, "little"), digest_size=16).digest()
    found = _ORDERS.get(key)
    if found is None:
        found = _ORDERS[key] = _order(n, m, jvar)
        while len(_ORDERS) > _MOST_ORDERS:
            _ORDERS.popitem(last=False)
    return found


def _order(n: int, m: int, jvar: np.ndarray) -> Order:
    """Fill-reducing order and the positions of every entry in the permuted upper triangle."""
    size = n + m
    row_i, slot_i = np.nonzero(jvar >= 0)
    col_j = jvar[row_i, slot_i]
    first = np.concatenate([np.arange(size), col_j])
    second = np.concatenate([np.arange(size), n + row_i])
    if size > 1:
        data = np.concatenate([np.full(size, 1e3), np.ones(len(col_j))])
        upper = csc_matrix((data, (first, second)), shape=(size, size))
        dominant = upper + upper.T + 1e3 * csc_matrix((np.ones(size), (np.arange(size), np.arange(size))))
        pos = np.asarray(
            splu(
                dominant.tocsc(),
                permc_spec="MMD_AT_PLUS_A",
                diag_pivot_thresh=0.0,
                options={"SymmetricMode": True},
            ).perm_c,
            np.int64,
        )
    else:
        pos = np.arange(size, dtype=np.int64)
    a, b = pos[first], pos[second]
    low, high = np.minimum(a, b), np.maximum(a, b)
    key = high * size + low
    unique, where = np.unique(key, return_inverse=True)
    ai = (unique % size if size else unique).astype(np.int64)
    columns = unique // size if size else unique
    ap = np.searchsorted(columns, np.arange(size + 1)).astype(np.int64)
    parent, lp = ldl.symbolic(size, ap, ai)
    jpos = np.full((m, SLOTS), -1, np.int64)
    jpos[row_i, slot_i] = where[size:]
    return where[:n].astype(np.int64), where[n:size].astype(np.int64), jpos, (ap, ai, parent, lp, pos)


__all__ = ["ANGLE", "SOLVED", "System", "compile_rows"]
