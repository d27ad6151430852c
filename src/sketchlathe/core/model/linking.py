"""Parts of other models: as they were at a revision, with their numbers in place of the other model's parameters."""

from __future__ import annotations

import math

from ..errors import BadInput, Refused
from ..quantity import evaluate
from ..quantity.units import ANGLE, LENGTH, NUMBER, Dimension
from ..sketch.constraints import Dimensional
from ..steps.base import Step
from ..steps.sketch import SketchStep
from .document import Model, Part

_WANTED = {"length": LENGTH, "angle": ANGLE, "count": NUMBER}


def standalone(model: Model, part: Part) -> Part:
    """A part that needs nothing of its model: every formula is the number it comes to. Raises where one cannot be."""
    if any(s.brings() for s in part.steps):
        raise Refused(f"“{part.name}” brings other parts, which would have to come along: bring those.", where=part.id)
    own = {m.id for m in model.materials}
    return part.with_steps(tuple(_numbered(model, step) for step in part.steps)).model_copy(
        update={
            "material": "pla" if part.material in own else part.material,
            "made_of": tuple(m for m in part.made_of if m.material not in own),
            "answers": (), "measurements": (), "linked": None, "linked_ids": {},
        }
    )  # fmt: skip


def _numbered(model: Model, step: Step) -> Step:
    blanks = step.blanks()
    fields: dict[str, object] = {}
    for name, formula in step.formulas().items():
        try:
            wanted = _WANTED[blanks[name].type]
            got = evaluate(formula, model.table.values, wanted=wanted, length_unit=model.units)
        except BadInput:
            continue  # it says so where it is built
        fields[name] = said(got.value, wanted)
    if isinstance(step, SketchStep):
        try:
            values = step.sketch.valued(model.table.values, model.units).values
        except BadInput as problem:
            raise Refused(f"{model.title_of(step.id)} cannot be brought: {problem.message}") from problem
        constraints = tuple(
            c.model_copy(update={"value": said(values[c.id], c.measures)})
            if isinstance(c, Dimensional) and c.driving and c.id in values
            else c
            for c in step.sketch.constraints
        )
        fields["sketch"] = step.sketch.with_constraints(constraints)
    return step.model_copy(update=fields)


def said(value: float, dimension: Dimension) -> str:
    """A value (mm, rad) as it is typed.

    >>> said(12.5, LENGTH), said(math.pi / 6, ANGLE), said(4.0, NUMBER)
    ('12.5 mm', '30 deg', '4')
    """
    if dimension == ANGLE:
        return f"{math.degrees(value):.15g} deg"
    return f"{value:.15g}" + (" mm" if dimension == LENGTH else "")
