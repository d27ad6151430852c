"""Edits of parameters. A change that would break a formula elsewhere is refused with the place."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ...errors import BadInput, Refused
from ...quantity import LENGTH, check_name, names_in, rename_in, settle
from ...quantity.units import ANGLE, Dimension
from ...sketch.constraints import Dimensional
from ...steps.base import Step
from ...steps.sketch import SketchStep
from ..document import Model, Parameter
from .base import Edit

Sort = Literal["length", "angle", "number"]
_SORTS: dict[str, Dimension | None] = {"length": LENGTH, "angle": ANGLE, "number": None}


def uses_of(model: Model, name: str) -> list[str]:
    """Where a parameter is used, in words."""
    found = [f"parameter {p.name}" for p in model.parameters if p.name != name and name in _names(p.formula)]
    found += [
        f"variant {v.name}" for v in model.variants if any(name in _names(f) for n, f in v.values.items() if n != name)
    ]
    for part in model.parts:
        where = f" of {part.name}" if len(model.there) > 1 else ""
        for step in part.steps:
            if any(name in _names(f) for f in formulas_of(step)):
                found.append(f"{model.title_of(step.id)}{where}")
    return found


def _names(formula: str) -> frozenset[str]:
    try:
        return names_in(formula)
    except BadInput:
        return frozenset()


def formulas_of(step: Step) -> list[str]:
    """All formulas that count in a step: of its blanks, and of a sketch's driving dimensions."""
    formulas = list(step.formulas().values())
    if isinstance(step, SketchStep):
        formulas += [text for plot in step.plots for text in plot.texts().values()]
        formulas += [c.value for c in step.sketch.constraints if isinstance(c, Dimensional) and c.driving]
    return formulas


def _settled(model: Model, formula: str, sort: Sort, skip: str = "") -> str:
    others = {n: q for n, q in model.table.values.items() if n != skip}
    got = settle(formula, others, wanted=None, length_unit=model.units)
    from ...quantity import evaluate

    wanted = _SORTS[sort]
    if wanted is not None and evaluate(got, others, length_unit=model.units).bare:
        got = settle(formula, others, wanted=wanted, length_unit=model.units)
    return got


class AddParameter(Edit):
    """A new named value. A plain number takes the unit of its sort."""

    kind: Literal["add_parameter"] = "add_parameter"
    name: str = Field(max_length=60)
    formula: str = Field(max_length=400)
    sort: Sort = "length"
    note: str = Field(default="", max_length=200)

    def apply(self, model: Model) -> Model:
        name = check_name(self.name.strip())
        if any(p.name == name for p in model.parameters):
            raise BadInput(f"There is a parameter “{name}” already.", where="name")
        new = Parameter(name=name, formula=_settled(model, self.formula, self.sort), note=self.note)
        after = model.changed(parameters=(*model.parameters, new))
        _ = after.table
        return after

    def summary(self, before: Model, after: Model) -> str:
        return f"Parameter {after.parameters[-1].name} = {after.parameters[-1].formula}"


class SetParameter(Edit):
    """Change a parameter's formula or note."""

    kind: Literal["set_parameter"] = "set_parameter"
    name: str = Field(max_length=60)
    formula: str = Field(max_length=400)
    sort: Sort = "length"
    note: str | None = Field(default=None, max_length=200)

    def apply(self, model: Model) -> Model:
        old = _parameter(model, self.name)
        if self.name in names_in(self.formula):
            raise BadInput(f"“{self.name}” cannot depend on itself.", where=self.name)
        if model.table[self.name].bare:  # a plain number stays one
            formula = _settled(model, self.formula, "number", self.name)
        else:
            formula = _settled(model, self.formula, self.sort, self.name)
        note = old.note if self.note is None else self.note
        new = old.model_copy(update={"formula": formula, "note": note})
        after = model.changed(parameters=tuple(new if p.name == self.name else p for p in model.parameters))
        _ = after.table
        return after

    def summary(self, before: Model, after: Model) -> str:
        return f"Parameter {self.name} = {_parameter(after, self.name).formula}"


class RenameParameter(Edit):
    """Rename a parameter; every formula follows."""

    kind: Literal["rename_parameter"] = "rename_parameter"
    name: str = Field(max_length=60)
    to: str = Field(max_length=60)

    def apply(self, model: Model) -> Model:
        _parameter(model, self.name)
        to = check_name(self.to.strip())
        if to != self.name and any(p.name == to for p in model.parameters):
            raise BadInput(f"There is a parameter “{to}” already.", where="name")

        def renamed(formula: str) -> str:
            return rename_in(formula, self.name, to) if self.name in _names(formula) else formula

        parameters = tuple(
            p.model_copy(update={"name": to if p.name == self.name else p.name, "formula": renamed(p.formula)})
            for p in model.parameters
        )
        limits = tuple(
            k.model_copy(update={"knob": f"p:{to}"}) if k.knob == f"p:{self.name}" else k for k in model.limits
        )
        variants = tuple(
            v.model_copy(update={"values": {to if n == self.name else n: renamed(f) for n, f in v.values.items()}})
            for v in model.variants
        )
        after = model.changed(parameters=parameters, limits=limits, variants=variants)
        for part in model.parts:
            for step in part.steps:
                if any(self.name in _names(f) for f in formulas_of(step)):
                    after = after.with_step(_renamed_step(step, renamed))
        return after

    def summary(self, before: Model, after: Model) -> str:
        return f"Parameter {self.name} renamed to {self.to.strip()}"


def _renamed_step(step: Step, renamed: object) -> Step:
    assert callable(renamed)
    update: dict[str, object] = {name: renamed(formula) for name, formula in step.formulas().items()}
    if isinstance(step, SketchStep):
        update["sketch"] = step.sketch.with_constraints(
            c.model_copy(update={"value": renamed(c.value)}) if isinstance(c, Dimensional) and c.driving else c
            for c in step.sketch.constraints
        )
        update["plots"] = tuple(
            p.model_copy(update={name: renamed(text) for name, text in p.texts().items()}) for p in step.plots
        )
    return step.model_copy(update=update)


class DeleteParameter(Edit):
    """Delete a parameter that nothing uses."""

    kind: Literal["delete_parameter"] = "delete_parameter"
    name: str = Field(max_length=60)

    def apply(self, model: Model) -> Model:
        _parameter(model, self.name)
        users = uses_of(model, self.name)
        if users:
            raise Refused(f"“{self.name}” is used by {', '.join(users[:6])}; change that first.", where=self.name)
        variants = tuple(
            v.model_copy(update={"values": {n: f for n, f in v.values.items() if n != self.name}})
            for v in model.variants
        )
        return model.changed(
            parameters=tuple(p for p in model.parameters if p.name != self.name),
            limits=tuple(k for k in model.limits if k.knob != f"p:{self.name}"),
            variants=variants,
        )

    def summary(self, before: Model, after: Model) -> str:
        return f"Parameter {self.name} deleted"


def _parameter(model: Model, name: str) -> Parameter:
    for parameter in model.parameters:
        if parameter.name == name:
            return parameter
    raise BadInput(f"There is no parameter called “{name[:40]}”.", where="name")
