"""A part against what it should come to."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from ..amounts.answers import KINDS, Answer, Meant, What, compared
from ..amounts.weighing import Units, Weighed
from ..quantity.units import number_text
from .numbers import Figures, slack_of
from .terms import Asked


class Judged(NamedTuple):
    """One figure: whether it is right, by how much it is off as a part of what it should be, and that in words."""

    what: What
    right: bool
    share: float
    text: str

    @property
    def word(self) -> str:
        """What the figure is called."""
        return KINDS[self.what]


def judged(asked: Sequence[Asked], expected: Figures, weighed: Weighed, units: Units) -> list[Judged]:
    """Every figure that is asked, in the order in which it was."""
    out = []
    for figure in asked:
        values = expected[figure.what]
        slack = slack_of(figure, values)
        verdict = compared(figure.what, Meant(tuple(values), (slack,) * len(values)), weighed, units)
        out.append(Judged(figure.what, verdict.agrees, verdict.share, verdict.text))
    return out


_UNITS: dict[What, str] = {"volume": "mm³", "area": "mm²", "mass": "g", "box": "mm", "centre": "mm"}


def as_answers(asked: Sequence[Asked], expected: Figures) -> list[Answer]:
    """What is expected as if somebody had typed it, for what finds the reasons."""
    return [
        Answer(
            what=a.what,
            text=f"{' x '.join(number_text(v, 9) for v in expected[a.what])} {_UNITS[a.what]}",
            tolerance=f"{number_text(slack_of(a, expected[a.what]), 9)} {_UNITS[a.what]}",
        )
        for a in asked
    ]
