"""Formulas against Python's own arithmetic, units against each other, tables of parameters in any order."""

import ast
import math
import operator
import random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from sketchlathe.core.errors import BadInput
from sketchlathe.core.quantity import ANGLE, LENGTH, ParameterTable, Quantity, evaluate, rename_in, settle
from sketchlathe.core.quantity.expressions import names_in
from sketchlathe.core.quantity.units import NUMBER, UNITS, number_text, show

OPERATORS = {
    ast.Add: operator.add, ast.Sub: operator.sub, ast.Mult: operator.mul, ast.Div: operator.truediv,
    ast.Pow: operator.pow,
    ast.USub: operator.neg, ast.UAdd: operator.pos,
}  # fmt: skip


def by_python(text: str) -> float:
    """What Python makes of the same text: an independent judge of precedence and brackets."""

    def value(node: ast.AST) -> float:
        if isinstance(node, ast.Expression):
            return value(node.body)
        if isinstance(node, ast.Constant):
            return float(node.value)
        if isinstance(node, ast.UnaryOp):
            return OPERATORS[type(node.op)](value(node.operand))
        assert isinstance(node, ast.BinOp)
        return OPERATORS[type(node.op)](value(node.left), value(node.right))

    return value(ast.parse(text.replace("^", "**"), mode="eval"))


NUMBERS = st.integers(1, 99).map(str) | st.floats(0.01, 99, allow_nan=False).map(lambda v: f"{v:.3f}")
SUMS = st.recursive(
    NUMBERS,
    lambda inner: (
        st.tuples(inner, st.sampled_from(["+", "-", "*", "/"]), inner).map(" ".join)
        | inner.map("({})".format)
        | inner.map("-{}".format)
        | st.tuples(inner, st.integers(1, 3)).map(lambda p: f"({p[0]}) ^ {p[1]}")
    ),
    max_leaves=9,
)


@settings(max_examples=200)
@given(SUMS)
def test_plain_arithmetic_is_pythons(text: str) -> None:
    try:
        wanted = by_python(text)
    except (ZeroDivisionError, OverflowError):
        with pytest.raises(BadInput):
            evaluate(text, wanted=NUMBER)
        return
    if abs(wanted) > 1e9 or isinstance(wanted, complex):
        return
    assert evaluate(text, wanted=NUMBER).value == pytest.approx(wanted, rel=1e-9, abs=1e-9)


@given(st.floats(0.001, 999), st.sampled_from(sorted(UNITS)), st.sampled_from(sorted(UNITS)))
def test_a_unit_is_a_factor(value: float, first: str, second: str) -> None:
    """a u + b v in the wanted unit, for units of one kind; those of two kinds are not added."""
    text = f"{value:.6f} {first} + 2 {second}"
    (a, kind), (b, other) = UNITS[first], UNITS[second]
    if kind != other:
        with pytest.raises(BadInput, match="cannot be added"):
            evaluate(text)
        return
    got = evaluate(text, wanted=kind)
    assert got.value == pytest.approx(round(value, 6) * a + 2 * b, rel=1e-12)
    assert got.dimension == kind


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("2 ^ -1", 0.5), ("-2 ^ 2", -4), ("2 ^ 3 ^ 2", 512), ("6 / 2 * 3", 9), ("10 - 4 - 3", 3), ("- - 4", 4),
        ("2 * -3", -6),
        ("min(4, 2, 3)", 2), ("max(1)", 1), ("ceil(2.1)", 3), ("floor(-2.1)", -3), ("round(-2.6)", -3),
        ("sqrt(2) ^ 2", 2), ("1e3", 1000), (".5 + 5.", 5.5), ("2E-1", 0.2), ("pi", math.pi), ("4 ÷ 2", 2),
        ("3 − 1", 2), ("2 · 4", 8),
    ],
)  # fmt: skip
def test_plain_numbers(text: str, value: float) -> None:
    assert evaluate(text, wanted=NUMBER).value == pytest.approx(value, rel=1e-12)


@pytest.mark.parametrize("degrees", [0, 30, 45, 60, 90, 123.4])
def test_angles_go_in_and_come_out(degrees: float) -> None:
    a = math.radians(degrees)
    assert evaluate(f"sin({degrees}°)").value == pytest.approx(math.sin(a), abs=1e-12)
    assert evaluate(f"cos({degrees} deg)").value == pytest.approx(math.cos(a), abs=1e-12)
    assert evaluate(f"acos({math.cos(a)!r})" if degrees else "acos(1)", wanted=ANGLE).value == pytest.approx(
        a, abs=1e-7
    )
    assert evaluate(f"{a!r} rad", wanted=ANGLE).value == pytest.approx(a, rel=1e-12)


@pytest.mark.parametrize(
    "text",
    [
        "+", "2 +", "* 2", "()", "2 (3)", "min()", "sin(1, 2)", "mm", "2 mm mm", "a..b", "1.2.3", "2,5",
        "max(2 mm, 3°)",
        "2 ^ 1 mm", "2 mm ^ 0.3", "2 mm ^ (1e300 * 1e300)", "sqrt(2 mm)", "asin(2)", "floor(2 mm)", "1 / (2 - 2)",
        "0 ^ -1",
        "(-8) ^ (1/3)", "\x00", "2;3", "=2", "[1]", "a.b", "lambda: 1", "1 if 1 else 2",
    ],
)  # fmt: skip
def test_what_means_nothing_is_refused_with_words(text: str) -> None:
    with pytest.raises(BadInput) as problem:
        evaluate(text, {"a": Quantity(1.0, LENGTH)}, wanted=LENGTH)
    assert len(problem.value.message) > 15


@settings(max_examples=150)
@given(st.text(max_size=40))
def test_any_text_is_a_value_or_a_sentence(text: str) -> None:
    try:
        got = evaluate(text, {"wall": Quantity(4.0, LENGTH)}, wanted=LENGTH)
    except BadInput as problem:
        assert problem.message
    else:
        assert math.isfinite(got.value)


@pytest.mark.parametrize("seed", range(8))
def test_a_table_is_the_same_in_any_order(seed: int) -> None:
    """Parameters that build on each other, shuffled: each has the value that adding up by hand gives."""
    rng = random.Random(seed)
    entries, values = [], {}
    for i in range(30):
        uses = rng.sample(sorted(values), min(len(values), rng.randint(0, 3)))
        own = rng.randint(1, 50)
        entries.append((f"n{i}", " + ".join([f"{own} mm", *uses])))
        values[f"n{i}"] = own + sum(values[u] for u in uses)
    rng.shuffle(entries)
    table = ParameterTable(entries)
    assert {n: table[n].value for n, _ in entries} == pytest.approx(values)


@pytest.mark.parametrize("order", [1, -1])
def test_a_long_row_of_parameters_is_no_burden(order: int) -> None:
    """Each builds on the one before: a thousand of them, first to last and last to first."""
    entries = [("n0", "1 mm"), *((f"n{i}", f"n{i - 1} + 1 mm") for i in range(1, 1000))]
    assert ParameterTable(entries[::order])["n999"].value == pytest.approx(1000)


@pytest.mark.parametrize("length", [1, 2, 5, 300])
def test_a_loop_of_any_length_is_named(length: int) -> None:
    entries = [(f"n{i}", f"n{(i + 1) % length} + 1 mm") for i in range(length)]
    with pytest.raises(BadInput, match="n0 → "):
        ParameterTable(entries)


@given(st.lists(st.sampled_from(["wall", "wall2", "a_wall", "w", "mm", "max"]), min_size=1, max_size=6))
def test_renaming_changes_exactly_the_name(words: list[str]) -> None:
    text = " + ".join(f"2 * {w}" for w in words)
    got = rename_in(text, "wall", "rim")
    assert got == " + ".join(f"2 * {'rim' if w == 'wall' else w}" for w in words)


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("a + b * a", {"a", "b"}),
        ("sin(a) + pi", {"a"}),
        ("3 mm + in_ner", {"in_ner"}),
        ("2 in", set()),
        ("max(x1, 2)", {"x1"}),
    ],
)
def test_names_in_a_formula(text: str, names: set[str]) -> None:
    assert set(names_in(text)) == names


@given(st.floats(-1e6, 1e6, allow_nan=False), st.sampled_from(["mm", "cm", "m", "in"]))
def test_what_is_shown_means_what_it_was(value: float, unit: str) -> None:
    text = show(value, LENGTH, unit, 12)
    assert evaluate(text, wanted=LENGTH).value == pytest.approx(value, rel=1e-9, abs=1e-9)


@given(st.floats(-1e9, 1e9, allow_nan=False), st.integers(0, 8))
def test_numbers_are_written_short_and_true(value: float, digits: int) -> None:
    text = number_text(value, digits)
    assert float(text) == pytest.approx(value, abs=0.5000001 * 10**-digits + 1e-15 * abs(value), rel=0)
    assert "e" not in text
    assert not ("." in text and text.endswith("0"))
    assert text != "-0"


@pytest.mark.parametrize("unit", ["mm", "cm", "m", "in"])
@pytest.mark.parametrize(
    ("text", "settled"), [("12", "12 {u}"), ("wall * 2", "wall * 2"), ("3 cm", "3 cm"), ("wall + 2", "wall + 2 {u}")]
)
def test_settling_writes_the_unit_where_it_is_missing(text: str, settled: str, unit: str) -> None:
    names = {"wall": Quantity(4.0, LENGTH)}
    assert settle(text, names, wanted=LENGTH, length_unit=unit) == settled.format(u=unit)
