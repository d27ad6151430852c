"""Formulas: ``wall + 14 mm``, ``3 in``, ``mast_d / 2``, ``max(a, b) * 2``.

Own recursive-descent parser (nothing is ever evaluated as code). A number without a unit is *bare*: it
takes the unit of what it is added to, or of the place it stands in. Grammar::

    sum     = product (('+' | '-') product)*
    product = signed (('*' | '/') signed)*
    signed  = ('+' | '-') signed | power
    power   = postfix ('^' signed)?
    postfix = atom unit*
    atom    = number | fraction unit | mixed | name | name '(' sum (',' sum)* ')' | '(' sum ')'
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import lru_cache

from ..errors import BadInput
from .units import ANGLE, NUMBER, UNITS, Dimension, LengthUnit, default_unit

# as inch drawings write them: 3/4", 1 1/4, 1-1/4" (a dash only where the inch mark says that no difference is meant)
_MIXED = re.compile(
    r"\s*(?:(\d+)(?:\s+(\d+)/([1-9]\d*)|-(\d+)/([1-9]\d*)(?=\s*(?:\"|in\b|inch\b)))"
    r"|(\d+)/([1-9]\d*)(?=\s*(?:\"|in\b|inch\b)))(?![\d.])"
)
MAX_LENGTH = 400
MAX_DEPTH = 40
NAME = "[A-Za-z_À-ÖØ-öø-ɏ][A-Za-z0-9_À-ÖØ-öø-ɏ]*"  # without × and ÷, which lie among the letters
_TOKEN = re.compile(rf"\s*(?:(\d+\.?\d*(?:[eE][+-]?\d+)?|\.\d+(?:[eE][+-]?\d+)?)|({NAME}|µm|°|\")|([-+*/^(),×·−÷]))")
_SAME_SIGN = {"×": "*", "·": "*", "−": "-", "÷": "/"}


@dataclass(frozen=True)
class Quantity:
    """A value in mm/rad with its dimension; ``bare`` when it has yet to take a unit from its place."""

    value: float
    dimension: Dimension = NUMBER
    bare: bool = False


@dataclass(frozen=True)
class Node:
    """One part of a parsed formula; ``start``/``end`` are its place in the text."""

    op: str
    args: tuple[Node, ...] = ()
    value: float = 0.0
    word: str = ""
    start: int = 0
    end: int = 0


@dataclass(frozen=True)
class Expression:
    """A parsed formula: its text and tree."""

    text: str
    root: Node


@dataclass(frozen=True)
class _Function:
    arity: tuple[int, int]
    run: Callable[..., float]
    wants: Dimension | None  # None: all of one dimension, which is the result's
    gives: Dimension | None


def _rounded(step_of: Callable[[float], float]) -> Callable[[float], float]:
    return lambda x: float(step_of(x))


FUNCTIONS: dict[str, _Function] = {
    "sin": _Function((1, 1), math.sin, ANGLE, NUMBER),
    "cos": _Function((1, 1), math.cos, ANGLE, NUMBER),
    "tan": _Function((1, 1), math.tan, ANGLE, NUMBER),
    "asin": _Function((1, 1), math.asin, NUMBER, ANGLE),
    "acos": _Function((1, 1), math.acos, NUMBER, ANGLE),
    "atan": _Function((1, 1), math.atan, NUMBER, ANGLE),
    "min": _Function((1, 20), lambda *values: min(values), None, None),
    "max": _Function((1, 20), lambda *values: max(values), None, None),
    "abs": _Function((1, 1), abs, None, None),
    "floor": _Function((1, 1), _rounded(math.floor), NUMBER, NUMBER),
    "ceil": _Function((1, 1), _rounded(math.ceil), NUMBER, NUMBER),
    "round": _Function((1, 1), _rounded(round), NUMBER, NUMBER),
    "sqrt": _Function((1, 1), math.sqrt, Dimension(99, 99), None),  # dimension halves: see _call
}
CONSTANTS = {"pi": math.pi}
RESERVED = frozenset(FUNCTIONS) | frozenset(CONSTANTS) | frozenset(u for u in UNITS if u.isalpha())


def _mixed_number(found: re.Match[str]) -> tuple[int, int, int]:
    """Whole part, upper and lower number of a fraction."""
    if found[6]:
        return 0, int(found[6]), int(found[7])
    return int(found[1]), int(found[2] or found[4]), int(found[3] or found[5])


class _Parser:
    def __init__(self, text: str) -> None:
        self.text = text
        self.tokens: list[tuple[str, str, int, int]] = []
        self.at = 0
        position = 0
        while position < len(text):
            if text[position:].isspace():
                break
            mixed = _MIXED.match(text, position)
            if mixed is not None and not (self.tokens and self.tokens[-1][1] in ("/", "^")):
                whole, over, under = _mixed_number(mixed)
                self.tokens.append(
                    ("number", repr(whole + over / under), mixed.start() + mixed[0].find(mixed[0].strip()), mixed.end())
                )
                position = mixed.end()
                continue
            match = _TOKEN.match(text, position)
            if match is None:
                bad = text[position:].strip()[:1]
                raise BadInput(f"“{bad}” cannot stand in a formula: “{text}”.")
            kind = "number" if match[1] else "name" if match[2] else "sign"
            word = match[1] or match[2] or _SAME_SIGN.get(match[3], match[3])
            self.tokens.append((kind, word, match.start(match.lastindex or 0), match.end()))
            position = match.end()

    def peek(self) -> tuple[str, str, int, int]:
        return self.tokens[self.at] if self.at < len(self.tokens) else ("end", "", len(self.text), len(self.text))

    def take(self, sign: str) -> bool:
        kind, word, _, _ = self.peek()
        if kind == "sign" and word == sign:
            self.at += 1
            return True
        return False

    def fail(self, what: str) -> BadInput:
        kind, word, _, _ = self.peek()
        got = "the formula ends" if kind == "end" else f"there is “{word}”"
        return BadInput(f"{what}, but {got}: “{self.text}”.")

    def sum(self, depth: int) -> Node:
        if depth > MAX_DEPTH:
            raise BadInput(f"This formula is nested more than {MAX_DEPTH} deep.")
        left = self.product(depth)
        while True:
            for sign in "+-":
                if self.take(sign):
                    right = self.product(depth)
                    left = Node(sign, (left, right), start=left.start, end=right.end)
                    break
            else:
                return left

    def product(self, depth: int) -> Node:
        left = self.signed(depth)
        while True:
            for sign in "*/":
                if self.take(sign):
                    right = self.signed(depth)
                    left = Node(sign, (left, right), start=left.start, end=right.end)
                    break
            else:
                return left

    def signed(self, depth: int) -> Node:
        if depth > MAX_DEPTH:
            raise BadInput(f"This formula is nested more than {MAX_DEPTH} deep.")
        start = self.peek()[2]
        if self.take("-"):
            inner = self.signed(depth + 1)
            return Node("neg", (inner,), start=start, end=inner.end)
        if self.take("+"):
            return self.signed(depth + 1)
        base = self.postfix(depth)
        if self.take("^"):
            power = self.signed(depth + 1)
            return Node("^", (base, power), start=base.start, end=power.end)
        return base

    def postfix(self, depth: int) -> Node:
        node = self.atom(depth)
        while node.op in ("number", "group"):
            kind, word, _, end = self.peek()
            if kind != "name" or word not in UNITS:
                break
            self.at += 1
            node = Node("unit", (node,), word=word, start=node.start, end=end)
        return node

    def atom(self, depth: int) -> Node:
        kind, word, start, end = self.peek()
        if kind == "number":
            self.at += 1
            value = float(word)
            if not math.isfinite(value):
                raise BadInput(f"“{word}” is too large a number.")
            return Node("number", value=value, start=start, end=end)
        if kind == "name":
            self.at += 1
            if self.take("("):
                args = [self.sum(depth + 1)]
                while self.take(","):
                    args.append(self.sum(depth + 1))
                if not self.take(")"):
                    raise self.fail("A closing bracket is missing")
                return Node("call", tuple(args), word=word, start=start, end=self.tokens[self.at - 1][3])
            return Node("name", word=word, start=start, end=end)
        if self.take("("):
            inner = self.sum(depth + 1)
            if not self.take(")"):
                raise self.fail("A closing bracket is missing")
            return Node("group", (inner,), start=start, end=self.tokens[self.at - 1][3])
        raise self.fail("A number or a name is expected")


@lru_cache(maxsize=4096)
def parse(text: str) -> Expression:
    """Parse a formula.

    >>> parse("wall + 14 mm").root.op
    '+'

    Raises ``BadInput`` with a sentence when the text is not a formula.
    """
    if len(text) > MAX_LENGTH:
        raise BadInput(f"A formula may have at most {MAX_LENGTH} characters; this has {len(text)}.")
    if not text.strip():
        raise BadInput("A number or a formula is needed here.")
    parser = _Parser(text)
    root = parser.sum(0)
    if parser.peek()[0] != "end":
        if decimal := re.search(r"(?<![\w.])\d+,\d+", text):
            said = f"“{decimal[0]}”: a comma stands between the numbers of a function"
            raise BadInput(f"{said}; a decimal is written with a point, {decimal[0].replace(',', '.')}.")
        raise parser.fail("An operator such as + or * is expected")
    return Expression(text, root)


@lru_cache(maxsize=4096)
def names_in(text: str) -> frozenset[str]:
    """The parameter names a formula uses.

    >>> sorted(names_in("2 * wall + max(play, 1 mm) * pi"))
    ['play', 'wall']
    """
    found: set[str] = set()

    def walk(node: Node) -> None:
        if node.op == "name" and node.word not in CONSTANTS:
            found.add(node.word)
        for arg in node.args:
            walk(arg)

    walk(parse(text).root)
    return frozenset(found)


def rename_in(text: str, old: str, new: str) -> str:
    """The formula with one name replaced.

    >>> rename_in("wall*2 + walls", "wall", "shell")
    'shell*2 + walls'
    """
    places: list[tuple[int, int]] = []

    def walk(node: Node) -> None:
        if node.op == "name" and node.word == old:
            places.append((node.start, node.end))
        for arg in node.args:
            walk(arg)

    walk(parse(text).root)
    for start, end in sorted(places, reverse=True):
        text = text[:start] + new + text[end:]
    return text


_INCH_FRACTION = re.compile(r"\s*-?\s*\(?(\d+[ -])?\d+/\d+\)?\s*(in|inch|\")\s*")


def is_plain(text: str) -> bool:
    """Whether a formula is just a number with its unit, or a fraction of an inch.

    >>> is_plain("12.5 mm"), is_plain("-3"), is_plain("(4*13) mm"), is_plain("wall"), is_plain("(5/16) in")
    (True, True, False, False, True)
    """
    if _INCH_FRACTION.fullmatch(text):
        return True
    node = parse(text).root
    while node.op in ("unit", "neg"):
        node = node.args[0]
    return node.op == "number"


def negated(text: str) -> str:
    """The formula for the opposite value.

    >>> negated("-30 deg"), negated("wall + 2 mm")
    ('30 deg', '-(wall + 2 mm)')
    """
    root = parse(text).root
    if root.op == "neg":
        return text[root.args[0].start : root.args[0].end]
    return f"-{text.strip()}" if root.op in ("number", "unit", "name", "group") else f"-({text.strip()})"


class _Evaluator:
    def __init__(self, text: str, names: Mapping[str, Quantity], length_unit: LengthUnit) -> None:
        self.text = text
        self.names = names
        self.length_unit = length_unit
        self.given_units: list[tuple[Node, str]] = []  # bare parts and the unit they took

    def adapt(self, node: Node, got: Quantity, wanted: Dimension) -> Quantity:
        """Let a bare number take the unit of its place."""
        if got.dimension == wanted or not got.bare:
            return got
        unit = default_unit(wanted, self.length_unit)
        if not unit:
            return got
        self.given_units.append((node, unit))
        return Quantity(got.value * UNITS[unit][0], wanted)

    def run(self, node: Node) -> Quantity:
        match node.op:
            case "number":
                return Quantity(node.value, NUMBER, bare=True)
            case "group":
                return self.run(node.args[0])
            case "unit":
                inner = self.run(node.args[0])
                if not inner.bare:
                    raise BadInput(f"“{node.word}” stands after something that has a unit already: “{self.text}”.")
                factor, dimension = UNITS[node.word]
                return Quantity(inner.value * factor, dimension)
            case "name":
                if node.word in self.names:
                    return self.names[node.word]
                if node.word in CONSTANTS:
                    return Quantity(CONSTANTS[node.word])
                raise BadInput(f"There is no parameter called “{node.word}”.", where=node.word)
            case "neg":
                got = self.run(node.args[0])
                return Quantity(-got.value, got.dimension, got.bare)
            case "+" | "-":
                return self._add(node)
            case "*":
                a, b = (self.run(arg) for arg in node.args)
                dim = Dimension(a.dimension.length + b.dimension.length, a.dimension.angle + b.dimension.angle)
                return Quantity(a.value * b.value, dim, _still_bare(a, b))
            case "/":
                a, b = (self.run(arg) for arg in node.args)
                if b.value == 0:
                    raise BadInput(f"This divides by zero: “{self.text}”.")
                dim = Dimension(a.dimension.length - b.dimension.length, a.dimension.angle - b.dimension.angle)
                return Quantity(a.value / b.value, dim, _still_bare(a, b))
            case "^":
                return self._power(node)
            case _:
                return self._call(node)

    def _add(self, node: Node) -> Quantity:
        a, b = (self.run(arg) for arg in node.args)
        a = self.adapt(node.args[0], a, b.dimension) if a.dimension != b.dimension else a
        b = self.adapt(node.args[1], b, a.dimension) if a.dimension != b.dimension else b
        if a.dimension != b.dimension:
            sign = "added to" if node.op == "+" else "subtracted from"
            first, second = (a, b) if node.op == "+" else (b, a)
            raise BadInput(
                f"{first.dimension.word.capitalize()} cannot be {sign} {second.dimension.word}: “{self.text}”."
            )
        value = a.value + b.value if node.op == "+" else a.value - b.value
        return Quantity(value, a.dimension, a.bare and b.bare)

    def _power(self, node: Node) -> Quantity:
        base, power = (self.run(arg) for arg in node.args)
        if power.dimension != NUMBER:
            raise BadInput(f"A power must be a plain number: “{self.text}”.")
        if not math.isfinite(power.value):
            raise BadInput(f"This power has no usable value: “{self.text}”.")
        if base.dimension != NUMBER and (power.value != int(power.value) or abs(power.value) > 4):
            raise BadInput(f"Lengths and angles can be raised to whole powers up to 4 only: “{self.text}”.")
        try:
            value = float(base.value**power.value)
        except (OverflowError, ZeroDivisionError, TypeError) as error:
            raise BadInput(f"This power has no usable value: “{self.text}”.") from error
        p = int(power.value) if base.dimension != NUMBER else 0
        return Quantity(value, Dimension(base.dimension.length * p, base.dimension.angle * p), base.bare)

    def _call(self, node: Node) -> Quantity:
        function = FUNCTIONS.get(node.word)
        if function is None:
            known = ", ".join(sorted(FUNCTIONS))
            raise BadInput(f"There is no function “{node.word}”; known are {known}.")
        low, high = function.arity
        if not low <= len(node.args) <= high:
            raise BadInput(f"“{node.word}” takes {low if low == high else f'{low} or more'} value(s): “{self.text}”.")
        got = [self.run(arg) for arg in node.args]
        if node.word == "sqrt":
            dim = got[0].dimension
            if dim.length % 2 or dim.angle % 2 or got[0].value < 0:
                raise BadInput(
                    f"The square root of {dim.word} below zero or of odd power has no meaning: “{self.text}”."
                )
            return Quantity(math.sqrt(got[0].value), Dimension(dim.length // 2, dim.angle // 2), got[0].bare)
        wanted = function.wants
        if wanted is None:
            wanted = next((q.dimension for q in got if not q.bare), NUMBER)
        got = [self.adapt(arg, q, wanted) for arg, q in zip(node.args, got)]
        if any(q.dimension != wanted for q in got):
            raise BadInput(f"“{node.word}” needs {wanted.word} here: “{self.text}”.")
        try:
            value = float(function.run(*(q.value for q in got)))
        except (ValueError, OverflowError) as error:
            raise BadInput(f"“{node.word}” has no value for this: “{self.text}”.") from error
        gives = wanted if function.gives is None else function.gives
        return Quantity(value, gives, all(q.bare for q in got) and gives == NUMBER)


def _still_bare(a: Quantity, b: Quantity) -> bool:
    """A bare number times or over a plain one (a sine, a count) still takes the unit of its place: ``37*cos(25°)``."""
    return (a.bare or b.bare) and a.dimension == b.dimension == NUMBER


def _finished(evaluator: _Evaluator, text: str, wanted: Dimension | None) -> Quantity:
    root = parse(text).root
    got = evaluator.run(root)
    if wanted is not None:
        got = evaluator.adapt(root, got, wanted)
        if got.dimension != wanted:
            raise BadInput(f"“{text}” is {got.dimension.word}; {wanted.word} is needed here.")
    if not math.isfinite(got.value):
        raise BadInput(f"“{text}” has no finite value.")
    return got


def evaluate(
    text: str,
    names: Mapping[str, Quantity] | None = None,
    *,
    wanted: Dimension | None = None,
    length_unit: LengthUnit = "mm",
) -> Quantity:
    """The value of a formula in mm/rad.

    >>> from sketchlathe.core.quantity import LENGTH
    >>> evaluate("4 in", wanted=LENGTH).value
    101.6
    >>> evaluate("wall + 14", {"wall": Quantity(4.0, LENGTH)}).value
    18.0

    ``names`` gives the parameters; with ``wanted`` a bare result takes that dimension's unit. Raises
    ``BadInput`` with a sentence for unknown names, mixed dimensions, division by zero and non-finite results.
    """
    return _finished(_Evaluator(text, names or {}, length_unit), text, wanted)


def settle(text: str, names: Mapping[str, Quantity], *, wanted: Dimension | None, length_unit: LengthUnit) -> str:
    """The formula with the units written out that its bare numbers took.

    Stored formulas then mean the same after the model's units change.

    >>> from sketchlathe.core.quantity import LENGTH
    >>> settle("14", {}, wanted=LENGTH, length_unit="mm"), settle("2*3", {}, wanted=LENGTH, length_unit="in")
    ('14 mm', '(2*3) in')
    >>> settle("wall + 14", {"wall": Quantity(4.0, LENGTH)}, wanted=LENGTH, length_unit="mm")
    'wall + 14 mm'
    """
    evaluator = _Evaluator(text, names, length_unit)
    _finished(evaluator, text, wanted)
    result = text
    for node, unit in sorted(evaluator.given_units, key=lambda item: item[0].start, reverse=True):
        if node.op == "name":
            continue
        inner = text[node.start : node.end]
        gap = "" if unit == "°" else " "
        plain = node.op in ("number", "group") or (node.op == "neg" and node.args[0].op == "number")
        put = f"{inner}{gap}{unit}" if plain else f"({inner}){gap}{unit}"
        result = result[: node.start] + put + result[node.end :]
    return result.strip()
