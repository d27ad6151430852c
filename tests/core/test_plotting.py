"""Curves by formulas and tables against the formulas themselves and closed areas."""

from __future__ import annotations

import math

import pytest
from tests.hand import Hand

from sketchlathe.core.errors import BadInput
from sketchlathe.core.sketch.regions import arrange


def plotted(**edit):
    hand = Hand()
    sketch = hand.sketch("top")
    hand.do(sketch=sketch, **edit)
    return hand.model.sketch_step(sketch).sketch


def samples(sketch):
    return [p.at(k / 20) for c in sketch.curves for p in c.pieces() for k in range(21)]


def test_a_parabola_runs_where_its_formula_says():
    s = plotted(kind="plot_formulas", x="t", y="t^2 / 10 mm", start="-20 mm", end="30 mm")
    off = [abs(y - x * x / 10) for x, y in samples(s)]
    assert max(off) < 2e-4 * 100
    curve = s.curves[0]
    first, last = (curve.place(name) for name in curve.end_points)
    assert first == pytest.approx((-20, 40)) and last == pytest.approx((30, 90))


def test_a_closed_curve_makes_a_region_of_the_right_area():
    """A cardioid of radius a has the area 6 π a²; an ellipse π a b."""
    for x, y, area in (
        ("10 mm * (2*cos(t) - cos(2*t))", "10 mm * (2*sin(t) - sin(2*t))", 6 * math.pi * 100),
        ("20 mm * cos(t)", "8 mm * sin(t)", 160 * math.pi),
    ):
        s = plotted(kind="plot_formulas", x=x, y=y, start="0 deg", end="360 deg")
        (region,) = arrange(s.curves, s.size).regions
        assert region.area == pytest.approx(area, rel=2e-3)


def test_plain_numbers_run_too_and_lengths_without_unit_are_in_the_units_of_the_model():
    s = plotted(kind="plot_formulas", x="10 * t", y="5 * t * (1 - t)", start="0", end="1")
    assert max(abs(y - 0.5 * x * (1 - x / 10)) for x, y in samples(s)) < 1e-3


@pytest.mark.parametrize("form, kinds", [("spline", {"spline"}), ("lines", {"line"}), ("points", {"point"})])
def test_tables_are_read_in_the_usual_ways(form, kinds):
    for text in ("x y\n0 0\n10 5\n20 -3.5\n", "0;0\n1 cm;5 mm\n20;-3.5", "0\t0\n10\t5\n20 mm\t-3.5 mm"):
        s = plotted(kind="plot_table", text=text, form=form)
        assert {c.kind for c in s.curves} == kinds
        places = {
            tuple(round(v, 6) for v in c.place(n)) for c in s.curves for n in c.points if n not in ("lead", "trail")
        }
        assert places >= {(0, 0), (10, 5), (20, -3.5)}


def test_a_table_that_comes_back_to_its_start_is_closed():
    s = plotted(kind="plot_table", text="0 0\n10 0\n10 10\n0 10\n0 0", form="lines")
    (region,) = arrange(s.curves, s.size).regions
    assert region.area == pytest.approx(100)


@pytest.mark.parametrize(
    "edit, says",
    [
        ({"kind": "plot_formulas", "x": "5", "y": "7"}, "single spot"),
        ({"kind": "plot_formulas", "x": "t", "y": "1 / t", "start": "0", "end": "1"}, "."),
        ({"kind": "plot_formulas", "x": "q", "y": "t"}, "no parameter called"),
        ({"kind": "plot_formulas", "x": "t", "y": "t", "start": "1", "end": "1"}, "from one value to another"),
        ({"kind": "plot_formulas", "x": "t", "y": "t", "start": "1 mm", "end": "20 deg"}, "must be numbers, or angles"),
        ({"kind": "plot_table", "text": ""}, "at least 2 places"),
        ({"kind": "plot_table", "text": "1 2\n3"}, "Row 2 must have an x and a y"),
        ({"kind": "plot_table", "text": "1 2\nfoo 3"}, "Row 2"),
        ({"kind": "plot_table", "text": "1 2\n1 2"}, "are the same"),
        ({"kind": "plot_table", "text": "\n".join(f"{i} 0" for i in range(500))}, "at most 400"),
    ],
)
def test_what_cannot_be_plotted_says_why(edit, says):
    hand = Hand()
    sketch = hand.sketch("top")
    before = hand.model
    with pytest.raises(BadInput, match=says):
        hand.do(sketch=sketch, **edit)
    assert hand.model is before
