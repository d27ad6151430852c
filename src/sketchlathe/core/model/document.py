"""The document a model is. docs/model-format.md describes its JSON; the Schema is generated from here."""

from __future__ import annotations

from collections import Counter
from functools import cached_property
from typing import TYPE_CHECKING, Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, ValidationError

from ..amounts.answers import Answer
from ..amounts.materials import OwnMaterial
from ..blanks import FacePick
from ..errors import BadInput, NotFound
from ..quantity import ParameterTable
from ..quantity.units import LengthUnit, ReadIn
from ..registry import kind_of
from ..remembering import once_each
from ..sketch.document import Sketch
from ..steps.base import AnyStep, Step
from ..steps.sketch import SketchStep
from .measurements import Measurement
from .sound import problem_in

if TYPE_CHECKING:
    from ..solid.naming import Body

MAX_STEPS = 500
PARSED = 10  # times its text is what a document takes in memory (measured)


class Parameter(BaseModel):
    """A named value. ``formula`` may use other parameters."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: str = Field(min_length=1, max_length=40)
    formula: str = Field(min_length=1, max_length=400)
    note: str = Field(default="", max_length=200)


class Paint(BaseModel):
    """The colour (#rrggbb) of a body, or of one face."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    colour: str = Field(pattern="^#[0-9a-f]{6}$")
    body: str = Field(default="", max_length=60)
    face: FacePick | None = None


class MadeOf(BaseModel):
    """The material of one body, where it is not the part's."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    body: str = Field(min_length=1, max_length=60)
    material: str = Field(max_length=40)


class BodyName(BaseModel):
    """What a person calls a body."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    body: str = Field(min_length=1, max_length=60)
    name: str = Field(min_length=1, max_length=80)


class Source(BaseModel):
    """Where a part comes from: a model of the same person, by id and name, at a revision, and the part there."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    model: str = Field(min_length=1, max_length=60)
    name: str = Field(max_length=120)
    revision: int = Field(ge=1)
    part: str = Field(min_length=1, max_length=20)


class Part(BaseModel):
    """A part: its steps in order and what it is made of. ``now`` is how many steps are built (None: all).

    ``sort``: a "part", parts "together", brought in and placed, or a "sheet", whose steps are lines that say what is
    drawn on it. ``gone``: deleted, but kept for those that follow
    it. ``linked``: it comes from another model and is changed there; ``linked_ids``: its ids there, and here.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: str = Field(min_length=1, max_length=20)
    name: str = Field(min_length=1, max_length=80)
    sort: Literal["part", "together", "sheet"] = "part"
    gone: bool = False
    linked: Source | None = None
    linked_ids: dict[str, str] = Field(default_factory=dict, max_length=100_000)
    material: str = Field(default="pla", max_length=40)
    steps: tuple[AnyStep, ...] = Field(default=(), max_length=MAX_STEPS)
    now: int | None = Field(default=None, ge=0, le=MAX_STEPS)
    paints: tuple[Paint, ...] = Field(default=(), max_length=500)
    made_of: tuple[MadeOf, ...] = Field(default=(), max_length=500)
    body_names: tuple[BodyName, ...] = Field(default=(), max_length=500)
    answers: tuple[Answer, ...] = Field(default=(), max_length=5)
    measurements: tuple[Measurement, ...] = Field(default=(), max_length=100)

    def index(self, step_id: str) -> int:
        """Where a step stands."""
        for i, step in enumerate(self.steps):
            if step.id == step_id:
                return i
        raise NotFound("That step is not in this part (any more).", where=step_id)

    def step(self, step_id: str) -> Step:
        """The step with this id."""
        return self.steps[self.index(step_id)]

    def with_step(self, step: Step) -> Part:
        """The part with the step of the same id replaced."""
        at = self.index(step.id)
        return self.with_steps((*self.steps[:at], step, *self.steps[at + 1 :]))

    def with_steps(self, steps: tuple[Step, ...]) -> Part:
        """The part with other steps."""
        return self.model_copy(update={"steps": steps})


class Limits(BaseModel):
    """How far a number may go: checked whenever the part is built. ``knob``: which one (see ``inspect.knobs``); an end
    that is empty is open.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    knob: str = Field(min_length=3, max_length=120)
    low: str = Field(default="", max_length=400)
    high: str = Field(default="", max_length=400)


class Variant(BaseModel):
    """A named set of values: parameters by name, materials by part, steps that are left out or not, by their ids."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    id: str = Field(min_length=1, max_length=20)
    name: str = Field(min_length=1, max_length=80)
    values: dict[str, Annotated[str, Field(min_length=1, max_length=400)]] = Field(default_factory=dict, max_length=500)
    materials: dict[str, Annotated[str, Field(max_length=40)]] = Field(default_factory=dict, max_length=100)
    skipped: dict[str, bool] = Field(default_factory=dict, max_length=MAX_STEPS)


MOST_VARIANTS = 200


_SizeName = Annotated[str, Field(max_length=20)]
_Size = Annotated[float, Field(gt=0.01, lt=1000, allow_inf_nan=False)]
OwnSizes = dict[_SizeName, Annotated[dict[_SizeName, _Size], Field(max_length=100)]]
"""A model's own sizes (mm), by table and name."""


class Model(BaseModel):
    """A whole model. Frozen; edits return new ones that share what is unchanged."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    format: Literal["sketch-lathe-model"] = "sketch-lathe-model"
    version: Literal[2] = 2
    name: str = Field(min_length=1, max_length=120)
    units: LengthUnit = "mm"
    fractions: bool = False  # inches are read as fractions
    parameters: tuple[Parameter, ...] = Field(default=(), max_length=500)
    parts: tuple[Part, ...] = Field(min_length=1, max_length=100)
    materials: tuple[OwnMaterial, ...] = Field(default=(), max_length=100)
    sizes: OwnSizes = Field(default_factory=dict, max_length=20)
    limits: tuple[Limits, ...] = Field(default=(), max_length=1000)
    variants: tuple[Variant, ...] = Field(default=(), max_length=MOST_VARIANTS)
    next_id: Annotated[int, Field(ge=1)] = 1

    @property
    def read_in(self) -> ReadIn:
        """How its lengths are shown; what is kept is written in ``units``."""
        return "in/64" if self.fractions and self.units == "in" else self.units

    @cached_property
    def table(self) -> ParameterTable:
        """Evaluated parameters. Raises ``BadInput`` for loops and bad formulas."""
        return ParameterTable([(p.name, p.formula) for p in self.parameters], self.units)

    @cached_property
    def varied(self) -> dict[str, Model]:
        """The model with the values of its variants, as far as somebody has asked for them."""
        return {}

    @property
    def there(self) -> tuple[Part, ...]:
        """The parts that a person sees: those that were not deleted."""
        return tuple(p for p in self.parts if not p.gone)

    def part(self, part_id: str) -> Part:
        """The part with this id."""
        for part in self.parts:
            if part.id == part_id:
                return part
        raise NotFound("That part is not in this model (any more).", where=part_id)

    def find_step(self, step_id: str) -> Step | None:
        """The step with this id, if there is one."""
        return next((step for part in self.parts for step in part.steps if step.id == step_id), None)

    def part_of(self, step_id: str) -> Part:
        """The part a step belongs to."""
        for part in self.parts:
            if any(step.id == step_id for step in part.steps):
                return part
        raise NotFound("That step is not in this model (any more).", where=step_id)

    def step(self, step_id: str) -> Step:
        """The step with this id."""
        return self.part_of(step_id).step(step_id)

    def sketch_step(self, step_id: str) -> SketchStep:
        """The sketch step with this id."""
        step = self.step(step_id)
        if not isinstance(step, SketchStep):
            raise BadInput("That step is not a sketch.", where=step_id)
        return step

    def title_of_body(self, body: str, source: Part | None = None) -> str:
        """What a body is called: as a person named it, else by the part it was brought from, else by the step that made
        it.

        ``source``: the part it comes from, where that is known and another one.
        """
        named = next((n.name for part in self.parts for n in part.body_names if n.body == body), None)
        if named is not None:
            return named
        step, _, rest = body.partition(".")
        made = self.find_step(step)
        if made is not None and (said := made.body_word(self, rest)):
            return said
        what = source.name if source is not None else "body"
        return f"{what} of {self.title_of(step)}" + (f" ({rest})" if rest else "")

    def title_of(self, step_id: str) -> str:
        """A step's title: its own name, or its kind and its number among its kind."""
        return _titles(self).get(step_id, "a step that is gone")

    def with_part(self, part: Part) -> Model:
        """The model with the part of the same id replaced."""
        return self.changed(parts=tuple(part if p.id == part.id else p for p in self.parts))

    def with_step(self, step: Step) -> Model:
        """The model with the step of the same id replaced."""
        return self.with_part(self.part_of(step.id).with_step(step))

    def with_sketch(self, step_id: str, sketch: Sketch) -> Model:
        """The model with another sketch in a sketch step."""
        return self.with_step(self.sketch_step(step_id).model_copy(update={"sketch": sketch.plain()}))

    def changed(self, **update: object) -> Model:
        """A copy with fields replaced and nothing cached."""
        fields = {name: getattr(self, name) for name in type(self).model_fields}
        return Model.model_construct(**{**fields, **update})

    def fresh(self, prefix: str, count: int = 1) -> tuple[list[str], Model]:
        """New ids, never used before in this model, and the model that remembers them."""
        ids = [f"{prefix}{self.next_id + i}" for i in range(count)]
        return ids, self.changed(next_id=self.next_id + count)

    def as_json(self) -> dict[str, Any]:
        """The document as plain JSON data."""
        return self.model_dump(mode="json")


@once_each
def _titles(model: Model) -> dict[str, str]:
    """The titles of all steps, by their ids."""
    found: dict[str, str] = {}
    for part in model.parts:
        counts: Counter[str] = Counter()
        for step in part.steps:
            counts[kind_of(type(step))] += 1
            found.setdefault(step.id, step.title(counts[kind_of(type(step))]))
    return found


def origin_of(model: Model, part: Part, body: Body | str) -> tuple[Part, str]:
    """The part and body that a body was brought from; itself where it was not.

    A built body knows it, mirrored or repeated as it may be; of an id alone it is read off the step that brought it.
    """
    if not isinstance(body, str):
        if body.came is None:
            return part, body.id
        source, _, there = body.came.of.partition(".")
        return next(((p, there) for p in model.parts if p.id == source), (part, body.id))
    for _ in range(len(model.parts)):
        step, _, rest = body.partition(".")
        made = next((s for s in part.steps if s.id == step), None)
        source = made.brings() if made is not None else ""
        if not source or all(p.id != source for p in model.parts):
            break
        part, body = model.part(source), rest.partition(".")[2]
    return part, body


def read_model(raw: Any) -> Model:
    """A model from JSON data, older versions migrated. Raises ``BadInput`` with what is wrong and where."""
    from .versions import migrated

    try:
        model = Model.model_validate(migrated(raw))
        _check_ids(model)
        if not model.there:
            raise BadInput("This is not a sound model: it has no part that is not deleted.")
        check_parts(model)
        _ = model.table
    except ValidationError as error:
        raise BadInput(f"This is not a sound model: {problem_in(error)}.") from error
    except RecursionError:
        raise BadInput("This model is nested too deeply to be read.") from None
    return model


def check_parts(model: Model) -> None:
    """Raises ``BadInput`` where parts follow each other in a loop, naming it, and where a line of a sheet stands in a
    part or a step of a part on a sheet.
    """
    for part in model.parts:
        stray = next((s for s in part.steps if s.on_sheet != (part.sort == "sheet")), None)
        if stray is not None:
            where = "is a line of a sheet, and this is none" if stray.on_sheet else "makes solids, and this is a sheet"
            raise BadInput(f"This is not a sound model: in {part.name}, {model.title_of(stray.id)} {where}.")
    follows = {p.id: dict.fromkeys(b for s in p.steps if (b := s.brings())) for p in model.parts}
    sound: set[str] = set()  # each is walked once, however often it is brought

    def walk(part: str, above: tuple[str, ...]) -> None:
        if part in above:
            names = [model.part(p).name for p in (*above[above.index(part) :], part)]
            raise BadInput(f"{' follows '.join(names)}: a part cannot follow itself.")
        if part not in sound:
            for other in follows.get(part, ()):
                walk(other, (*above, part))
            sound.add(part)

    for part in model.parts:
        walk(part.id, ())


def _check_ids(model: Model) -> None:
    seen: set[str] = set()
    highest = 0
    in_parts = (
        id
        for p in model.parts
        for id in (p.id, *(s.id for s in p.steps), *(m.id for m in p.measurements), *_sketch_ids(p))
    )
    for id in (*(m.id for m in model.materials), *(v.id for v in model.variants), *in_parts):
        if id in seen:
            raise BadInput(f"This is not a sound model: the id “{id}” is used twice.")
        seen.add(id)
        digits = id.lstrip("abcdefghijklmnopqrstuvwxyz")
        highest = max(highest, int(digits) if digits.isascii() and digits.isdigit() else 0)
    if model.next_id <= highest:
        raise BadInput("This is not a sound model: next_id must be above every id in use.")
    if len({p.name for p in model.parameters}) != len(model.parameters):
        raise BadInput("This is not a sound model: two parameters have the same name.")
    if len({v.name for v in model.variants}) != len(model.variants):
        raise BadInput("This is not a sound model: two variants have the same name.")


def _sketch_ids(part: Part) -> list[str]:
    sketches = [s.sketch for s in part.steps if isinstance(s, SketchStep)]
    return [c.id for sketch in sketches for c in sketch.curves] + [
        k.id for sketch in sketches for k in sketch.constraints
    ]


def new_model(name: str, units: LengthUnit = "mm") -> Model:
    """An empty model with one part."""
    return Model(name=name, units=units, parts=(Part(id="p1", name="Part 1"),), next_id=2)
