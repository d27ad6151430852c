"""What all dimensions share: a formula, driving or reference, and the place of their text."""

from __future__ import annotations

from typing import TYPE_CHECKING, ClassVar

from pydantic import Field, PrivateAttr

from ...errors import BadInput
from ...quantity import LENGTH, Dimension
from ...saying import a, opens
from ..curves import Vec
from .base import Constraint, Figure, Mark

if TYPE_CHECKING:
    from ..document import Sketch
    from ..equations.rows import Rows


class Dimensional(Constraint):
    """A dimension. ``value`` is a formula; a reference dimension (``driving`` false) only measures."""

    measures: ClassVar[Dimension] = LENGTH
    scales: ClassVar[bool] = True  # as the first dimension of a sketch, it may scale the sketch

    value: str = Field(default="", max_length=400)
    name: str = Field(default="", max_length=40)  # other formulas of the sketch may use it
    driving: bool = True
    label: Vec | None = None

    _evaluated: float | None = PrivateAttr(default=None)

    def measure(self, sketch: Sketch) -> float:
        """What the drawing shows now, in mm or rad."""
        raise NotImplementedError

    def check_value(self, value: float) -> None:
        """Raise ``BadInput`` when no drawing can have this value."""
        if not 0 < value <= 1e6:
            what = "above zero" if value <= 0 else "at most 1 km"
            raise BadInput(f"{opens(a(self.word))} must be {what}.", where=self.id)

    def figure(self, sketch: Sketch) -> Figure:
        """How it is drawn."""
        raise NotImplementedError

    def equations(self, rows: Rows, sketch: Sketch, value: float) -> None:
        """The equations for ``value`` (mm or rad)."""
        raise NotImplementedError

    def say(self, rows: Rows, sketch: Sketch) -> None:
        if self.driving:
            value = sketch.value_of(self.id)
            self.equations(rows, sketch, self.measure(sketch) if value is None else value)

    def prefix(self) -> str:
        """What stands before the number on the drawing."""
        return ""

    def marks(self, sketch: Sketch) -> list[Mark]:
        return []

    def sentence(self, sketch: Sketch) -> str:
        on = " to ".join(sketch.name_of(ref) for ref in self.on)
        return f"{self.word} {self.value} ({on})" if self.driving else f"reference {self.word} ({on})"
