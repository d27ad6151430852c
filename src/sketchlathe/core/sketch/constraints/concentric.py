"""Two circles or arcs about one centre, or a circle about a point."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Literal

from .base import Constraint

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows


class Concentric(Constraint):
    """Two circles, arcs or ellipses share their centre."""

    kind: Literal["concentric"] = "concentric"
    word: ClassVar[str] = "concentric"
    symbol: ClassVar[str] = "◎"
    chord: ClassVar[str] = "kc"
    order: ClassVar[int] = 8
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (("centred", "centred"),)
    hint: ClassVar[str] = "It takes two circles, arcs or ellipses."

    def say(self, rows: Rows, sketch: Sketch) -> None:
        rows.same_point(*(f"{ref}.centre" for ref in self.on))
