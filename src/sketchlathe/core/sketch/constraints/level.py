"""Horizontal and vertical: of a line, of two points, of a point and the middle of a line."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar, Literal

from ..equations import residuals as kinds
from .base import Constraint, Does, Mark
from .coincident import point_ref

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows

_TAKES = (("line",), ("point", "point"), ("point", "line"))
_HINT = "It takes a line, two points, or a point and a line whose middle it is to be level or plumb with."


class _Level(Constraint):
    """One coordinate of two points is the same."""

    coordinate: ClassVar[int]

    def needs_ends(self, sketch: Sketch) -> bool:
        return len(self.on) == 2 and "line" in sketch.tags_of(self.on[1])

    def say(self, rows: Rows, sketch: Sketch) -> None:
        if self.needs_ends(sketch):
            ends = rows.layout.ends(self.on[1])
            point = rows.layout.xy(point_ref(sketch, self.on[0]))
            rows.add(kinds.MIDDLE, (point[self.coordinate], ends[self.coordinate], ends[2 + self.coordinate]))
        elif len(self.on) == 1:
            ends = rows.layout.ends(self.on[0])
            rows.same(ends[self.coordinate], ends[2 + self.coordinate])
        else:
            a, b = (rows.layout.xy(point_ref(sketch, ref)) for ref in self.on)
            rows.same(a[self.coordinate], b[self.coordinate])

    def marks(self, sketch: Sketch) -> list[Mark]:
        return [Mark(*sketch.anchor(ref)) for ref in self.on]


class Horizontal(_Level):
    """A line is horizontal, or two points are level."""

    kind: Literal["horizontal"] = "horizontal"
    word: ClassVar[str] = "horizontal"
    symbol: ClassVar[str] = "–"
    does: ClassVar[frozenset[Does]] = frozenset({"levels"})
    chord: ClassVar[str] = "kh"
    order: ClassVar[int] = 2
    takes: ClassVar[tuple[tuple[str, ...], ...]] = _TAKES
    hint: ClassVar[str] = _HINT
    coordinate: ClassVar[int] = 1


class Vertical(_Level):
    """A line is vertical, or two points are plumb."""

    kind: Literal["vertical"] = "vertical"
    word: ClassVar[str] = "vertical"
    symbol: ClassVar[str] = "|"
    does: ClassVar[frozenset[Does]] = frozenset({"levels"})
    chord: ClassVar[str] = "kv"
    order: ClassVar[int] = 3
    takes: ClassVar[tuple[tuple[str, ...], ...]] = _TAKES
    hint: ClassVar[str] = _HINT
    coordinate: ClassVar[int] = 0
