"""Drawing tools: each turns placed points and typed sizes into curves, constraints and dimensions.

A tool declares what the screen needs (steps, rubber band, sizes); the browser knows bands, not tools.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

from ..errors import BadInput
from ..quantity import ANGLE, LENGTH, Dimension
from ..registry import Registry, kind_of
from .curves import Vec


class Place(BaseModel):
    """A placed point: where, and what it snapped to (a snap's word and reference), if anything."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    at: Vec
    snap: str | None = Field(default=None, max_length=20)
    ref: str | None = Field(default=None, max_length=40)


@dataclass
class Drawing:
    """What a tool made, with local ids ``n0``, ``n1``... for the new curves."""

    curves: list[dict[str, Any]] = field(default_factory=list)
    constraints: list[tuple[str, tuple[str, ...]]] = field(default_factory=list)  # kind, refs: kept if they can be
    dimensions: list[tuple[str, tuple[str, ...], str, dict[str, Any]]] = field(default_factory=list)
    placed: list[tuple[str, Place]] = field(default_factory=list)  # point ref and the place that made it

    def curve(self, kind: str, **fields: Any) -> str:
        """Add a curve; its local id."""
        self.curves.append({"kind": kind, "id": f"n{len(self.curves)}", **fields})
        return f"n{len(self.curves) - 1}"


class TypedSize(BaseModel):
    """A size typed while drawing: the formula as typed and its value (mm or rad)."""

    model_config = ConfigDict(frozen=True)
    text: str
    value: float


@dataclass(frozen=True)
class SizeSlot:
    """A size that can be typed while drawing."""

    label: str
    dimension: Dimension = LENGTH


class Tool:
    """A drawing tool. Subclasses declare and ``draw``."""

    kind: ClassVar[str]
    word: ClassVar[str]
    chord: ClassVar[str]
    order: ClassVar[int]
    icon: ClassVar[str]
    steps: ClassVar[tuple[str, ...]]  # what each placed point is
    band: ClassVar[Literal["point", "segment", "box", "circle"]]
    sizes: ClassVar[tuple[SizeSlot, ...]] = ()
    chains: ClassVar[bool] = False  # the last point starts the next one
    hint: ClassVar[str] = ""

    def draw(self, places: list[Place], sizes: list[TypedSize | None]) -> Drawing:
        """The drawing for placed points (mm) and typed sizes (None where not typed)."""
        raise NotImplementedError


TOOLS: Registry[Tool] = Registry("drawing tool", "sketchlathe.core.sketch.drawing")

Draw = Callable[[list[Place], list[TypedSize | None]], Drawing]


def describe_tools() -> list[dict[str, Any]]:
    """Every tool as plain data for the screen."""
    return [
        {
            "kind": kind_of(tool),
            "word": tool.word,
            "chord": tool.chord,
            "icon": tool.icon,
            "steps": list(tool.steps),
            "band": tool.band,
            "sizes": [{"label": s.label, "angle": s.dimension == ANGLE} for s in tool.sizes],
            "chains": tool.chains,
            "hint": tool.hint,
        }
        for tool in TOOLS
    ]


def direction(a: tuple[float, float], b: tuple[float, float]) -> tuple[float, float]:
    """Unit vector from a to b; refuses points that coincide."""
    dx, dy = b[0] - a[0], b[1] - a[1]
    long = math.hypot(dx, dy)
    if long < 1e-9:
        raise BadInput("These two points are at one place; put the second somewhere else or type a size.")
    return dx / long, dy / long
