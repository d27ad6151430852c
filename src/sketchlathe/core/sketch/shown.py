"""A sketch as the screen is told of it: the forms of what ``view`` and ``live`` make. Lengths are mm, y is up."""

from __future__ import annotations

from typing import Any, NotRequired

from typing_extensions import TypedDict

Place = tuple[float, float]


class PointShown(TypedDict):
    """A point of a curve that is shown, by the reference that picks it."""

    ref: str
    at: Place


class CurveShown(TypedDict):
    """A curve. ``word`` is what a person calls it, ``path`` SVG path data."""

    id: str
    word: str
    path: str
    construction: bool
    taken: bool
    ends: list[str]
    points: list[PointShown]
    tags: tuple[str, ...]
    sizes: dict[str, float]


class Counted(TypedDict):
    """How many members or sides a constraint makes, where that can be changed; which curves it speaks of."""

    count: NotRequired[int]
    counted: NotRequired[str]
    members: NotRequired[list[str]]


class MarkShown(Counted):
    """A constraint's tag beside the geometry: the place it belongs to and the side it stands on."""

    id: str
    symbol: str
    text: str
    on: list[str]
    at: Place
    normal: Place


class DimensionShown(Counted):
    """A dimension as it is drawn (ISO 129). ``form`` says what ``points`` are (``constraints.base.Figure``)."""

    id: str
    word: str
    on: list[str]
    form: str
    points: tuple[Place, ...]
    label: Place
    value: str
    name: str
    rim: str
    driving: bool
    formula: bool
    laid: bool
    round: str
    text: str
    means: list[str]  # of one that is being placed: what it measures here, what it would elsewhere


class SnapShown(TypedDict):
    """A place to snap to, what it is called, and what it binds to."""

    at: Place
    word: str
    ref: str


class RegionShown(TypedDict):
    """A region by its key. ``letters``: how the ink or the islands of a text are called."""

    key: list[str]
    path: str
    area: float
    letters: str


class RepairShown(TypedDict):
    """Something to look at: its sort, what it is about, where, in words, and what putting it right is called."""

    what: str
    refs: tuple[str, ...]
    at: Place
    text: str
    fix: str


class Moving(TypedDict):
    """What changes while something is dragged, whole."""

    curves: list[CurveShown]
    marks: list[MarkShown]
    dimensions: list[DimensionShown]


class Moved(TypedDict):
    """Only what moved: curves by id (path, places of points in their order, sizes), marks by their number (number,
    place, side), dimensions by id (points, place of the text, the text or None where it says the same).
    """

    curves: dict[str, tuple[str, list[Place], list[float]]]
    marks: list[tuple[int, Place, Place]]
    dimensions: dict[str, tuple[tuple[Place, ...], Place, str | None]]


class SketchAtRest(Moving):
    """Everything of a sketch that stands still. ``free``: what can move; ``freedom``: in how many ways."""

    free: list[str]
    freedom: int
    snaps: list[SnapShown]
    regions: list[RegionShown]
    repairs: list[RepairShown]
    crossings: list[SnapShown]
    known: list[str]
    chains: list[list[str]]
    open_ends: list[Place]
    size: float
    unmet: str


class UnderlayShown(TypedDict):
    """The picture under a sketch: where it lies (``underlay.Underlay``), and the key it is asked for by."""

    key: str
    name: str
    wide: int
    high: int
    x: float
    y: float
    scale: float
    turn: float
    strength: float


class PlotShown(TypedDict):
    """Curves by formulas in t (``plots.Plot``)."""

    x: str
    y: str
    start: str
    end: str
    curves: list[str]


class SketchShown(SketchAtRest):
    """An open sketch, at a revision of its model."""

    id: str
    revision: int
    underlay: UnderlayShown | None
    plots: list[PlotShown]


class Offer(TypedDict):
    """A constraint that a selection can take; ``why``: the reason where it would add nothing."""

    kind: str
    word: str
    symbol: str
    chord: str
    why: str


class TextSet(TypedDict):
    """What a selected text says and how it is set. ``fonts``: those there are, by name."""

    id: str
    fonts: dict[str, str]
    words: str
    font: str
    spacing: float
    mirrored: bool
    bend: str


class SelectionShown(TypedDict):
    """What a selection is called, measures (what, and how much in words) and can take. ``rims``: a dimension of it may
    be measured to rims.
    """

    names: list[str]
    facts: list[tuple[str, str]]
    offers: list[Offer]
    rims: bool
    text: TextSet | None


class StrokeShown(TypedDict):
    """A curve that is about to be drawn."""

    path: str
    construction: bool


class DrawnShown(TypedDict):
    """What a drawing tool would draw, and its sizes in their order (mm, rad; None where one cannot be read)."""

    paths: list[StrokeShown]
    sizes: list[float | None]


class StretchShown(TypedDict):
    """The stretch of a curve that trimming would take away."""

    path: str


class MotionShown(TypedDict):
    """A free motion (``moving.Motion``): paths of the curves that move, by id, frame by frame there and back."""

    text: str
    curves: list[str]
    frames: list[dict[str, str]]


class ProposalShown(TypedDict):
    """What would hold something (``suggesting.Proposal``). ``value``: of a dimension, as it is now."""

    text: str
    refs: list[str]
    edit: dict[str, Any]
    value: NotRequired[str]


class Clip(TypedDict):
    """Curves and the constraints among them, as they stand in a document."""

    curves: list[dict[str, Any]]
    constraints: list[dict[str, Any]]


class Dragged(TypedDict):
    """A drag in one go: everything that changed, and the scalars to keep, by curve."""

    view: Moved
    coordinates: dict[str, dict[str, Any]]
