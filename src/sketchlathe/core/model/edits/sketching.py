"""Edits of a sketch: draw, move, constrain, dimension, delete. Each leaves the sketch solved or is refused."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...errors import BadInput, Refused, Trouble
from ...quantity import settle
from ...sketch.constraints import CONSTRAINTS, Constraint, Dimensional
from ...sketch.curves import CURVES, Vec
from ...sketch.dimensioning import propose
from ...sketch.document import Sketch
from ...sketch.inference import implied
from ...sketch.solver.conflict import adds_nothing, fights_with
from ...sketch.solver.solving import Solution, Verdict, solve
from ...sketch.tools import TOOLS, Drawing, Place, TypedSize
from ..document import Model
from .base import Edit

Refs = Annotated[tuple[Annotated[str, Field(max_length=40)], ...], Field(min_length=1, max_length=4)]
Ids = Annotated[tuple[Annotated[str, Field(max_length=20)], ...], Field(min_length=1, max_length=4000)]


class _SketchEdit(Edit):
    """An edit of one sketch step's sketch."""

    sketch: str = Field(max_length=20)

    def current(self, model: Model) -> Sketch:
        """The sketch, its formulas evaluated."""
        return model.sketch_step(self.sketch).sketch.valued(model.table.values, model.units)

    def title(self, model: Model) -> str:
        """The sketch's title, for summaries."""
        return model.title_of(self.sketch)


def solved_or_refused(solution: Solution, what: str) -> Sketch:
    """The solved sketch, or ``Refused`` saying why it could not be."""
    if solution.verdict is Verdict.SOLVED:
        return solution.sketch
    sketch = solution.sketch
    if solution.verdict is Verdict.FLIPS:
        raise Refused(f"{what} would turn the shape inside out, so it was left as it is. Try a value between.")
    ids = {c.id: c for c in sketch.constraints}
    strained = tuple(i for i in solution.strained if i in ids)
    named = [ids[i].sentence(sketch) for i in strained[:4]]
    against = f" It fights with: {'; '.join(named)}." if named else ""
    raise Refused(f"{what} cannot be: no shape has all these sizes at once.{against}", fights=strained)


def add_constraint(sketch: Sketch, constraint: Constraint) -> Sketch:
    """The sketch with one more constraint, solved. ``Refused`` names the smallest set it fights with."""
    if isinstance(constraint, Dimensional) and not constraint.driving:
        return sketch.with_constraints((*sketch.constraints, constraint))
    if adds_nothing(sketch, constraint):
        fights = fights_with(sketch, constraint)
        _refuse_extra(sketch, constraint, fights)
    solution = solve(sketch.with_constraints((*sketch.constraints, constraint)))
    if solution.verdict is Verdict.CONFLICT:
        strained = tuple(i for i in solution.strained if i != constraint.id)
        _refuse_extra(sketch, constraint, tuple(i for i in strained if any(c.id == i for c in sketch.constraints)))
    return solved_or_refused(solution, constraint.word.capitalize())


def _refuse_extra(sketch: Sketch, constraint: Constraint, fights: tuple[str, ...]) -> None:
    by_id = {c.id: c for c in sketch.constraints}
    telling = [by_id[i] for i in fights if i in by_id]
    loud = [c for c in telling if c.kind != "coincident"] or telling
    named = "; ".join(c.sentence(sketch) for c in loud[:5]) or "what is there already"
    raise Refused(
        f"One too many: “{constraint.sentence(sketch)}” is settled already by {named}.",
        where=constraint.id,
        fights=fights,
    )


class DrawCurve(_SketchEdit):
    """Draw with a tool: placed points with what they snapped to, typed sizes."""

    kind: Literal["draw"] = "draw"
    tool: str = Field(max_length=20)
    places: tuple[Place, ...] = Field(min_length=1, max_length=20)
    sizes: tuple[Annotated[str, Field(max_length=400)], ...] = Field(default=(), max_length=6)
    construction: bool = False

    def apply(self, model: Model) -> Model:
        tool = TOOLS[self.tool]()
        if len(self.places) != len(tool.steps):
            raise BadInput(f"{tool.word} needs {len(tool.steps)} points; {len(self.places)} were given.")
        sketch = self.current(model)
        sizes = [self._size(model, i, text) for i, text in enumerate(self.sizes)]
        sizes += [None] * (len(tool.sizes) - len(sizes))
        drawing = tool.draw(list(self.places), sizes)
        first = next((s for s in sizes if s), None)
        ids, model = model.fresh("c", len(drawing.curves))
        sketch, names = _with_curves(sketch, drawing, ids, self.construction)
        model, sketch = _constrained(model, sketch, drawing, names, scale_by=first)
        return model.with_sketch(self.sketch, sketch)

    def _size(self, model: Model, index: int, text: str) -> TypedSize | None:
        tool = TOOLS[self.tool]
        if not text.strip():
            return None
        if index >= len(tool.sizes):
            raise BadInput(f"{tool.word} has {len(tool.sizes)} size(s) to type, not {index + 1}.")
        wanted = tool.sizes[index].dimension
        settled = settle(text, model.table.values, wanted=wanted, length_unit=model.units)
        from ...quantity import LENGTH, evaluate

        value = evaluate(settled, model.table.values, wanted=wanted, length_unit=model.units).value
        if wanted == LENGTH and not 0 < value <= 1e5:
            raise BadInput(f"A {tool.sizes[index].label} must be above zero and at most 100 m.")
        return TypedSize(text=settled, value=value)

    def summary(self, before: Model, after: Model) -> str:
        return f"{TOOLS[self.tool].word} drawn in {self.title(after)}"


def _with_curves(sketch: Sketch, drawing: Drawing, ids: list[str], construction: bool) -> tuple[Sketch, dict[str, str]]:
    names = {raw["id"]: new for raw, new in zip(drawing.curves, ids)}
    curves = [CURVES.parse({**raw, "id": names[raw["id"]], "construction": construction}) for raw in drawing.curves]
    return sketch.with_curves((*sketch.curves, *curves)), names


def _constrained(
    model: Model, sketch: Sketch, drawing: Drawing, names: dict[str, str], scale_by: TypedSize | None
) -> tuple[Model, Sketch]:
    """Add what the drawing implies, as far as it adds something and does no harm; typed sizes last."""

    def real(ref: str) -> str:
        head, dot, tail = ref.partition(".")
        return names.get(head, head) + dot + tail

    wanted = [(kind, tuple(real(r) for r in refs)) for kind, refs in drawing.constraints]
    for point, place in drawing.placed:
        ref = real(place.ref) if place.ref else None
        wanted.extend(implied(sketch, real(point), place.snap, ref))
    for kind, refs in dict.fromkeys(wanted):
        ids, grown = model.fresh("k")
        try:
            made = CONSTRAINTS[kind].made(sketch, ids[0], refs)
            sketch = add_constraint(sketch, made)
        except Trouble:
            continue  # implied only: what does not fit is left out
        model = grown
    for kind, refs, text, fields in drawing.dimensions:
        ids, model = model.fresh("k")
        made = CONSTRAINTS[kind].made(sketch, ids[0], tuple(real(r) for r in refs), value=text, **fields)
        sketch = _valued_with(model, sketch, made)
        sketch = add_constraint(sketch, made)
    return model, sketch


def _valued_with(model: Model, sketch: Sketch, made: Constraint) -> Sketch:
    """The sketch knowing the value of a dimension that is about to be added."""
    if not (isinstance(made, Dimensional) and made.driving):
        return sketch
    from ...quantity import evaluate

    value = evaluate(made.value, model.table.values, wanted=made.measures, length_unit=model.units).value
    made.check_value(value)
    return sketch.with_values({**sketch.values, made.id: value})


class MoveGeometry(_SketchEdit):
    """Where a drag left things: coordinates of points and radii by curve; what is constrained stays so."""

    kind: Literal["move_geometry"] = "move_geometry"
    curves: dict[Annotated[str, Field(max_length=20)], dict[Annotated[str, Field(max_length=20)], Vec | float]] = Field(
        min_length=1, max_length=3000
    )

    def apply(self, model: Model) -> Model:
        sketch = self.current(model)
        curves = []
        for curve in sketch.curves:
            moved = self.curves.get(curve.id)
            if moved:
                if not set(moved) <= {*curve.points, *curve.sizes}:
                    raise BadInput(f"A {curve.word} has no such points.")
                curve = CURVES.parse({**curve.model_dump(mode="json"), **moved})
            curves.append(curve)
        solution = solve(sketch.with_curves(curves))
        return model.with_sketch(self.sketch, solved_or_refused(solution, "This move"))

    def summary(self, before: Model, after: Model) -> str:
        return f"Points moved in {self.title(after)}"


class AddConstraint(_SketchEdit):
    """Put a constraint on what is selected."""

    kind: Literal["add_constraint"] = "add_constraint"
    constraint: str = Field(max_length=30)
    on: Refs

    def apply(self, model: Model) -> Model:
        ids, model = model.fresh("k")
        sketch = self.current(model)
        made = CONSTRAINTS[self.constraint].made(sketch, ids[0], self.on)
        return model.with_sketch(self.sketch, add_constraint(sketch, made))

    def summary(self, before: Model, after: Model) -> str:
        return f"{CONSTRAINTS[self.constraint].word.capitalize()} in {self.title(after)}"


class AddDimension(_SketchEdit):
    """Dimension what is picked; the first driving one scales the whole sketch."""

    kind: Literal["add_dimension"] = "add_dimension"
    on: Refs
    at: Vec
    value: str = Field(default="", max_length=400)
    driving: bool = True

    def apply(self, model: Model) -> Model:
        ids, model = model.fresh("k")
        sketch = self.current(model)
        made = propose(sketch, self.on, self.at, ids[0])
        if not self.driving:
            made = made.model_copy(update={"driving": False})
            return model.with_sketch(self.sketch, add_constraint(sketch, made))
        text = settle(self.value, model.table.values, wanted=made.measures, length_unit=model.units)
        made = made.model_copy(update={"value": text})
        sketch = _valued_with(model, sketch, made)
        value = sketch.values[made.id]
        if made.scales and _first(sketch):
            factor = value / max(made.measure(sketch), 1e-12)
            label = (self.at[0] * factor, self.at[1] * factor)
            sketch, made = sketch.scaled(factor), made.model_copy(update={"label": label})
        return model.with_sketch(self.sketch, add_constraint(sketch, made))

    def summary(self, before: Model, after: Model) -> str:
        sketch = after.sketch_step(self.sketch).sketch
        made = sketch.constraints[-1]
        text = made.value if isinstance(made, Dimensional) and made.driving else "reference"
        return f"{made.word.capitalize()} {text} in {self.title(after)}"


def _first(sketch: Sketch) -> bool:
    """Whether nothing gives the sketch its size yet."""
    sized = any(isinstance(c, Dimensional) and c.driving and c.scales for c in sketch.constraints)
    return not sized and not any(c.kind == "fixed" for c in sketch.constraints)


class SetDimension(_SketchEdit):
    """Change a dimension: its formula, whether it drives, where its text stands."""

    kind: Literal["set_dimension"] = "set_dimension"
    id: str = Field(max_length=20)
    value: str | None = Field(default=None, max_length=400)
    driving: bool | None = None
    label: Vec | None = None

    def apply(self, model: Model) -> Model:
        sketch = self.current(model)
        old = sketch.constraint(self.id)
        if not isinstance(old, Dimensional):
            raise BadInput("That is not a dimension.")
        update: dict[str, object] = {}
        if self.label is not None:
            update["label"] = self.label
        if self.driving is not None:
            update["driving"] = self.driving
        if self.value is not None:
            update["value"] = settle(self.value, model.table.values, wanted=old.measures, length_unit=model.units)
        elif self.driving and not old.value:
            from ...quantity import show

            update["value"] = show(old.measure(sketch), old.measures, model.units)
        new = old.model_copy(update=update)
        others = sketch.with_constraints(c for c in sketch.constraints if c.id != self.id)
        if not new.driving or set(update) == {"label"}:
            return model.with_sketch(self.sketch, _in_place(sketch, new))
        others = _valued_with(model, others, new)
        if not old.driving:
            add_constraint(others, new)  # refused here if it fights
        solution = solve(_in_place(sketch.with_values(others.values), new))
        if solution.verdict is Verdict.CONFLICT:
            solution = Solution(solution.verdict, sketch, solution.system, solution.x, solution.strained)
        return model.with_sketch(self.sketch, solved_or_refused(solution, f"{new.word.capitalize()} {new.value}"))

    def summary(self, before: Model, after: Model) -> str:
        new = after.sketch_step(self.sketch).sketch.constraint(self.id)
        if isinstance(new, Dimensional) and self.value is not None:
            return f"{new.word.capitalize()} changed to {new.value} in {self.title(after)}"
        return f"{new.word.capitalize()} changed in {self.title(after)}"


def _in_place(sketch: Sketch, new: Constraint) -> Sketch:
    return sketch.with_constraints(new if c.id == new.id else c for c in sketch.constraints)


class DeleteFromSketch(_SketchEdit):
    """Delete curves and constraints; constraints on deleted curves go too."""

    kind: Literal["delete_from_sketch"] = "delete_from_sketch"
    ids: Ids

    def apply(self, model: Model) -> Model:
        sketch = self.current(model)
        gone = set(self.ids)
        known = {c.id for c in sketch.curves} | {c.id for c in sketch.constraints}
        if not gone & known:
            raise BadInput("What was to be deleted is not in this sketch any more.")
        curves = [c for c in sketch.curves if c.id not in gone]
        left = [
            c for c in sketch.constraints if c.id not in gone and not any(r.partition(".")[0] in gone for r in c.on)
        ]
        return model.with_sketch(self.sketch, sketch.with_curves(curves).with_constraints(left))

    def summary(self, before: Model, after: Model) -> str:
        count = len(self.ids)
        return f"{count} thing{'s' if count > 1 else ''} deleted from {self.title(after)}"


class SetConstruction(_SketchEdit):
    """Make curves construction lines, or proper ones again."""

    kind: Literal["set_construction"] = "set_construction"
    ids: Ids
    construction: bool

    def apply(self, model: Model) -> Model:
        sketch = self.current(model)
        chosen = set(self.ids)
        curves = [
            c.model_copy(update={"construction": self.construction}) if c.id in chosen else c for c in sketch.curves
        ]
        return model.with_sketch(self.sketch, sketch.with_curves(curves))

    def summary(self, before: Model, after: Model) -> str:
        return f"Construction {'on' if self.construction else 'off'} in {self.title(after)}"
