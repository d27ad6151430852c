"""The batteries with known answers that the benchmark counts, a part of each: nothing flips, nothing is accused
wrongly.
"""

import math
import random

import pytest
from tests.batteries import formulas, hostile
from tests.batteries.sketches import changes, conflict_share, conflicts, flips, soup

from sketchlathe.core.sketch.document import Sketch
from sketchlathe.core.sketch.regions import Arrangement, arrange
from sketchlathe.core.sketch.solver.compiling import compile_sketch
from sketchlathe.core.sketch.solver.solving import solve


def test_no_change_of_a_dimension_turns_anything_inside_out() -> None:
    count, wrong = flips(150)
    assert count == 0, "\n".join(wrong)


def test_the_smallest_set_that_fights_is_named() -> None:
    share, wrong = conflict_share()
    assert share == 100, "\n".join(wrong)
    assert sum(1 for _ in conflicts()) >= 60


def test_changed_sketches_satisfy_what_they_say() -> None:
    for case in changes(40, first_seed=900):
        solution = solve(case.sketch.with_values({**case.sketch.values, case.id: case.value}))
        assert solution.sketch.constraint(case.id).measure(solution.sketch) == pytest.approx(case.value, rel=1e-9)
        system = compile_sketch(solution.sketch)
        assert max(abs(system.residual(system.start(system.rows.layout.values)))) < 1e-10


def euler(found: Arrangement) -> int:
    """V - E + F - (1 + C): zero for every planar drawing."""
    parent: dict[int, int] = {}

    def root(v: int) -> int:
        parent.setdefault(v, v)
        while parent[v] != v:
            v = parent[v]
        return v

    for e in found.edges:
        parent[root(e.start)] = root(e.end)
    vertices = {v for e in found.edges for v in (e.start, e.end)}
    pieces = {root(v) for v in vertices}
    return len(vertices) - len(found.edges) + len(found.regions) + 1 - (1 + len(pieces))


def free_soup(seed: int) -> Sketch:
    """Lines, circles, ellipses and splines all over each other."""
    rng = random.Random(seed)

    def at() -> tuple[float, float]:
        return (rng.uniform(0, 100), rng.uniform(0, 100))

    curves = []
    for i in range(16):
        c = at()
        tip = (c[0] + rng.uniform(4, 20), c[1] + rng.uniform(-9, 9))
        curves.append(
            rng.choice(
                [
                    {"kind": "line", "start": at(), "end": at()},
                    {"kind": "circle", "centre": c, "radius": rng.uniform(3, 30)},
                    {"kind": "ellipse", "centre": c, "tip": tip, "minor": rng.uniform(2, 15)},
                    {"kind": "spline", "through": [at() for _ in range(rng.randrange(2, 6))]},
                ]
            )
            | {"id": f"c{i}"}
        )
    return Sketch.model_validate({"curves": curves})


@pytest.mark.parametrize("seed", range(60))
def test_arrangements_obey_eulers_formula(seed: int) -> None:
    for sketch in (free_soup(seed), soup(40, seed, 60)):
        found = arrange(sketch.curves, sketch.size)
        assert euler(found) == 0, f"seed {seed}"


@pytest.mark.parametrize("scale", [1e-2, 1.0, 1e3])
def test_an_ellipse_cut_by_a_line_and_a_circle_has_its_areas(scale: float) -> None:
    a, b = 30 * scale, 12 * scale
    curves = [
        {"kind": "ellipse", "id": "e", "centre": (0, 0), "tip": (a, 0), "minor": b},
        {"kind": "line", "id": "l", "start": (a / 2, -2 * b), "end": (a / 2, 2 * b)},
        {"kind": "circle", "id": "c", "centre": (-a / 2, 0), "radius": b / 4},
    ]
    areas = sorted(r.area for r in arrange(Sketch.model_validate({"curves": curves}).curves, 2 * a).regions)
    cap = a * b * (math.acos(0.5) - 0.5 * math.sqrt(0.75))  # an ellipse's segment is a circle's, squeezed
    hole = math.pi * b * b / 16
    assert areas == pytest.approx(sorted([cap, hole, math.pi * a * b - cap - hole]), rel=1e-7)


def test_two_crossing_ellipses_have_four_lobes_told_apart() -> None:
    curves = [
        {"kind": "ellipse", "id": "e", "centre": (0, 0), "tip": (30, 0), "minor": 10},
        {"kind": "ellipse", "id": "f", "centre": (0, 0), "tip": (0, 30), "minor": 10},
    ]
    found = arrange(Sketch.model_validate({"curves": curves}).curves, 60)
    assert len(found.regions) == 5
    assert len({r.key for r in found.regions}) == 5


def test_parts_over_every_kind_of_step_have_the_volumes_that_formulas_say() -> None:
    worst, wrong = formulas.errors(1)
    assert wrong == []
    assert worst < 1e-6


def test_values_at_and_beyond_their_limits_are_right_or_refused() -> None:
    worst, wrong, timid = hostile.battery(4)
    assert (wrong, timid) == ([], [])
    assert worst < 1e-6
