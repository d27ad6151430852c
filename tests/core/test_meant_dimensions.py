"""What a dimension of one oblique line means, by where its text is put: its length comes first."""

import math

import pytest
from tests.hand import Hand

from sketchlathe.core.sketch.dimensioning import meanings, propose
from sketchlathe.core.sketch.view import dimension_view


def oblique(degrees: float, length: float = 42.0) -> tuple[Hand, str, str]:
    hand = Hand()
    s = hand.sketch()
    a = math.radians(degrees)
    (line,) = hand.draw(s, "line", (3, 5), (3 + length * math.cos(a), 5 + length * math.sin(a)))[:1]
    return hand, s, line


@pytest.mark.parametrize("degrees", [3, 10, 30, 45, 60, 80, 87, 100, 170, 250])
@pytest.mark.parametrize("beside", [-30, -14, -8, 2, 8, 11, 14, 30])
@pytest.mark.parametrize("share", [0.1, 0.5, 0.9])
def test_beside_one_line_its_length_is_meant(degrees: float, beside: float, share: float) -> None:
    hand, s, line = oblique(degrees)
    sketch, a = hand.evaluated(s), math.radians(degrees)
    ux, uy = math.cos(a), math.sin(a)
    pointer = (3 + 42 * share * ux - beside * uy, 5 + 42 * share * uy + beside * ux)
    made = propose(sketch, (line,), pointer)
    assert made.way == "aligned"  # type: ignore[attr-defined]
    assert made.measure(sketch) == pytest.approx(42)


def test_its_reach_across_and_up_can_be_had_and_is_told() -> None:
    hand, s, line = oblique(30)
    sketch = hand.evaluated(s)
    across, up = propose(sketch, (line,), (20, -60)), propose(sketch, (line,), (80, 15))
    assert across.measure(sketch) == pytest.approx(42 * math.cos(math.pi / 6))
    assert up.measure(sketch) == pytest.approx(21)
    told = dimension_view(across, sketch, "mm")["means"]
    assert [t.split()[0] for t in told] == ["across", "length", "up"]
    assert told[1] == "length 42 mm" and told[2] == "up 21 mm"


@pytest.mark.parametrize("degrees", [0, 90, 180])
def test_a_level_or_upright_line_has_one_meaning(degrees: float) -> None:
    hand, s, line = oblique(degrees)
    sketch = hand.evaluated(s)
    for pointer in ((0, 60), (60, 0), (-40, 9), (24, 26)):
        made = propose(sketch, (line,), pointer)
        assert made.measure(sketch) == pytest.approx(42)
        assert meanings(made, sketch) == []
