"""Sketch: curves on a plane. It makes no solid; later steps pick its regions."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import Field

from ..advice import Advice
from ..blanks import Blank, Pick, PlaneRef, Taken
from ..errors import CannotBuild
from ..saying import listed, opens
from ..sketch.changes.vanishing import without_vanished
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

    def stands_on(self, context: Context) -> Any:
        if (self.plane.face is None and not self.taken) or self.plots:
            return None
        uses = [context.key_of(step) for step in self.uses()]
        return [self.model_dump(mode="json", exclude={"name", "underlay"}), context.evaluated(self.sketch).values, uses]

    def build(self, context: Context) -> None:
        from ..sketch.solver.solving import Verdict, solve

        frame = context.frame_of(self.plane)
        gone: list[str] = []
        followed = self.followed(context, gone)
        sketch = context.evaluated(followed)
        if followed is not self.sketch:
            solution = solve(sketch)
            if solution.verdict is not Verdict.SOLVED:
                raise self._cannot_follow(context, gone)
            sketch = solution.sketch
            if len(sketch.curves) == len(self.sketch.curves):
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

    def _cannot_follow(self, context: Context, gone: Sequence[str]) -> CannotBuild:
        """That the sketch cannot follow the solid: because of which curves, and what can be done."""
        if not gone:
            return CannotBuild(
                "The solid has changed so that this sketch cannot follow it: open it and look.", where=self.id
            )
        names = listed([self.sketch.name_of(id) for id in gone])
        be, it, was = ("is", "it", "it was") if len(gone) == 1 else ("are", "them", "they were")
        problem = CannotBuild(
            f"{opens(names)}, taken from the solid, {be} not there any more, and this sketch cannot follow the rest "
            f"with {it} where {was}.",
            where=self.id,
        )
        delete = {"kind": "delete_from_sketch", "sketch": self.id, "ids": list(gone)}
        problem.fixes = (Advice(problem.message, f"delete {names}", edits=(delete,)),)
        return problem

    def _without(self, context: Context, sketch: Sketch, gone: Sequence[str]) -> Sketch:
        """What is gone from the solid is left out while it is: the curves beside it meet, or it stays where it was."""
        names = listed([self.sketch.name_of(id) for id in gone])
        be, it = ("is", "it") if len(gone) == 1 else ("are", "them")
        left, needed = without_vanished(sketch, gone)
        delete = {"kind": "delete_from_sketch", "sketch": self.id, "ids": list(gone)}
        if needed:
            where = "it was" if len(gone) == 1 else "they were"
            text = (
                f"{opens(names)}, taken from the solid, {be} gone, and stay{'s' if be == 'is' else ''} where {where}: "
            )
            context.advice.append(Advice(f"{text}{listed(needed)} need{'s' if len(needed) == 1 else ''} {it}."))
        else:
            text = f"{opens(names)}, taken from the solid, {be} gone: this sketch goes on without {it}"
            context.advice.append(Advice(f"{text}.", f"delete {it}", edits=(delete,)))
        return left

    def followed(self, context: Context, gone: list[str] | None = None) -> Sketch:
        """The sketch with what it took from the solid where the solid is now (the same object if nothing moved),
        without what is there no more; ids of such curves are added to ``gone``.
        """
        if not self.taken:
            return self.sketch
        frame = context.frame_of(self.plane)
        changed: dict[str, Any] = {}
        lost: list[str] = []
        for taken in self.taken:
            if taken.curve not in self.sketch:
                continue
            old = self.sketch.curve(taken.curve)
            raw = _now(context, taken, frame, old.kind)
            if raw is None:
                lost.append(taken.curve)
                continue
            new = CURVES.parse({**raw, "id": old.id, "construction": old.construction, "taken": True})
            if not _same(old, new):
                changed[old.id] = new
        sketch = self.sketch
        if changed:
            sketch = sketch.with_curves(changed.get(c.id, c) for c in sketch.curves)
        if lost:
            if gone is not None:
                gone += lost
            sketch = self._without(context, sketch, lost)
        return sketch


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
