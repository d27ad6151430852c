"""A point or curve stays where it is."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Literal

from .base import Constraint, Does
from .coincident import point_ref

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows


class Fixed(Constraint):
    """Held where it was drawn."""

    kind: Literal["fixed"] = "fixed"
    word: ClassVar[str] = "fixed"
    symbol: ClassVar[str] = "×"
    does: ClassVar[frozenset[Does]] = frozenset({"holds"})
    chord: ClassVar[str] = "kx"
    order: ClassVar[int] = 10
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("point",), ("curve",))
    hint: ClassVar[str] = "It takes one point or curve."

    def say(self, rows: Rows, sketch: Sketch) -> None:
        ref = self.on[0]
        if "point" in sketch.tags_of(ref):
            for scalar in rows.layout.xy(point_ref(sketch, ref)):
                rows.pin(scalar)
        else:
            for scalar in range(*rows.layout.spans[ref]):
                rows.pin(scalar)
