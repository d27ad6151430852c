"""What an open sketch shows and answers while it is drawn."""

from __future__ import annotations

import base64
import binascii
from typing import Any

from typing_extensions import TypedDict

from ..core.errors import BadInput, NotFound
from ..core.model.document import Model
from ..core.model.edits import parse_edit
from ..core.model.edits.sketching import DrawCurve, with_drawn
from ..core.plain_json import digest_of
from ..core.quantity import evaluate, show
from ..core.quantity.units import ANGLE, LENGTH, NUMBER
from ..core.remembering import once_each
from ..core.sketch.changes.chains import connected
from ..core.sketch.changes.copying import clipped
from ..core.sketch.changes.trimming import stretch_path
from ..core.sketch.curves.lettering import FONTS
from ..core.sketch.curves.text import Text
from ..core.sketch.dimensioning import propose
from ..core.sketch.document import Sketch, ValuedSketch
from ..core.sketch.live import Live
from ..core.sketch.moving import ways_to_move
from ..core.sketch.plots import Plot
from ..core.sketch.shown import (
    Clip,
    DimensionShown,
    Dragged,
    DrawnShown,
    MotionShown,
    Moved,
    PlotShown,
    ProposalShown,
    SelectionShown,
    SketchShown,
    StretchShown,
    TextSet,
    UnderlayShown,
)
from ..core.sketch.solver.drag import Drag
from ..core.sketch.suggesting import proposals
from ..core.sketch.tools import TOOLS, live_sizes
from ..core.sketch.view import dimension_view, facts, full_view, offers
from .modelling import Opened


class Amount(TypedDict):
    """What a formula comes to (mm, rad or plain), and that as text; ``problem``: why it comes to nothing yet."""

    value: float
    text: str
    problem: str


@once_each
def _evaluated(model: Model) -> dict[str, ValuedSketch]:
    """The sketches of a model with their formulas evaluated, as far as somebody has asked for them."""
    return {}


def evaluated(opened: Opened, step_id: str) -> ValuedSketch:
    """A sketch with its formulas evaluated; one that cannot be shows the drawing as it is."""
    step, known = opened.model.sketch_step(step_id), _evaluated(opened.model)
    if step.id not in known:
        try:
            known[step.id] = step.sketch.valued(opened.model.table.values, opened.model.units)
        except BadInput:
            known[step.id] = step.sketch.with_values({})
    return known[step.id]


def view(opened: Opened, step_id: str) -> SketchShown:
    """Everything the screen draws of a sketch."""
    return {
        "id": step_id,
        "revision": opened.revision,
        "underlay": underlay_view(opened, step_id),
        "plots": [_plot_shown(p) for p in opened.model.sketch_step(step_id).plots],
        **full_view(evaluated(opened, step_id), opened.model.read_in),
    }


def _plot_shown(plot: Plot) -> PlotShown:
    return {"x": plot.x, "y": plot.y, "start": plot.start, "end": plot.end, "curves": list(plot.curves)}


def underlay_view(opened: Opened, step_id: str) -> UnderlayShown | None:
    """Where the picture under a sketch lies, and the key it is asked for by."""
    found = opened.model.sketch_step(step_id).underlay
    if found is None:
        return None
    return {
        "key": digest_of(found.data)[:24], "name": found.name, "wide": found.wide, "high": found.high,
        "x": found.x, "y": found.y, "scale": found.scale, "turn": found.turn, "strength": found.strength,
    }  # fmt: skip


def underlay_picture(opened: Opened, step_id: str) -> tuple[str, bytes]:
    """Media type and content of the picture under a sketch. Raises ``NotFound``."""
    found = opened.model.sketch_step(step_id).underlay
    if found is None:
        raise NotFound("There is no picture under this sketch.")
    try:
        return found.media, base64.b64decode(found.data, validate=True)
    except (binascii.Error, ValueError) as error:
        raise NotFound("The picture under this sketch is damaged: bring it in again.") from error


def selection(opened: Opened, step_id: str, refs: tuple[str, ...]) -> SelectionShown:
    """What a selection is called, measures and can take."""
    sketch = evaluated(opened, step_id)
    refs = tuple(r for r in refs[:20] if r in sketch)
    return {
        "names": [sketch.name_of(r) for r in refs],
        "facts": facts(sketch, refs, opened.model.read_in),
        "offers": offers(sketch, refs),
        "rims": len(refs) == 2 and any("round" in sketch.tags_of(r) for r in refs),
        "text": _text_of(sketch, refs),
    }


def _text_of(sketch: Sketch, refs: tuple[str, ...]) -> TextSet | None:
    """What a selected text says and how it is set."""
    if len(refs) != 1 or "text" not in sketch.tags_of(refs[0].partition(".")[0]):
        return None
    text = sketch.curve(refs[0].partition(".")[0])
    assert isinstance(text, Text)
    return {
        "id": text.id, "fonts": FONTS, "words": text.words, "font": text.font, "spacing": text.spacing,
        "mirrored": text.mirrored, "bend": text.bend,
    }  # fmt: skip


def dimension(
    opened: Opened, step_id: str, refs: tuple[str, ...], at: tuple[float, float], rim: str = ""
) -> DimensionShown:
    """The dimension that picks and a pointer mean, drawn."""
    sketch = evaluated(opened, step_id)
    return dimension_view(propose(sketch, refs, at, rim=rim), sketch, opened.model.read_in)


def preview(opened: Opened, step_id: str, raw: Any) -> DrawnShown:
    """What a drawing tool would draw: its curves as paths, not constrained."""
    edit = parse_edit({**raw, "kind": "draw", "sketch": step_id} if isinstance(raw, dict) else raw)
    assert isinstance(edit, DrawCurve)
    sketch = evaluated(opened, step_id)
    drawing, _ = edit.drawing(opened.model, sketch)
    names = {raw["id"]: f"new{i}" for i, raw in enumerate(drawing.curves)}
    drawn = with_drawn(sketch.with_curves(()), drawing, names, construction=edit.construction)
    return {
        "paths": [{"path": c.svg(), "construction": c.construction} for c in drawn.curves],
        "sizes": live_sizes(TOOLS[edit.tool], drawing),
    }


def stretch(opened: Opened, step_id: str, ref: str, at: tuple[float, float]) -> StretchShown:
    """The stretch of a curve that trimming there would take away, as a path."""
    sketch = evaluated(opened, step_id)
    return {"path": stretch_path(sketch, ref.partition(".")[0], at)}


def motions(opened: Opened, step_id: str) -> list[MotionShown]:
    """How what is free can move."""
    found = ways_to_move(evaluated(opened, step_id))
    return [{"text": m.text, "curves": list(m.curves), "frames": m.frames} for m in found]


def suggestions(opened: Opened, step_id: str) -> list[ProposalShown]:
    """What would hold what is free."""
    sketch = evaluated(opened, step_id)
    found: list[ProposalShown] = [{"text": p.text, "refs": list(p.refs), "edit": p.edit} for p in proposals(sketch)]
    for proposal in found:
        wanted = proposal["edit"]
        wanted["sketch"] = step_id
        if wanted["kind"] == "add_dimension":
            made = propose(sketch, tuple(wanted["on"]), tuple(wanted["at"]), way=wanted.get("way", ""))
            proposal["value"] = show(made.measure(sketch), made.measures, opened.model.read_in, 3)
    return found


def chain(opened: Opened, step_id: str, ref: str) -> tuple[str, ...]:
    """The curves that hang together with one."""
    return connected(evaluated(opened, step_id), ref.partition(".")[0])


def clip(opened: Opened, step_id: str, refs: tuple[str, ...]) -> Clip:
    """Curves and the constraints among them, to be pasted anywhere."""
    return clipped(evaluated(opened, step_id), [r.partition(".")[0] for r in refs])


_SORTS = {"length": LENGTH, "angle": ANGLE, "count": NUMBER}


def number(opened: Opened, text: str, sort: str = "length", step_id: str | None = None) -> Amount:
    """A formula's value, and the value as text. In a sketch it may use the sketch's named dimensions. One that is
    still being typed comes to nothing, which is no mistake of anybody's.
    """
    wanted = _SORTS.get(sort, LENGTH)
    names = opened.model.table.values
    if step_id:
        names = {**names, **evaluated(opened, step_id).named_values()}
    try:
        got = evaluate(text[:400], names, wanted=wanted, length_unit=opened.model.units)
    except BadInput as problem:
        return {"value": 0.0, "text": "", "problem": problem.message}
    return {"value": got.value, "text": show(got.value, wanted, opened.model.read_in), "problem": ""}


def drag_at_once(opened: Opened, step_id: str, ref: str, grab: tuple[float, float], at: tuple[float, float]) -> Dragged:
    """A drag from where something was grabbed to where the pointer is, in one go."""
    session = DragSession(opened, step_id, ref, grab)
    return {"view": session.to(*at, everything=True), "coordinates": session.coordinates()}


class DragSession:
    """One drag in an open sketch; answers with what moved."""

    def __init__(self, opened: Opened, step_id: str, ref: str, at: tuple[float, float]) -> None:
        self._drag = Drag(evaluated(opened, step_id), ref, at)
        self._live = Live(self._drag, opened.model.read_in)

    def to(self, x: float, y: float, *, everything: bool = False) -> Moved:
        """Follow the pointer (mm); see ``Live.to``."""
        return self._live.to(x, y, everything=everything)

    def coordinates(self) -> dict[str, dict[str, Any]]:
        """Where everything that moved stands now, for the edit that keeps it."""
        before = {c.id: c for c in self._drag.sketch.curves}
        out: dict[str, dict[str, Any]] = {}
        for curve in self._drag.result().curves:
            if curve is not before[curve.id]:
                out[curve.id] = curve.scalars
        return out
