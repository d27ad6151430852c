"""Parallel and perpendicular lines. The turn between them (0, π, ±π/2) is the drawing's."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Any, ClassVar, Literal

from ..equations import residuals as kinds
from .base import Constraint, Does

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows


def angle_between(sketch: Sketch, a: str, b: str) -> float:
    """Turn from line ``a`` to line ``b`` in (-π, π]."""
    (ax, ay), (bx, by) = sketch.ends(a)
    (cx, cy), (dx, dy) = sketch.ends(b)
    ux, uy, wx, wy = bx - ax, by - ay, dx - cx, dy - cy
    return math.atan2(ux * wy - uy * wx, ux * wx + uy * wy)


class _Direction(Constraint):
    """Two lines at a set turn."""

    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("line", "line"),)
    hint: ClassVar[str] = "It takes two lines."
    choices: ClassVar[tuple[float, ...]]
    turn: float = 0.0

    @classmethod
    def branch(cls, sketch: Sketch, refs: tuple[str, ...]) -> dict[str, Any]:
        now = angle_between(sketch, *refs)
        return {"turn": min(cls.choices, key=lambda c: abs(math.remainder(now - c, 2 * math.pi)))}

    def say(self, rows: Rows, sketch: Sketch) -> None:
        a, b = self.on
        rows.add(kinds.ANGLE, (*rows.layout.ends(a), *rows.layout.ends(b)), (self.turn, 0.0))


class Parallel(_Direction):
    """Two lines run the same way."""

    kind: Literal["parallel"] = "parallel"
    word: ClassVar[str] = "parallel"
    symbol: ClassVar[str] = "∥"
    chord: ClassVar[str] = "kp"
    order: ClassVar[int] = 5
    choices: ClassVar[tuple[float, ...]] = (0.0, math.pi)


class Perpendicular(_Direction):
    """Two lines are at right angles."""

    kind: Literal["perpendicular"] = "perpendicular"
    word: ClassVar[str] = "perpendicular"
    symbol: ClassVar[str] = "⊥"
    does: ClassVar[frozenset[Does]] = frozenset({"meets"})
    chord: ClassVar[str] = "kr"
    order: ClassVar[int] = 6
    choices: ClassVar[tuple[float, ...]] = (math.pi / 2, -math.pi / 2)
