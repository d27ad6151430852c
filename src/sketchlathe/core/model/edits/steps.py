"""Edits of a part's history: add, change, rename, skip, move, delete a step; the Now line."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any, Literal, NamedTuple

from pydantic import Field, ValidationError

from ...errors import BadInput, Refused
from ...quantity import evaluate, settle
from ...quantity.units import ANGLE, LENGTH, NUMBER
from ...remembering import once_each
from ...sketch.document import Sketch
from ...steps.base import STEPS, Step, plain_sentence
from ...steps.sketch import SketchStep
from ...steps.wording import what_it_takes
from ..document import MAX_STEPS, Model, Part
from ..sound import problem_in
from .base import Edit

_WANTED = {"length": LENGTH, "angle": ANGLE, "count": NUMBER}


def made_step(model: Model, kind: str, id: str, fields: dict[str, Any], base: Step | None = None) -> Step:
    """A step from what stands in its blanks, formulas settled. Raises ``BadInput`` naming the blank."""
    cls = STEPS[kind]
    blanks = cls.blanks()
    for name in fields:
        if name not in blanks:
            raise BadInput(f"{cls.word} has no blank “{name[:40]}”.", where=name)
    raw = {} if base is None else _lasting(model, base).model_dump(mode="json")
    try:
        step = cls.model_validate({**raw, "kind": kind, **fields, "id": id})
    except ValidationError as error:
        place = error.errors(include_url=False, include_input=False)[0]["loc"]
        blank = cls.blanks().get(str(place[0])) if place else None
        if blank is not None:
            raise BadInput(f"{cls.word}: “{blank.label}” takes {what_it_takes(blank)}.", where=str(place[0])) from error
        raise BadInput(f"{cls.word} cannot be made like this: {problem_in(error)}.") from error
    settled = {}
    for name, formula in step.formulas().items():
        if name in fields or base is None:
            try:
                wanted = _WANTED[blanks[name].type]
                settled[name] = settle(formula, model.table.values, wanted=wanted, length_unit=model.units)
            except BadInput as problem:
                raise BadInput(problem.message, where=name) from problem
    return _lasting(model, step.model_copy(update=settled) if settled else step)


def _lasting(model: Model, step: Step) -> Step:
    def value(name: str) -> float:
        wanted = _WANTED[step.blanks()[name].type]
        return evaluate(getattr(step, name), model.table.values, wanted=wanted, length_unit=model.units).value

    try:
        return step.lasting(value)
    except BadInput:
        return step  # the build says what is wrong


def check_belongs(part: Part, kind: type[Step]) -> None:
    """Raises ``Refused`` for a line of a sheet in a part, and for a step of a part on a sheet."""
    if kind.on_sheet and part.sort != "sheet":
        raise Refused(f"{kind.word} is a line of a sheet: make a sheet of this part first.")
    if part.sort == "sheet" and not kind.on_sheet:
        raise Refused(f"{kind.word} makes solids: it belongs into a part, not on a sheet.")


class Standing(NamedTuple):
    """What a step picks from, and the first and last place (0-based) it could stand at, the others left in order."""

    needs: frozenset[str]
    first: int
    last: int


@once_each
def standings(part: Part) -> dict[str, Standing]:
    """How each step of a part stands among the others."""
    at = {s.id: i for i, s in enumerate(part.steps)}
    wanted = {s.id: s.needs() & at.keys() for s in part.steps}
    first = {id: max((at[n] + 1 for n in wanted[id]), default=0) for id in at}
    last = dict.fromkeys(at, len(part.steps) - 1)
    for id, needed in wanted.items():
        for n in needed:
            last[n] = min(last[n], at[id] - 1)
    return {id: Standing(wanted[id], first[id], max(first[id], last[id])) for id in at}


def order_problem(model: Model, part: Part) -> str:
    """Why the steps of a part cannot stand in this order; empty if they can."""
    seen: set[str] = set()
    all_ids = {s.id for s in part.steps}
    for step in part.steps:
        for used in step.needs():
            if used in all_ids and used not in seen:
                return f"{model.title_of(step.id)} uses {model.title_of(used)}, which must come before it."
        seen.add(step.id)
    return ""


class AddStep(Edit):
    """Add a step at the Now line."""

    kind: Literal["add_step"] = "add_step"
    part: str = Field(max_length=20)
    step: str = Field(max_length=30)
    fields: dict[str, Any] = Field(default_factory=dict)

    def apply(self, model: Model) -> Model:
        ids, model = model.fresh("s")
        part = model.part(self.part)
        if len(part.steps) >= MAX_STEPS:
            raise Refused(f"A part may have at most {MAX_STEPS} steps.")
        check_belongs(part, STEPS[self.step])
        step = made_step(model, self.step, ids[0], self.fields)
        at = len(part.steps) if part.now is None else part.now
        steps = (*part.steps[:at], step, *part.steps[at:])
        now = None if part.now is None else part.now + 1
        return model.with_part(part.model_copy(update={"steps": steps, "now": now}))

    def summary(self, before: Model, after: Model) -> str:
        part = after.part(self.part)
        old = {s.id for s in before.part(self.part).steps}
        new = next(s for s in part.steps if s.id not in old)
        return f"{after.title_of(new.id)} added: {plain_sentence(new, after)}"


class SetFields(Edit):
    """Change what stands in a step's blanks."""

    kind: Literal["set_fields"] = "set_fields"
    step: str = Field(max_length=20)
    fields: dict[str, Any] = Field(min_length=1, max_length=40)

    def apply(self, model: Model) -> Model:
        old = model.step(self.step)
        return model.with_step(made_step(model, old.kind, old.id, self.fields, base=old))

    def summary(self, before: Model, after: Model) -> str:
        return f"{after.title_of(self.step)} changed: {plain_sentence(after.step(self.step), after)}"


class RenameStep(Edit):
    """Give a step a name of its own; an empty one takes it away."""

    kind: Literal["rename_step"] = "rename_step"
    step: str = Field(max_length=20)
    name: str = Field(max_length=80)

    def apply(self, model: Model) -> Model:
        return model.with_step(model.step(self.step).model_copy(update={"name": self.name.strip()}))

    def summary(self, before: Model, after: Model) -> str:
        return f"{before.title_of(self.step)} renamed to {after.title_of(self.step)}"


class SkipStep(Edit):
    """Leave a step out without deleting it, or take it in again."""

    kind: Literal["skip_step"] = "skip_step"
    step: str = Field(max_length=20)
    skipped: bool

    def apply(self, model: Model) -> Model:
        return model.with_step(model.step(self.step).model_copy(update={"skipped": self.skipped}))

    def summary(self, before: Model, after: Model) -> str:
        return f"{after.title_of(self.step)} {'skipped' if self.skipped else 'taken in again'}"


class DuplicateStep(Edit):
    """Put a copy of a step right behind it."""

    kind: Literal["duplicate_step"] = "duplicate_step"
    step: str = Field(max_length=20)

    def apply(self, model: Model) -> Model:
        ids, model = model.fresh("s")
        part = model.part_of(self.step)
        if len(part.steps) >= MAX_STEPS:
            raise Refused(f"A part may have at most {MAX_STEPS} steps.")
        at = part.index(self.step) + 1
        copy = part.step(self.step).model_copy(update={"id": ids[0], "name": ""})
        if isinstance(copy, SketchStep):
            model, sketch, names = renumbered(model, copy.sketch)
            taken = tuple(t.model_copy(update={"curve": names.get(t.curve, t.curve)}) for t in copy.taken)
            plots = tuple(p.model_copy(update={"curves": tuple(names.get(c, c) for c in p.curves)}) for p in copy.plots)
            copy = copy.model_copy(update={"sketch": sketch, "taken": taken, "plots": plots})
        steps = (*part.steps[:at], copy, *part.steps[at:])
        now = part.now + 1 if part.now is not None and part.now >= at else part.now
        return model.with_part(part.model_copy(update={"steps": steps, "now": now}))

    def summary(self, before: Model, after: Model) -> str:
        part = after.part_of(self.step)
        return (
            f"{after.title_of(part.steps[part.index(self.step) + 1].id)} made as a copy of {before.title_of(self.step)}"
        )


def renumbered(model: Model, sketch: Sketch) -> tuple[Model, Sketch, dict[str, str]]:
    """The same sketch under new ids (ids are unique in a model), and which id became which."""
    old = [*(c.id for c in sketch.curves), *(k.id for k in sketch.constraints)]
    names: dict[str, str] = {}
    for id in old:
        (fresh,), model = model.fresh(id[0])
        names[id] = fresh
    return model, Sketch.model_validate(replaced_ids(sketch.model_dump(mode="json"), names)), names


_WORDS = ("text", "value", "name")  # what a person typed


def replaced_ids(data: Any, names: Mapping[str, str]) -> Any:
    """Plain data with ids replaced: alone, before a point's name ("c3.start") or before others ("c3+c4")."""
    if isinstance(data, dict):
        return {k: v if k in _WORDS else replaced_ids(v, names) for k, v in data.items()}
    if isinstance(data, list):
        return [replaced_ids(v, names) for v in data]
    if isinstance(data, str):
        return re.sub(r"(?<![A-Za-z0-9_])[a-z]\d+(?![A-Za-z0-9_])", lambda m: names.get(m.group(), m.group()), data)
    return data


class DeleteStep(Edit):
    """Delete a step: alone, with what uses it, or leaving what uses it to be picked again."""

    kind: Literal["delete_step"] = "delete_step"
    step: str = Field(max_length=20)
    with_users: bool = False
    leave_users: bool = False

    def apply(self, model: Model) -> Model:
        part = model.part_of(self.step)
        gone = {self.step}
        users = users_of(part, gone)
        if users and not (self.with_users or self.leave_users):
            titles = ", ".join(model.title_of(u) for u in users)
            raise Refused(
                f"{titles} use{'s' if len(users) == 1 else ''} {model.title_of(self.step)}.",
                where=self.step,
                fights=tuple(users),
            )
        if self.with_users:
            gone |= set(users)
        limit = len(part.steps) if part.now is None else part.now
        before_now = sum(1 for s in part.steps[:limit] if s.id in gone)
        steps = tuple(s for s in part.steps if s.id not in gone)
        now = None if part.now is None else part.now - before_now
        return model.with_part(part.model_copy(update={"steps": steps, "now": now}))

    def summary(self, before: Model, after: Model) -> str:
        users = users_of(before.part_of(self.step), {self.step})
        also = f" with {', '.join(before.title_of(u) for u in users)}" if users and self.with_users else ""
        return f"{before.title_of(self.step)} deleted{also}"


def users_of(part: Part, gone: set[str]) -> list[str]:
    """Steps that pick from any of ``gone``, directly or through others, in order."""
    found: list[str] = []
    lost = set(gone)
    for step in part.steps:
        if step.id not in gone and lost & step.needs():
            found.append(step.id)
            lost.add(step.id)
    return found


class MoveStep(Edit):
    """Put a step somewhere else in the order."""

    kind: Literal["move_step"] = "move_step"
    step: str = Field(max_length=20)
    to: int = Field(ge=0, le=MAX_STEPS)

    def apply(self, model: Model) -> Model:
        part = model.part_of(self.step)
        steps = list(part.steps)
        moving = steps.pop(part.index(self.step))
        steps.insert(min(self.to, len(steps)), moving)
        moved = model.with_part(part.with_steps(tuple(steps)))
        problem = order_problem(moved, moved.part_of(self.step))
        if problem:
            raise Refused(f"{model.title_of(self.step)} cannot stand there: {problem}", where=self.step)
        return moved

    def summary(self, before: Model, after: Model) -> str:
        return f"{after.title_of(self.step)} moved to place {after.part_of(self.step).index(self.step) + 1}"


class SetNow(Edit):
    """Put the Now line after a number of steps (None: at the end)."""

    kind: Literal["set_now"] = "set_now"
    part: str = Field(max_length=20)
    now: int | None = Field(default=None, ge=0, le=MAX_STEPS)

    def apply(self, model: Model) -> Model:
        part = model.part(self.part)
        now = None if self.now is None or self.now >= len(part.steps) else self.now
        return model.with_part(part.model_copy(update={"now": now}))

    def summary(self, before: Model, after: Model) -> str:
        now = after.part(self.part).now
        return "Now line at the end" if now is None else f"Now line after step {now}"
