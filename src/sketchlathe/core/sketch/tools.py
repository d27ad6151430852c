"""Drawing tools: each turns placed points and typed sizes into curves, constraints and dimensions.

A tool declares what the screen needs (steps, rubber band, sizes); the browser knows bands, not tools.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, ClassVar

from pydantic import BaseModel, ConfigDict, Field

from ..errors import BadInput
from ..quantity import ANGLE, LENGTH, Dimension
from ..registry import Registry, kind_of
from .curves import Vec
from .inference import LINED_UP

if TYPE_CHECKING:
    from .document import Sketch


class Aligned(BaseModel):
    """A second thing that a placed point was lined up with: a snap's word and reference."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    snap: str = Field(max_length=20)
    ref: str | None = Field(default=None, max_length=40)


class Place(BaseModel):
    """A placed point: where, and what it snapped to (a snap's word and reference), if anything.

    ``also``: what else it was shown to be lined up with. ``typed``: where it stands from the origin, across and
    along, as typed, where that is to be kept as dimensions. ``take``: a curve of the solid (an offer's data) that
    ``ref`` names as ``take`` or ``take.centre``; it is taken along.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    at: Vec
    snap: str | None = Field(default=None, max_length=20)
    ref: str | None = Field(default=None, max_length=40)
    also: tuple[Aligned, ...] = Field(default=(), max_length=2)
    typed: tuple[str, str] | None = None
    take: dict[str, Any] | None = None

    @property
    def on(self) -> str:
        """What it lies on; empty where it lies on nothing, or is only lined up with something."""
        return "" if self.snap in LINED_UP else self.ref or ""


@dataclass
class Drawing:
    """What a tool made, with local ids ``n0``, ``n1``... for the new curves."""

    curves: list[dict[str, Any]] = field(default_factory=list)
    constraints: list[tuple[str, tuple[str, ...]]] = field(default_factory=list)  # kind, refs: kept if they can be
    dimensions: list[tuple[str, tuple[str, ...], str, dict[str, Any]]] = field(default_factory=list)
    placed: list[tuple[str, Place]] = field(default_factory=list)  # point ref and the place that made it
    ends_at: str = ""  # where a chain goes on
    direct: list[dict[str, Any]] = field(default_factory=list)  # constraints with all their fields, on local ids

    def curve(self, kind: str, **fields: Any) -> str:
        """Add a curve; its local id."""
        self.curves.append({"kind": kind, "id": f"n{len(self.curves)}", **fields})
        return f"n{len(self.curves) - 1}"


class TypedSize(BaseModel):
    """A size typed while drawing: its formula and value (mm or rad). Where a minus may be typed, the value carries it
    (which way), the formula gives the size.
    """

    model_config = ConfigDict(frozen=True)
    text: str
    value: float


@dataclass(frozen=True)
class SizeSlot:
    """A size that can be typed while drawing. ``shown`` reads it off a drawing, for the live number at the pointer.
    ``settled``: once so many places are set it has been said by them, and what is typed then is the next size.
    """

    label: str
    dimension: Dimension = LENGTH
    shown: Callable[[Drawing], float] | None = None
    signed: bool = False  # a minus turns it the other way
    settled: int = 0


@dataclass(frozen=True)
class Option:
    """Something else to say about what is drawn: a whole number, one of several words, or a text."""

    name: str
    label: str
    default: str | int | float | bool
    choices: tuple[tuple[str, str], ...] = ()  # (value, what it is called)
    low: float = 0
    high: float = 0


Options = dict[str, Any]


class Tool:
    """A drawing tool. Subclasses declare and ``draw``. Tools of one ``family`` share a button."""

    kind: ClassVar[str]
    word: ClassVar[str]
    family: ClassVar[str]
    variant: ClassVar[str] = ""  # what it is called among its family
    chord: ClassVar[str]
    order: ClassVar[int]
    icon: ClassVar[str]
    steps: ClassVar[tuple[str, ...]]  # what each placed point is
    more: ClassVar[bool] = False  # the last step may be repeated until Enter
    band: ClassVar[str] = "drawn"  # "segment", "box", "circle", "point": drawn by the browser; "drawn": asked for
    sizes: ClassVar[tuple[SizeSlot, ...]] = ()
    options: ClassVar[tuple[Option, ...]] = ()
    chains: ClassVar[bool] = False  # the last point starts the next one
    swings: ClassVar[str] = ""  # the tool that a drag from the end of a chain draws with
    hint: ClassVar[str] = ""

    def draw(self, places: list[Place], sizes: list[TypedSize | None], options: Options, sketch: Sketch) -> Drawing:
        """The drawing for placed points (mm), typed sizes (None where not typed) and options. Raises ``BadInput``."""
        raise NotImplementedError

    @classmethod
    def chosen(cls, given: Mapping[str, Any]) -> Options:
        """Every option's value: the one given, checked, or its default."""
        return {option.name: _chosen(option, given.get(option.name, option.default)) for option in cls.options}


def _chosen(option: Option, value: Any) -> Any:
    if option.choices:
        if value not in {v for v, _ in option.choices}:
            raise BadInput(f"{option.label.capitalize()} must be one of: {', '.join(w for _, w in option.choices)}.")
        return value
    if isinstance(option.default, bool):
        return bool(value)
    if isinstance(option.default, str):
        return str(value)[:400]
    try:
        number = float(value)
    except (TypeError, ValueError):
        raise BadInput(f"{option.label.capitalize()} must be a number.") from None
    if isinstance(option.default, int) and number != round(number):
        raise BadInput(f"{option.label.capitalize()} must be a whole number.")
    if not option.low <= number <= option.high:
        raise BadInput(f"{option.label.capitalize()} must be from {option.low:g} to {option.high:g}.")
    return type(option.default)(number)


TOOLS: Registry[Tool] = Registry("drawing tool", "sketchlathe.core.sketch.drawing")


def describe_tools() -> list[dict[str, Any]]:
    """Every tool as plain data for the screen."""
    return [
        {
            "kind": kind_of(tool),
            "word": tool.word,
            "family": tool.family,
            "variant": tool.variant,
            "chord": tool.chord,
            "icon": tool.icon,
            "steps": list(tool.steps),
            "band": tool.band,
            "more": tool.more,
            "options": [
                {
                    "name": o.name,
                    "label": o.label,
                    "default": o.default,
                    "choices": o.choices,
                    "low": o.low,
                    "high": o.high,
                }
                for o in tool.options
            ],
            "sizes": [{"label": s.label, "angle": s.dimension == ANGLE, "settled": s.settled} for s in tool.sizes],
            "chains": tool.chains,
            "swings": tool.swings,
            "hint": tool.hint,
        }
        for tool in TOOLS
    ]


def families() -> list[dict[str, Any]]:
    """One tool of each family, in their order: what has a button."""
    first: dict[str, dict[str, Any]] = {}
    for tool in describe_tools():
        first.setdefault(tool["family"], tool)
    return list(first.values())


def of_curve(kind: str, name: str, factor: float = 1.0, number: int = 0) -> Callable[[Drawing], float]:
    """Reads a field (or, for lines, the length) of the n-th drawn curve of a kind."""

    def read(drawing: Drawing) -> float:
        raw = [c for c in drawing.curves if c["kind"] == kind][number]
        if name == "length":
            return factor * math.dist(raw["start"], raw["end"])
        if name == "tip":
            return factor * math.dist(raw["centre"], raw["tip"])
        return factor * float(raw[name])

    return read


def live_sizes(tool: type[Tool], drawing: Drawing) -> list[float | None]:
    """What each of a tool's sizes is in a drawing, mm or rad; None where it cannot be read."""
    out: list[float | None] = []
    for slot in tool.sizes:
        try:
            out.append(slot.shown(drawing) if slot.shown else None)
        except (IndexError, KeyError):
            out.append(None)
    return out


def direction(a: tuple[float, float], b: tuple[float, float]) -> tuple[float, float]:
    """Unit vector from a to b; refuses points that coincide."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    long = math.hypot(dx, dy)
    if long < 1e-9:
        raise BadInput("These two points are at one place; put the second somewhere else or type a size.")
    return dx / long, dy / long


def circle_through(
    a: tuple[float, float], b: tuple[float, float], c: tuple[float, float]
) -> tuple[tuple[float, float], float]:
    """Centre and radius of the circle through three points; refuses points on one line."""
    bx, by, cx, cy = b[0] - a[0], b[1] - a[1], c[0] - a[0], c[1] - a[1]
    cross = 2 * (bx * cy - by * cx)
    longest = max(bx * bx + by * by, cx * cx + cy * cy)
    if abs(cross) <= 1e-9 * longest:
        raise BadInput("These three points lie on one line; no circle goes through them.")
    b2, c2 = bx * bx + by * by, cx * cx + cy * cy
    ux, uy = (cy * b2 - by * c2) / cross, (bx * c2 - cx * b2) / cross
    return (a[0] + ux, a[1] + uy), math.hypot(ux, uy)
