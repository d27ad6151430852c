"""Curves by formulas that follow the parameters they use."""

from __future__ import annotations

import json
from collections.abc import Callable
from typing import Any

from ..errors import BadInput
from ..sketch.curves import CURVES, Curve
from ..sketch.curves.base import XY
from ..sketch.document import Sketch
from ..sketch.plots import Formulas, reach
from ..steps.sketch import SketchStep
from .document import Model

_WITHIN = 2e-6  # of its size: how near a spline must run to its formulas (areas are told to five digits)


def splines(formulas: Formulas, model: Model, count: int | None = None, *, lines: bool = False) -> list[dict[str, Any]]:
    """The splines (one, or two that meet at both ends for a closed curve; or as many as there are to be) that run
    along it; with ``lines`` a line where it is straight. Raises ``BadInput``.
    """
    at = formulas.curve(model.table.values, model.units)
    size, closed = reach(at)
    pieces = count or (2 if closed else 1)
    made = [_spline(_part(at, k / pieces, (k + 1) / pieces), size, lines) for k in range(pieces)]
    return [raw for raw in made if raw is not None]


def _part(at: Callable[[float], XY], low: float, high: float) -> Callable[[float], XY]:
    return lambda share: at(low + (high - low) * share)


def _spline(at: Callable[[float], XY], size: float, lines: bool) -> dict[str, Any] | None:
    from ..bringing.chaining import smooth

    raw = smooth(at, size, _WITHIN, directed=not lines)
    if raw is not None and raw["kind"] == "line" and not lines:
        return {"kind": "spline", "through": [at(k / 3) for k in range(4)]}
    return raw


def replotted(model: Model, step: SketchStep) -> Sketch:
    """A step's sketch with its curves by formulas where these say now; one whose formulas give nothing stays as it was,
    and the step says so when it is built. The same object where nothing moved.
    """
    sketch = step.sketch
    for plot in step.plots:
        if any(id not in sketch for id in plot.curves):
            continue
        try:
            made = splines(plot, model, len(plot.curves))
        except BadInput:
            continue
        if len(made) != len(plot.curves):
            continue
        for id, raw in zip(plot.curves, made):
            sketch = _redrawn(sketch, id, raw)
    return sketch


def _redrawn(sketch: Sketch, id: str, raw: dict[str, Any]) -> Sketch:
    old = sketch.curve(id)
    new = CURVES.parse({**raw, "id": id, "construction": old.construction, "taken": True})
    if new == old:
        return sketch
    curves = tuple(new if c.id == id else c for c in sketch.curves)
    if old.points == new.points:
        return sketch.with_curves(curves)
    # what holds on to its last point holds on to the one that is last now
    before, after = _last(old), _last(new)
    data = sketch.model_dump(mode="json")
    data["constraints"] = json.loads(json.dumps(data["constraints"]).replace(f'"{before}"', f'"{after}"'))
    data["curves"] = [c.model_dump(mode="json") for c in curves]
    return Sketch.model_validate(data)


def _last(curve: Curve) -> str:
    ends = curve.end_points
    assert ends is not None  # a spline has two
    return f"{curve.id}.{ends[1]}"
