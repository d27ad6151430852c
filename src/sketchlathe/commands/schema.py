"""Print the JSON Schema of the model format."""

from __future__ import annotations

import json
from typing import Any

from ..core.model.document import Model
from ..core.registry import kind_of
from ..core.sketch.constraints import CONSTRAINTS
from ..core.sketch.curves import CURVES
from ..core.steps.base import STEPS


def schema() -> dict[str, Any]:
    """The Schema of a model file, with every kind of step, curve and constraint there is."""
    whole = Model.model_json_schema()
    definitions = whole["$defs"]
    for base, registry in (("Step", STEPS), ("Curve", CURVES), ("Constraint", CONSTRAINTS)):
        choices = []
        for cls in registry:
            own = cls.model_json_schema(ref_template="#/$defs/{model}")
            definitions.update(own.pop("$defs", {}))
            name = f"{base}_{kind_of(cls)}"
            own.setdefault("required", [])
            own["required"] = ["kind", *(r for r in own["required"] if r != "kind")]
            definitions[name] = own
            choices.append({"$ref": f"#/$defs/{name}"})
        definitions[base] = {"oneOf": choices}
    return whole


def run(argv: list[str]) -> int:
    """``./lathe schema``"""
    print(json.dumps(schema(), indent=1))
    return 0
