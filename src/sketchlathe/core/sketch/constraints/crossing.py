"""A point lies where two curves cross."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Literal

from .base import Constraint, Mark
from .coincident import point_ref, put_on

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows


class Crossing(Constraint):
    """A point on two curves at once."""

    kind: Literal["crossing"] = "crossing"
    word: ClassVar[str] = "on intersection"
    symbol: ClassVar[str] = "∩"
    chord: ClassVar[str] = "kn"
    order: ClassVar[int] = 12
    takes: ClassVar[tuple[tuple[str, ...], ...]] = (
        ("point", "line", "line"),
        ("point", "line", "round"),
        ("point", "round", "round"),
        ("point", "line", "elliptic"),
        ("point", "round", "elliptic"),
    )
    hint: ClassVar[str] = "It takes a point and two lines, circles, arcs or ellipses."

    def say(self, rows: Rows, sketch: Sketch) -> None:
        point = point_ref(sketch, self.on[0])
        for target in self.on[1:]:
            put_on(rows, sketch, point, target, self)

    def marks(self, sketch: Sketch) -> list[Mark]:
        return [Mark(*sketch.anchor(self.on[0]))]
