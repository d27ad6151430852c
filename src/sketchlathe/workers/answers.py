"""What workers answer: plain data, ready for the screen. Lengths are mm, areas mm², volumes mm³, times s."""

from __future__ import annotations

from typing import Any, NotRequired

from typing_extensions import TypedDict

from ..core.advice import AdviceTold
from ..core.forms import FindingTold, FitTold, Remedy

Facts = dict[str, Any]
Triple = tuple[float, float, float]
Box = tuple[tuple[float, ...], tuple[float, ...]]


class BodyFacts(TypedDict):
    """A body for the screen: the key of its mesh, what it amounts to (mm, mm², mm³; moments at density 1)."""

    id: str
    key: str
    volume: float
    area: float
    centre: Triple
    box: Box
    moments: tuple[float, ...]
    material: NotRequired[str]
    density: NotRequired[float]
    title: NotRequired[str]
    brought: NotRequired[str]
    bought: NotRequired[str]


class ReferenceFacts(TypedDict):
    """A surface of triangles beside the part."""

    id: str
    key: str
    volume: float
    area: float
    box: Any
    triangles: int
    closed: bool
    reference: bool


class StepFacts(TypedDict):
    """What came of a step. ``status``: ok, failed, skipped, after. ``blame``: places to look at. ``free``: what a
    placed body may still do. ``took``: sizes from a table. ``moved``: curves that followed the solid.
    """

    id: str
    status: str
    message: str
    where: str
    free: str
    took: list[str]
    advice: list[AdviceTold]
    blame: list[Any]
    frame: NotRequired[dict[str, list[float]]]
    datum: NotRequired[dict[str, list[float]]]
    moved: NotRequired[dict[str, Any]]


class PaintFacts(TypedDict):
    """A colour and where it belongs now: a body, or one of its faces (0-based)."""

    body: str
    face: int | None
    colour: str


class MeasurementFacts(TypedDict):
    """A kept measurement as it is now, or why it cannot be taken."""

    id: str
    rows: list[tuple[str, float, str]]
    lines: list[tuple[Triple, Triple, int]]
    problem: NotRequired[str]


class Totals(TypedDict):
    """The bodies together."""

    volume: float
    area: float
    mass: float
    centre: list[float]
    box: list[list[float]]


class PreviewFacts(TypedDict):
    """A draft step by itself: its shape (``tools``), the bodies before it, how much it adds (mm³)."""

    status: str
    message: str
    where: str
    handle: dict[str, Any] | None
    spots: list[Any]
    change: float
    took: list[str]
    along: int
    worked_on: list[str]
    tools: list[BodyFacts]
    before: list[BodyFacts]
    gave_up: NotRequired[bool]


class PageFacts(TypedDict):
    """A sheet: its page as SVG, its size, by their lines the boxes of its views and how far they were moved (mm, y
    upwards).
    """

    svg: str
    wide: float
    high: float
    scale: float
    views: dict[str, list[float]]
    moved: dict[str, list[float]]


class Built(TypedDict):
    """A built part. ``cold``: the worker has its answer but not its solids yet. ``preview``: of a draft step.
    ``morphs``: keys of places for the mesh of the part as it is, by body (``BuildNear``). ``page``: of a sheet.
    """

    part: str
    key: str
    steps: list[StepFacts]
    bodies: list[BodyFacts]
    references: list[ReferenceFacts]
    paints: list[PaintFacts]
    measurements: list[MeasurementFacts]
    totals: Totals
    hands: dict[str, Facts]
    pulls: dict[str, Facts]
    cold: NotRequired[bool]
    preview: NotRequired[PreviewFacts]
    morphs: NotRequired[dict[str, str]]
    page: NotRequired[PageFacts]


class Takeable(TypedDict):
    """A curve that an open sketch may take from the solids before it: its data without an id, and the pick of the edge
    that it lies on or of the face that is cut.
    """

    curve: dict[str, Any]
    words: str
    edge: NotRequired[dict[str, Any]]
    face: NotRequired[dict[str, Any]]


# looking closer


class Cut(TypedDict):
    """Where a plane meets a body: area and outline, places (x, y, z one after the other), triangles of them, lines."""

    id: str
    area: float
    outline: float
    positions: list[float]
    triangles: list[int]
    lines: list[list[float]]


class SectionCut(TypedDict):
    """A part cut by a plane."""

    bodies: list[Cut]


class HeldUp(TypedDict):
    """See ``inspect.flexing.Outcome``."""

    holds: bool
    step: str
    why: str
    same: bool


class Compared(TypedDict):
    """What is gone and what has come, and the volumes of both. ``exact``: of solids, not of triangles."""

    gone: list[BodyFacts | ReferenceFacts]
    come: list[BodyFacts | ReferenceFacts]
    volumes: list[float]
    exact: bool


class Sought(TypedDict):
    """The formula of the parameter at which it comes to ``goal``. ``tried``: value as text, value, what it came to;
    ``others``: other formulas that come to the same.
    """

    formulas: dict[str, str]
    builds: int
    goal: float
    tried: list[tuple[str, float, float]]
    says: str
    others: list[str]


class Lightest(TypedDict):
    """The formulas at which a part is lightest. ``held``: what holds it back, in words."""

    formulas: dict[str, str]
    builds: int
    says: str
    held: str


# files


class FileRead(TypedDict):
    """See ``bringing.base.Brought``."""

    gives: str
    step: str
    fields: dict[str, Any]
    data: dict[str, Any]
    notes: tuple[str, ...]


class Triangles(TypedDict):
    """How many triangles a mesh has; ``off``: its volume's share above the exact one; ``crowded``: edges of more than
    two triangles; ``lacks``: what is said where the part is not whole.
    """

    lacks: str
    crowded: int
    bodies: int
    triangles: int
    off: float
    picture: str


# printing


class WayToLie(TypedDict):
    """A way to lay a part: how much support it needs (mm³), how high it is, how large its footing. ``several``: its
    bodies lie each by itself.
    """

    name: str
    several: NotRequired[bool]
    support: NotRequired[float]
    height: NotRequired[float]
    footing: NotRequired[float]
    fits: NotRequired[bool]


class BodyLying(TypedDict):
    """Where a body lies on its bed (degrees), and which triangles of the mesh are its (first, count)."""

    id: str
    title: str
    bed: int
    x: float
    y: float
    turn: float
    triangles: list[int]


class FoundForPrint(FindingTold):
    """A finding, the titles of its steps, what puts it right."""

    titles: list[str]
    remedy: Remedy | None


class Estimate(TypedDict):
    """What a print takes."""

    seconds: float
    grams: float
    metres: float
    cost: float
    layers: int
    material: str


class PrintChecked(TypedDict):
    """Whether a part prints as it lies: keys of its triangles and of its layers among the blobs."""

    mesh: str
    layers: str
    heights: list[float]
    chosen: str
    bed: int
    beds: int
    bodies: list[BodyLying]
    layings: list[WayToLie]
    findings: list[FoundForPrint]
    estimate: Estimate
    process: dict[str, Any]
    box: Box


class FitFound(FitTold):
    """A finding with what both bodies share."""

    overlap: list[BodyFacts | ReferenceFacts]


class FitChecked(TypedDict):
    """How bodies go together, how many pairs were not looked at, and what is said where the part is not whole."""

    lacks: str
    findings: list[FitFound]
    unseen: int
