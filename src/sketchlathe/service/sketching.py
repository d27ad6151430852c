"""What an open sketch shows and answers while it is drawn."""

from __future__ import annotations

from typing import Any

from ..core.errors import BadInput
from ..core.quantity import evaluate, show
from ..core.quantity.units import ANGLE, LENGTH
from ..core.sketch.dimensioning import propose
from ..core.sketch.document import Sketch
from ..core.sketch.solver.compiling import with_scalars
from ..core.sketch.solver.drag import Drag
from ..core.sketch.view import dimension_view, facts, full_view, live_view, offers
from .modelling import Opened


def evaluated(opened: Opened, step_id: str) -> Sketch:
    """A sketch with its formulas evaluated; one that cannot be shows the drawing as it is."""
    sketch = opened.model.sketch_step(step_id).sketch
    try:
        return sketch.valued(opened.model.table.values, opened.model.units)
    except BadInput:
        return sketch


def view(opened: Opened, step_id: str) -> dict[str, Any]:
    """Everything the screen draws of a sketch."""
    return {
        "id": step_id,
        "revision": opened.revision,
        **full_view(evaluated(opened, step_id), opened.model.units),
    }


def selection(opened: Opened, step_id: str, refs: tuple[str, ...]) -> dict[str, Any]:
    """What a selection is called, measures and can take."""
    sketch = evaluated(opened, step_id)
    refs = tuple(r for r in refs[:20] if r in sketch)
    return {
        "names": [sketch.name_of(r) for r in refs],
        "facts": facts(sketch, refs, opened.model.units),
        "offers": offers(sketch, refs),
    }


def dimension(opened: Opened, step_id: str, refs: tuple[str, ...], at: tuple[float, float]) -> dict[str, Any]:
    """The dimension that picks and a pointer mean, drawn."""
    sketch = evaluated(opened, step_id)
    return dimension_view(propose(sketch, refs, at), sketch, opened.model.units)


def number(opened: Opened, text: str, *, angle: bool = False) -> dict[str, Any]:
    """A formula's value, and the value as text."""
    wanted = ANGLE if angle else LENGTH
    got = evaluate(text[:400], opened.model.table.values, wanted=wanted, length_unit=opened.model.units)
    return {"value": got.value, "text": show(got.value, wanted, opened.model.units)}


class DragSession:
    """One drag in an open sketch; answers with the live view."""

    def __init__(self, opened: Opened, step_id: str, ref: str, at: tuple[float, float]) -> None:
        self._unit = opened.model.units
        self._drag = Drag(evaluated(opened, step_id), ref, at)

    def to(self, x: float, y: float) -> dict[str, Any]:
        """Follow the pointer."""
        drag = self._drag
        scalars = drag.to(x, y)
        return live_view(with_scalars(drag.sketch, drag.system, scalars), self._unit)

    def coordinates(self) -> dict[str, dict[str, Any]]:
        """Where everything that moved stands now, for the edit that keeps it."""
        before = {c.id: c for c in self._drag.sketch.curves}
        out: dict[str, dict[str, Any]] = {}
        for curve in self._drag.result().curves:
            if curve is not before[curve.id]:
                out[curve.id] = {name: getattr(curve, name) for name in (*curve.points, *curve.sizes)}
        return out
