"""What a step sees while it is built, and where it puts its result."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, Any

from ..frames import Frame, Triple
from ..sketch.document import Sketch
from ..sketch.regions import arrange
from .picked import Picked
from .results import Datum, Hand, PartBuild, SketchState, Solids, StepResult

if TYPE_CHECKING:
    from ..mesh.surface import Surface
    from ..model.document import Model
    from ..sheet.puts import Put, Size
    from ..solid.naming import Body
    from ..steps.base import Step
    from .mechanism import Link


class Context(Picked):
    """What a step sees while it is built, and where it puts its result."""

    def __init__(
        self,
        model: Model,
        given: Solids,
        done: Mapping[str, StepResult],
        step: Step | None = None,
        others: Callable[[str, str], PartBuild] | None = None,
    ) -> None:
        self.done = done
        self._given = given
        self._bodies: tuple[Body, ...] | None = None  # those that it was given, until it makes others
        self.advice = []
        self._model, self._step, self._others = model, step, others
        self._edges = {}
        self._doubts = {}
        self.sketch: SketchState | None = None
        self.afterwards: list[str] = []
        self.handle: dict[str, Any] | None = None
        self.spots: tuple[tuple[str, Triple], ...] = ()  # members of a pattern by name, and where they stand
        self.tools: tuple[Body, ...] = ()
        self.tool_result = ""
        self.took: list[str] = []  # sizes that nobody typed: they are in a table
        self.along = 0  # edges that were rounded or cut off
        self.worked_on: tuple[str, ...] = ()  # ids of the bodies that took part
        self.datum: Datum | None = None
        self.reference: Surface | None = None
        self.pulls: tuple[tuple[str, str, Triple], ...] = ()  # placed bodies, what they stand on, how they come off
        self.hands: tuple[Hand, ...] = ()
        self.links: tuple[Link, ...] = ()  # relations put in force
        self.went: dict[str, Sequence[float]] = {}  # how bodies were moved by them
        self.free: dict[str, str] = {}  # what placed bodies may still do
        self.moved: dict[str, Any] = {}  # curves of a sketch that have followed the solid
        self.put: Put | None = None  # what it puts on a sheet
        self.sizes: list[Size] = []  # what a sheet says of it as sizes in views

    @property
    def found(self) -> tuple[Body, ...]:
        """The bodies as the step found them: asked for only where the step depends on them."""
        return self._given.made.bodies

    @property
    def bodies(self) -> tuple[Body, ...]:
        """The bodies as the step leaves them."""
        return self.found if self._bodies is None else self._bodies

    @bodies.setter
    def bodies(self, bodies: tuple[Body, ...]) -> None:
        self._bodies = bodies

    @property
    def changed(self) -> bool:
        """Whether the step has made other bodies."""
        return self._bodies is not None

    def untouched_since(self, result: StepResult, body: Body) -> bool:
        """Whether nothing was done with a body after an earlier step, this one included."""
        states = [r.states for r in self.done.values()][-1:]
        same = any(body.id in now and now[body.id] == result.states.get(body.id) for now in states)
        return same and any(b.shape is body.shape for b in self.found)

    def heights(self, frame: Frame) -> tuple[float, float]:
        """Lowest and highest point of all bodies over a plane, mm; (0, 0) without bodies."""
        return heights_over(self.bodies, frame)

    def hand_before(self, body: Body) -> Hand | None:
        """How a body could be moved by hand before this step; None where something else was done with it since."""
        for result in reversed([r for r in self.done.values() if r.step != (self._step.id if self._step else "")]):
            for hand in result.hands:
                if hand.body == body.id:
                    return hand if self.untouched_since(result, body) else None
        return None

    def replace(self, old: Body, new: Sequence[Body]) -> None:
        """Put other bodies in the place of one."""
        self.bodies = tuple(n for b in self.bodies for n in (new if b.id == old.id else (b,)))
        self._edges.clear()

    def put_sketch(self, step_id: str, frame: Frame, sketch: Sketch) -> None:
        """This step's result is a sketch."""
        self.sketch = SketchState(frame, sketch, arrange(sketch.curves, sketch.size))

    def combine(self, step: Step, tools: Sequence[Body], result: str, only: Sequence[str] = ()) -> None:
        """Put new shapes and what is there together: add, cut, overlap or separate; with some bodies only, if named."""
        from . import combining

        chosen = [b.id for b in self.bodies_of(only)] if only else ()

        self.tools = tuple(tools)
        self.tool_result = result
        before = self.bodies
        self.bodies, advice = combining.combine(self.bodies, tools, result, step.id, chosen)
        self.worked_on = combining.worked_on(before, self.bodies)
        self.advice.extend(advice)


def heights_over(bodies: Sequence[Body], frame: Frame) -> tuple[float, float]:
    """Lowest and highest point of bodies over a plane, mm; (0, 0) without bodies."""
    from ..solid.measuring import rough_box

    heights = [0.0] if not bodies else []
    for body in bodies:
        low, high = rough_box(body.shape)
        corners = [(x, y, z) for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])]
        heights.extend(frame.height(c) for c in corners)
    return min(heights), max(heights)
