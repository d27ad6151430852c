"""Say sizes: the model's own numbers, put where they read best."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..blanks import Blank
from ..frames import Triple
from ..sheet.puts import Size, Sizes, dimension_words, in_words, over_all
from .base import said_in_numbers
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
        whole = over_all(low, high, [dimension_words(h - l, context.model.read_in) for l, h in zip(low, high)])
        if self.which == "over_all":
            context.put = Sizes(self.part, (), whole)
            return
        done = [r for r in built.steps if r.status == "ok"]
        units = context.model.read_in
        steps = {s.id: s for s in context.model.part(self.part).steps}
        # a sketch that nothing is made of is no part of the part
        used = {id for r in done for id in steps[r.step].uses()}
        sizes = [size for r in done if r.step in used for size in _of_sketch(r, context)]
        sizes += [replace(size, text=in_words(size.text, units)) for r in done for size in r.sizes]
        words = [
            said_in_numbers(steps[r.step], context.model)
            for r in done
            if r.sketch is None and (not r.sizes or steps[r.step].wants_words())
        ]
        context.put = Sizes(self.part, tuple(sizes), whole, tuple(words) if self.rest == "words" else ())


def _of_sketch(result: StepResult, context: Context) -> Iterator[Size]:
    """What is typed in a sketch."""
    from ..sketch.view import live_view

    if result.sketch is None:
        return
    for d in live_view(result.sketch.sketch, context.model.read_in)["dimensions"]:
        if d["driving"]:
            yield Size(d["form"], result.sketch.frame, tuple(d["points"]), d["label"], d["text"], result.step, d["id"])
