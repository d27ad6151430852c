"""What the screen is told by rooms of the core that take long to load: the forms alone, for whoever passes them on."""

from __future__ import annotations

from typing import Any, Literal, NotRequired

from typing_extensions import TypedDict

Triple = tuple[float, float, float]
Mark = Literal["same", "moved", "new", "gone"]


class CauseTold(TypedDict):
    """See ``Cause``."""

    text: str
    slip: str
    edits: list[dict[str, Any]]
    fix: str
    steps: list[str]


class FitTold(TypedDict):
    """See ``Finding``."""

    verdict: Literal["bad", "warn", "fine"]
    one: str
    other: str
    title: str
    figure: str
    text: str
    ends: tuple[Triple, Triple] | None
    fix: str
    edits: list[dict[str, Any]]


class FindingTold(TypedDict):
    """See ``Finding``. ``triangles``: ranges [first, count]."""

    kind: str
    well: bool
    text: str
    detail: str
    steps: list[str]
    triangles: list[list[int]]
    need: float
    lay: bool


class Remedy(TypedDict):
    """What puts a finding right: in words, and the edits."""

    text: str
    edits: list[dict[str, Any]]


class Measured(TypedDict):
    """What was measured: rows (what, value, dimension), and lines that show it (from, to, which row)."""

    rows: list[tuple[str, float, str]]
    lines: list[tuple[Triple, Triple, int]]


class Pulled(TypedDict):
    """What a hand that drags a number needs (see ``Knob.pulled``)."""

    edit: dict[str, Any]
    unit: str
    per: float
    whole: bool


class ReachTold(TypedDict):
    """How far a number goes one way (``Reach``): the value that holds, as text, the edit that sets it; where it breaks
    beyond, that value, the step it breaks in and why.
    """

    at: float
    said: str
    edit_at: dict[str, Any]
    breaks: NotRequired[float]
    breaks_said: NotRequired[str]
    step: NotRequired[str]
    where: NotRequired[str]
    why: NotRequired[str]
    edit: NotRequired[dict[str, Any]]


class NumberTold(TypedDict):
    """What is known of one number. ``same``: it makes no difference, and has no ends then."""

    id: str
    title: str
    step: str
    value: float
    said: str
    same: bool
    pull: Pulled
    low: NotRequired[ReachTold]
    high: NotRequired[ReachTold]


class Corner(TypedDict):
    """Two numbers at ends of their ranges."""

    numbers: list[str]
    values: list[float]
    edits: list[dict[str, Any]]
    says: str


class CornerTold(Corner):
    """What came of it."""

    holds: bool
    step: str
    where: str
    why: str


class DrawnTold(TypedDict):
    """See ``Drawn``."""

    path: str
    mark: Mark
    construction: bool


class DifferenceTold(TypedDict):
    """See ``Difference``."""

    key: str
    text: str
    number: int
    detail: str
    edits: list[dict[str, Any]]
    fix: str
    sketches: NotRequired[list[list[DrawnTold]]]
