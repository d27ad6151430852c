"""Sketch: curves on a plane. It makes no solid; later steps pick its regions."""

from __future__ import annotations

from collections.abc import Iterator
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..advice import Advice
from ..blanks import Blank, Pick, PlaneRef, Taken
from ..errors import CannotBuild
from ..sketch.curves import CURVES
from ..sketch.document import Sketch
from ..sketch.plots import Plot
from ..sketch.underlay import Underlay
from .base import Step

if TYPE_CHECKING:
    from ..frames import Frame
    from ..making.context import Context


MOST_TAKEN = 1000
MOST_PLOTS = 100


class SketchStep(Step):
    """A sketch on an origin plane, a flat face or a datum plane. ``taken`` says which of its curves follow the solid,
    ``plots`` which follow formulas.
    """

    kind: Literal["sketch"] = "sketch"
    word: ClassVar[str] = "Sketch"
    chord: ClassVar[str] = "sk"
    synonyms: ClassVar[str] = "draw profile"
    group: ClassVar[str] = "draw"
    order: ClassVar[int] = 1
    icon: ClassVar[str] = "M4 20h16M6 16l1-4L16 3l3 3-9 9z"
    hint: ClassVar[str] = "Pick a plane or a flat face to draw on."
    sentence: ClassVar[str] = "on the {plane}"
    makes_solid: ClassVar[bool] = False
    drawn: ClassVar[bool] = True
    begins: ClassVar[bool] = True

    plane: Annotated[PlaneRef, Blank("plane", "plane", "Pick an origin plane or a flat face.")]
    sketch: Sketch = Sketch()
    taken: tuple[Taken, ...] = Field(default=(), max_length=MOST_TAKEN)
    plots: tuple[Plot, ...] = Field(default=(), max_length=MOST_PLOTS)
    underlay: Underlay | None = None  # nothing is built from it

    def picks(self) -> Iterator[Pick]:
        yield from super().picks()
        yield from self.taken

    def key_parts(self, context: Context) -> Any:
        frame, sketch = context.frame_of(self.plane), context.evaluated(self.followed(context))
        plots = [context.plot_problem(plot, sketch) for plot in self.plots]
        return [sketch.model_dump(mode="json"), dict(sketch.values), frame.as_json(), self.plane.model_dump(), *plots]

    def build(self, context: Context) -> None:
        from ..sketch.solver.solving import Verdict, solve

        frame = context.frame_of(self.plane)
        followed = self.followed(context)
        sketch = context.evaluated(followed)
        if followed is not self.sketch:
            solution = solve(sketch)
            if solution.verdict is not Verdict.SOLVED:
                raise CannotBuild(
                    "The solid has changed so that this sketch cannot follow it: open it and look.", where=self.id
                )
            sketch = solution.sketch
            context.moved = {c.id: c.model_dump(mode="json") for c in sketch.curves if c != self.sketch.curve(c.id)}
        for problem in filter(None, (context.plot_problem(plot, sketch) for plot in self.plots)):
            raise CannotBuild(f"A curve by formulas cannot follow them, and is kept as it was: {problem}")
        off = sketch.unmet()
        if off:
            raise CannotBuild(
                f"This sketch cannot have all its sizes at once: {off}. Its shape is kept as it was; change a size.",
                where=self.id,
            )
        context.put_sketch(self.id, frame, sketch)

    def followed(self, context: Context) -> Sketch:
        """The sketch with what it took from the solid where the solid is now (the same object if nothing moved)."""
        if not self.taken:
            return self.sketch
        frame = context.frame_of(self.plane)
        changed: dict[str, Any] = {}
        for taken in self.taken:
            if taken.curve not in self.sketch:
                continue
            old = self.sketch.curve(taken.curve)
            raw = _now(context, taken, frame, old.kind)
            if raw is None:
                context.advise_once("Something this sketch took from the solid is gone; it stays where it was.")
                continue
            new = CURVES.parse({**raw, "id": old.id, "construction": old.construction, "taken": True})
            if not _same(old, new):
                changed[old.id] = new
        if not changed:
            return self.sketch
        return self.sketch.with_curves(changed.get(c.id, c) for c in self.sketch.curves)


def _now(context: Context, taken: Taken, frame: Frame, kind: str) -> dict[str, Any] | None:
    from ..solid.projecting import retaken, sections

    try:
        if taken.edge is not None:
            edges = next(iter(context.edges_of([taken.edge]).values()))
            return retaken(edges[0], frame)
        if taken.face is not None:
            face = context.faces_of([taken.face])[0]
            found = [raw for index, raw in sections(face.body, frame) if index == face.index]
            return next((raw for raw in found if raw["kind"] == kind), found[0] if found else None)
    except CannotBuild:
        return None
    return None


def _same(a: Any, b: Any) -> bool:
    if a.kind != b.kind or len(a.scalars) != len(b.scalars):
        return False
    for one, two in zip(a.scalars.values(), b.scalars.values()):
        pairs = zip(one, two) if isinstance(one, tuple) else ((one, two),)
        if any(abs(u - v) > 1e-9 for u, v in pairs):
            return False
    return True


__all__ = ["Advice", "SketchStep"]
