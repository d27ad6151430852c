"""What each address of the interface answers to the scripts: its form, by what comes after ``/api/models/ID``. The
scripts' own question (``ask``) is typed by these (``types/told.d.ts``), and tests hold every answer to its form.
"""

from __future__ import annotations

from typing import Any, NotRequired

from typing_extensions import TypedDict

from ..core.forms import CauseTold, CornerTold, DifferenceTold, Measured, NumberTold
from ..core.sketch.shown import (
    Clip,
    DimensionShown,
    Dragged,
    DrawnShown,
    MotionShown,
    ProposalShown,
    SelectionShown,
    SketchShown,
    StretchShown,
)
from ..service.comparing import Origin, SideShown
from ..service.laying import PrintShown
from ..service.looking import SectionShown, TakeableShown
from ..service.modelling import LinkedPart
from ..service.sketching import Amount
from ..workers.answers import BodyFacts, FitChecked, Lightest, ReferenceFacts, Sought, Triangles
from .told import BuiltTold, Changed, State, VariantTold


class Nothing(TypedDict):
    """It was done."""


class Fresh(State):
    """The model and the panels of a part, for a script that has fallen behind."""

    panels: dict[str, str]


class Progress(TypedDict):
    """Where work is; nothing where none is under way."""

    title: NotRequired[str]
    number: NotRequired[int]
    count: NotRequired[int]
    step: NotRequired[str]
    key: NotRequired[str]


class ModelNamed(TypedDict):
    """A model of the person's, and the project it is in."""

    id: str
    name: str
    project: str


class Elsewhere(TypedDict):
    """The person's other models, and what of them is linked here."""

    models: list[ModelNamed]
    linked: list[LinkedPart]


class BroughtTold(TypedDict):
    """What a file gave: curves or parameters as data, to be placed by the person; else the model as it then is."""

    gives: str
    notes: list[str]
    data: NotRequired[dict[str, Any]]
    state: NotRequired[State]
    notice: NotRequired[str]
    panels: NotRequired[dict[str, str]]
    sketch: NotRequired[SketchShown]


class FigureKind(TypedDict):
    """What a part can be made to come to."""

    id: str
    word: str
    usual: str


class GoalRead(TypedDict):
    """How what is typed as a goal is read, with its unit; or why it cannot be."""

    text: str
    problem: str


class FitShown(FitChecked):
    """How bodies go together at a revision, and the play that was asked for, as text."""

    play: str
    revision: int


class StepThen(TypedDict):
    """A step at an older revision, in words. ``out``: it did not count."""

    title: str
    text: str
    out: bool


class LookedAt(TypedDict):
    """A part as it was at a revision."""

    bodies: list[BodyFacts]
    steps: list[StepThen]
    parameters: list[str]
    facts: list[tuple[str, str]]


class StudyTold(TypedDict):
    """How far a study is: none, waiting, running, done, stopped or failed (``problem``: why)."""

    state: str
    revision: NotRequired[int]
    asked: NotRequired[dict[str, Any]]
    seconds: NotRequired[float]
    problem: NotRequired[str]


class FlexTold(StudyTold):
    """The flex test: numbers in their order, what is known of them by id, pairs of ends."""

    numbers: NotRequired[dict[str, NumberTold]]
    order: NotRequired[list[str]]
    titles: NotRequired[dict[str, str]]
    builds: NotRequired[int]
    warning: NotRequired[str]
    pairs: NotRequired[list[CornerTold]]


class FilmTold(StudyTold):
    """A film of revisions: pictures done, of how many; where it can be had."""

    done: NotRequired[int]
    of: NotRequired[int]
    bytes: NotRequired[int]
    url: NotRequired[str]


class VariantRow(TypedDict):
    """A variant: its formulas as text. ``taken``: the model stands at it."""

    id: str
    name: str
    texts: tuple[str, ...]
    taken: bool


class VariantsTold(TypedDict):
    """The table of variants, the model's own formulas in its first row."""

    heads: tuple[str, ...]
    rows: list[VariantRow]
    own: list[str]
    revision: int


class VariantBuilt(TypedDict):
    """One variant built: whether it can be, or where and why not; what it amounts to; how long it prints, s."""

    holds: bool
    where: NotRequired[str]
    why: NotRequired[str]
    facts: NotRequired[dict[str, str]]
    bodies: NotRequired[list[BodyFacts]]
    seconds: NotRequired[float]


class RevisionNamed(TypedDict):
    """A revision: what was done, by whom, when (ISO 8601)."""

    number: int
    summary: str
    who: str
    at: str


class States(TypedDict):
    """What a part can be compared with."""

    revisions: list[RevisionNamed]
    variants: list[VariantTold]
    models: list[ModelNamed]


class ComparedTold(TypedDict):
    """Two states side by side. ``figures``: what, then as text on each side; ``volumes``: gone and come, as text;
    ``now``: the newer one is the model as it is.
    """

    gone: list[BodyFacts | ReferenceFacts]
    come: list[BodyFacts | ReferenceFacts]
    exact: bool
    sides: list[SideShown]
    differences: list[DifferenceTold]
    unchanged: int
    figures: list[list[str]]
    volumes: list[str]
    revision: int
    now: bool


class FileKept(TypedDict):
    """A file to compare with, by the key it is found by."""

    file: str
    name: str


class OriginTold(Origin):
    """What a model is a copy of, and where it is."""

    url: str


class ChangeTold(DifferenceTold):
    """A change made on a copy; ``conflict``: what was changed in the original too, in words."""

    conflict: str


class TriedTold(TypedDict):
    """What was changed on a copy; no origin where the model is none."""

    origin: OriginTold | None
    changes: list[ChangeTold]


class TakenBack(TypedDict):
    """The original, to which something was taken back."""

    revision: int
    name: str


class ExerciseTold(TypedDict):
    """The exercise that a model is for, as its panel; ``looking``: a reason is still being looked for."""

    html: str
    looking: bool


class JobTold(TypedDict):
    """A job in the printer's queue."""

    id: str
    name: str
    state: str
    layer: int
    layers: int
    seconds_left: int
    seconds: int
    why: str
    owner: str
    percent: int


class Showings(TypedDict):
    """To whom a model is shown, as a piece of the page; to how many."""

    html: str
    count: int


class Comments(TypedDict):
    """What was said about a model, as a piece of the page; how much of it is open, by the step it stands at, or the
    part.
    """

    html: str
    open: dict[str, int]


class AtIt(TypedDict):
    """Somebody who has a model open, and what they are at there. ``who``: *you* in another window, else empty."""

    name: str
    at: str
    who: str


class Here(TypedDict):
    """Who else has a model open; what was done since the revision that is seen, newest first, and the model as it then
    is; a word that changes when more was said about it.
    """

    fresh: Fresh | None
    since: list[str]
    said: str
    others: list[AtIt]


ANSWERS: dict[str, Any] = {
    "": Fresh,
    "/edit": Changed,
    "/link": Changed,
    "/undo": Changed,
    "/redo": Changed,
    "/restore/{}": Changed,
    "/stands": dict[str, str],
    "/elsewhere": Elsewhere,
    "/build": BuiltTold,
    "/section": SectionShown,
    "/stop": Nothing,
    "/progress/{}": Progress,
    "/sketches/{}": SketchShown,
    "/sketches/{}/selection": SelectionShown,
    "/sketches/{}/dimension": DimensionShown,
    "/sketches/{}/preview": DrawnShown,
    "/sketches/{}/stretch": StretchShown,
    "/sketches/{}/motions": list[MotionShown],
    "/sketches/{}/suggestions": list[ProposalShown],
    "/sketches/{}/chain": list[str],
    "/sketches/{}/takeable": list[TakeableShown],
    "/sketches/{}/clip": Clip,
    "/sketches/{}/drag": Dragged,
    "/number": Amount,
    "/triangles": Triangles,
    "/bring": BroughtTold,
    "/seek": Sought,
    "/figures/{}": list[FigureKind],
    "/goal": GoalRead,
    "/lighten": Lightest,
    "/explain": list[CauseTold],
    "/measure": Measured,
    "/fit": FitShown,
    "/revisions/{}/look": LookedAt,
    "/flex": FlexTold,
    "/flex/{}": FlexTold,
    "/flex/{}/stop": FlexTold,
    "/variants/{}": VariantsTold,
    "/variants/{}/{}": VariantBuilt,
    "/states": States,
    "/compare": ComparedTold,
    "/compare/file": FileKept,
    "/replay": FilmTold,
    "/replay/{}": FilmTold,
    "/replay/{}/stop": Nothing,
    "/tried": TriedTold,
    "/tried/take-back": TakenBack,
    "/exercise": ExerciseTold,
    "/exercise/answer": ExerciseTold,
    "/exercise/hand-in": ExerciseTold,
    "/exercise/withdraw": ExerciseTold,
    "/shown": Showings,
    "/shown/{}/take-back": Showings,
    "/comments": Comments,
    "/comments/{}/settle": Comments,
    "/comments/{}/reopen": Comments,
    "/comments/{}/delete": Comments,
    "/here": Here,
    "/print/check": PrintShown,
    "/print/times": list[float],
    "/print/queue": JobTold,
}
"""By what comes after the model's address; ``{}`` stands for one name in it."""
