"""How an edit of a sketch is done on the screen: its name, its chord, and the blanks a person fills one after the
other.

The screen knows sorts of blanks, never edits: an edit that declares its acts appears in the tools by itself.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any, Literal

Sort = Literal[
    "chosen",  # curves: what is selected, or clicked one after the other until Enter
    "stretch",  # a curve and the place on it (an object with id and at)
    "stretches",  # the same, several while the pointer is dragged
    "corner",  # a corner point (a list of one reference)
    "line",  # a line or axis (a reference)
    "line or point",
    "place",  # a point in the plane
    "length",  # a typed size
    "angle",
    "count",
    "factor",
]


@dataclass(frozen=True)
class Ask:
    """One blank of an act: the edit's field it fills, what it takes, what to say."""

    field: str
    sort: Sort
    say: str
    start: str = ""  # what stands in a typed blank at first
    may_be_empty: bool = False


@dataclass(frozen=True)
class Act:
    """One way to use an edit."""

    name: str
    chord: str
    icon: str
    hint: str
    asks: tuple[Ask, ...]
    preset: dict[str, Any] = field(default_factory=dict)
    order: int = 100
    main: bool = False  # has a button of its own; the others stand in the menu
    again: bool = True  # starts anew when done
