"""Formulas: values by hand, dimensions, bad input, settling of units."""

import math

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from sketchlathe.core.errors import BadInput
from sketchlathe.core.quantity import ANGLE, LENGTH, ParameterTable, Quantity, check_name, evaluate, rename_in, settle
from sketchlathe.core.quantity.units import handy, show, show_at_least, show_at_most


@pytest.mark.parametrize(
    ("text", "mm"),
    [
        ("12", 12), ("12 mm", 12), ("1.2 cm", 12), ("1 in", 25.4), ('2"', 50.8), ("1 ft", 304.8), ("3 in + 2", 78.2),
        ("(1 + 2) * 4 mm", 12), ("-3 mm", -3), ("2 ^ 3", 8), ("10 mm / 4", 2.5), ("max(3 mm, 0.5 in)", 12.7),
        ("sqrt(9 mm * 4 mm)", 6), ("6 mm * cos(60°)", 3), ("2 × 3", 6), ("abs(-4 mm)", 4), ("round(2.6) * 1 mm", 3),
    ],
)  # fmt: skip
def test_value_in_mm(text: str, mm: float) -> None:
    assert evaluate(text, wanted=LENGTH).value == pytest.approx(mm, rel=1e-12)


def test_bare_numbers_take_the_models_unit() -> None:
    assert evaluate("2", wanted=LENGTH, length_unit="in").value == pytest.approx(50.8)
    assert evaluate("90", wanted=ANGLE).value == pytest.approx(math.pi / 2)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "needed"), ("nothere + 2", "nothere"), ("2 mm + 3°", "cannot be added"), ("1 mm / 0", "zero"),
        ("2 mm * 3 mm", "an area"), ("(2", "bracket"), ("2 3", "operator"), ("2 $ 3", "cannot stand"),
        ("sin(2 mm)", "angle"),
        ("9 ^ 9 ^ 9 ^ 9", "value"), ("x" * 500, "400"), ("(" * 60 + "1" + ")" * 60, "nested"),
        ("foo(2)", "no function"),
        ("1e999", "large"), ("__import__('os')", "cannot stand"), ("sqrt(-4)", "root"),
    ],
)  # fmt: skip
def test_bad_formula_gets_a_sentence(text: str, says: str) -> None:
    with pytest.raises(BadInput, match=says):
        evaluate(text, wanted=LENGTH)


def test_loop_of_parameters_is_shown() -> None:
    with pytest.raises(BadInput, match="a → b → c → a"):
        ParameterTable([("a", "b + 1 mm"), ("b", "c * 2"), ("c", "a")])


@pytest.mark.parametrize("name", ["2wall", "mm", "sin", "pi", "a b", "", "x" * 41, "a-b"])
def test_bad_names(name: str) -> None:
    with pytest.raises(BadInput):
        check_name(name)


def test_rename_touches_whole_names_only() -> None:
    assert rename_in("d + dd + max(d, 2)", "d", "bore") == "bore + dd + max(bore, 2)"


@given(st.floats(0.001, 1e4), st.sampled_from(["mm", "in", "cm"]), st.sampled_from(["mm", "in"]))
def test_settled_formula_means_the_same_in_other_units(value: float, unit: str, other: str) -> None:
    names = {"wall": Quantity(4.0, LENGTH)}
    for text in (f"{value:.6f}", f"wall + {value:.6f}", f"{value:.6f} {unit} * 2", f"wall * {value:.6f}"):
        before = evaluate(text, names, wanted=LENGTH, length_unit="mm").value
        settled = settle(text, names, wanted=LENGTH, length_unit="mm")
        assert evaluate(settled, names, wanted=LENGTH, length_unit=other).value == pytest.approx(before, rel=1e-12)


@given(st.integers(-4000, 4000))
def test_a_fraction_shown_reads_back_as_itself(parts: int) -> None:
    text = show(parts / 64 * 25.4, LENGTH, "in/64")
    assert "." not in text and text.endswith(" in")
    assert evaluate(text, wanted=LENGTH, length_unit="in").value == pytest.approx(parts / 64 * 25.4, abs=1e-9)


@given(st.floats(0.01, 500), st.sampled_from(["mm", "cm", "m", "in", "in/64"]))
@example(0.0625, "m")
def test_a_length_of_three_digits_is_near_and_on_its_side(mm: float, unit: str) -> None:
    most = evaluate(show_at_most(mm, unit), wanted=LENGTH).value
    assert 0.98 * mm <= most <= mm * (1 + 1e-9)
    least = evaluate(show_at_least(mm, unit), wanted=LENGTH).value
    assert mm * (1 - 1e-9) <= least <= 1.02 * mm


@given(st.floats(0.5, 100), st.sampled_from(["mm", "cm", "in", "in/64"]))
def test_a_handy_length_is_near_and_short(mm: float, unit: str) -> None:
    text = handy(mm, unit)
    assert len(text.rpartition(" ")[0]) <= 5
    assert evaluate(text, wanted=LENGTH).value == pytest.approx(mm, rel=0.51)
