"""Building a part: its steps in order, each cached under a digest of everything it depends on.

A step's key is a digest of its own fields (formulas evaluated), the keys of what it picks from and, for steps that make
solids, the key of the solids before it. Same key, same result. A step that fails leaves the solids before it in place.
"""

from __future__ import annotations

import hashlib
import json
from collections import OrderedDict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

from ..errors import BadInput, CannotBuild, Trouble
from ..quantity import evaluate
from ..quantity.units import ANGLE, LENGTH, NUMBER
from ..sketch.document import Sketch
from ..sketch.regions import Arrangement, Region, arrange, resolve
from ..solid.frames import ORIGIN_PLANES, Frame, dot
from .advice import Advice
from .references import find_faces

if TYPE_CHECKING:
    from ..solid.naming import Body
    from ..steps.base import Step
    from ..steps.blanks import PlaneRef, RegionPick
    from .document import Model, Part

_DIMENSIONS = {"length": LENGTH, "angle": ANGLE, "count": NUMBER}


@dataclass(frozen=True)
class SketchState:
    """A built sketch: its plane, its curves with evaluated sizes, its regions."""

    frame: Frame
    sketch: Sketch
    arrangement: Arrangement

    def middle_of(self, regions: Sequence[Region]) -> tuple[float, float]:
        """A place amid some regions, in sketch coordinates: the middle of the largest one's vertices."""
        largest = max(regions, key=lambda r: r.area)
        ends = [self.arrangement.edges[h // 2].start for h in largest.outer.half_edges]
        if len(ends) == 1:
            piece = self.arrangement.edges[largest.outer.half_edges[0] // 2].piece
            centre: tuple[float, float] = piece.centre  # type: ignore[union-attr]
            return centre
        xs, ys = zip(*(self.arrangement.vertices[v] for v in ends))
        return (min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2


@dataclass(frozen=True)
class StepResult:
    """What came of one step. ``status``: ok, failed, skipped, after (beyond the Now line)."""

    step: str
    key: str
    status: str
    bodies: tuple[Body, ...]
    solid_key: str
    sketch: SketchState | None = None
    message: str = ""
    where: str = ""
    advice: tuple[Advice, ...] = ()
    blame: tuple[object, ...] = ()
    handle: Mapping[str, Any] | None = None
    tools: tuple[Body, ...] = ()


@dataclass(frozen=True)
class PartBuild:
    """A built part: a result for each of its steps, and the solids at the end."""

    part: str
    steps: tuple[StepResult, ...]
    bodies: tuple[Body, ...]
    solid_key: str


class BuildCache:
    """Results by key, bounded, least recently used first out."""

    def __init__(self, limit: int = 400) -> None:
        self._limit = limit
        self._kept: OrderedDict[str, StepResult] = OrderedDict()

    def get(self, key: str) -> StepResult | None:
        """The result under a key, if it is still kept."""
        found = self._kept.get(key)
        if found is not None:
            self._kept.move_to_end(key)
        return found

    def put(self, result: StepResult) -> None:
        """Keep a result."""
        self._kept[result.key] = result
        self._kept.move_to_end(result.key)
        while len(self._kept) > self._limit:
            self._kept.popitem(last=False)


class Context:
    """What a step sees while it is built, and where it puts its result."""

    def __init__(self, model: Model, bodies: tuple[Body, ...], done: Mapping[str, StepResult]) -> None:
        self._model = model
        self._done = done
        self.bodies = bodies
        self.sketch: SketchState | None = None
        self.advice: list[Advice] = []
        self.handle: dict[str, Any] | None = None
        self.tools: tuple[Body, ...] = ()

    def value(self, step: Step, field_name: str) -> float:
        """The number in a blank, in mm, rad or plain."""
        blank = step.blanks()[field_name]
        try:
            got = evaluate(
                getattr(step, field_name),
                self._model.table.values,
                wanted=_DIMENSIONS[blank.type],
                length_unit=self._model.units,
            )
        except BadInput as problem:
            raise CannotBuild(problem.message, where=field_name) from problem
        return got.value

    def evaluated(self, sketch: Sketch) -> Sketch:
        """A sketch with its formulas evaluated."""
        try:
            return sketch.valued(self._model.table.values, self._model.units)
        except BadInput as problem:
            raise CannotBuild(problem.message, where=problem.where) from problem

    def key_of(self, step_id: str) -> str:
        """The key of an earlier step's result, or why there is none."""
        return self._result(step_id).key

    def _result(self, step_id: str) -> StepResult:
        result = self._done.get(step_id)
        if result is None:
            title = self._model.title_of(step_id)
            raise CannotBuild(f"{title} comes later or is gone; this step needs it before itself.")
        if result.status == "skipped":
            raise CannotBuild(f"{self._model.title_of(step_id)} is skipped, and this step needs it.")
        if result.status == "failed":
            raise CannotBuild(f"{self._model.title_of(step_id)} could not be built, and this step needs it.")
        return result

    def frame_of(self, plane: PlaneRef) -> Frame:
        """The plane a sketch lies on."""
        if plane.plane:
            return ORIGIN_PLANES[plane.plane]
        if plane.face is None:
            raise CannotBuild("Pick a plane or a flat face to draw on.", where="plane")
        from ..solid.digest import frame_of_face

        found = find_faces(plane.face, self.bodies)
        frames = {f for c in found.faces if (f := frame_of_face(c.body, c.index)) is not None}
        if not frames:
            raise CannotBuild("The face picked here is not flat any more: pick another.", where="plane")
        if not _one_plane(list(frames)):
            raise CannotBuild(
                "The face picked here is now several faces on different planes: pick again.", where="plane"
            )
        if found.advice and len(found.faces) == 1:
            self.advice.append(Advice(found.advice))
        return min(frames, key=lambda f: (f.origin, f.x))

    def put_sketch(self, step_id: str, frame: Frame, sketch: Sketch) -> None:
        """This step's result is a sketch."""
        self.sketch = SketchState(frame, sketch, arrange(sketch.curves, sketch.size))

    def regions_of(self, step: Step, sketch_id: str) -> tuple[SketchState, list[Region]]:
        """The regions that a step's picks in one sketch mean now."""
        state = self._result(sketch_id).sketch
        if state is None:
            raise CannotBuild(f"{self._model.title_of(sketch_id)} is not a sketch.", where="regions")
        picks: tuple[RegionPick, ...] = getattr(step, "regions")  # noqa: B009
        found: dict[int, Region] = {}
        for pick in picks:
            if pick.sketch != sketch_id:
                continue
            answer = resolve(state.arrangement, pick.sides, pick.known)
            if not answer.regions:
                raise CannotBuild(
                    f"A region picked in {self._model.title_of(sketch_id)} is lost: {answer.why}. Pick it again.",
                    where="regions",
                )
            if len(answer.regions) > 1:
                self.advice.append(
                    Advice(f"A picked region is now in {len(answer.regions)} pieces; all of them are used.")
                )
            found.update({r.index: r for r in answer.regions})
        return state, list(found.values())

    def heights(self, frame: Frame) -> tuple[float, float]:
        """Lowest and highest point of all bodies over a plane, mm; (0, 0) without bodies."""
        return heights_over(self.bodies, frame)

    def combine(self, step: Step, tools: Sequence[Body], result: str) -> None:
        """Put new shapes and what is there together: add, cut, overlap or separate."""
        from . import combining

        self.tools = tuple(tools)
        self.bodies, advice = combining.combine(self.bodies, tools, result, step.id)
        self.advice.extend(Advice(text) for text in advice)


def heights_over(bodies: Sequence[Body], frame: Frame) -> tuple[float, float]:
    """Lowest and highest point of bodies over a plane, mm; (0, 0) without bodies."""
    from ..solid.measuring import rough_box

    heights = [0.0] if not bodies else []
    for body in bodies:
        low, high = rough_box(body.shape)
        corners = [(x, y, z) for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])]
        heights.extend(frame.height(c) for c in corners)
    return min(heights), max(heights)


def _one_plane(frames: list[Frame]) -> bool:
    first = frames[0]
    return all(dot(f.normal, first.normal) > 1 - 1e-9 and abs(first.height(f.origin)) < 1e-6 for f in frames)


def digest_of(parts: Any) -> str:
    """A key from plain data."""
    text = json.dumps(parts, sort_keys=True, separators=(",", ":"), default=str)
    return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()


Progress = Callable[[str, str, int, int], None]


def build(
    model: Model,
    part: Part,
    cache: BuildCache,
    *,
    progress: Progress | None = None,
    barred: Mapping[str, str] | None = None,
) -> PartBuild:
    """Build a part up to its Now line. ``progress(step id, key, number, count)`` comes before each step not cached.

    ``barred`` gives, by key, steps that took a worker down before, and what to say of them.
    """
    limit = len(part.steps) if part.now is None else part.now
    results: list[StepResult] = []
    done: dict[str, StepResult] = {}
    bodies: tuple[Body, ...] = ()
    solid_key = "empty"
    for number, step in enumerate(part.steps):
        if number >= limit or step.skipped:
            status = "after" if number >= limit else "skipped"
            result = StepResult(step.id, "", status, bodies, solid_key)
        else:
            context = Context(model, bodies, done)
            result = _build_step(step, context, solid_key, cache, progress, number, limit, barred or {})
        results.append(result)
        if result.status != "after":
            done[step.id] = result
        bodies, solid_key = result.bodies, result.solid_key
    return PartBuild(part.id, tuple(results), bodies, solid_key)


def _build_step(
    step: Step,
    context: Context,
    solid_key: str,
    cache: BuildCache,
    progress: Progress | None,
    number: int,
    count: int,
    barred: Mapping[str, str],
) -> StepResult:
    before = context.bodies
    key = ""
    try:
        key = digest_of([type(step).__name__, step.key_parts(context), solid_key if step.makes_solid else ""])
        cached = cache.get(key)
        if cached is not None:
            # a sketch's result does not carry the solids it was built among
            return cached if step.makes_solid else _among(cached, before, solid_key)
        if key in barred:
            raise CannotBuild(barred[key])
        if progress is not None:
            progress(step.id, key, number, count)
        step.build(context)
    except Trouble as problem:
        fixes = tuple(getattr(problem, "fixes", ()))
        blame = tuple(getattr(problem, "blame", ()))
        result = StepResult(
            step.id,
            key,
            "failed",
            before,
            solid_key,
            None,
            problem.message,
            problem.where or "",
            fixes,
            blame,
            context.handle,
            context.tools,
        )
        return _kept(cache, result) if key and key not in barred else result
    after = context.bodies if step.makes_solid else before
    new_key = digest_of(["solid", key]) if step.makes_solid else solid_key
    return _kept(
        cache,
        StepResult(
            step.id,
            key,
            "ok",
            after,
            new_key,
            context.sketch,
            advice=tuple(context.advice),
            handle=context.handle,
            tools=context.tools,
        ),
    )


def _kept(cache: BuildCache, result: StepResult) -> StepResult:
    cache.put(result)
    return result


def _among(result: StepResult, bodies: tuple[Body, ...], solid_key: str) -> StepResult:
    return replace(result, bodies=bodies, solid_key=solid_key)
