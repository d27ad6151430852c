"""Blanks: the typed places in a step's sentence.

A field of a step is ``Annotated[type, Blank(...)]``; the blank says what a person fills in there.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

Atom = Annotated[str, Field(min_length=1, max_length=400)]
Formula = Annotated[str, Field(max_length=400)]
Number = Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)]

BlankType = Literal[
    "length",
    "angle",
    "count",
    "choice",
    "regions",
    "plane",
    "text",
    "members",
    "faces",
    "edges",
    "bodies",
    "axis",
    "points",
    "steps",
    "curve",
    "path",
    "thing",
    "part",
    "variant",
]


@dataclass(frozen=True)
class Blank:
    """What one field looks like in a sentence and what fills it.

    ``words`` (choices): value → words in the sentence. ``when``: shown only while another field has one of some
    values. ``main``: the number with a handle in the view. ``instead``: a pick that belongs into another blank than the
    one being filled sets a choice to a value and goes into that blank (choice, value, blank).
    """

    type: BlankType
    label: str
    hint: str = ""
    words: dict[str, str] = field(default_factory=dict)
    when: tuple[str, tuple[str, ...]] | None = None
    main: bool = False
    optional: bool = False  # may stay empty
    instead: tuple[tuple[str, str, str], ...] = ()
    most: int = 0  # how many picks it takes at most; 0: any number
    only: str = ""  # of what a type of blank takes, one sort only ("edge" where a face's edges cannot be meant)
    after: str = ""  # offered once this other blank is filled
    must: bool = False  # once it is offered it must be filled, optional though it is
    nothing: str = ""  # what it says while it is empty and may be
    table: tuple[str, str] = ("", "")  # of a choice: with this value its sizes stand in this table, which can be edited
    nears: tuple[tuple[str, str], ...] = ()  # (distance, edge) blanks that say where on a face one clicked
    also: tuple[str, ...] = ()  # what a blank for regions takes besides them: "faces", "chains"


class Pick(BaseModel):
    """Something of an earlier step that a person picked. What it stands on follows from its fields, for every sort
    alike.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    def results(self) -> Iterator[str]:
        """The steps whose results it names outright: sketches and datums."""
        for name, value in self:
            if name in ("sketch", "datum") and value:
                yield value
            elif isinstance(value, Pick):
                yield from value.results()

    def atoms_named(self) -> Iterator[str]:
        """Every atom it holds: its own names, those around it, those of its siblings."""
        for _, value in self:
            if isinstance(value, Pick):
                yield from value.atoms_named()


class FacePick(Pick):
    """A picked face: its atoms, the names around it, its siblings' surroundings, where it was (0-1 in the box)."""

    atoms: tuple[Atom, ...] = Field(min_length=1, max_length=200)
    neighbours: tuple[Atom, ...] = Field(default=(), max_length=2000)
    siblings: tuple[tuple[Atom, ...], ...] = Field(default=(), max_length=200)
    centre: tuple[Number, Number, Number] = (0.5, 0.5, 0.5)

    def atoms_named(self) -> Iterator[str]:
        yield from self.atoms
        yield from self.neighbours
        for around in self.siblings:
            yield from around


class EdgePick(Pick):
    """A picked edge: the names of the two faces it separates, what meets at its two ends, its siblings' ends, its
    middle.
    """

    first: tuple[Atom, ...] = Field(min_length=1, max_length=200)
    second: tuple[Atom, ...] = Field(min_length=1, max_length=200)
    ends: tuple[tuple[Atom, ...], tuple[Atom, ...]] = ((), ())
    siblings: tuple[tuple[tuple[Atom, ...], tuple[Atom, ...]], ...] = Field(default=(), max_length=500)
    centre: tuple[Number, Number, Number] = (0.5, 0.5, 0.5)

    def atoms_named(self) -> Iterator[str]:
        yield from self.first
        yield from self.second
        for ends in (self.ends, *self.siblings):
            for end in ends:
                yield from end


class PointPick(Pick):
    """A picked point of a sketch (a point, an end or a centre), or a datum point (``ref`` is then ``point``)."""

    sketch: str = Field(min_length=1, max_length=20)
    ref: str = Field(min_length=1, max_length=40)


class Taken(Pick):
    """A curve of a sketch that is taken from the solid: its id, and the edge (or the face it is a section of)."""

    curve: str = Field(min_length=1, max_length=20)
    edge: EdgePick | None = None
    face: FacePick | None = None


class RegionPick(Pick):
    """A picked region of a sketch: the curve sides that bound it and the curves that existed then."""

    sketch: str = Field(min_length=1, max_length=20)
    sides: tuple[Annotated[str, Field(max_length=30)], ...] = Field(min_length=1, max_length=4000)
    known: tuple[Annotated[str, Field(max_length=20)], ...] = Field(default=(), max_length=4000)


class CurvePick(Pick):
    """A picked curve of a sketch; where a chain is wanted, all that hangs together with it."""

    sketch: str = Field(min_length=1, max_length=20)
    curve: str = Field(min_length=1, max_length=20)


class PlaneRef(Pick):
    """A plane: an origin plane by name, a flat face, or a datum step."""

    plane: Literal["top", "front", "right"] | None = None
    face: FacePick | None = None
    datum: str | None = Field(default=None, max_length=20)


class AxisRef(Pick):
    """An axis: of the origin by name, a sketch's line, through a sketch's point at right angles to its plane, a
    straight or round edge, a round face, or a datum step; ``reversed`` runs it the other way.
    """

    axis: Literal["x", "y", "z"] | None = None
    sketch: str | None = Field(default=None, max_length=20)
    line: str | None = Field(default=None, max_length=20)
    point: str | None = Field(default=None, max_length=40)
    reversed: bool = False
    edge: EdgePick | None = None
    face: FacePick | None = None
    datum: str | None = Field(default=None, max_length=20)


class ThingPick(Pick):
    """What something is placed by: a face, an edge, the corner of an edge that is nearest to ``at`` (0-1 in the
    body's box), a datum; of the origin a plane, an axis or its point.
    """

    face: FacePick | None = None
    edge: EdgePick | None = None
    at: tuple[Number, Number, Number] | None = None
    spot: Literal["", "middle", "centre"] = ""  # of an edge: the point half way along it, or its circle's centre
    datum: str | None = Field(default=None, max_length=20)
    plane: Literal["top", "front", "right"] | None = None
    axis: Literal["x", "y", "z"] | None = None
    origin: bool = False

    @property
    def given(self) -> bool:
        """Whether anything is picked."""
        return self != ThingPick()

    @property
    def on_body(self) -> bool:
        """Whether it is something of a body, which can be moved by it."""
        return self.face is not None or self.edge is not None


@lru_cache(maxsize=200)
def blanks_of(cls: Any) -> dict[str, Blank]:
    """The blanks of a step class, by field name."""
    found = {}
    for name, info in cls.model_fields.items():
        for extra in info.metadata:
            if isinstance(extra, Blank):
                found[name] = extra
    return found
