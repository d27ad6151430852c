"""The sketch solver against closed formulas, scipy, and properties."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import least_squares
from tests.conftest import Hand

from sketchlathe.core.errors import Refused
from sketchlathe.core.sketch.constraints import CONSTRAINTS
from sketchlathe.core.sketch.document import Sketch
from sketchlathe.core.sketch.equations import residuals as kinds
from sketchlathe.core.sketch.solver.compiling import compile_sketch
from sketchlathe.core.sketch.solver.conflict import adds_nothing, fights_with
from sketchlathe.core.sketch.solver.drag import Drag
from sketchlathe.core.sketch.solver.freedom import freedom
from sketchlathe.core.sketch.solver.solving import Verdict, solve


def line(id: str, a: tuple[float, float], b: tuple[float, float]) -> dict[str, object]:
    return {"kind": "line", "id": id, "start": a, "end": b}


def sketch(curves: list[dict[str, object]], constraints: list[dict[str, object]]) -> Sketch:
    return Sketch.model_validate({"curves": curves, "constraints": constraints}).valued({})


def joined(*ids: str, close: bool = False) -> list[dict[str, object]]:
    pairs = list(pairwise(ids)) + ([(ids[-1], ids[0])] if close else [])
    return [{"kind": "coincident", "id": f"j{i}", "on": [f"{a}.end", f"{b}.start"]} for i, (a, b) in enumerate(pairs)]


def triangle(a: float, b: float, c: float) -> Sketch:
    return sketch(
        [line("a", (0, 0), (10, 0)), line("b", (10, 0), (4, 8)), line("c", (4, 8), (0, 0))],
        [
            *joined("a", "b", "c", close=True),
            {"kind": "coincident", "id": "o", "on": ["a.start", "origin"]},
            {"kind": "horizontal", "id": "h", "on": ["a"]},
            *({"kind": "distance", "id": f"d{n}", "on": [n], "value": f"{v} mm"} for n, v in zip("abc", (a, b, c))),
        ],
    )


# how many variables each equation takes; those not named take eight
TAKES = {
    0: 2,
    11: 1,
    12: 2,
    8: 3,
    5: 5,
    6: 7,
    7: 6,
    1: 4,
    2: 6,
    15: 7,
    20: 7,
    21: 9,
    22: 9,
    23: 9,
    24: 6,
    25: 7,
    26: 10,
}


def random_system(rng: np.random.Generator, code: int) -> tuple[np.ndarray, ...]:
    kind, var, con = kinds.blank_rows(1)
    kind[0] = code
    used = TAKES.get(code, 8)
    var[0, :used] = np.arange(used)
    con[0] = rng.uniform(0.2, 1.0, kinds.CONSTANTS)
    x = rng.uniform(-1, 1, kinds.SLOTS)
    if code in (kinds.ON_ELLIPSE, kinds.ELLIPSE_NORMAL, kinds.ELLIPSE_RUN, kinds.ELLIPSE_LINE):
        x[4 if code == kinds.ELLIPSE_LINE else 6] = rng.uniform(0.3, 1)
    return kind, var, con, x


def residual_and_gradient(system: tuple[np.ndarray, ...]) -> tuple[float, np.ndarray]:
    kind, var, con, x = system
    r, g = np.empty(1), np.empty((1, kinds.SLOTS))
    kinds.residuals(kind, var, con, x, r, g)
    return float(r[0]), g[0]


@pytest.mark.parametrize("code", [*range(16), *range(20, 27)])
def test_gradients_agree_with_differences(code: int) -> None:
    rng = np.random.default_rng(code)
    for _ in range(20):
        kind, var, con, x = random_system(rng, code)
        if code == kinds.ANGLE:
            con[0, 1] = 0.7  # a fixed scale: otherwise the scale's own change is left out on purpose
        value, gradient = residual_and_gradient((kind, var, con, x))
        if code == kinds.ANGLE and abs(abs(value / 0.7) - math.pi) < 1e-2:
            continue
        for j in range(TAKES.get(code, 8)):
            step = 1e-6
            low, high = (
                residual_and_gradient((kind, var, con, x + np.eye(kinds.SLOTS)[j] * s))[0] for s in (-step, step)
            )
            assert gradient[j] == pytest.approx((high - low) / (2 * step), rel=1e-3, abs=3e-6)


def test_triangle_has_the_sides_asked_for_and_the_height_of_heron() -> None:
    solved = solve(triangle(30, 40, 50)).sketch
    a, b, c = (solved.curve(n).length() for n in "abc")
    assert (a, b, c) == pytest.approx((30, 40, 50), rel=1e-10)
    assert solved.point("b.end")[1] == pytest.approx(2 * 600 / 30, rel=1e-9)
    assert freedom(solved).count == 0


@pytest.mark.parametrize("size", [0.01, 1.0, 100.0, 10_000.0])
def test_residual_is_small_at_every_size(size: float) -> None:
    solution = solve(triangle(3 * size, 4 * size, 5 * size).scaled(size / 10))
    assert solution.verdict is Verdict.SOLVED
    assert np.max(np.abs(solution.system.residual(solution.x))) < 1e-10


def test_impossible_triangle_is_a_conflict_and_left_as_it_was() -> None:
    before = triangle(30, 10, 10)
    solution = solve(before)
    assert solution.verdict is Verdict.CONFLICT
    assert solution.sketch is before
    assert {"da", "db", "dc"} <= set(solution.strained)


def test_same_root_as_least_squares_from_nearby() -> None:
    system = compile_sketch(triangle(12, 9, 8))
    x = system.start(system.rows.layout.values)
    mine = x.copy()
    system.solve(mine)

    def residual(free: np.ndarray) -> np.ndarray:
        return system.residual(np.concatenate([free, x[system.count :]]))

    theirs = least_squares(residual, x[: system.count], xtol=1e-14, ftol=1e-14, gtol=1e-14).x
    assert mine[: system.count] == pytest.approx(theirs, abs=1e-8)


def rectangle_with_width(width: float, height: float) -> tuple[Hand, str, list[str]]:
    hand = Hand()
    s = hand.sketch()
    lines = hand.draw(s, "rectangle", (0, 0, "origin", "origin"), (50, 30), sizes=(f"{width}", f"{height}"))
    return hand, s, lines


def test_freedom_of_a_rectangle_falls_to_nothing() -> None:
    hand = Hand()
    s = hand.sketch()
    lines = hand.draw(s, "rectangle", (3, 4), (50, 30))
    assert freedom(hand.evaluated(s)).count == 4  # two to place it, width, height
    hand.do("add_constraint", sketch=s, constraint="coincident", on=[f"{lines[0]}.start", "origin"])
    assert freedom(hand.evaluated(s)).count == 2
    hand.do("add_dimension", sketch=s, on=[lines[0]], at=[20, -8], value="60")
    state = freedom(hand.evaluated(s))
    assert state.count == 1
    assert lines[0] not in state.free
    assert lines[2] in state.free
    hand.do("add_dimension", sketch=s, on=[lines[1]], at=[70, 20], value="40")
    assert freedom(hand.evaluated(s)).count == 0


def test_first_dimension_scales_everything() -> None:
    hand = Hand()
    s = hand.sketch()
    lines = hand.draw(s, "rectangle", (0, 0, "origin", "origin"), (8, 5))
    circle = hand.draw(s, "circle", (4, 2), (5, 2))[0]
    hand.do("add_dimension", sketch=s, on=[lines[0]], at=[4, -2], value="80")
    sk = hand.evaluated(s)
    assert sk.radius(circle) == pytest.approx(10)
    assert sk.point(f"{circle}.centre") == pytest.approx((40, 20))
    assert sk.curve(lines[1]).length() == pytest.approx(50)


@settings(deadline=None, max_examples=60)
@given(st.floats(0.02, 50), st.floats(0.02, 50))
def test_a_rectangle_never_turns_inside_out(fx: float, fy: float) -> None:
    hand, s, lines = rectangle_with_width(60, 40)
    dims = [k.id for k in hand.evaluated(s).constraints if k.kind == "distance"]
    hand.do("set_dimension", sketch=s, id=dims[0], value=f"{60 * fx} mm")
    hand.do("set_dimension", sketch=s, id=dims[1], value=f"{40 * fy} mm")
    corner = hand.evaluated(s).point(f"{lines[2]}.start")
    assert corner == pytest.approx((60 * fx, 40 * fy), rel=1e-9)


@settings(deadline=None, max_examples=40)
@given(st.floats(0.1, 8))
def test_a_triangle_keeps_its_side(factor: float) -> None:
    start = solve(triangle(30, 40, 50)).sketch
    wanted = {"da": 30.0 * factor, "db": 40.0, "dc": 50.0}
    if not 10.5 < wanted["da"] < 89.5:
        return
    solution = solve(start.with_values(wanted))
    assert solution.verdict is Verdict.SOLVED
    assert solution.sketch.point("b.end")[1] > 0


def test_redundant_dimension_names_the_smallest_set() -> None:
    hand, s, lines = rectangle_with_width(60, 40)
    with pytest.raises(Refused) as refused:
        hand.do("add_dimension", sketch=s, on=[lines[2]], at=[20, 60], value="50")
    kept = {k.id: k for k in hand.evaluated(s).constraints}
    assert {kept[i].kind for i in refused.value.fights} == {"coincident", "vertical", "distance"}
    assert sum(kept[i].kind == "distance" for i in refused.value.fights) == 1
    assert "60 mm" in str(refused.value)


def test_a_straight_arm_is_no_false_alarm() -> None:
    # two links stretched out straight: at this very place the gradients depend on each other, yet nothing is redundant
    arm = solve(
        sketch(
            [line("a", (0, 0), (10, 0)), line("b", (10, 0), (20, 0))],
            [
                *joined("a", "b"),
                {"kind": "coincident", "id": "o", "on": ["a.start", "origin"]},
                {"kind": "distance", "id": "da", "on": ["a"], "value": "10 mm"},
                {"kind": "distance", "id": "db", "on": ["b"], "value": "10 mm"},
            ],
        )
    ).sketch
    reach = CONSTRAINTS["distance"].made(arm, "dr", ("a.start", "b.end"), value="20 mm")
    assert not adds_nothing(arm.with_values({**arm.values, "dr": 20.0}), reach)


def test_a_disguised_redundancy_is_found() -> None:
    # opposite sides equal and one pair parallel: the other pair is parallel already
    a, b, c, d = (0, 0), (20, 0), (25, 10), (5, 10)
    shape = solve(
        sketch(
            [line("p", a, b), line("q", b, c), line("r", c, d), line("s", d, a)],
            [
                *joined("p", "q", "r", "s", close=True),
                {"kind": "equal", "id": "e1", "on": ["p", "r"]},
                {"kind": "equal", "id": "e2", "on": ["q", "s"]},
            ],
        )
    ).sketch
    extra = CONSTRAINTS["parallel"].made(shape, "x", ("p", "r"))
    assert adds_nothing(shape, extra)
    assert {"e1", "e2"} <= set(fights_with(shape, extra))


def test_drag_follows_and_keeps_constraints() -> None:
    hand, s, lines = rectangle_with_width(60, 40)
    circle = hand.draw(s, "circle", (20, 20), (25, 20), sizes=("10",))[0]
    drag = Drag(hand.evaluated(s), f"{circle}.centre", (20, 20))
    drag.to(33, 12)
    moved = drag.result()
    assert moved.point(f"{circle}.centre") == pytest.approx((33, 12), abs=1e-6)
    assert moved.radius(circle) == pytest.approx(5)
    held = Drag(hand.evaluated(s), f"{lines[0]}.end", (60, 0))
    held.to(90, 30)
    assert held.result().point(f"{lines[0]}.end") == pytest.approx((60, 0), abs=1e-9)


def test_dragging_a_link_beyond_its_reach_points_at_the_pointer() -> None:
    link = solve(
        sketch(
            [line("a", (0, 0), (10, 0))],
            [
                {"kind": "coincident", "id": "o", "on": ["a.start", "origin"]},
                {"kind": "distance", "id": "d", "on": ["a"], "value": "10 mm"},
            ],
        )
    ).sketch
    drag = Drag(link, "a.end", (10, 0))
    for i in range(1, 21):
        angle = math.pi / 2 * i / 20
        drag.to(40 * math.cos(angle), 40 * math.sin(angle))
    x, y = drag.result().point("a.end")
    assert math.degrees(math.atan2(x, y)) == pytest.approx(0, abs=0.3)
    assert math.hypot(x, y) == pytest.approx(10, rel=1e-9)


@pytest.mark.parametrize(
    ("kind", "curves", "on", "check"),
    [
        ("parallel", [line("a", (0, 0), (10, 1)), line("b", (0, 5), (9, 7))], ("a", "b"), 0.0),
        ("perpendicular", [line("a", (0, 0), (10, 1)), line("b", (0, 5), (1, 9))], ("a", "b"), math.pi / 2),
    ],
)
def test_directions(kind: str, curves: list[dict[str, object]], on: tuple[str, str], check: float) -> None:
    base = sketch(curves, [])
    solved = solve(base.with_constraints([CONSTRAINTS[kind].made(base, "k", on)])).sketch
    angles = [math.atan2(b[1] - a[1], b[0] - a[0]) for a, b in (solved.ends(r) for r in on)]
    assert math.remainder(angles[1] - angles[0] - check, math.pi) == pytest.approx(0, abs=1e-10)


def test_tangent_symmetric_midpoint_concentric_and_fixed() -> None:
    base = sketch(
        [
            line("a", (0, 0), (20, 0)),
            {"kind": "circle", "id": "c", "centre": (8, 6), "radius": 5},
            {"kind": "circle", "id": "e", "centre": (30, 6), "radius": 3},
            {"kind": "point", "id": "p", "at": (4, 9)},
            {"kind": "point", "id": "q", "at": (7, -8)},
        ],
        [{"kind": "fixed", "id": "f", "on": ["a"]}],
    )
    s = base
    for i, (kind, on) in enumerate(
        [
            ("tangent", ("a", "c")),
            ("tangent", ("c", "e")),
            ("symmetric", ("p", "q", "a")),
            ("midpoint", ("e.centre", "a")),
        ]
    ):
        s = s.with_constraints((*s.constraints, CONSTRAINTS[kind].made(s, f"k{i}", on)))
    solved = solve(s).sketch
    assert abs(solved.point("c.centre")[1]) == pytest.approx(solved.radius("c"), rel=1e-9)
    apart = math.dist(solved.point("c.centre"), solved.point("e.centre"))
    assert apart == pytest.approx(solved.radius("c") + solved.radius("e"), rel=1e-9)
    assert solved.point("p.at") == pytest.approx((solved.point("q.at")[0], -solved.point("q.at")[1]), abs=1e-9)
    assert solved.point("e.centre") == pytest.approx((10, 0), abs=1e-9)
    assert solved.ends("a") == ((0, 0), (20, 0))
