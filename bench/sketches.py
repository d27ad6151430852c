"""The sketcher: solving, dragging, freedom, topology, regions; flips and conflicts over
batteries with known answers.
"""

from __future__ import annotations

import math
import statistics
import time
from collections.abc import Iterator

import numpy as np
from scipy.optimize import least_squares
from tests.batteries import motions
from tests.batteries.sketches import conflict_share, flips, grid_truss, soup

from sketchlathe.core.sketch.constraints import CONSTRAINTS, Dimensional
from sketchlathe.core.sketch.document import Sketch
from sketchlathe.core.sketch.regions import arrange
from sketchlathe.core.sketch.solver import system as system_module
from sketchlathe.core.sketch.solver.compiling import compile_sketch
from sketchlathe.core.sketch.solver.conflict import adds_nothing, fights_with
from sketchlathe.core.sketch.solver.drag import Drag
from sketchlathe.core.sketch.solver.freedom import freedom_in
from sketchlathe.core.sketch.solver.solving import solve
from sketchlathe.core.sketch.solver.warming import warm

from .measuring import Figure, median_ms, percentile

GOALS = {100: (1, 4, 3, 8), 300: (2, 5, 5, 15), 1000: (5, 16, 15, 40)}


def _speeds(m: int, rounds: int) -> Iterator[Figure]:
    sketch = grid_truss(m)
    solve_goal, drag_goal, freedom_goal, topology_goal = GOALS[m]
    system = compile_sketch(sketch)
    x0 = system.start(system.rows.layout.values)
    kept = system.con.copy()
    rng = np.random.default_rng(1)
    sized = np.nonzero(system.con[:, 0] > 0)[0]

    def solve_once() -> None:
        # one dimension changes by a few hundredths
        system.con[:] = kept
        system.con[rng.choice(sized), 0] *= 1.02
        x = x0.copy()
        system.solve(x)

    yield Figure(f"sketch.solve_ms.m{m}", median_ms(solve_once, rounds), solve_goal)
    system.con[:] = kept
    yield Figure(f"sketch.drag_p95_ms.m{m}", _drag_ms(sketch, rounds), drag_goal)
    yield Figure(f"sketch.freedom_ms.m{m}", median_ms(lambda: freedom_in(system, sketch), rounds), freedom_goal)

    def compile_anew() -> None:
        system_module._ORDERS.clear()  # as if nothing like it had been compiled before
        compile_sketch(sketch)

    yield Figure(f"sketch.topology_ms.m{m}", median_ms(compile_anew, max(rounds // 2, 3)), topology_goal)


def _drag_ms(sketch: Sketch, rounds: int) -> float:
    """95th percentile of one step of a drag of the last node, with the sizes of all bars at it let go."""
    end = f"{sketch.curves[-2].id}.end"
    x, y = sketch.point(end)
    near = {c.id for c in sketch.curves for n in c.points if math.dist(c.place(n), (x, y)) < 1e-9}
    loose = sketch.with_constraints(
        c for c in sketch.constraints if not (isinstance(c, Dimensional) and near & c.members())
    )
    x, y = loose.point(end)
    drag = Drag(loose, end, (x, y))
    drag.to(x, y)
    taken = []
    for i in range(max(rounds, 20)):
        t = i / 5
        started = time.perf_counter()
        drag.to(x + 2 * math.sin(t), y + 2 * math.cos(t))
        taken.append(1e3 * (time.perf_counter() - started))
    return percentile(taken, 0.95)


def _regions(rounds: int) -> Iterator[Figure]:
    for count, goal in ((100, 20), (500, 100)):
        side = 10 * math.sqrt(count)  # the same density
        soups = [soup(count, seed, side) for seed in range(3)]
        taken = [median_ms(lambda s=s: arrange(s.curves, s.size), max(rounds // 4, 3)) for s in soups]  # type: ignore[misc]
        yield Figure(f"sketch.regions_ms.c{count}", statistics.median(taken), goal)


def _against_least_squares(rounds: int) -> Figure:
    """How many times faster than scipy on the same systems: a dimension changed, from the same start."""
    sketch = grid_truss(100)
    system = compile_sketch(sketch)
    x0 = system.start(system.rows.layout.values)
    system.con[len(system.con) // 2, 0] *= 1.05

    def ours() -> None:
        system.solve(x0.copy())

    def residual(v: np.ndarray) -> np.ndarray:
        x = x0.copy()
        x[: system.count] = v
        return system.residual(x)

    def jacobian(v: np.ndarray) -> np.ndarray:
        x = x0.copy()
        x[: system.count] = v
        return system.gradients(x)

    def theirs() -> None:
        least_squares(residual, x0[: system.count], jac=jacobian, method="trf", xtol=1e-12, ftol=1e-12, gtol=1e-12)

    return Figure("sketch.vs_least_squares", median_ms(theirs, max(rounds // 4, 3)) / median_ms(ours, rounds), 20, True)


def _residuals() -> Figure:
    """The worst residual over sizes from 0.01 to 10 000 mm, relative to the size."""
    worst = 0.0
    for size in (0.01, 0.1, 1.0, 10.0, 100.0, 1e3, 1e4):
        sketch = grid_truss(60)
        scaled = sketch.scaled(size / sketch.size)
        values = {k: v * size / sketch.size for k, v in sketch.values.items()}
        first = next(iter(values))
        solution = solve(scaled.with_values({**values, first: values[first] * 1.1}))
        system = compile_sketch(solution.sketch)
        worst = max(worst, float(np.max(np.abs(system.residual(system.start(system.rows.layout.values))))))
    return Figure("sketch.residual_rel", worst, 1e-10)


def _too_many(curves: int, rounds: int, goal: float) -> Figure:
    """How long it takes to name what a dimension too many fights with, in a sketch of so many curves."""
    sketch = grid_truss(int(curves * 2.5))
    old = next(c for c in sketch.constraints if isinstance(c, Dimensional))
    sketch = sketch.with_values({**sketch.values, "new": sketch.values[old.id]})
    new = CONSTRAINTS[old.kind].made(sketch, "new", old.on, value=old.value)

    def ask() -> None:
        assert adds_nothing(sketch, new)
        assert fights_with(sketch, new)

    return Figure(f"sketch.too_many_ms.c{curves}", median_ms(ask, rounds), goal)


def figures(quick: bool) -> Iterator[Figure]:
    """Every figure of the sketcher."""
    warm()
    rounds = 5 if quick else 31
    for m in GOALS:
        yield from _speeds(m, rounds)
    yield from _regions(rounds)
    yield _against_least_squares(rounds)
    refused = motions.refused(90 if quick else 450)
    for text in refused[:10]:
        print(f"  refused: {text}")
    yield Figure("sketch.false_refusals", len(refused), 0.5)
    yield _too_many(400, 3 if quick else 9, 300)
    if not quick:
        yield _too_many(3000, 5, 1000)
    count, wrong = flips(150 if quick else 2000)
    for text in wrong[:10]:
        print(f"  wrong: {text}")
    yield Figure("sketch.flips", count, 0.5)
    share, missed = conflict_share()
    for text in missed[:10]:
        print(f"  missed: {text}")
    yield Figure("sketch.conflict_exact_pct", share, 99.999, True)
    yield _residuals()
