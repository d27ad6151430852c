"""Edits of a sketch's constraints and dimensions."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...errors import BadInput
from ...quantity import check_name, rename_in, settle, show
from ...quantity.expressions import names_in
from ...sketch.changes import add_constraint, add_if_it_fits, solved_or_refused
from ...sketch.changes.copying import with_count
from ...sketch.constraints import CONSTRAINTS, Constraint, Dimensional
from ...sketch.constraints.rim import RimDistance
from ...sketch.curves import Vec
from ...sketch.dimensioning import propose, said_round
from ...sketch.document import ValuedSketch
from ...sketch.solver.solving import Solution, Verdict, solve_about
from ..document import Model
from .fresh import Numbering
from .sketching import Refs, SketchEdit, names_of, valued_with

NOTHING = 1e-9  # of the sketch's size: a distance below it is nought


class AddConstraint(SketchEdit):
    """Put a constraint on what is selected."""

    kind: Literal["add_constraint"] = "add_constraint"
    constraint: str = Field(max_length=30)
    on: Refs

    def apply(self, model: Model) -> Model:
        ids, model = model.fresh("k")
        sketch = self.current(model)
        made = CONSTRAINTS[self.constraint].made(sketch, ids[0], self.on)
        if isinstance(made, Dimensional):
            raise BadInput(f"{made.word.capitalize()} needs a size: give it as a dimension.")
        shared = getattr(made, "shared", None)
        if shared and not sketch.joints.joined(*shared):
            # ends that only lie at one place are joined as well, or the next drag would tear them apart
            fresh = Numbering(model)
            sketch = add_if_it_fits(sketch, fresh, "coincident", shared)
            model = fresh.model
        return model.with_sketch(self.sketch, add_constraint(sketch, made))

    def summary(self, before: Model, after: Model) -> str:
        return f"{CONSTRAINTS[self.constraint].word.capitalize()} in {self.title(after)}"


class AddDimension(SketchEdit):
    """Dimension what is picked; the first driving one scales the whole sketch."""

    kind: Literal["add_dimension"] = "add_dimension"
    on: Refs
    at: Vec
    value: str = Field(default="", max_length=400)
    driving: bool = True
    rim: Literal["", "centre", "near", "far"] = ""
    way: Literal["", "aligned", "across", "along"] = ""
    round: Literal["", "radius", "diameter"] = ""

    def apply(self, model: Model) -> Model:
        ids, model = model.fresh("k")
        sketch = self.current(model)
        said, typed = said_round(self.value, names_of(model, sketch))
        made = propose(sketch, self.on, self.at, ids[0], rim=self.rim, way=self.way, round=said or self.round)
        if not self.driving:
            made = made.model_copy(update={"driving": False})
            return model.with_sketch(self.sketch, add_constraint(sketch, made))
        text = settle(typed, names_of(model, sketch), wanted=made.measures, length_unit=model.units)
        made = made.model_copy(update={"value": text})
        sketch = valued_with(model, sketch, made)
        value = sketch.values[made.id]
        shown = made.measure(sketch)
        if shown <= NOTHING * sketch.size:
            sketch = _moved_apart(sketch, made, value)
        elif made.scales and _first(sketch):
            factor = value / shown
            label = (self.at[0] * factor, self.at[1] * factor)
            sketch, made = sketch.scaled(factor), made.model_copy(update={"label": label})
        return model.with_sketch(self.sketch, add_constraint(sketch, made))

    def summary(self, before: Model, after: Model) -> str:
        sketch = after.sketch_step(self.sketch).sketch
        made = sketch.constraints[-1]
        text = made.value if isinstance(made, Dimensional) and made.driving else "reference"
        return f"{made.word.capitalize()} {text} in {self.title(after)}"


def _first(sketch: ValuedSketch) -> bool:
    """Whether nothing gives the sketch its size yet."""
    sized = any(isinstance(c, Dimensional) and c.driving and c.scales for c in sketch.constraints)
    held = any("holds" in c.does for c in sketch.constraints) or any(c.taken for c in sketch.curves)
    return not sized and not held


def _moved_apart(sketch: ValuedSketch, made: Dimensional, value: float) -> ValuedSketch:
    """Two places that lie on each other give a distance no direction: the second is moved to
    the right, if it can move.
    """
    if made.kind != "distance" or len(made.on) != 2:
        return sketch
    ref = made.on[1] if "." in made.on[1] else made.on[0]
    id, _, name = ref.partition(".")
    if not name or sketch.curve(id).taken:
        return sketch
    curve = sketch.curve(id)
    x, y = curve.place(name)
    moved = curve.with_scalars({name: (x + value, y)})
    return sketch.with_curves(moved if c.id == id else c for c in sketch.curves)


class SetDimension(SketchEdit):
    """Change a dimension: its formula, its name, whether it drives, where its text stands, which rim it measures to."""

    kind: Literal["set_dimension"] = "set_dimension"
    id: str = Field(max_length=20)
    value: str | None = Field(default=None, max_length=400)
    name: str | None = Field(default=None, max_length=60)
    driving: bool | None = None
    label: Vec | None = None
    rim: Literal["near", "far"] | None = None

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
        if self.name is not None:
            return model.with_sketch(self.sketch, _named(model, sketch, old, self.name.strip()))
        if self.rim is not None and isinstance(old, RimDistance):
            return model.with_sketch(self.sketch, _measured_again(model, sketch, old, self.rim))
        if self.value is not None:
            said, typed = said_round(self.value, names_of(model, sketch))
            if said and said != old.kind and "round" in sketch.tags_of(old.on[0]):
                old = CONSTRAINTS[said].model_validate(old.model_dump(exclude={"kind"}))
                assert isinstance(old, Dimensional)
            update["value"] = settle(typed, names_of(model, sketch), wanted=old.measures, length_unit=model.units)
            if "even" in type(old).model_fields:
                update["even"] = False
        elif self.driving and not old.value:
            update["value"] = show(old.measure(sketch), old.measures, model.units)
        new = old.model_copy(update=update)
        if not new.driving or set(update) == {"label"}:
            return model.with_sketch(self.sketch, _in_place(sketch, new))
        wanted = _in_place(sketch, new).valued(model.table.values, model.units)
        if not old.driving:
            others = wanted.with_constraints(c for c in sketch.constraints if c.id != self.id)
            add_constraint(others, new)  # refused here if it fights
        # a dimension that others are reckoned from changes these as well
        other = {id for id, value in wanted.values.items() if sketch.values.get(id) != value} | {new.id}
        solution = solve_about(wanted, [ref for c in wanted.constraints if c.id in other for ref in c.members()])
        if solution.verdict is Verdict.CONFLICT:
            solution = Solution(solution.verdict, sketch, solution.system, solution.x, solution.strained)
        return model.with_sketch(self.sketch, solved_or_refused(solution, f"{new.word.capitalize()} {new.value}"))

    def summary(self, before: Model, after: Model) -> str:
        new = after.sketch_step(self.sketch).sketch.constraint(self.id)
        if isinstance(new, Dimensional) and self.value is not None:
            return f"{new.word.capitalize()} changed to {new.value} in {self.title(after)}"
        if isinstance(new, Dimensional) and self.name:
            return f"{new.word.capitalize()} named {new.name} in {self.title(after)}"
        return f"{new.word.capitalize()} changed in {self.title(after)}"


def _in_place(sketch: ValuedSketch, new: Constraint) -> ValuedSketch:
    return sketch.with_constraints(new if c.id == new.id else c for c in sketch.constraints)


def _named(model: Model, sketch: ValuedSketch, old: Dimensional, name: str) -> ValuedSketch:
    """The dimension with another name; formulas that use it follow. An empty name takes it away."""
    users = [
        c for c in sketch.constraints
        if isinstance(c, Dimensional) and c.driving and old.name and old.name in names_in(c.value)
    ]  # fmt: skip
    if not name:
        if users:
            raise BadInput(f"“{old.name}” is used by {users[0].sentence(sketch)}; change that first.")
        return _in_place(sketch, old.model_copy(update={"name": ""}))
    check_name(name)
    if not old.driving:
        raise BadInput("Only a driving dimension can be named; a reference only measures.")
    if any(p.name == name for p in model.parameters):
        raise BadInput(f"There is a parameter “{name}” already; choose another name.", where="name")
    if any(isinstance(c, Dimensional) and c.name == name and c.id != old.id for c in sketch.constraints):
        raise BadInput(f"Another dimension of this sketch is called “{name}” already.", where="name")
    for user in users:
        sketch = _in_place(sketch, user.model_copy(update={"value": rename_in(user.value, old.name, name)}))
    return _in_place(sketch, old.model_copy(update={"name": name}))


def _measured_again(model: Model, sketch: ValuedSketch, old: RimDistance, rim: str) -> ValuedSketch:
    """Measured to the other side of the rim: the drawing stays, the number follows."""
    new = old.model_copy(update={"rim": rim})
    new = new.model_copy(update={"value": show(new.measure(sketch), new.measures, model.units)})
    return _in_place(sketch, new)


class SetCount(SketchEdit):
    """Change how many members a pattern has, or how many sides a polygon."""

    kind: Literal["set_count"] = "set_count"
    id: str = Field(max_length=20)
    count: int = Field(ge=2, le=1000)

    def apply(self, model: Model) -> Model:
        fresh = Numbering(model)
        sketch = with_count(self.current(model), fresh, self.id, self.count)
        return fresh.model.with_sketch(self.sketch, sketch)

    def summary(self, before: Model, after: Model) -> str:
        made = after.sketch_step(self.sketch).sketch.constraint(self.id)
        return f"{made.word.capitalize()}: now {self.count} in {self.title(after)}"
