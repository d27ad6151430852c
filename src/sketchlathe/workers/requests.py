"""Everything that workers can be asked. Lengths are mm, volumes mm³; answers are plain data, ready for the screen."""

from __future__ import annotations

from typing import Any, ClassVar

from ..core.forms import CauseTold, Measured
from .answers import (
    Built,
    Compared,
    FileRead,
    FitChecked,
    HeldUp,
    Lightest,
    PrintChecked,
    SectionCut,
    Sought,
    Takeable,
    Triangles,
)
from .contract import BACKGROUND, EDIT, EXPORT, Lane, OfPart, Request

Facts = dict[str, Any]
FINE = 0.01  # mm: a finer mesh takes long


# builds


class WarmUp(Request[None]):
    """Nothing: whoever waits for it knows that a worker is there."""

    kind: ClassVar[str] = "warm_up"
    urgency: ClassVar[int] = EDIT


class BuildPart(OfPart[Built]):
    """A part as it is shown. ``afresh``: neither what a worker kept nor what is on disk is believed."""

    kind: ClassVar[str] = "build_part"
    urgency: ClassVar[int] = EDIT
    afresh: bool = False


class WarmPart(OfPart[None]):
    """A part built for what will be asked about it next."""

    kind: ClassVar[str] = "warm_part"
    urgency: ClassVar[int] = BACKGROUND


class BuildDraft(OfPart[Built]):
    """A part with a draft step in it, told of by itself too."""

    kind: ClassVar[str] = "build_draft"
    draft: str


class BuildNear(OfPart[Built]):
    """A part as it would be (``other``: the digest of that document), and how the mesh of it as it is gets there."""

    kind: ClassVar[str] = "build_near"
    other: str


class SettleDraft(OfPart[Facts]):
    """Better defaults for blanks of a draft step that nobody has touched."""

    kind: ClassVar[str] = "settle_draft"
    step: str
    touched: tuple[str, ...] = ()


class HowItStands(OfPart[dict[str, str]]):
    """Where a part (``other``) stands as seen from one, where both are put together: blanks of Bring part."""

    kind: ClassVar[str] = "how_it_stands"
    together: str
    other: str


class FindTakeable(OfPart[list[Takeable]]):
    """What an open sketch may take from the solids before it."""

    kind: ClassVar[str] = "find_takeable"
    step: str


# looking closer


class MeasureThings(OfPart[Measured]):
    """One or two picked things measured."""

    kind: ClassVar[str] = "measure_things"
    things: tuple[Facts, ...]


class CutSection(OfPart[SectionCut]):
    """A part cut by a plane: for each body that is met its area and outline, triangles and lines to draw."""

    kind: ClassVar[str] = "cut_section"
    frame: dict[str, list[float]]


class ExplainAnswers(OfPart[list[CauseTold]]):
    """What single slip would account for a part's difference from its answers, likeliest first."""

    kind: ClassVar[str] = "explain_answers"
    usual: ClassVar[Lane] = "long"


class TryEdits(OfPart[HeldUp]):
    """Whether a part still is what it is with some edits."""

    kind: ClassVar[str] = "try_edits"
    edits: tuple[Facts, ...]


class ComparePart(OfPart[Compared]):
    """What is gone and what has come from a part to another one (``other``: the digest of its document)."""

    kind: ClassVar[str] = "compare_part"
    usual: ClassVar[Lane] = "long"
    other: str
    other_part: str


class SeekValue(OfPart[Sought]):
    """The value of a parameter at which a part comes to something."""

    kind: ClassVar[str] = "seek_value"
    usual: ClassVar[Lane] = "long"
    parameter: str
    figure: str
    goal: str


class Lighten(OfPart[Lightest]):
    """The values of some parameters at which a part is lightest and still as it must be."""

    kind: ClassVar[str] = "lighten"
    usual: ClassVar[Lane] = "long"
    parameters: tuple[str, ...]
    still: Facts


class DrawPart(OfPart[bytes]):
    """A PNG picture of a part, ``width`` x ``height`` pixels."""

    kind: ClassVar[str] = "draw_part"
    urgency: ClassVar[int] = EXPORT
    width: int
    height: int


class HandInPart(OfPart[bytes]):
    """The hand-in sheet of a part, as ``pdf`` or ``png``."""

    kind: ClassVar[str] = "hand_in_part"
    urgency: ClassVar[int] = EXPORT
    usual: ClassVar[Lane] = "long"
    form: str
    person: str
    revision: int


# files


class ReadFile(Request[FileRead]):
    """What a file has in it, to be brought in; ``data``: the key of its bytes among the blobs."""

    kind: ClassVar[str] = "read_file"
    name: str
    data: str


class ExportPart(OfPart[bytes]):
    """A part as a file of some format. ``how``: ``chord`` and ``angle`` of the mesh; ``separate`` for one file a body
    in a zip; ``printed`` for those alone that come from no shop; ``weighed``: a sheet says what its part weighs (unless
    it is False); for drawings what is drawn: ``sketch`` (a step's id),
    ``face`` (a pick) or ``section`` (a frame).
    """

    kind: ClassVar[str] = "export_part"
    urgency: ClassVar[int] = EXPORT
    format: str
    how: Facts

    def lane(self) -> Lane:
        """A fine mesh takes long."""
        return "long" if float(self.how.get("chord", 1.0)) < FINE else "ask"


class CountTriangles(OfPart[Triangles]):
    """How many triangles a mesh of some fineness has, how far its volume is from the exact one, a picture of it."""

    kind: ClassVar[str] = "count_triangles"
    usual: ClassVar[Lane] = "long"
    chord: float
    angle: float


# printing


class CheckPrint(OfPart[PrintChecked]):
    """Whether a part prints as laid, ways to lay it, estimate. ``moved``: where bodies were put on the bed by hand."""

    kind: ClassVar[str] = "check_print"
    usual: ClassVar[Lane] = "long"
    process: Facts
    lay: str
    moved: Any


class TimeBodies(OfPart[list[float]]):
    """How long groups of bodies take to print, each body as it lies best by itself, s."""

    kind: ClassVar[str] = "time_bodies"
    usual: ClassVar[Lane] = "long"
    groups: tuple[tuple[str, ...], ...]
    process: Facts


class CheckFit(OfPart[FitChecked]):
    """How the bodies of a part go together. ``play``: mm that printed parts need between them."""

    kind: ClassVar[str] = "check_fit"
    usual: ClassVar[Lane] = "long"
    play: float


class PrintProgram(OfPart[bytes]):
    """The program for the printer."""

    kind: ClassVar[str] = "print_program"
    usual: ClassVar[Lane] = "long"
    process: Facts
    lay: str
    moved: Any
    revision: int
