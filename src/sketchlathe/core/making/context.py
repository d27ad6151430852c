"""What a step sees while it is built: numbers, planes, axes, and what its picks mean now."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from typing import TYPE_CHECKING, Any

from ..advice import Advice
from ..blanks import AxisRef, CurvePick, EdgePick, RegionPick
from ..errors import BadInput, CannotBuild, Trouble
from ..frames import ORIGIN_PLANES, Frame, Triple, dot, unit
from ..quantity import evaluate
from ..quantity.units import ANGLE, LENGTH, NUMBER, LengthUnit, show_at_least, show_at_most
from ..sketch.changes.chains import chain_of, connected
from ..sketch.curves import Piece
from ..sketch.document import Sketch, ValuedSketch
from ..sketch.regions import Region, arrange, resolve
from ..together.grips import Grip
from .edge_references import ResolvedEdges, find_edges
from .lost_picks import explain_lost
from .references import Candidate, Resolved, find_faces
from .results import Datum, Hand, PartBuild, SketchState, StepResult

if TYPE_CHECKING:
    from ..blanks import FacePick, PlaneRef, PointPick, ThingPick
    from ..mesh.surface import Surface
    from ..model.document import Model
    from ..sketch.plots import Plot
    from ..solid.edges import NamedEdge
    from ..solid.naming import Body
    from ..solid.paths import Path
    from ..steps.base import Step

_DIMENSIONS = {"length": LENGTH, "angle": ANGLE, "count": NUMBER}


class Context:
    """What a step sees while it is built, and where it puts its result."""

    def __init__(
        self,
        model: Model,
        bodies: tuple[Body, ...],
        done: Mapping[str, StepResult],
        step: Step | None = None,
        others: Callable[[str, str], PartBuild] | None = None,
    ) -> None:
        self._model = model
        self._others = others
        self._step = step
        self.done = done
        self.bodies = bodies
        self.found = bodies  # as the step found them
        self.sketch: SketchState | None = None
        self.advice: list[Advice] = []
        self.afterwards: list[str] = []
        self.handle: dict[str, Any] | None = None
        self.spots: tuple[tuple[str, Triple], ...] = ()  # members of a pattern by name, and where they stand
        self.tools: tuple[Body, ...] = ()
        self.tool_result = ""
        self.worked_on: tuple[str, ...] = ()  # ids of the bodies that took part
        self.datum: Datum | None = None
        self.reference: Surface | None = None
        self.pulls: tuple[tuple[str, str, Triple], ...] = ()  # placed bodies, what they stand on, how they come off
        self.hands: tuple[Hand, ...] = ()
        self.free = ""  # what a placed body may still do
        self.moved: dict[str, Any] = {}  # curves of a sketch that have followed the solid
        self._edges: dict[str, list[NamedEdge]] = {}

    def advise_once(self, text: str) -> None:
        """Advice, if there is any, that is not repeated."""
        if text and not any(a.text == text for a in self.advice):
            self.advice.append(Advice(text))

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

    def plot_problem(self, plot: Plot, sketch: Sketch) -> str:
        """Why a curve by formulas is not where they say; empty if it is (or is gone)."""
        if any(id not in sketch for id in plot.curves):
            return ""
        try:
            at = plot.curve(self._model.table.values, self._model.units)
            goals = [at(k / len(plot.curves)) for k in range(len(plot.curves) + 1)]
        except BadInput as problem:
            return problem.message
        for id, *ends in zip(plot.curves, goals, goals[1:]):
            curve = sketch.curve(id)
            there = [curve.place(name) for name in curve.end_points or ()]
            if any(math.dist(p, q) > 1e-6 * max(1.0, *map(abs, q)) for p, q in zip(there, ends)):
                return "what hangs on it does not go along. Take away what holds it there."
        return ""

    def size(self, table: str, name: str) -> float:
        """A size of a table, mm: the model's own, else the usual."""
        from ..sizes.tables import size_in

        return size_in(self._model.sizes, table, name)

    def above(self, step: Step, field_name: str, least: float = 1e-4, most: float = 1e4) -> float:
        """The number in a blank that must be above nought: from ``least`` to ``most``."""
        value = self.value(step, field_name)
        if not least <= value <= most:
            raise CannotBuild(f"The {step.blanks()[field_name].label} must be above zero.", where=field_name)
        return value

    @property
    def units(self) -> LengthUnit:
        """The person's unit: what a step says of lengths is in it."""
        return self._model.units

    def at_most(self, mm: float) -> str:
        """A largest length that works, in the person's unit, never above it."""
        return show_at_most(mm, self._model.units)

    def at_least(self, mm: float) -> str:
        """A smallest length that works, in the person's unit, never below it."""
        return show_at_least(mm, self._model.units)

    def evaluated(self, sketch: Sketch) -> ValuedSketch:
        """A sketch with its formulas evaluated."""
        try:
            return sketch.valued(self._model.table.values, self._model.units)
        except BadInput as problem:
            raise CannotBuild(problem.message, where=problem.where) from problem

    def title_of(self, step_id: str) -> str:
        """A step's title."""
        try:
            return self._model.title_of(step_id)
        except Trouble:
            return "an earlier step"

    def key_of(self, step_id: str) -> str:
        """The key of an earlier step's result, or why there is none."""
        return self._result(step_id).key

    def part_name(self, part_id: str) -> str:
        """What another part is called."""
        return next((p.name for p in self._model.parts if p.id == part_id), "a part that is gone")

    def part_gone(self, part_id: str) -> bool:
        """Whether another part was deleted, and is kept for those that follow it."""
        return any(p.id == part_id and p.gone for p in self._model.parts)

    def part_built(self, part_id: str, where: str, variant: str = "") -> PartBuild:
        """Another part as it is built now, or with a variant's values."""
        if not part_id:
            raise CannotBuild("Choose the part to bring.", where=where)
        if self._others is None or all(p.id != part_id for p in self._model.parts):
            raise CannotBuild(
                "The part that was brought here is gone: choose another, or delete this step.", where=where
            )
        if variant and all(v.id != variant for v in self._model.variants):
            raise CannotBuild("The variant that was brought is gone: choose another.", where="variant")
        return self._others(part_id, variant)

    def _result(self, step_id: str) -> StepResult:
        result = self.done.get(step_id)
        if result is None:
            try:
                title = self._model.title_of(self._model.step(step_id).id)
            except Trouble:
                raise CannotBuild("What this step picked from was deleted. Pick again, or delete this step.") from None
            raise CannotBuild(f"{title} comes later; this step needs it before itself.")
        if result.status == "skipped":
            raise CannotBuild(f"{self._model.title_of(step_id)} is skipped, and this step needs it.")
        if result.status == "failed":
            raise CannotBuild(f"{self._model.title_of(step_id)} could not be built, and this step needs it.")
        return result

    def frame_of(self, plane: PlaneRef) -> Frame:
        """The plane a sketch lies on."""
        if plane.plane:
            return ORIGIN_PLANES[plane.plane]
        if plane.datum:
            datum = self._result(plane.datum).datum
            if datum is None or datum.frame is None:
                raise CannotBuild(f"{self._model.title_of(plane.datum)} is not a plane.", where="plane")
            return datum.frame
        if plane.face is None:
            raise CannotBuild("Pick a plane or a flat face to draw on.", where="plane")
        from ..solid.digest import frame_of_face

        found = self._face(plane.face)
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

    def axis_of(self, axis: AxisRef) -> tuple[Triple, Triple]:
        """A point on an axis and its unit direction."""
        origin, direction = self._axis_as_picked(axis)
        return origin, (-direction[0], -direction[1], -direction[2]) if axis.reversed else direction

    def _axis_as_picked(self, axis: AxisRef) -> tuple[Triple, Triple]:
        from ..solid import axes

        if axis.axis:
            return (0.0, 0.0, 0.0), {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}[axis.axis]
        if axis.datum:
            datum = self._result(axis.datum).datum
            if datum is None or datum.direction is None:
                raise CannotBuild(f"{self._model.title_of(axis.datum)} is not an axis.", where="axis")
            return datum.origin, datum.direction
        if axis.sketch and axis.point:
            state = self._result(axis.sketch).sketch
            if state is None or axis.point not in state.sketch or "point" not in state.sketch.tags_of(axis.point):
                title = self._model.title_of(axis.sketch)
                raise CannotBuild(
                    f"The point picked for the axis is not in {title} any more: pick another.", where="axis"
                )
            return state.frame.place(*state.sketch.anchor(axis.point)[0]), state.frame.normal
        if axis.sketch and axis.line:
            state = self._result(axis.sketch).sketch
            if state is None or axis.line not in state.sketch or "line" not in state.sketch.tags_of(axis.line):
                title = self._model.title_of(axis.sketch)
                raise CannotBuild(f"The line picked as axis is not in {title} any more: pick another.", where="axis")
            a, b = (state.frame.place(*p) for p in state.sketch.ends(axis.line))
            return a, unit((b[0] - a[0], b[1] - a[1], b[2] - a[2]))
        if axis.edge:
            resolved = self._edge(axis.edge)
            if resolved.advice:
                self.advice.append(Advice(resolved.advice))
            found = axes.of_edge(resolved.edges[0])
        elif axis.face:
            face = self._face(axis.face).faces[0]
            found = axes.of_face(face.body, face.index)
        else:
            raise CannotBuild(
                "Pick an axis: a line of a sketch, an edge, a round face or an axis of the origin.", where="axis"
            )
        if found is None:
            raise CannotBuild(
                "What was picked as axis is neither straight nor round any more: pick another.", where="axis"
            )
        return found

    def thing_of(self, pick: ThingPick, where: str, reads: str = "") -> tuple[Grip, Body | None]:
        """What something is placed by, and the body it belongs to (None: what stands).
        ``reads``: see ``Kind.reads``.
        """
        from ..solid import axes
        from ..solid.edges import corner_near

        if pick.face is not None:
            found = self._face(pick.face, where)
            self.advise_once(found.advice)
            face = found.faces[0]
            grip, body = axes.grip_of_face(face.body, face.index, by_axis=reads == "round"), face.body
        elif pick.edge is not None:
            edges = self._edge(pick.edge, where)
            self.advise_once(edges.advice)
            edge = edges.edges[0]
            body = edge.body
            if pick.at:
                grip = Grip("point", corner_near(body, pick.at))
            elif pick.spot:
                place = axes.spot_of(edge, pick.spot)
                grip = None if place is None else Grip("point", place)
                if grip is None:
                    raise CannotBuild("This edge is not round any more: it has no centre.", where=where)
            else:
                grip = axes.flat_beside(edge) if reads == "flat" else axes.grip_of_edge(edge)
                if grip is None and reads == "flat":
                    raise CannotBuild(
                        "This edge lies between two flat faces or none: pick the face itself.", where=where
                    )
        else:
            return self._standing(pick, where), None
        if grip is None:
            raise CannotBuild(
                "This has a free form: pick a flat or round face, a straight or round edge, or a corner.", where=where
            )
        return grip, body

    def _standing(self, pick: ThingPick, where: str) -> Grip:
        if pick.plane:
            plane = ORIGIN_PLANES[pick.plane]
            return Grip("plane", plane.origin, plane.normal)
        if pick.axis:
            return Grip("line", *self.axis_of(AxisRef(axis=pick.axis)))
        if pick.origin:
            return Grip("point", (0.0, 0.0, 0.0))
        if pick.datum is None:
            raise CannotBuild("Pick what it goes to: a face, an edge, a corner, a plane, an axis.", where=where)
        datum = self._result(pick.datum).datum
        if datum is None:
            raise CannotBuild(f"{self._model.title_of(pick.datum)} is not a datum.", where=where)
        if datum.frame is not None:
            return Grip("plane", datum.frame.origin, datum.frame.normal)
        if datum.direction is not None:
            return Grip("line", datum.origin, datum.direction)
        return Grip("point", datum.origin)

    def _face(self, pick: FacePick, where: str = "") -> Resolved:
        """What a face pick means now; a lost one fails with its place and with proposals."""
        try:
            return find_faces(pick, self.bodies)
        except CannotBuild as problem:
            problem.where = where or problem.where
            explain_lost(problem, pick, self._step, self.bodies)
            raise

    def _edge(self, pick: EdgePick, where: str = "") -> ResolvedEdges:
        """What an edge pick means now; a lost one fails with its place and with proposals."""
        try:
            return find_edges(pick, self.bodies, self._edges)
        except CannotBuild as problem:
            problem.where = where or problem.where
            explain_lost(problem, pick, self._step, self.bodies)
            raise

    def edges_of(self, picks: Sequence[EdgePick], where: str = "edges") -> dict[str, list[NamedEdge]]:
        """The edges that picks mean now, by body; each once."""
        found: dict[tuple[str, int], NamedEdge] = {}
        for pick in picks:
            resolved = self._edge(pick, where)
            self.advise_once(resolved.advice)
            found.update({(e.body.id, e.index): e for e in resolved.edges})
        out: dict[str, list[NamedEdge]] = {}
        for (body, _), edge in found.items():
            out.setdefault(body, []).append(edge)
        return out

    def all_edges(self, body: Body) -> list[NamedEdge]:
        """Every edge of a body with its names."""
        if body.id not in self._edges:
            from ..solid.edges import named_edges

            self._edges[body.id] = named_edges(body)
        return self._edges[body.id]

    def faces_of(self, picks: Sequence[FacePick], where: str = "faces") -> list[Candidate]:
        """The faces that picks mean now, each once."""
        found: dict[tuple[str, int], Candidate] = {}
        for pick in picks:
            resolved = self._face(pick, where)
            self.advise_once(resolved.advice)
            found.update({(c.body.id, c.index): c for c in resolved.faces})
        return list(found.values())

    def bodies_of(self, ids: Sequence[str], where: str = "bodies") -> list[Body]:
        """Bodies by id, in the order given; all of them when none is named."""
        if not ids:
            return list(self.bodies)
        by_id = {b.id: b for b in self.bodies}
        missing = [i for i in ids if i not in by_id]
        if missing:
            raise CannotBuild("A body picked here is not there any more: pick again.", where=where)
        return [by_id[i] for i in ids]

    def points_of(self, picks: Sequence[PointPick]) -> list[tuple[Frame, tuple[float, float], Triple]]:
        """For picked points: the sketch's plane (a level one at a datum point), the place in it, the place in space."""
        found: list[tuple[Frame, tuple[float, float], Triple]] = []
        for pick in picks:
            result = self._result(pick.sketch)
            state, datum = result.sketch, result.datum
            if datum is not None and datum.frame is None and datum.direction is None:
                level = ORIGIN_PLANES["top"]
                found.append((Frame(datum.origin, level.x, level.normal), (0.0, 0.0), datum.origin))
                continue
            if state is None or pick.ref not in state.sketch:
                title = self._model.title_of(pick.sketch)
                raise CannotBuild(f"A point picked in {title} is not there any more: pick again.", where="points")
            u, v = state.sketch.point(pick.ref)
            found.append((state.frame, (u, v), state.frame.place(u, v)))
        return found

    def result_of(self, step_id: str) -> StepResult:
        """What an earlier step made."""
        return self._result(step_id)

    def hand_before(self, body: Body) -> Hand | None:
        """How a body could be moved by hand before this step; None where something else was done with it since."""
        for result in reversed([r for r in self.done.values() if r.step != (self._step.id if self._step else "")]):
            for hand in result.hands:
                if hand.body == body.id:
                    return hand if any(b.shape is body.shape for b in result.bodies) else None
        return None

    def needed_by(self, step_id: str) -> list[str]:
        """Shape-making steps that a step works on, by its picks or those of the sketches it uses, in order."""
        found: dict[str, None] = {}
        todo, seen = [step_id], {step_id}
        while todo:
            step = self._model.step(todo.pop())
            for other in (*step.makers(), *step.uses()):
                if other in seen or other not in self.done:
                    continue
                seen.add(other)
                if self._model.step(other).makes_solid:
                    found[other] = None
                else:
                    todo.append(other)
        return list(found)

    def replace(self, old: Body, new: Sequence[Body]) -> None:
        """Put other bodies in the place of one."""
        self.bodies = tuple(n for b in self.bodies for n in (new if b.id == old.id else (b,)))
        self._edges.clear()

    def put_sketch(self, step_id: str, frame: Frame, sketch: Sketch) -> None:
        """This step's result is a sketch."""
        self.sketch = SketchState(frame, sketch, arrange(sketch.curves, sketch.size))

    def regions_of(self, step: Step, sketch_id: str) -> tuple[SketchState, list[Region]]:
        """The regions that a step's picks in one sketch mean now."""
        state = self._result(sketch_id).sketch
        if state is None:
            raise CannotBuild(f"{self._model.title_of(sketch_id)} is not a sketch.", where="regions")
        picks = [p for p in getattr(step, "regions") if isinstance(p, RegionPick)]  # noqa: B009
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

    def chain_of(self, pick: CurvePick, where: str) -> tuple[Frame, tuple[tuple[Piece, str], ...]]:
        """The curves that hang together with a picked one, as pieces end to end, and the sketch's plane."""
        state = self._result(pick.sketch).sketch
        title = self._model.title_of(pick.sketch)
        if state is None or pick.curve not in state.sketch:
            raise CannotBuild(f"The curve picked in {title} is not there any more: pick another.", where=where)
        try:
            chain = chain_of(state.sketch, connected(state.sketch, pick.curve))
        except BadInput as problem:
            raise CannotBuild(f"{problem.message} (In {title}.)", where=where) from problem
        pieces: list[tuple[Piece, str]] = []
        for id, forward in chain.links:
            own = state.sketch.curve(id).pieces()
            pieces += [(p if forward else p.reversed(), id) for p in (own if forward else own[::-1])]
        return state.frame, tuple(pieces)

    def path_of(self, picks: Sequence[CurvePick | EdgePick], where: str) -> Path:
        """The path that picked curves (with what hangs together with them) and edges make."""
        from ..solid.digest import name_text
        from ..solid.edges import edge_shape
        from ..solid.paths import path_of
        from ..solid.shapes import edge_of

        edges: list[tuple[Any, str]] = []
        seen: set[tuple[str, str]] = set()
        for pick in picks:
            if isinstance(pick, CurvePick) and (pick.sketch, pick.curve) not in seen:
                frame, chain = self.chain_of(pick, where)
                edges += [(edge_of(piece, frame), owner) for piece, owner in chain]
                seen |= {(pick.sketch, owner) for _, owner in chain}
        for found in self.edges_of([p for p in picks if isinstance(p, EdgePick)], where).values():
            edges += [(edge_shape(e), f"[{name_text(e.first)}+{name_text(e.second)}]") for e in found]
        return path_of(edges)

    def heights(self, frame: Frame) -> tuple[float, float]:
        """Lowest and highest point of all bodies over a plane, mm; (0, 0) without bodies."""
        return heights_over(self.bodies, frame)

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


def _one_plane(frames: list[Frame]) -> bool:
    first = frames[0]
    return all(dot(f.normal, first.normal) > 1 - 1e-9 and abs(first.height(f.origin)) < 1e-6 for f in frames)
