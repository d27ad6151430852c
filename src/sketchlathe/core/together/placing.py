"""Where bodies stand so that all relations hold: the smallest motion from where they are, or the smallest set that
cannot.

Unknowns are six numbers a body: a small turn about its middle and a shift, the shift divided by the size of it all,
so that both count alike. The damped least-squares step (Levenberg-Marquardt) is, for small damping, the smallest
motion that satisfies the linearised equations. Directions that must lie a certain way and lie the other are turned
over first: there the equations are stationary, and the other side would hold them too.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import product

import numpy as np
from scipy.linalg import LinAlgError, cho_factor, cho_solve

from .grips import Grip, Pose, across, triple
from .relations import Relation, same_way
from .rows import CODES, SLANT, evaluate, gather, moved

EXACT = 1e-11  # residuals, of lengths as a fraction of the size
HOLDS = 1e-8
STEPS = 60


@dataclass(frozen=True)
class Placed:
    """Where bodies stand. ``fights``: indices of the smallest set of relations that cannot all hold (empty: all hold).

    ``relations``: as they were solved, each with the sense it was given. ``steps``: how many the solution took.
    """

    poses: tuple[Pose, ...]
    relations: tuple[Relation, ...]
    fights: tuple[int, ...] = ()
    steps: int = 0


def solved(relations: Sequence[Relation], poses: Sequence[Pose], moving: Sequence[bool] | None = None) -> Placed | None:
    """Poses of bodies for which the relations hold, near to those given; None where there are none. Raises ``BadInput``
    as ``place`` does.
    """
    given = [r.ordered() for r in relations]
    found, steps = _solved(System(given, poses, moving), poses)
    return None if found is None else Placed(tuple(found), tuple(_given_sense(r, found) for r in given), (), steps)


def with_smallest(relations: Sequence[Relation], poses: Sequence[Pose], moving: Sequence[bool] | None = None) -> Placed:
    """The smallest set of relations, known not to hold all together, that cannot."""
    given = [r.ordered() for r in relations]
    return Placed(tuple(poses), tuple(given), _smallest(given, poses, moving))


def off(relations: Sequence[Relation], poses: Sequence[Pose]) -> float:
    """By how much relations do not hold as bodies stand: the largest residual, 1 where directions lie the wrong way."""
    system = System([r.ordered() for r in relations], poses, None)
    residual, _ = system.evaluated(*System.arrays(poses))
    return max(float(np.abs(residual).max(initial=0.0)), 0.0 if _senses_hold(system, poses) else 1.0)


def place(relations: Sequence[Relation], poses: Sequence[Pose], moving: Sequence[bool] | None = None) -> Placed:
    """Poses of bodies for which the relations hold, near to those given. ``moving``: which may move (all of them).

    Raises ``BadInput`` where two grips cannot stand to each other as a relation says.
    """
    return solved(relations, poses, moving) or with_smallest(relations, poses, moving)


def _given_sense(relation: Relation, poses: Sequence[Pose]) -> Relation:
    """A relation whose sense was left open gets the one in which its things came to lie."""
    if relation.sense or relation.a.way is None or relation.b.way is None:
        return relation
    a, b = (poses[i].grip(f) if i is not None else f for f, i in _sides(relation))
    assert a.way and b.way
    return replace(relation, sense=same_way(a.way, b.way))


def _sides(relation: Relation) -> tuple[tuple[Grip, int | None], ...]:
    return (relation.a, relation.one), (relation.b, relation.other)


class System:
    """The equations of some relations as arrays, all rows of one kind evaluated at once.

    ``one``, ``other`` (r): bodies of a row's two sides, the last index standing for what does not move. ``p, q, u, v``
    (r, 3) in the coordinates of those bodies; ``c`` (r). ``size`` (mm) makes lengths comparable with turns.
    """

    def __init__(self, relations: Sequence[Relation], poses: Sequence[Pose], moving: Sequence[bool] | None) -> None:
        self.relations = relations
        self.count = n = len(poses)
        self.moving = np.array([*(moving if moving is not None else [True] * n), False])
        rows = [(k, row) for k, relation in enumerate(relations) for row in relation.rows]
        self.of = np.array([k for k, _ in rows], dtype=int)  # the relation each row belongs to
        self.one, self.other = (
            np.array([n if i is None else i for i in bodies], dtype=np.intp)
            for bodies in ([relations[k].one for k, _ in rows], [relations[k].other for k, _ in rows])
        )
        stacked = [np.array([getattr(row, f) for _, row in rows]).reshape(-1, 3) for f in ("at", "to", "way", "along")]
        self.p, self.q, self.u, self.v = stacked
        self.c = np.array([row.constant for _, row in rows])
        self.form = np.array([CODES[row.form] for _, row in rows], dtype=np.int64)
        self.slants = self.form == SLANT
        self.middles = np.zeros((n + 1, 3))
        for i in range(n):
            of_it = [r.a.at for r in relations if r.one == i] + [r.b.at for r in relations if r.other == i]
            if of_it:
                self.middles[i] = np.mean(of_it, axis=0)
        places = [r.a.at for r in relations] + [r.b.at for r in relations] + [triple(p.shift) for p in poses]
        self.size = max(1.0, *(abs(v) for at in places for v in at), *(abs(float(v)) for v in self.c))
        self.matrix, self.gradient = np.zeros((6 * n, 6 * n)), np.zeros(6 * n)

    @staticmethod
    def arrays(poses: Sequence[Pose]) -> tuple[np.ndarray, np.ndarray]:
        """Turns (n + 1, 3, 3) and shifts (n + 1, 3) of poses; the last one stands still."""
        return np.array([*(p.turn for p in poses), np.eye(3)]), np.array([*(p.shift for p in poses), np.zeros(3)])

    def evaluated(
        self, turns: np.ndarray, shifts: np.ndarray, only: np.ndarray | None = None
    ) -> tuple[np.ndarray, np.ndarray]:
        """Residuals (r) and their derivatives by turn and shift / size of the two bodies of each row (r, 2, 6).

        ``only``: of these rows.
        """
        fields = (self.one, self.other, self.p, self.q, self.u, self.v, self.c, self.form)
        if only is not None:
            fields = tuple(f[only] for f in fields)  # type: ignore[assignment]
        blocks = np.empty((len(fields[0]), 2, 6))
        return evaluate(turns, shifts, self.middles, *fields, self.size, blocks), blocks

    def jacobian(self, poses: Sequence[Pose]) -> np.ndarray:
        """The derivatives of all rows by all unknowns, (r, 6 n)."""
        residual, blocks = self.evaluated(*self.arrays(poses))
        out = np.zeros((len(residual), self.count + 1, 6))
        rows = np.arange(len(residual))
        for side, body in ((0, self.one), (1, self.other)):
            np.add.at(out, (rows, body), blocks[:, side])
        out[:, ~self.moving] = 0.0
        return out[:, :-1].reshape(len(residual), 6 * self.count)

    def moved(self, poses: Sequence[Pose], by: np.ndarray) -> list[Pose]:
        """Poses after small motions (6 n) of the bodies, each about its own middle."""
        return self.poses(*moved(*self.arrays(poses), self.middles, by, self.size))

    @staticmethod
    def poses(turns: np.ndarray, shifts: np.ndarray) -> list[Pose]:
        """Back from arrays."""
        return [Pose(t.copy(), s.copy()) for t, s in zip(turns[:-1], shifts[:-1])]


def restored(
    system: System, poses: Sequence[Pose], steps: int = STEPS, only: str = ""
) -> tuple[list[Pose], float, int]:
    """Poses for which the equations hold as well as can be, the largest residual, and how many steps it took.

    ``only``: "turns" looks at directions and turns, "shifts" shifts alone.
    """
    turns, shifts = system.arrays(poses)
    only_rows = system.slants if only == "turns" else None
    bodies = (system.one, system.other) if only_rows is None else (system.one[only_rows], system.other[only_rows])
    kinds = only != "shifts", only != "turns"
    residual, blocks = system.evaluated(turns, shifts, only_rows)
    if not len(residual):
        return list(poses), 0.0, 0
    cost, damping = float(residual @ residual), 1e-10
    for step in range(steps):
        if np.abs(residual).max() < EXACT:
            return system.poses(turns, shifts), float(np.abs(residual).max()), step
        matrix, gradient = system.matrix, system.gradient
        gather(residual, blocks, *bodies, system.moving, *kinds, matrix, gradient)
        scale = max(float(np.trace(matrix)) / len(matrix), 1e-12)
        for _ in range(12):
            damped = matrix.copy()
            damped[np.diag_indices_from(damped)] += damping * scale
            try:
                by = -np.asarray(cho_solve(cho_factor(damped, check_finite=False), gradient, check_finite=False))
            except LinAlgError:
                damping = max(damping, 1e-14) * 100
                continue
            by *= min(1.0, 0.8 / max(float(np.abs(by).max()), 1e-300))  # no turn so large that it means another one
            tried = moved(turns, shifts, system.middles, by, system.size)
            new, new_blocks = system.evaluated(tried[0], tried[1], only_rows)
            if float(new @ new) < cost:
                damping = max(damping / 30, 1e-13)
                break
            damping = damping * 30
        else:
            break  # stationary
        (turns, shifts), residual, blocks = tried, new, new_blocks
        cost = float(residual @ residual)
    return system.poses(turns, shifts), float(np.abs(residual).max()), steps


def _solved(system: System, poses: Sequence[Pose]) -> tuple[list[Pose] | None, int]:
    steps = 0
    for start in _starts(system, poses):
        # directions first, then shifts: nothing is turned for what a shift does; what that leaves open takes both
        found, _, first = restored(system, start, only="turns")
        found, worst, second = restored(system, found, only="shifts")
        found, worst, third = (found, worst, 0) if worst < EXACT else restored(system, found)
        steps += first + second + third
        if worst < HOLDS and _senses_hold(system, found):
            return found, steps
    return None, steps


def _ways(relation: Relation, poses: Sequence[Pose]) -> tuple[np.ndarray, np.ndarray]:
    """The two directions of a relation in space, the second in the sense the first must have."""
    assert relation.a.way and relation.b.way
    u, v = (np.array(f.way) if i is None else poses[i].way(f.way) for f, i in _sides(relation))
    return u, v * (relation.wants or 1)


def _senses_hold(system: System, poses: Sequence[Pose]) -> bool:
    return all(u @ v > 0 for r in system.relations if r.wants for u, v in (_ways(r, poses),))


def _starts(system: System, poses: Sequence[Pose]) -> list[list[Pose]]:
    """Where to begin: as things lie, with what lies the wrong way round turned over, in more
    than one way if need be.
    """
    wrong = [r for r in system.relations if r.wants for u, v in (_ways(r, poses),) if u @ v <= 1e-3]
    if not wrong:
        return [list(poses), _shaken(system, poses)]
    starts = []
    for choice in range(3):
        start = list(poses)
        for relation in wrong:
            _turn_over(system, start, relation, choice)
        starts.append(start)
    return [*starts, _shaken(system, starts[0])]


def _shaken(system: System, poses: Sequence[Pose]) -> list[Pose]:
    """A little off, always alike: where a start is stationary by symmetry, its neighbourhood is not."""
    by = np.random.default_rng(7).normal(0, 0.05, 6 * system.count)
    by.reshape(-1, 6)[~system.moving[:-1]] = 0.0
    return system.moved(poses, by)


def _turn_over(system: System, poses: list[Pose], relation: Relation, choice: int) -> None:
    """Turn one body so that a relation's directions lie as they must, about the axis that disturbs others least."""
    u, v = _ways(relation, poses)
    if u @ v > 1e-3:
        return
    body, way, goal = relation.one, u, v
    if body is None or not system.moving[body]:
        body, way, goal = relation.other, v, u
        if body is None or not system.moving[body]:
            return
    axis = np.cross(way, goal)
    angle = float(np.arctan2(np.linalg.norm(axis), way @ goal))
    if np.linalg.norm(axis) < 1e-6:
        others = [w for r in system.relations if r is not relation and body in (r.one, r.other) and r.wants
                  for w in _ways(r, poses) if abs(w @ way) < 0.2]  # fmt: skip
        candidates = [*others[:1], *(np.array(d) for d in across(triple(way)))]
        axis = candidates[choice % len(candidates)]
        axis = axis - (axis @ way) * way
        angle = np.pi
    axis = axis / np.linalg.norm(axis)
    middle = poses[body].point(system.middles[body])
    poses[body] = poses[body].then(Pose.about(middle, axis, angle))


def _smallest(relations: Sequence[Relation], poses: Sequence[Pose], moving: Sequence[bool] | None) -> tuple[int, ...]:
    """A smallest set of relations that cannot all hold: none can be left out of it (deletion filter, Chinneck 1991)."""
    kept = list(range(len(relations)))

    def fails(chosen: Sequence[int]) -> bool:
        return _solved(System([relations[i] for i in chosen], poses, moving), poses)[0] is None

    for size in (1, 2) if len(kept) <= 6 else (1,):  # small ones first: one that fails alone or a pair says it best
        for some in product(kept, repeat=size):
            if list(some) == sorted(set(some)) and fails(some):
                return some
    for i in list(kept):
        without = [k for k in kept if k != i]
        if without and fails(without):
            kept = without
    return tuple(kept)
