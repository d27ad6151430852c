"""What a built model amounts to, as plain data: for the screen and for the command line."""

from __future__ import annotations

from typing import Any

from ..model.building import PartBuild
from ..model.document import Model, Part
from ..registry import kind_of
from ..sketch.solver.freedom import freedom
from ..steps.sketch import SketchStep
from .materials import mass_g


def part_report(model: Model, part: Part, built: PartBuild) -> dict[str, Any]:
    """Name, volume (mm³), area (mm²), mass (g), box (mm), bodies, steps and sketches of one part."""
    from ..solid.measuring import measures

    found = [measures(body.shape) for body in built.bodies]
    low = [min((m.box[0][i] for m in found), default=0.0) for i in range(3)]
    high = [max((m.box[1][i] for m in found), default=0.0) for i in range(3)]
    volume = sum(m.volume for m in found)
    return {
        "name": part.name,
        "volume_mm3": volume,
        "area_mm2": sum(m.area for m in found),
        "mass_g": mass_g(volume, part.material),
        "box_mm": [h - l for l, h in zip(low, high)],
        "bodies": len(found),
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
