"""Answer check: what a part should amount to, as a person typed it, against what it does.

Inside: mm, mm², mm³, g. A typed number is meant as exactly as it is written, or within a tolerance given with it.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from typing import Literal, NamedTuple

from pydantic import BaseModel, ConfigDict, Field

from ..errors import BadInput
from .weighing import Units, Weighed

What = Literal["volume", "area", "mass", "box", "centre"]
KINDS: dict[What, str] = {
    "volume": "volume", "area": "area", "mass": "mass", "box": "box", "centre": "centre of mass",
}  # fmt: skip

_LENGTHS = {
    "mm": 1.0,
    "cm": 10.0,
    "dm": 100.0,
    "m": 1000.0,
    "in": 25.4,
    "inch": 25.4,
    '"': 25.4,
    "ft": 304.8,
    "µm": 1e-3,
    "um": 1e-3,
}
_MASSES = {"mg": 1e-3, "g": 1.0, "kg": 1000.0, "t": 1e6, "oz": 28.349523125, "lb": 453.59237, "lbs": 453.59237}
_VOLUMES = {"ml": 1e3, "cl": 1e4, "l": 1e6, "cc": 1e3}
_POWER = {"area": 2, "volume": 3}
_NUMBER = re.compile(r"(?<![A-Za-z^\d.,])[-+]?(?:\d+[.,]?\d*|[.,]\d+)(?:[eE][-+]?\d+)?")


class Answer(BaseModel):
    """One expected value, as typed: ``48.3 cm³``, ``60 x 40 x 20``. ``tolerance``: ``0.1 %`` or ``0.5 g``."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    what: What
    text: str = Field(min_length=1, max_length=120)
    tolerance: str = Field(default="", max_length=40)


class Meant(NamedTuple):
    """What a typed answer means: values (one, or three for a box and a centre) and how far off each may be."""

    values: tuple[float, ...]
    slack: tuple[float, ...]


class Compared(NamedTuple):
    """A figure against what was meant: whether it agrees, by how much it is off in words and as a part of itself."""

    agrees: bool
    text: str
    share: float


class Verdict(NamedTuple):
    """An answer against the part. See ``Compared``."""

    answer: Answer
    agrees: bool
    text: str
    share: float


def meant(answer: Answer, units: Units) -> Meant:
    """Read an answer. A number without a unit is in the person's units. Raises ``BadInput`` in the person's words."""
    text = answer.text.strip()
    if answer.what in ("box", "centre"):
        return _three(answer, text, units)
    numbers = _NUMBER.findall(text)
    if len(numbers) != 1:
        raise BadInput(
            f"“{text}” is not one number with a unit, like 48.3 {_usual(answer.what, units)}.", where=answer.what
        )
    factor = _factor(text.replace(numbers[0], "", 1), answer.what, units)
    value, digit = _number(numbers[0])
    return Meant((value * factor,), (_slack(answer, value * factor, digit * factor / 2, units),))


def _three(answer: Answer, text: str, units: Units) -> Meant:
    numbers = re.findall(r"[-+]?\d*\.?\d+(?:[eE][-+]?\d+)?", text)
    if len(numbers) != 3:
        raise BadInput(f"“{text}” is not three numbers, like 60 x 40 x 20 {units.length}.", where=answer.what)
    unit = re.sub(r"[-+]?\d*\.?\d+(?:[eE][-+]?\d+)?|[x×*,;()/\s]", " ", text).split()
    if len(set(unit)) > 1:
        raise BadInput(f"“{text}” has more than one unit; give it once.", where=answer.what)
    factor = _factor(unit[0] if unit else "", "length", units)
    values = [_number(n) for n in numbers]
    largest = max(abs(v) for v, _ in values) * factor
    return Meant(
        tuple(v * factor for v, _ in values),
        tuple(_slack(answer, largest, digit * factor / 2, units) for _, digit in values),
    )


def _number(text: str) -> tuple[float, float]:
    """A number and the weight of its last digit.

    >>> _number("48.30")
    (48.3, 0.01)
    """
    plain = text.replace(",", ".")
    mantissa, _, exponent = plain.lower().partition("e")
    decimals = len(mantissa.partition(".")[2])
    value = float(plain)
    if not math.isfinite(value):
        raise BadInput(f"“{text}” is too large.")
    return value, 10.0 ** (int(exponent or 0) - decimals)


def _usual(what: str, units: Units) -> str:
    if what == "mass":
        return units.mass
    unit = "cm" if units.length == "mm" and what != "length" else units.length
    return unit + {"area": "²", "volume": "³"}.get(what, "")


def _factor(unit: str, what: str, units: Units) -> float:
    """How many mm, mm², mm³ or g a unit is."""
    word = unit.strip().strip(".").replace("²", "2").replace("³", "3").replace("^", "").replace(" ", "").lower()
    if not word:
        return _factor(_usual(what, units), what, units)
    if what == "mass":
        known = _MASSES.get(word)
    elif what == "volume" and word in _VOLUMES:
        known = _VOLUMES[word]
    else:
        power = _POWER.get(what, 1)
        base = word
        if power > 1:
            base = word[:-1] if word.endswith(str(power)) else ""
            for begin, n in (("sq", 2), ("cu", 3)):
                if word.startswith(begin) and n == power:
                    base = word[2:]
        known = _LENGTHS[base] ** power if base in _LENGTHS else None
    if known is None:
        kind = {"length": "a length", "area": "an area", "volume": "a volume", "mass": "a mass"}[what]
        raise BadInput(f"“{unit.strip()}” is not a unit of {kind}; use {_usual(what, units)} or the like.", where=what)
    return known


def _slack(answer: Answer, value: float, digit: float, units: Units) -> float:
    text = answer.tolerance.strip().lstrip("±").strip()
    if not text:
        # half of the last digit; of a number with few digits not more than a five-hundredth
        return max(min(digit, 2e-3 * abs(value)), 1e-9 * abs(value))
    numbers = _NUMBER.findall(text)
    if len(numbers) != 1:
        raise BadInput(f"“{answer.tolerance}” is not a tolerance, like 0.1 % or 0.5 g.", where="tolerance")
    amount, _ = _number(numbers[0])
    rest = text.replace(numbers[0], "", 1).strip()
    if amount < 0:
        raise BadInput("A tolerance is not negative.", where="tolerance")
    if rest == "%":
        return max(amount / 100 * abs(value), 1e-9 * abs(value))
    return amount * _factor(rest, answer.what if answer.what in ("area", "volume", "mass") else "length", units)


def actual(what: What, w: Weighed) -> tuple[float, ...]:
    """What a part has of something; a box from its smallest side to its largest."""
    if what == "box":
        return tuple(sorted(h - l for l, h in zip(*w.box)))
    if what == "centre":
        return w.centre
    return (float(getattr(w, what)),)


def expected(answer: Answer, units: Units) -> Meant:
    """Like ``meant``, a box from its smallest side to its largest: which way a part lies is not asked."""
    m = meant(answer, units)
    if answer.what != "box":
        return m
    pairs = sorted(zip(m.values, m.slack))
    return Meant(tuple(v for v, _ in pairs), tuple(s for _, s in pairs))


def agree(m: Meant, values: Sequence[float]) -> bool:
    """Whether values are what was meant."""
    return all(abs(a - e) <= s * (1 + 1e-9) for a, e, s in zip(values, m.values, m.slack))


def verdict(answer: Answer, w: Weighed, units: Units) -> Verdict:
    """An answer against a part."""
    return Verdict(answer, *compared(answer.what, expected(answer, units), w, units))


def compared(what: What, m: Meant, w: Weighed, units: Units) -> Compared:
    """What a part has of something against what was meant (a box from its smallest side to its largest)."""
    has = actual(what, w)
    scale = max(max(abs(v) for v in m.values), 1e-12)
    worst = max(zip(has, m.values), key=lambda p: abs(p[0] - p[1]))
    share = (worst[0] - worst[1]) / scale
    if agree(m, has):
        return Compared(True, "agrees", share)
    off = worst[0] - worst[1]
    size = {
        "mass": units.mass_of(abs(off)), "area": units.length_of(abs(off), 2), "volume": units.length_of(abs(off), 3),
    }.get(what, units.length_of(abs(off)))  # fmt: skip
    words = {"mass": ("too heavy", "too light"), "area": ("too much", "too little")}
    more, less = words.get(what, ("too large", "too small"))
    if what == "centre":
        return Compared(False, f"off by {size} along {'xyz'[[a - e for a, e in zip(has, m.values)].index(off)]}", share)
    percent = f" ({share * 100:+.3g} %)" if abs(share) < 10 else ""
    return Compared(False, f"{more if off > 0 else less} by {size}{percent}", share)
