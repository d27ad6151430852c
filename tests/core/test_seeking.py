"""A parameter made to come to something, against closed formulas solved by hand."""

from __future__ import annotations

import math
import random
import re
import statistics

import pytest
from tests.hand import Hand

from sketchlathe.core.errors import BadInput, Refused
from sketchlathe.core.inspect.figures import figure_of, goal_of
from sketchlathe.core.inspect.lightening import Must, lightest
from sketchlathe.core.inspect.seeking import come_to
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.quantity import LENGTH, evaluate


def box(**values):
    """A hollow box, closed all round: its walls are ``thick``."""
    hand = Hand()
    for name, formula in {"thick": "3 mm", "wide": "60 mm", **values}.items():
        hand.do("add_parameter", name=name, formula=formula)
    hand.step("block", width="wide", depth="40", height="20")
    hand.step("shell", thickness="thick")
    return hand


def sought(hand, name, figure, text):
    wanted = figure_of(figure, hand.model, hand.model.parts[0])
    goal = goal_of(wanted, text, hand.model)
    found = come_to(hand.model, "p1", name, wanted, goal, BuildCache())
    return found, evaluate(found.formula, wanted=LENGTH).value


def solid(t, w=60.0):
    return w * 40 * 20 - (w - 2 * t) * (40 - 2 * t) * (20 - 2 * t)


def test_a_wall_comes_to_a_volume():
    found, t = sought(box(), "thick", "volume", "30 cm³")
    assert solid(t) == pytest.approx(30_000, rel=1e-9)
    assert found.builds <= 8 and all(v == pytest.approx(solid(p), rel=1e-9) for p, v in found.tried)


def test_a_length_comes_to_a_mass_and_a_box():
    # PLA, 1.24 g/cm³
    _, w = sought(box(), "wide", "mass", "25 g")
    assert solid(3, w) * 1.24e-3 == pytest.approx(25, rel=1e-9)
    found, w = sought(box(), "wide", "width", "85 mm")
    assert w == pytest.approx(85, rel=1e-9) and found.builds <= 5


def test_what_is_right_already_stays():
    found, t = sought(box(), "thick", "volume", f"{solid(3.0)!r} mm³")
    assert (t, found.builds) == (3.0, 1)


def test_goals_all_over_take_few_builds():
    rng, builds = random.Random(7), []
    for _ in range(12):
        start, goal = rng.uniform(1, 9), rng.uniform(1, 9)
        found, t = sought(box(thick=f"{start:.3f} mm"), "thick", "volume", f"{solid(goal)!r} mm³")
        assert solid(t) == pytest.approx(solid(goal), rel=1e-9)
        builds.append(found.builds)
    assert statistics.median(builds) <= 8


def test_other_figures_than_amounts():
    found, _ = sought(box(), "wide", "centre x", "50 mm")
    assert found.goal == 50
    hand = box()
    _, t = sought(hand, "thick", "wall", "1.6 mm")
    assert t == pytest.approx(1.6, rel=5e-3)
    found, _ = sought(hand, "wide", "time", "2 h")
    assert min(abs(v - 7200) for _, v in found.tried) < 0.005 * 7200
    hand.do("keep_measurement", part="p1", things=[{"edge": e} for e in hand.edges((0, 0, 10), (60, 0, 10))])
    (kept,) = hand.model.parts[0].measurements
    found, w = sought(hand, "wide", f"measure {kept.id}", "72 mm")
    assert w == pytest.approx(72, rel=1e-6)


def test_the_lightest_box_that_still_has_its_walls():
    hand = box(thick="4 mm", wide="60 mm")
    must = Must.of(hand.model, {"wall": "1.5 mm", "least x": "40 mm"})
    found = lightest(hand.model, "p1", ["thick", "wide"], must, BuildCache())
    t, w = (evaluate(found.formulas[n], wanted=LENGTH).value for n in ("thick", "wide"))
    assert (t, w) == (pytest.approx(1.5, rel=0.02), pytest.approx(40, rel=0.02))
    assert found.mass == pytest.approx(solid(t, w) * 1.24e-3, rel=1e-6)
    with pytest.raises(Refused, match="to begin with"):
        lightest(hand.model, "p1", ["thick"], Must(wall=9.0), BuildCache())
    with pytest.raises(BadInput, match="one to 3"):
        lightest(hand.model, "p1", ["a", "b", "c", "d"], Must(), BuildCache())


@pytest.mark.parametrize(
    "name, figure, text, says",
    [
        ("thick", "volume", "200 cm³", "does not come to 200 cm³: the nearest is 4[78].* cm³, at thick = "),
        ("thick", "height", "25 mm", "makes no difference"),
        ("none", "mass", "25 g", "no parameter called"),
        ("thick", "mass", "-5 g", "above zero"),
        ("thick", "mass", "soon", "is not one number"),
        ("thick", "colour", "5", "what is to be come to"),
        ("thick", "width", "5 kg", "."),
    ],
)
def test_what_cannot_be_come_to_says_why(name, figure, text, says):
    with pytest.raises((BadInput, Refused), match=says):
        sought(box(), name, figure, text)


def ring():
    """A plate of 40 x 20 x 5 with a hole: its area grows with the hole, then falls."""
    hand = Hand()
    hand.do("add_parameter", name="d", formula="4 mm")
    hand.step("block", width="40", depth="20", height="5")
    hand.step("block", shape="cylinder", diameter="d", height="5", x="20", y="10", result="cut")
    return hand


def area(d):
    """Of the plate with its hole: two rings of faces, the outside, the bore."""
    return 2 * (800 - math.pi * d * d / 4) + 2 * 60 * 5 + math.pi * d * 5


def test_a_goal_beyond_the_turn_is_refused_with_the_nearest():
    # the derivative -pi d + 5 pi vanishes at 5
    with pytest.raises(Refused) as refused:
        sought(ring(), "d", "area", f"{area(5) + 40!r} mm²")
    said = str(refused.value.message)
    assert "turns round" in said and f"the nearest is {area(5) / 100:.5g} cm²" in said
    value = float(re.search(r"d = ([\d.]+)", said)[1])
    assert value == pytest.approx(5, abs=2e-3)


def test_both_values_that_come_to_it_are_told():
    found, d = sought(ring(), "d", "area", f"{area(3)!r} mm²")
    assert d == pytest.approx(3, rel=1e-9)
    assert [evaluate(o, wanted=LENGTH).value for o in found.others] == pytest.approx([7], rel=1e-8)
