"""What a built model amounts to, as plain data: for the screen and for the command line."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from ..amounts.weighing import Weighed, together, weighed, without_noise
from ..making.results import PartBuild
from ..model.document import Model, Part
from ..model.made_of import key_for, material_of
from ..registry import kind_of
from ..sketch.solver.freedom import freedom
from ..steps.sketch import SketchStep


def weighed_part(model: Model, part: Part, built: PartBuild) -> Weighed:
    """A part's bodies weighed, each of its material, and all together."""
    from ..solid.measuring import measures

    found = []
    for body in built.bodies:
        m = measures(body.shape)
        density = material_of(model, key_for(model, part, body)).density
        found.append(weighed(m.volume, m.area, m.centre, m.box, m.moments, density))
    return together(found)


def part_report(model: Model, part: Part, built: PartBuild) -> dict[str, Any]:
    """Name, volume (mm³), area (mm²), mass (g), box (mm), inertia (g·mm²), bodies, steps and sketches of one part."""
    whole = weighed_part(model, part, built)
    moments, axes = whole.principal()
    return {
        "name": part.name,
        "volume_mm3": whole.volume,
        "area_mm2": whole.area,
        "mass_g": whole.mass,
        "box_mm": [h - l for l, h in zip(*whole.box)],
        "centre_mm": without_noise(whole.centre, math.dist(*whole.box)),
        "inertia_g_mm2": [without_noise(row, float(np.trace(whole.inertia))) for row in whole.inertia],
        "principal_g_mm2": moments.tolist(),
        "principal_axes": axes.tolist(),
        "bodies": len(built.bodies),
        "references": [
            {
                "step": step,
                "triangles": len(s.triangles),
                "closed": s.closed,
                "volume_mm3": s.volume,
                "area_mm2": s.area,
                "box_mm": [h - l for l, h in zip(*s.box)],
            }
            for step, _, s in built.references
        ],
        "steps": [
            {
                "id": step.id,
                "kind": kind_of(type(step)),
                "name": model.title_of(step.id),
                "status": result.status,
                "message": result.message,
            }
            for step, result in zip(part.steps, built.steps)
        ],
        "sketches": [
            {"id": step.id, "name": model.title_of(step.id), "freedom": freedom(step.sketch).count}
            for step in part.steps
            if isinstance(step, SketchStep)
        ],
    }
