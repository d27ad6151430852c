"""What the page is told of a model: the forms of its state and of the answers to changes and builds. The scripts' types
(``types/told.d.ts``) are made of these and of the forms they use.
"""

from __future__ import annotations

from typing import Any, NotRequired

from typing_extensions import TypedDict

from ..core.sketch.shown import SketchShown
from ..service.building import BuiltAt
from ..service.rights import Right


class StepTold(TypedDict):
    """A step with what stands in its blanks. ``room``: the first and last place it could stand at. ``words``: what its
    blanks say. ``frame``: the plane of a sketch, where it is known without building.
    """

    id: str
    kind: str
    title: str
    skipped: bool
    faces: dict[str, str]
    brings: str
    uses: list[str]
    needs: list[str]
    room: tuple[int, int]
    frame: dict[str, list[float]] | None
    fields: dict[str, Any]
    words: dict[str, str]


class PartTold(TypedDict):
    """A part. ``gone``: deleted, but others follow it. ``now``: how many of its steps count (None: all)."""

    id: str
    name: str
    sort: str
    gone: bool
    linked: dict[str, Any] | None
    now: int | None
    material: str
    madeOf: dict[str, str]
    bodyNames: dict[str, str]
    steps: list[StepTold]


class VariantTold(TypedDict):
    """A variant by its name."""

    id: str
    name: str


class State(TypedDict):
    """The model as the scripts keep it. ``handy``: lengths that stand in untouched blanks, in the model's units;
    ``may``: what whoever asks may do with it; ``limits``: from and to, by number; ``own``: materials of the model's
    own.
    """

    id: str
    revision: int
    name: str
    units: str
    fractions: bool
    handy: dict[str, str]
    may: list[Right]
    canUndo: bool
    canRedo: bool
    parameters: list[str]
    limits: dict[str, list[str]]
    variants: list[VariantTold]
    sizes: dict[str, Any]
    own: dict[str, dict[str, Any]]
    parts: list[PartTold]
    at: NotRequired[str]


class Changed(TypedDict):
    """The answer to an edit, an undo, a redo: the model as it then is. ``panels``: pieces of the page by their id."""

    state: State
    notice: str
    panels: dict[str, str]
    sketch: NotRequired[SketchShown]


class BuiltTold(BuiltAt):
    """The answer to a build, with the panels that it changes."""

    panels: NotRequired[dict[str, str]]


class BlankKind(TypedDict):
    """One place in a step's sentence (``core.blanks.Blank``)."""

    type: str
    label: str
    hint: str
    words: dict[str, str]
    when: tuple[str, list[str]] | None
    main: bool
    optional: bool
    also: list[str]
    nears: list[tuple[str, str]]
    most: int
    only: str
    after: str
    must: bool
    nothing: str
    instead: list[tuple[str, str, str]]
    table: tuple[str, str]
    default: Any


class StepKind(TypedDict):
    """A kind of step as it declares itself (``core.steps.base.Step``)."""

    kind: str
    word: str
    chord: str
    synonyms: str
    icon: str
    group: str
    hint: str
    makes_solid: bool
    drawn: bool
    begins: bool
    brought: bool
    traces: str
    in_tray: bool
    assembles: bool
    on_sheet: bool
    usual_there: dict[str, Any]
    sentence: list[tuple[str, str, int]]
    blanks: dict[str, BlankKind]


class ToolOption(TypedDict):
    """A choice or a number that a drawing tool may be given."""

    name: str
    label: str
    default: str | float | bool
    choices: list[tuple[str, str]]
    low: float | None
    high: float | None


class ToolSize(TypedDict):
    """A size that a drawing tool asks for."""

    label: str
    angle: bool
    settled: int


class ToolKind(TypedDict):
    """A drawing tool (``core.sketch.tools.Tool``)."""

    kind: str
    word: str
    family: str
    variant: str
    chord: str
    icon: str
    steps: list[str]
    band: str
    more: bool
    options: list[ToolOption]
    sizes: list[ToolSize]
    chains: bool
    swings: Any
    hint: str


class ConstraintKind(TypedDict):
    """A kind of constraint that is no dimension."""

    kind: str
    word: str
    symbol: str
    chord: str
    hint: str
    most: int


class ActAsk(TypedDict):
    """One blank of an act (``core.model.acts.Ask``)."""

    field: str
    sort: str
    say: str
    start: str
    may_be_empty: bool


class ActKind(TypedDict):
    """One way to change a sketch (``core.model.acts.Act``)."""

    edit: str
    name: str
    chord: str
    icon: str
    hint: str
    asks: list[ActAsk]
    preset: dict[str, Any]
    main: bool
    again: bool


class FormatKind(TypedDict):
    """A format that can be taken out."""

    kind: str
    word: str
    ending: str
    hint: str
    of: str
    meshed: bool
    solid: bool


class ReaderKind(TypedDict):
    """A format that can be brought in."""

    kind: str
    word: str
    spoken: str
    endings: list[str]
    gives: str


class TableKind(TypedDict):
    """A table of sizes."""

    title: str
    of: str
    source: str
    usual: dict[str, Any]


class Kinds(TypedDict):
    """All kinds of things there are, told once with the page."""

    steps: list[StepKind]
    tools: list[ToolKind]
    constraints: list[ConstraintKind]
    acts: list[ActKind]
    materials: dict[str, dict[str, Any]]
    roles: dict[str, str]
    tables: dict[str, TableKind]
    formats: list[FormatKind]
    readers: list[ReaderKind]


TOLD = (State, Changed, BuiltTold, Kinds)
"""From these everything else is reached."""
