"""Say sizes: the model's own numbers, put where they read best."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..blanks import Blank
from ..frames import Frame, Triple, cross, dot, unit
from ..quantity.units import LENGTH, show
from ..sheet.puts import Size, Sizes, over_all
from .base import Step, said_in_numbers
from .sheet_line import SheetLine

if TYPE_CHECKING:
    from ..making.context import Context
    from ..making.results import StepResult


class SaySizesLine(SheetLine):
    """Sizes of a part, in the views that show them true."""

    kind: Literal["say_sizes"] = "say_sizes"
    word: ClassVar[str] = "Say sizes"
    chord: ClassVar[str] = "ys"
    synonyms: ClassVar[str] = "dimension dimensions annotate measure"
    order: ClassVar[int] = 3
    icon: ClassVar[str] = "M4 5v13M19 5v13M4 11.500h15M7 9l-3 2.500L7 14M16 9l3 2.500L16 14"
    hint: ClassVar[str] = "Choose a part: its sizes go into the views of it that show them true."
    sentence: ClassVar[str] = "Say {which} of {part}[, {rest}]"

    which: Annotated[
        Literal["all", "over_all"],
        Blank("choice", "which sizes", words={"all": "all sizes", "over_all": "the sizes over all"}),
    ] = "all"
    part: Annotated[str, Blank("part", "part", "Whose sizes."), Field(max_length=20)] = ""
    rest: Annotated[
        Literal["words", "nothing"],
        Blank(
            "choice", "what else", "Steps that no sketch has the numbers of.", optional=True,
            words={"words": "other steps in words", "nothing": "other steps not"}, when=("which", ("all",)),
        ),
    ] = "words"  # fmt: skip

    def brings(self) -> str:
        return self.part

    def key_parts(self, context: Context) -> Any:
        built = context.part_built(self.part, "part") if self.part else None
        said = [said_in_numbers(s, context.model) for s in context.model.part(self.part).steps] if built else []
        keys = [(r.key, r.status) for r in built.steps] if built else []
        return [*super().key_parts(context), keys, said, context.model.read_in]

    def build(self, context: Context) -> None:
        from ..solid.measuring import box_of

        built = self.shown_part(context, self.part)
        boxes = [box_of(b.shape) for b in built.bodies]
        low: Triple = tuple(min(b[0][i] for b in boxes) for i in range(3))  # type: ignore[assignment]
        high: Triple = tuple(max(b[1][i] for b in boxes) for i in range(3))  # type: ignore[assignment]
        whole = over_all(low, high, [_length(h - l, context) for l, h in zip(low, high)])
        if self.which == "over_all":
            context.put = Sizes(self.part, (), whole)
            return
        sizes, drawn = [], set()
        for step, result in zip(context.model.part(self.part).steps, built.steps):
            if result.status == "ok":
                found = [*_of_sketch(result, context), *_of_handle(step, result, context)]
                sizes += found
                if found and result.sketch is None:
                    drawn.add(step.id)
        words = tuple(
            said_in_numbers(step, context.model)
            for step, result in zip(context.model.part(self.part).steps, built.steps)
            if result.status == "ok" and result.sketch is None and step.id not in drawn
        )
        context.put = Sizes(self.part, tuple(sizes), whole, words if self.rest == "words" else ())


def _length(mm: float, context: Context) -> str:
    """A length as drawings write it: without its unit, which stands in the title block."""
    return show(mm, LENGTH, context.model.read_in, 3).removesuffix(f" {context.model.units}")


def _of_sketch(result: StepResult, context: Context) -> Iterator[Size]:
    """What is typed in a sketch."""
    from ..sketch.view import live_view

    if result.sketch is None:
        return
    for d in live_view(result.sketch.sketch, context.model.read_in)["dimensions"]:
        if d["driving"]:
            yield Size(d["form"], result.sketch.frame, tuple(d["points"]), d["label"], d["text"], result.step)


def _of_handle(step: Step, result: StepResult, context: Context) -> Iterator[Size]:
    """How far a step goes, where it has an arrow to be pulled by."""
    handle = result.handle
    if handle is None or not step.said_along:
        return
    value = context.value(step, str(handle["field"]))
    origin: Triple = tuple(handle["origin"])
    way: Triple = tuple(handle["direction"])
    # any plane along it will do: a view that shows the length true is found by its direction
    across = min(((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)), key=lambda a: abs(dot(a, way)))
    plane = Frame(origin, way, unit(cross(way, across)))
    start = -value / 2 if handle["factor"] == 2.0 else 0.0
    points = ((start, 0.0), (start + value, 0.0), (1.0, 0.0))
    yield Size("linear", plane, points, (start + value / 2, 0.0), _length(abs(value), context), step.id)
