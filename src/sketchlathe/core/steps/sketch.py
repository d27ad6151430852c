"""Sketch: curves on a plane. It makes no solid; later steps pick its regions."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from ..errors import CannotBuild
from ..sketch.document import Sketch
from .base import Step
from .blanks import Blank, PlaneRef

if TYPE_CHECKING:
    from ..model.building import Context


class SketchStep(Step):
    """A sketch on an origin plane or a flat face."""

    kind: Literal["sketch"] = "sketch"
    word: ClassVar[str] = "Sketch"
    chord: ClassVar[str] = "sk"
    group: ClassVar[str] = "draw"
    order: ClassVar[int] = 1
    icon: ClassVar[str] = "M4 20h16M6 16l1-4L16 3l3 3-9 9z"
    hint: ClassVar[str] = "Pick a plane or a flat face to draw on."
    sentence: ClassVar[str] = "on the {plane}"
    makes_solid: ClassVar[bool] = False

    plane: Annotated[PlaneRef, Blank("plane", "plane", "Pick an origin plane or a flat face.")]
    sketch: Sketch = Sketch()

    def key_parts(self, context: Context) -> Any:
        frame, sketch = context.frame_of(self.plane), context.evaluated(self.sketch)
        return [sketch.model_dump(mode="json"), dict(sketch.values), frame.as_json()]

    def build(self, context: Context) -> None:
        frame = context.frame_of(self.plane)
        sketch = context.evaluated(self.sketch)
        off = sketch.unmet()
        if off:
            raise CannotBuild(
                f"This sketch cannot have all its sizes at once: {off}. Its shape is kept as it was; change a size.",
                where=self.id,
            )
        context.put_sketch(self.id, frame, sketch)
