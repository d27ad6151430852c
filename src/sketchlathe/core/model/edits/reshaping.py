"""Edits that reshape a sketch: trim, extend, split, corners, offset, copies, moves, repairs, paste."""

from __future__ import annotations

import math
from typing import Annotated, Any, ClassVar, Literal

from pydantic import BaseModel, ConfigDict, Field

from ...errors import BadInput
from ...quantity import ANGLE, LENGTH, evaluate, settle
from ...sketch.changes import copying, offsetting, repairing, rounding, trimming
from ...sketch.curves import Vec
from ...sketch.document import ValuedSketch
from ..acts import Act, Ask
from ..document import Model
from .fresh import Numbering
from .sketching import Ids, Refs, SketchEdit, measured, names_of

Formula = Annotated[str, Field(max_length=400)]
Name = Annotated[str, Field(max_length=40)]


class Pointed(BaseModel):
    """A curve and the place on it that was pointed at (mm)."""

    model_config = ConfigDict(frozen=True, extra="forbid")
    id: Name
    at: Vec


class Reshape(SketchEdit):
    """An edit that is one function of the sketch."""

    what: ClassVar[str] = ""  # what was done, for the list of revisions

    def reshaped(self, model: Model, sketch: ValuedSketch, fresh: Numbering) -> ValuedSketch:
        """The sketch afterwards."""
        raise NotImplementedError

    def apply(self, model: Model) -> Model:
        fresh = Numbering(model)
        sketch = self.reshaped(model, self.current(model), fresh)
        return fresh.model.with_sketch(self.sketch, sketch)

    def summary(self, before: Model, after: Model) -> str:
        return f"{self.what} in {self.title(after)}"


class Trim(Reshape):
    """Take away stretches of curves between their crossings."""

    kind: Literal["trim"] = "trim"
    what: ClassVar[str] = "Trimmed"
    acts: ClassVar[tuple[Act, ...]] = (
        Act(
            "Trim",
            "mt",
            "M4 4L19 19M4 19l6-6M15 8l4-4M9 4.500v14M14 4.500v14",
            "Click the stretch to take away; drag across several.",
            (Ask("stretches", "stretches", "the stretch to take away; drag across several"),),
            order=1,
            main=True,
        ),
    )
    stretches: tuple[Pointed, ...] = Field(min_length=1, max_length=200)

    def reshaped(self, model: Model, sketch: ValuedSketch, fresh: Numbering) -> ValuedSketch:
        for stretch in self.stretches:
            if stretch.id in sketch:
                sketch = trimming.trim(sketch, fresh, stretch.id, stretch.at)
        return sketch


class Extend(Reshape):
    """Let an end run on to the next curve."""

    kind: Literal["extend"] = "extend"
    what: ClassVar[str] = "Extended"
    acts: ClassVar[tuple[Act, ...]] = (
        Act(
            "Extend",
            "me",
            "M4 16h7M13 16h2M17 16h1M20 4v15",
            "Click near the end that is to run on to the next curve.",
            (Ask("curve", "stretch", "the end that is to run on"),),
            order=10,
        ),
    )
    curve: Pointed

    def reshaped(self, model: Model, sketch: ValuedSketch, fresh: Numbering) -> ValuedSketch:
        return trimming.extend(sketch, fresh, self.curve.id, self.curve.at)


class SplitCurve(Reshape):
    """Cut a curve in two."""

    kind: Literal["split"] = "split"
    what: ClassVar[str] = "Split"
    acts: ClassVar[tuple[Act, ...]] = (
        Act(
            "Split",
            "mx",
            "M3 15l6-3M14 9l6-3M11 4l1.500 15",
            "Click the place at which a curve is to be cut in two.",
            (Ask("curve", "stretch", "the place to cut it in two"),),
            order=11,
        ),
    )
    curve: Pointed

    def reshaped(self, model: Model, sketch: ValuedSketch, fresh: Numbering) -> ValuedSketch:
        return trimming.split(sketch, fresh, self.curve.id, self.curve.at)


class FilletCorner(Reshape):
    """Round a corner."""

    kind: Literal["fillet_corner"] = "fillet_corner"
    what: ClassVar[str] = "Corner rounded"
    acts: ClassVar[tuple[Act, ...]] = (
        Act(
            "Round",
            "mr",
            "M4 4v7a8 8 0 0 0 8 8h7M4 15v4h4",
            "Click a corner, or select curves first for all corners among them; type the radius.",
            (Ask("on", "corner", "the corner to round"), Ask("radius", "length", "radius", "5")),
            order=2,
            main=True,
        ),
    )
    on: Ids
    radius: Formula

    def reshaped(self, model: Model, sketch: ValuedSketch, fresh: Numbering) -> ValuedSketch:
        text, value = measured(model, sketch, self.radius, LENGTH, "radius")
        first = ""
        for meant in rounding.corners_meant(sketch, self.on):
            sketch = rounding.fillet(sketch, fresh, rounding.corner_of(sketch, meant), value, text, like=first)
            first = first or sketch.curves[-1].id
        return sketch


class ChamferCorner(Reshape):
    """Cut a corner off."""

    kind: Literal["chamfer_corner"] = "chamfer_corner"
    what: ClassVar[str] = "Corner chamfered"
    acts: ClassVar[tuple[Act, ...]] = (
        Act(
            "Chamfer",
            "mh",
            "M4 4v8l7 7h8M4 15v4h4",
            "Click a corner between two lines, or select lines first for all corners among them; type how much is cut "
            "off.",
            (Ask("on", "corner", "the corner to cut off"), Ask("size", "length", "size", "3")),
            order=3,
        ),
    )
    on: Ids
    size: Formula
    other: Formula = ""

    def reshaped(self, model: Model, sketch: ValuedSketch, fresh: Numbering) -> ValuedSketch:
        first = measured(model, sketch, self.size, LENGTH, "size")
        second = measured(model, sketch, self.other, LENGTH, "size") if self.other.strip() else first
        sizes, texts = (first[1], second[1]), (first[0], second[0])
        for meant in rounding.corners_meant(sketch, self.on):
            sketch = rounding.chamfer(sketch, fresh, rounding.corner_of(sketch, meant), sizes, texts)
        return sketch


class OffsetCurves(Reshape):
    """Curves parallel to a chain, at one driving distance."""

    kind: Literal["offset"] = "offset"
    what: ClassVar[str] = "Offset"
    acts: ClassVar[tuple[Act, ...]] = (
        Act(
            "Offset",
            "mo",
            "M4 19V9a5 5 0 0 1 5-5h10M9 19v-7a2.500 2.500 0 0 1 2.500-2.500H19",
            "Select a chain, click the side, type the distance.",
            (
                Ask("ids", "chosen", "the chain to offset, then Enter"),
                Ask("side", "place", "the side"),
                Ask("distance", "length", "distance", "3"),
            ),
            order=4,
            main=True,
            again=False,
        ),
        Act(
            "Offset to both sides",
            "mb",
            "M4 15h15M4 8h15M4 11.500h2M8 11.500h2M12 11.500h2M16 11.500h2",
            "Select a chain, click a place, type the distance.",
            (
                Ask("ids", "chosen", "the chain to offset, then Enter"),
                Ask("side", "place", "any place"),
                Ask("distance", "length", "distance", "3"),
            ),
            preset={"both": True},
            order=5,
            again=False,
        ),
    )
    ids: Ids
    side: Vec
    distance: Formula
    both: bool = False

    def reshaped(self, model: Model, sketch: ValuedSketch, fresh: Numbering) -> ValuedSketch:
        text, value = measured(model, sketch, self.distance, LENGTH, "distance")
        return offsetting.offset(sketch, fresh, self.ids, self.side, value, text, both=self.both)

    def notice(self, before: Model, after: Model) -> str:
        return ""


class MirrorCurves(Reshape):
    """Mirror curves; the images follow."""

    kind: Literal["mirror_curves"] = "mirror_curves"
    what: ClassVar[str] = "Mirrored"
    acts: ClassVar[tuple[Act, ...]] = (
        Act(
            "Mirror",
            "mm",
            "M11.500 3v17M4 6l5 5.500L4 17zM19 6l-5 5.500l5 5.500z",
            "Select curves, then click the line to mirror across.",
            (
                Ask("ids", "chosen", "the curves to mirror, then Enter"),
                Ask("axis", "line", "the line or axis to mirror across"),
            ),
            order=6,
            main=True,
            again=False,
        ),
    )
    ids: Ids
    axis: Name

    def reshaped(self, model: Model, sketch: ValuedSketch, fresh: Numbering) -> ValuedSketch:
        return copying.mirrored(sketch, fresh, _curve_ids(self.ids), self.axis)


class PatternCurves(Reshape):
    """A circular pattern about a point or a linear one along a line; the members follow."""

    kind: Literal["pattern_curves"] = "pattern_curves"
    what: ClassVar[str] = "Pattern made"
    acts: ClassVar[tuple[Act, ...]] = (
        Act(
            "Pattern",
            "mp",
            "M11.500 4.500a1.500 1.500 0 1 0 .01 0M5 9a1.500 1.500 0 1 0 .01 0M18 9a1.500 1.500 0 1 0 "
            ".01 0M7.500 16a1.500 1.500 0 1 0 .01 0M15.500 16a1.500 1.500 0 1 0 .01 0",
            "Select curves, click the point to go round or the line to go along, type how many and how far apart.",
            (
                Ask("ids", "chosen", "the curves to repeat, then Enter"),
                Ask("about", "line or point", "the point to go round, or the line or axis to go along"),
                Ask("count", "count", "how many in all", "6"),
                Ask("step", "length", "spacing (empty: evenly round)", "", may_be_empty=True),
            ),
            order=7,
            main=True,
            again=False,
        ),
    )
    ids: Ids
    about: Name
    count: int = Field(ge=2, le=1000)
    step: Formula = ""

    def reshaped(self, model: Model, sketch: ValuedSketch, fresh: Numbering) -> ValuedSketch:
        if self.about not in sketch:
            raise BadInput("Pick the point or line for the pattern last.")
        turning = "point" in sketch.tags_of(self.about)
        ids = _curve_ids(self.ids)
        names = names_of(model, sketch)
        wanted = ANGLE if turning else LENGTH
        if not self.step.strip():
            if not turning:
                raise BadInput("Type how far apart the members of the pattern are.")
            return copying.ring(sketch, fresh, ids, self.about, self.count, "", 2 * math.pi / max(self.count, 1))
        text = settle(self.step, names, wanted=wanted, length_unit=model.units)
        value = evaluate(text, names, wanted=wanted, length_unit=model.units).value
        make = copying.ring if turning else copying.row
        return make(sketch, fresh, ids, self.about, self.count, text, value)


class TransformCurves(Reshape):
    """Move, turn or scale curves."""

    kind: Literal["transform_curves"] = "transform_curves"
    what: ClassVar[str] = "Moved"
    acts: ClassVar[tuple[Act, ...]] = (
        Act(
            "Move",
            "mv",
            "M11.500 3v17M3 11.500h17M9 5.500L11.500 3L14 5.500M9 17.500l2.500 2.500l2.500-2.500M5.500"
            " 9L3 11.500L5.500 14M17.500 9l2.500 2.500l-2.500 2.500",
            "Select curves, click from where, then to where.",
            (
                Ask("ids", "chosen", "the curves to move, then Enter"),
                Ask("start", "place", "from where"),
                Ask("to", "place", "to where"),
            ),
            order=20,
            again=False,
        ),
        Act(
            "Turn",
            "mu",
            "M18 8a8 8 0 1 0 1 6M19 3v5h-5",
            "Select curves, click the point to turn about, type the angle.",
            (
                Ask("ids", "chosen", "the curves to turn, then Enter"),
                Ask("about", "place", "the point to turn about"),
                Ask("turn", "angle", "angle", "90 deg"),
            ),
            order=21,
            again=False,
        ),
        Act(
            "Scale",
            "ms",
            "M4 12h7v7H4zM8 12V4h11v11h-8",
            "Select curves, click the point that stays, type the factor.",
            (
                Ask("ids", "chosen", "the curves to scale, then Enter"),
                Ask("about", "place", "the point that stays"),
                Ask("factor", "factor", "factor", "2"),
            ),
            order=22,
            again=False,
        ),
        Act(
            "Copy beside",
            "my",
            "M4 8h10v11H4zM8 8V4h10v11h-4",
            "Select curves, click from where, then where the copy goes.",
            (
                Ask("ids", "chosen", "the curves to copy, then Enter"),
                Ask("start", "place", "from where"),
                Ask("to", "place", "where the copy goes"),
            ),
            preset={"copied": True},
            order=23,
        ),
    )
    ids: Ids
    start: Vec = (0.0, 0.0)
    to: Vec = (0.0, 0.0)
    about: Vec = (0.0, 0.0)
    turn: Formula = ""
    factor: float = Field(default=1.0, gt=0, le=1e4, allow_inf_nan=False)
    copied: bool = False

    def reshaped(self, model: Model, sketch: ValuedSketch, fresh: Numbering) -> ValuedSketch:
        ids = _curve_ids(self.ids)
        if self.copied:
            sketch, new = copying.pasted(sketch, fresh, copying.clipped(sketch, ids), (0.0, 0.0))
            ids = tuple(new)
        names = names_of(model, sketch)
        angle = evaluate(self.turn, names, wanted=ANGLE, length_unit=model.units).value if self.turn.strip() else 0.0
        c, s = math.cos(angle) * self.factor, math.sin(angle) * self.factor
        (ox, oy) = self.about
        dx, dy = self.to[0] - self.start[0], self.to[1] - self.start[1]

        def f(p: tuple[float, float]) -> tuple[float, float]:
            x, y = p[0] - ox, p[1] - oy
            return (ox + c * x - s * y + dx, oy + s * x + c * y + dy)

        return copying.transformed(sketch, ids, f, self.factor, turned=bool(angle))


class Paste(Reshape):
    """Curves from a clipboard."""

    kind: Literal["paste"] = "paste"
    what: ClassVar[str] = "Pasted"
    clip: dict[str, Any]
    by: Vec = (0.0, 0.0)
    scale: Annotated[float, Field(gt=1e-6, le=1e6, allow_inf_nan=False)] = 1.0

    def reshaped(self, model: Model, sketch: ValuedSketch, fresh: Numbering) -> ValuedSketch:
        after, _ = copying.pasted(sketch, fresh, self.clip, self.by, self.scale)
        # formulas of another model may use names that are not here: such dimensions become references
        return copying.settled(_understood(model, after), ())


class RepairSketch(Reshape):
    """One offered repair."""

    kind: Literal["repair_sketch"] = "repair_sketch"
    what: ClassVar[str] = "Repaired"
    finding: Annotated[str, Field(max_length=30)]
    on: Refs

    def reshaped(self, model: Model, sketch: ValuedSketch, fresh: Numbering) -> ValuedSketch:
        if self.finding not in ("empty", "duplicate", "gap", "nearly tangent", "nearly equal"):
            raise BadInput("There is no such repair.")
        return repairing.repaired(sketch, fresh, self.finding, self.on)


def _curve_ids(ids: tuple[str, ...]) -> tuple[str, ...]:
    return tuple(dict.fromkeys(id.partition(".")[0] for id in ids))


def _understood(model: Model, sketch: ValuedSketch) -> ValuedSketch:
    from ...sketch.constraints import Dimensional

    known = {*model.table.values, *(c.name for c in sketch.constraints if isinstance(c, Dimensional) and c.name)}
    from ...quantity import names_in

    kept = [
        c.model_copy(update={"driving": False})
        if isinstance(c, Dimensional) and c.driving and not names_in(c.value) <= known
        else c
        for c in sketch.constraints
    ]
    return sketch.with_constraints(kept).valued(model.table.values, model.units)
