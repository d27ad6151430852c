"""One-click remedies of findings: the number of a step that would have to be larger."""

from __future__ import annotations

import math

from ..errors import BadInput
from ..forms import Remedy
from ..model.document import Model, Part
from ..quantity import evaluate, names_in
from ..quantity.units import LENGTH, UNITS, number_text
from .readiness import Finding


def remedy(model: Model, part: Part, finding: Finding) -> Remedy | None:
    """What puts a finding right; None where there is nothing of the kind."""
    if finding.well or not finding.need:
        return None
    unit, word = UNITS[model.units][0], model.units
    for id in finding.steps:
        step = next((s for s in part.steps if s.id == id), None)
        if step is None:
            continue
        for name, formula in step.formulas().items():
            blank = step.blanks()[name]
            if blank.type != "length" or names_in(formula):
                continue
            try:
                value = abs(evaluate(formula, {}, wanted=LENGTH, length_unit=model.units).value)
            except BadInput:
                continue
            if not 0 < value < finding.need - 1e-9:
                continue
            # rounded up to what a person would type
            text = f"{number_text(math.ceil(finding.need / unit * 100 - 1e-9) / 100, 4)} {word}"
            edit = {"kind": "set_fields", "step": id, "fields": {name: text}}
            return {"text": f"{model.title_of(id)}: make the {blank.label} {text}", "edits": [edit]}
    return None
