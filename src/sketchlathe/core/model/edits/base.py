"""What every edit declares, and applying one."""

from __future__ import annotations

from typing import Any, ClassVar

from pydantic import BaseModel, ConfigDict, ValidationError

from ...errors import BadInput, Refused
from ...registry import Registry, kind_of
from ...sketch.constraints import Dimensional
from ...sketch.solver.solving import Verdict, solve, solve_about
from ...steps.sketch import SketchStep
from ..document import Model, check_parts
from ..plots import replotted
from ..sound import check_reads, problem_in


class Edit(BaseModel):
    """One thing a person does. Subclasses declare their fields and ``apply``."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    kind: str = ""
    relinks: ClassVar[bool] = False  # it may change the steps of a part that comes from another model
    follows: ClassVar[bool] = False  # made by the program because of an earlier edit: undone together with that

    @classmethod
    def __pydantic_init_subclass__(cls, **_: Any) -> None:
        if cls.model_fields["kind"].default:
            EDITS.add(cls)

    def apply(self, model: Model) -> Model:
        """The model afterwards. Raises ``Trouble`` and changes nothing when it cannot be done."""
        raise NotImplementedError

    def notice(self, before: Model, after: Model) -> str:
        """What else happened that the person should know; empty if nothing."""
        return ""

    def summary(self, before: Model, after: Model) -> str:
        """What was done, in plain words, for the list of revisions."""
        raise NotImplementedError


EDITS: Registry[Edit] = Registry("edit", "sketchlathe.core.model.edits")


def parse_edit(raw: Any) -> Edit:
    """An edit from JSON data. Raises ``BadInput`` with the first problem in words."""
    if not isinstance(raw, dict):
        raise BadInput("An edit is needed.")
    if isinstance(raw.get("name"), str):  # a name is one line
        raw = {**raw, "name": " ".join(raw["name"].split())}
    try:
        return EDITS.parse(raw)
    except ValidationError as error:
        raise BadInput(f"That cannot be done: {problem_in(error)}.") from error


def apply_edit(model: Model, edit: Edit) -> Model:
    """The model after an edit, with every sketch that depends on changed numbers solved again; it can be read again."""
    after = edit.apply(model)
    if after.parts is not model.parts and not (edit.relinks or edit.follows):
        _check_linked(model, after)
    if after.parameters is not model.parameters or after.units != model.units:
        after = resettled(after)
    if after.parts is not model.parts:
        check_parts(after)
        after = _without_gone(after)
    check_reads(model, after)
    return after


def _check_linked(before: Model, after: Model) -> None:
    old = {p.id: p for p in before.parts}
    for part in after.parts:
        if part.linked and part.id in old and part.steps is not old[part.id].steps and part.steps != old[part.id].steps:
            raise Refused(
                f"“{part.name}” comes from “{part.linked.name}”: change it there, or make it this model's own first.",
                where=part.id,
            )


def _without_gone(model: Model) -> Model:
    """The model without deleted parts that nothing follows any more."""
    while True:
        followed = {s.brings() for p in model.parts for s in p.steps}
        kept = tuple(p for p in model.parts if not p.gone or p.id in followed)
        if len(kept) == len(model.parts):
            return model
        model = model.changed(parts=kept)


def resettled(model: Model) -> Model:
    """The model with its sketches solved for the parameters' present values.

    A sketch that cannot take them keeps its shape; its step then says so when it is built.
    """
    for part in model.parts:
        for step in part.steps:
            if not isinstance(step, SketchStep):
                continue
            plotted = replotted(model, step) if step.plots else step.sketch
            sized = any(isinstance(c, Dimensional) and c.driving for c in step.sketch.constraints)
            if not sized and plotted is step.sketch:
                continue
            try:
                sketch = plotted.valued(model.table.values, model.units)
            except BadInput:
                continue
            if plotted is step.sketch:
                off = sketch.off()
                if not off:
                    continue
                solution = solve_about(sketch, [ref for c in off for ref in c.members()])
            else:
                solution = solve(sketch)
            if solution.verdict is Verdict.SOLVED:
                model = model.with_sketch(step.id, solution.sketch)
    return model


def describe_acts() -> list[dict[str, Any]]:
    """Every act as plain data for the screen."""
    found = [(act, kind_of(edit)) for edit in EDITS for act in getattr(edit, "acts", ())]
    return [
        {
            "edit": kind,
            "name": act.name,
            "chord": act.chord,
            "icon": act.icon,
            "hint": act.hint,
            "asks": [vars(ask) for ask in act.asks],
            "preset": act.preset,
            "main": act.main,
            "again": act.again,
        }
        for act, kind in sorted(found, key=lambda item: item[0].order)
    ]
