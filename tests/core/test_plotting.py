"""Curves by formulas and tables against the formulas themselves and closed areas."""

from __future__ import annotations

import math

import pytest
from tests.hand import Hand

from sketchlathe.core.errors import BadInput, Trouble
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
        assert region.area == pytest.approx(area, rel=1e-4)


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


def cam(**formulas):
    """A closed curve of a parameter, extruded."""
    m = Hand()
    m.do("add_parameter", name="wide", formula="20 mm")
    m.do("add_parameter", name="share", formula="0.5", sort="number")
    s = m.sketch()
    given = {"x": "wide * cos(t)", "y": "8 mm * sin(t)", "start": "0 deg", "end": "360 deg", **formulas}
    m.do("plot_formulas", sketch=s, **given)
    m.step("extrude", regions=m.regions(s), distance="5")
    return m, s


def test_a_curve_of_parameters_follows_them():
    m, s = cam()
    for wide in (20, 37, 3):
        m.do("set_parameter", name="wide", formula=f"{wide} mm")
        assert m.messages() == []
        assert m.volume() == pytest.approx(5 * math.pi * wide * 8, rel=1e-4)
    assert m.freedom(s) == 0


def test_what_hangs_on_its_end_stays_there_though_it_gets_more_places():
    """A spiral's arm closed by lines: its last point is another one when it winds farther."""
    m = Hand()
    m.do("add_parameter", name="far", formula="90 deg", sort="angle")
    s = m.sketch()
    m.do("plot_formulas", sketch=s, x="20 mm * cos(t)", y="20 mm * sin(t)", start="10 deg", end="10 deg + far")
    (arm,) = m.curves(s)
    first, last = (f"{arm.id}.{name}" for name in arm.end_points)
    m.draw(s, "line", (0.0, 0.0, "origin", "origin"), (19.7, 3.5, "end", first))
    m.draw(s, "line", (0.0, 0.0, "origin", "origin"), (-3.5, 19.7, "end", last))
    m.step("extrude", regions=m.regions(s), distance="3")
    for degrees in (90, 300, 30):
        m.do("set_parameter", name="far", formula=f"{degrees} deg")
        assert m.messages() == []
        assert m.volume() == pytest.approx(3 * math.radians(degrees) * 200, rel=1e-4)
    assert len(m.curve(s, arm.id).through) != len(arm.through)


def test_its_formulas_are_renamed_with_a_parameter_and_keep_it_from_being_deleted():
    m, s = cam()
    m.do("rename_parameter", name="wide", to="broad")
    m.do("set_parameter", name="broad", formula="10 mm")
    assert m.volume() == pytest.approx(5 * math.pi * 80, rel=1e-4)
    with pytest.raises(Trouble, match="is used by"):
        m.do("delete_parameter", name="broad")
    copied = m.do("duplicate_step", step=s)
    copy = copied.parts[0].steps[1]
    assert copy.plots[0].curves != copied.sketch_step(s).plots[0].curves
    assert all(id in copy.sketch for id in copy.plots[0].curves)


def test_formulas_that_give_nothing_any_more_keep_the_curve_and_say_so():
    m, s = cam(y="8 mm * sin(t) / share")
    before = m.volume()
    m.do("set_parameter", name="share", formula="0")
    assert "kept as it was" in m.messages()[0]
    assert [c.id for c in m.curves(s)] and m.do("set_parameter", name="share", formula="0.5")
    assert m.messages() == [] and m.volume() == pytest.approx(before, rel=1e-12)


def test_formulas_are_changed_in_place():
    m, s = cam()
    ids = [c.id for c in m.curves(s)]
    m.do("plot_formulas", sketch=s, x="wide * cos(t)", y="wide * sin(t)", start="0 deg", end="360 deg", instead=ids[1])
    assert [c.id for c in m.curves(s)] == ids
    assert m.volume() == pytest.approx(5 * math.pi * 400, rel=1e-4)
    with pytest.raises(Trouble, match="single spot"):
        m.do("plot_formulas", sketch=s, x="wide", y="wide", instead=ids[0])


def test_a_curve_that_is_held_back_by_what_hangs_on_it_says_so():
    m = Hand()
    m.do("add_parameter", name="far", formula="90 deg", sort="angle")
    s = m.sketch()
    m.do("plot_formulas", sketch=s, x="20 mm * cos(t)", y="20 mm * sin(t)", start="0 deg", end="far")
    (arm,) = m.curves(s)
    # upright: drawn so, it is held so
    m.draw(s, "line", (0.0, 0.0, "origin", "origin"), (0.0, 20.0, "end", f"{arm.id}.{arm.end_points[1]}"))
    m.do("set_parameter", name="far", formula="70 deg")
    assert "what hangs on it does not go along" in m.messages()[0]
    m.do("set_parameter", name="far", formula="90 deg")
    assert m.messages() == []
