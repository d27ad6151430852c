"""Blanks: the typed places in a step's sentence.

A field of a step is ``Annotated[type, Blank(...)]``; the blank says what a person fills in there.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

Atom = Annotated[str, Field(min_length=1, max_length=400)]
Formula = Annotated[str, Field(max_length=400)]
Number = Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)]

BlankType = Literal["length", "angle", "count", "choice", "regions", "plane", "text"]


@dataclass(frozen=True)
class Blank:
    """What one field looks like in a sentence and what fills it.

    ``words`` (choices): value → words in the sentence. ``when``: shown only while another field has one of some
    values. ``main``: the number with a handle in the view.
    """

    type: BlankType
    label: str
    hint: str = ""
    words: dict[str, str] = field(default_factory=dict)
    when: tuple[str, tuple[str, ...]] | None = None
    main: bool = False


class _Pick(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class FacePick(_Pick):
    """A picked face: its atoms, the names around it, its siblings' surroundings, where it was (0-1 in the box)."""

    atoms: tuple[Atom, ...] = Field(min_length=1, max_length=200)
    neighbours: tuple[Atom, ...] = Field(default=(), max_length=2000)
    siblings: tuple[tuple[Atom, ...], ...] = Field(default=(), max_length=200)
    centre: tuple[Number, Number, Number] = (0.5, 0.5, 0.5)


class RegionPick(_Pick):
    """A picked region of a sketch: the curve sides that bound it and the curves that existed then."""

    sketch: str = Field(min_length=1, max_length=20)
    sides: tuple[Annotated[str, Field(max_length=30)], ...] = Field(min_length=1, max_length=4000)
    known: tuple[Annotated[str, Field(max_length=20)], ...] = Field(default=(), max_length=4000)


class PlaneRef(_Pick):
    """Where a sketch lies: an origin plane by name, or a flat face."""

    plane: Literal["top", "front", "right"] | None = None
    face: FacePick | None = None


def blanks_of(cls: Any) -> dict[str, Blank]:
    """The blanks of a step class, by field name."""
    found = {}
    for name, info in cls.model_fields.items():
        for extra in info.metadata:
            if isinstance(extra, Blank):
                found[name] = extra
    return found
