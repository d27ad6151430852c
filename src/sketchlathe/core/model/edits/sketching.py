"""Edits of a sketch's curves: draw, move, delete, make construction. Each leaves the sketch solved or is refused."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Mapping
from typing import Annotated, Any, Literal

from pydantic import Field, ValidationError

from ...errors import BadInput, Refused
from ...quantity import LENGTH, Quantity, evaluate, negated, settle
from ...quantity.units import Dimension
from ...saying import a, opens
from ...sketch.changes import add_constraint, add_if_it_fits, solved_or_refused
from ...sketch.changes.removing import without_curves
from ...sketch.constraints import CONSTRAINTS, Constraint, Dimensional
from ...sketch.coupling import portion, put_back
from ...sketch.curves import Curve, Vec
from ...sketch.curves.base import LIMIT
from ...sketch.document import MAX_CURVES, ValuedSketch
from ...sketch.inference import implied
from ...sketch.solver.solving import solve
from ...sketch.tools import TOOLS, Drawing, Place, Tool, TypedSize
from ..document import Model
from .base import Edit
from .fresh import Numbering, parsed_curve
from .offers import Offer, taken

Refs = Annotated[tuple[Annotated[str, Field(max_length=40)], ...], Field(min_length=1, max_length=4)]
Ids = Annotated[tuple[Annotated[str, Field(max_length=40)], ...], Field(min_length=1, max_length=4000)]


class SketchEdit(Edit):
    """An edit of one sketch step's sketch."""

    sketch: str = Field(max_length=20)

    def current(self, model: Model) -> ValuedSketch:
        """The sketch, its formulas evaluated."""
        return model.sketch_step(self.sketch).sketch.valued(model.table.values, model.units)

    def title(self, model: Model) -> str:
        """The sketch's title, for summaries."""
        return model.title_of(self.sketch)

    def notice(self, before: Model, after: Model) -> str:
        """Which constraints were lost on the way, in words; empty if none that the person did not name."""
        try:
            old, new = (m.sketch_step(self.sketch).sketch for m in (before, after))
        except BadInput:
            return ""
        left = {c.id for c in new.constraints}
        gone_curves = {c.id for c in old.curves} - {c.id for c in new.curves}
        named = set(getattr(self, "ids", ()))
        lost = [
            c.sentence(old)
            for c in old.constraints
            if c.id not in left and c.id not in named and "joins" not in c.does and not c.members() & gone_curves
        ]
        if not lost:
            return ""
        more = f" and {len(lost) - 3} more" if len(lost) > 3 else ""
        return f"Dropped, since it makes no sense any more: {'; '.join(lost[:3])}{more}."


def names_of(model: Model, sketch: ValuedSketch) -> Mapping[str, Quantity]:
    """What a formula in a sketch may use: parameters and the sketch's named dimensions."""
    return {**model.table.values, **sketch.named_values()}


def measured(
    model: Model, sketch: ValuedSketch, text: str, wanted: Dimension, what: str = "size", *, signed: bool = False
) -> tuple[str, float]:
    """A typed size with its units written out, and its value (mm, rad). Lengths must be above zero (or, signed, not
    nought).
    """
    names = names_of(model, sketch)
    settled = settle(text, names, wanted=wanted, length_unit=model.units)
    value = evaluate(settled, names, wanted=wanted, length_unit=model.units).value
    if signed and wanted == LENGTH and -1e5 <= value < 0:
        return settled, value
    if wanted == LENGTH and not 0 < value <= 1e5:
        raise BadInput(f"{opens(a(what))} must be above zero and at most 100 m.")
    return settled, value


class DrawCurve(SketchEdit):
    """Draw with a tool: placed points with what they snapped to, typed sizes, options."""

    kind: Literal["draw"] = "draw"
    tool: str = Field(max_length=30)
    places: tuple[Place, ...] = Field(min_length=1, max_length=200)
    sizes: tuple[Annotated[str, Field(max_length=400)], ...] = Field(default=(), max_length=6)
    options: dict[Annotated[str, Field(max_length=30)], str | int | float | bool] = Field(default={}, max_length=12)
    construction: bool = False

    def drawing(self, model: Model, sketch: ValuedSketch) -> tuple[Drawing, TypedSize | None]:
        """What the tool makes of the places, and the first typed size."""
        tool = TOOLS[self.tool]()
        wanted = len(tool.steps)
        if len(self.places) != wanted and not (tool.more and len(self.places) >= wanted):
            raise BadInput(f"{tool.word} needs {wanted} points; {len(self.places)} were given.")
        sizes = [self._size(model, sketch, tool, i, text) for i, text in enumerate(self.sizes)]
        sizes += [None] * (len(tool.sizes) - len(sizes))
        drawing = tool.draw(list(self.places), sizes, tool.chosen(self.options), sketch)
        return drawing, next((s for s in sizes if s), None)

    def apply(self, model: Model) -> Model:
        model, places = self._taken_along(model)
        sketch = self.current(model)
        edit = self.model_copy(update={"places": places})
        drawing, _ = edit.drawing(model, sketch)
        if len(sketch.curves) + len(drawing.curves) > MAX_CURVES:
            raise BadInput(f"A sketch may have at most {MAX_CURVES} curves.")
        ids, model = model.fresh("c", len(drawing.curves))
        names = {raw["id"]: new for raw, new in zip(drawing.curves, ids)}
        sketch = with_drawn(sketch, drawing, names, construction=self.construction)
        model, sketch = _constrained(model, sketch, drawing, names)
        return model.with_sketch(self.sketch, sketch)

    def _taken_along(self, model: Model) -> tuple[Model, tuple[Place, ...]]:
        """The model with the curves of the solid that places hang on taken into the sketch, and the places on these."""
        places = []
        for place in self.places:
            if place.take is not None:
                try:
                    offer = Offer.model_validate(place.take)
                except ValidationError as error:
                    raise BadInput("What this point snapped to on the solid could not be understood.") from error
                model, id = taken(model, self.sketch, offer)
                ref = (place.ref or "take").replace("take", id, 1)
                place = place.model_copy(update={"ref": ref, "take": None})
            places.append(place)
        return model, tuple(places)

    def _size(self, model: Model, sketch: ValuedSketch, tool: Tool, index: int, text: str) -> TypedSize | None:
        if not text.strip():
            return None
        if index >= len(tool.sizes):
            raise BadInput(f"{tool.word} has {len(tool.sizes)} size(s) to type, not {index + 1}.")
        slot = tool.sizes[index]
        settled, value = measured(model, sketch, text, slot.dimension, slot.label, signed=slot.signed)
        return TypedSize(text=negated(settled) if slot.signed and value < 0 else settled, value=value)

    def summary(self, before: Model, after: Model) -> str:
        return f"{TOOLS[self.tool].word} drawn in {self.title(after)}"


def with_drawn(sketch: ValuedSketch, drawing: Drawing, names: Mapping[str, str], *, construction: bool) -> ValuedSketch:
    """The sketch with a drawing's curves, not constrained yet."""
    curves = [
        parsed_curve({**raw, "id": names[raw["id"]], "construction": construction or raw.get("construction", False)})
        for raw in drawing.curves
    ]
    return sketch.with_curves((*sketch.curves, *curves))


def _constrained(
    model: Model, sketch: ValuedSketch, drawing: Drawing, names: Mapping[str, str]
) -> tuple[Model, ValuedSketch]:
    """Add what the drawing implies; where a typed size leaves no room for an alignment that was only shown, that
    gives way.
    """
    for snaps in (_all_snaps, _first_snaps):
        with contextlib.suppress(Refused):
            return _held(model, sketch, drawing, names, snaps)
    return _held(model, sketch, drawing, names, _no_alignments)


Snaps = list[tuple[str | None, str | None]]


def _all_snaps(place: Place) -> Snaps:
    return [(place.snap, place.ref), *((a.snap, a.ref) for a in place.also)]


def _first_snaps(place: Place) -> Snaps:
    return [(place.snap, place.ref)]


def _no_alignments(place: Place) -> Snaps:
    return [] if (place.snap or "").startswith(("level with", "plumb with")) else [(place.snap, place.ref)]


def _held(
    model: Model, sketch: ValuedSketch, drawing: Drawing, names: Mapping[str, str], snaps: Callable[[Place], Snaps]
) -> tuple[Model, ValuedSketch]:
    """Add what the drawing implies, as far as it adds something and does no harm; typed sizes last."""
    named = [raw["id"] for raw in drawing.curves]
    named += [v for raw in drawing.direct for value in raw.values() for v in _listed(value)]
    named += [ref for _, refs in drawing.constraints for ref in refs]
    named += [ref for _, refs, _, _ in drawing.dimensions for ref in refs]
    for point, place in drawing.placed:
        named.append(point)
        named += [part for _, ref in snaps(place) if ref for part in ref.split("+")]
    about = portion(sketch, [names.get(ref.partition(".")[0], ref) for ref in named])
    model, part = _held_in(model, about, drawing, names, snaps)
    return model, put_back(sketch, part)


def _listed(value: Any) -> list[str]:
    return [v for v in value if isinstance(v, str)] if isinstance(value, (list, tuple)) else [str(value)]


def _held_in(
    model: Model, sketch: ValuedSketch, drawing: Drawing, names: Mapping[str, str], snaps: Callable[[Place], Snaps]
) -> tuple[Model, ValuedSketch]:
    """``_held`` in the portion of the sketch that it is about."""

    def real(ref: str) -> str:
        head, dot, tail = ref.partition(".")
        return names.get(head, head) + dot + tail

    fresh = Numbering(model)
    for raw in drawing.direct:
        filled = {k: [real(v) for v in value] if isinstance(value, list) else value for k, value in raw.items()}
        made = CONSTRAINTS.parse({**filled, "id": fresh("k")})
        sketch = sketch.with_constraints((*sketch.constraints, made))
    wanted = [(kind, tuple(real(r) for r in refs)) for kind, refs in drawing.constraints]
    for point, place in drawing.placed:
        for snap, name in snaps(place):
            wanted.extend(implied(sketch, real(point), snap, real(name) if name else None))
    for kind, refs in dict.fromkeys(wanted):
        sketch = add_if_it_fits(sketch, fresh, kind, refs)
    model = fresh.model
    for kind, refs, text, fields in drawing.dimensions:
        ids, model = model.fresh("k")
        dimension = CONSTRAINTS[kind].made(sketch, ids[0], tuple(real(r) for r in refs), value=text, **fields)
        sketch = add_constraint(valued_with(model, sketch, dimension), dimension)
    for point, place in drawing.placed:
        if place.typed:
            model, sketch = _dimensioned_from_origin(model, sketch, real(point), place)
    return model, sketch


def _dimensioned_from_origin(
    model: Model, sketch: ValuedSketch, point: str, place: Place
) -> tuple[Model, ValuedSketch]:
    """A typed position as dimensions from the origin; nought is level or plumb with it."""
    assert place.typed is not None
    for text, value, way, level in zip(place.typed, place.at, ("across", "along"), ("vertical", "horizontal")):
        if not text.strip():
            continue
        fresh = Numbering(model)
        if abs(value) < 1e-9:
            sketch = add_if_it_fits(sketch, fresh, level, (point, "origin"))
            model = fresh.model
            continue
        settled = settle(text, names_of(model, sketch), wanted=LENGTH, length_unit=model.units)
        fields = {"value": negated(settled) if value < 0 else settled, "way": way}
        made = CONSTRAINTS["distance"].made(sketch, fresh("k"), ("origin", point), **fields)
        model = fresh.model
        with contextlib.suppress(Refused):  # where it stands is settled by what it snapped to
            sketch = add_constraint(valued_with(model, sketch, made), made)
    return model, sketch


def valued_with(model: Model, sketch: ValuedSketch, made: Constraint) -> ValuedSketch:
    """The sketch knowing the value of a dimension that is about to be added."""
    if not (isinstance(made, Dimensional) and made.driving):
        return sketch
    value = evaluate(made.value, names_of(model, sketch), wanted=made.measures, length_unit=model.units).value
    made.check_value(value)
    return sketch.with_value(made.id, value)


def _placed(curve: Curve, moved: Mapping[str, Vec | float]) -> Curve:
    """The curve with points and sizes where they were dragged to."""
    points, sizes = {*curve.points, *curve.inner}, set(curve.sizes)
    for name, value in moved.items():
        if name not in (sizes if isinstance(value, float) else points):
            raise BadInput(f"{opens(a(curve.word))} has no “{name}” to move.")
        if isinstance(value, float) and not 0 < value <= LIMIT:
            raise BadInput(f"The {name} of {a(curve.word)} must be above zero and at most 1 km.")
    return curve.with_scalars(moved)


class MoveGeometry(SketchEdit):
    """Where a drag left things: coordinates of points and radii by curve; what is constrained stays so."""

    kind: Literal["move_geometry"] = "move_geometry"
    curves: dict[Annotated[str, Field(max_length=20)], dict[Annotated[str, Field(max_length=20)], Vec | float]] = Field(
        min_length=1, max_length=3000
    )

    def apply(self, model: Model) -> Model:
        sketch = self.current(model)
        curves = []
        for curve in sketch.curves:
            moved = self.curves.get(curve.id)
            if moved:
                curve = _placed(curve, moved)
            curves.append(curve)
        solution = solve(sketch.with_curves(curves))
        return model.with_sketch(self.sketch, solved_or_refused(solution, "This move"))

    def summary(self, before: Model, after: Model) -> str:
        return f"Points moved in {self.title(after)}"


class DeleteFromSketch(SketchEdit):
    """Delete curves and constraints; constraints on deleted curves go too, and copies with their originals."""

    kind: Literal["delete_from_sketch"] = "delete_from_sketch"
    ids: Ids

    def apply(self, model: Model) -> Model:
        sketch = self.current(model)
        gone = set(self.ids)
        known = {c.id for c in sketch.curves} | {c.id for c in sketch.constraints}
        if not gone & known:
            raise BadInput("What was to be deleted is not in this sketch any more.")
        return model.with_sketch(self.sketch, without_curves(sketch, gone & known))

    def summary(self, before: Model, after: Model) -> str:
        count = len(self.ids)
        return f"{count} thing{'s' if count > 1 else ''} deleted from {self.title(after)}"


class SetConstruction(SketchEdit):
    """Make curves construction lines, or proper ones again."""

    kind: Literal["set_construction"] = "set_construction"
    ids: Ids
    construction: bool

    def apply(self, model: Model) -> Model:
        sketch = self.current(model)
        chosen = set(self.ids)
        curves = [
            c.model_copy(update={"construction": self.construction}) if c.id in chosen else c for c in sketch.curves
        ]
        return model.with_sketch(self.sketch, sketch.with_curves(curves))

    def summary(self, before: Model, after: Model) -> str:
        return f"Construction {'on' if self.construction else 'off'} in {self.title(after)}"


class SetText(SketchEdit):
    """Change what a text says or how it is set."""

    kind: Literal["set_text"] = "set_text"
    id: str = Field(max_length=20)
    words: str | None = Field(default=None, max_length=400)
    font: str | None = Field(default=None, max_length=20)
    spacing: float | None = None
    mirrored: bool | None = None
    bend: str | None = Field(default=None, max_length=20)

    def apply(self, model: Model) -> Model:
        sketch = self.current(model)
        old = sketch.curve(self.id)
        if "text" not in old.tags:
            raise BadInput("That is not a text.")
        names = ("words", "font", "spacing", "mirrored", "bend")
        update = {name: value for name in names if (value := getattr(self, name)) is not None}
        if update.get("bend", old.model_dump()["bend"]) and not old.model_dump()["bend"]:
            raise BadInput("A straight text cannot be bent afterwards; draw one round a centre.")
        new = parsed_curve({**old.model_dump(mode="json"), **update})
        after = sketch.with_curves(new if c.id == self.id else c for c in sketch.curves)
        return model.with_sketch(self.sketch, solved_or_refused(solve(after), "This text"))

    def summary(self, before: Model, after: Model) -> str:
        return f"Text changed in {self.title(after)}"
