"""Splines by controls against SciPy's B-splines, and what can be done with them."""

from __future__ import annotations

import math
import random

import numpy as np
import pytest
from scipy.interpolate import BSpline
from tests.hand import ORIGIN, Hand

from sketchlathe.core.sketch.curves import CURVES
from sketchlathe.core.sketch.solver.drag import Drag


def poles_of(seed: int, count: int):
    rng = random.Random(seed)
    return [(12.0 * k + rng.uniform(-4, 4), rng.uniform(-20, 20)) for k in range(count)]


def b_spline(poles) -> BSpline:
    degree = min(3, len(poles) - 1)
    inner = range(1, len(poles) - degree)
    knots = [0.0] * (degree + 1) + [float(k) for k in inner] + [float(len(poles) - degree)] * (degree + 1)
    return BSpline(np.array(knots), np.array(poles), degree)


def drawn(poles):
    m = Hand()
    s = m.sketch()
    (id,) = m.draw(s, "control_spline", *poles)
    return m, s, id


@pytest.mark.parametrize("count", [3, 4, 5, 6, 7, 12, 40])
def test_it_runs_as_the_b_spline_of_its_poles(count):
    poles = poles_of(count, count)
    curve = CURVES.parse({"kind": "control_spline", "id": "c1", "poles": poles})
    right = b_spline(poles)
    for i, piece in enumerate(curve.pieces()):
        for t in np.linspace(0, 1, 9):
            assert piece.at(t) == pytest.approx(tuple(right(min(i + t, right.t[-1]))), abs=1e-9)
    same = curve.as_spline()
    assert [p.at(0.3) for p in same.pieces()] == [pytest.approx(p.at(0.3), abs=1e-9) for p in curve.pieces()]


def test_its_region_has_the_area_of_the_integral():
    poles = [(0.0, 0.0), (5.0, 18.0), (20.0, 25.0), (35.0, 12.0), (40.0, 0.0)]
    m, s, id = drawn(poles)
    m.draw(s, "line", (0.0, 0.0, "end", f"{id}.p0"), (40.0, 0.0, "end", f"{id}.p4"))
    m.step("extrude", regions=m.regions(s), distance="2")
    right = b_spline(poles)
    u, weight = np.polynomial.legendre.leggauss(8)
    area = 0.0
    for k in range(2):
        at = k + (u + 1) / 2
        (x, y), (dx, dy) = right(at).T, right(at, 1).T
        area += float(((y * dx - x * dy) * weight).sum()) / 4
    assert m.volume() == pytest.approx(2 * area, rel=1e-6)


def test_lines_run_on_smoothly_and_a_point_stays_on_it():
    m, s, id = drawn([(0.0, 0.0), (10.0, 4.0), (25.0, 15.0), (40.0, 8.0), (50.0, 20.0)])
    m.draw(s, "line", (-20.0, 5.0), (0.0, 0.0, "end", f"{id}.p0"))
    line = m.curves(s)[-1].id
    m.do("add_constraint", sketch=s, constraint="smooth", on=[line, id])
    curve, straight = m.curve(s, id), m.curve(s, line)
    way = math.atan2(straight.end[1] - straight.start[1], straight.end[0] - straight.start[0])
    p0, a, b = curve.place("p0"), curve.place("a0"), curve.place("b0")
    assert math.remainder(math.atan2(a[1] - p0[1], a[0] - p0[0]) - way, 2 * math.pi) == pytest.approx(0, abs=1e-7)
    # no curvature at the joint: the second control lies on the line too
    assert (a[0] - p0[0]) * (b[1] - p0[1]) - (a[1] - p0[1]) * (b[0] - p0[0]) == pytest.approx(0, abs=1e-5)
    (point,) = m.draw(s, "point", (30.0, 12.0))
    m.do("add_constraint", sketch=s, constraint="coincident", on=[point, id])
    curve = m.curve(s, id)
    where = curve.nearest(m.curve(s, point).at)
    piece = curve.pieces()[min(int(where), 1)]
    best = min(math.dist(piece.at(t), m.curve(s, point).at) for t in np.linspace(0, 1, 4001))
    assert best < 5e-3


def test_a_pole_is_dragged_and_the_ends_stay_where_they_are_held():
    m, s, id = drawn([ORIGIN, (10.0, 20.0), (30.0, 20.0), (40.0, 0.0)])
    before = m.curve(s, id)
    drag = Drag(m.evaluated(s), f"{id}.p1", (10.0, 20.0))
    drag.to(5.0, 30.0)
    after = drag.result().curve(id)
    assert after.place("p1") == pytest.approx((5.0, 30.0), abs=1e-6)
    assert after.place("p0") == (0.0, 0.0)
    assert after.place("p3") == pytest.approx(before.place("p3"), abs=1e-6)


def test_what_is_left_of_it_after_a_trim_lies_on_it():
    poles = poles_of(3, 7)
    m, s, id = drawn(poles)
    m.draw(s, "line", (30.0, -60.0), (30.0, 60.0))
    right = b_spline(poles)
    beyond = right(3.9)
    m.do("trim", sketch=s, stretches=[{"id": id, "at": tuple(beyond)}])
    left = next(c for c in m.curves(s) if c.kind == "spline")
    places = [p.at(t) for p in left.pieces() for t in np.linspace(0, 1, 7)]
    fine = right(np.linspace(0, 4, 40001))
    assert max(float(np.hypot(*(fine - p).T).min()) for p in places) < 2e-3
    assert max(x for x, _ in places) <= 30.0 + 1e-6
