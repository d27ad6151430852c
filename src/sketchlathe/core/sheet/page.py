"""A sheet as it is drawn: lines, arrows and words on paper. mm, from the lower left corner, y upwards."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple, TypeAlias

from ..sketch.curves.pieces import ArcPiece, Bezier, EllipsePiece, Piece, Segment
from .puts import Size

XY: TypeAlias = tuple[float, float]
Box: TypeAlias = tuple[float, float, float, float]  # left, low, right, high

LETTERS, SMALL = 3.5, 2.5  # heights of letters, ISO 3098-1
_WIDE = 0.62  # of its height that a letter takes


class Look(NamedTuple):
    """How a sort of line is drawn: its width, its dashes (mm), and what its layer is called (ISO 128-2)."""

    width: float
    dashes: tuple[float, ...]
    word: str


LOOKS: dict[str, Look] = {
    "visible": Look(0.5, (), "visible edges"),
    "hidden": Look(0.25, (3.0, 0.75), "hidden edges"),
    "smooth": Look(0.18, (), "smooth edges"),
    "centre": Look(0.18, (5.0, 0.8, 0.6, 0.8), "centre lines"),
    "size": Look(0.18, (), "sizes"),
    "hatch": Look(0.18, (), "hatching"),
    "frame": Look(0.7, (), "frame"),
    "thin": Look(0.25, (), "title block"),
}


class Line(NamedTuple):
    """A line of one of ``LOOKS``; ``of``: the line of the sheet that put it there."""

    piece: Piece
    look: str
    of: str = ""


class Arrow(NamedTuple):
    """A filled arrowhead (ISO 129-1), 2.5 mm long."""

    tip: XY
    way: XY
    of: str = ""

    def corners(self) -> tuple[XY, XY, XY]:
        """Its outline."""
        x, y = unit(self.way)
        back = (self.tip[0] - 2.5 * x, self.tip[1] - 2.5 * y)
        return self.tip, (back[0] - 0.42 * y, back[1] + 0.42 * x), (back[0] + 0.42 * y, back[1] - 0.42 * x)


class Text(NamedTuple):
    """Words on one line. ``at``: on their base line, at the ``anchor`` (start, middle, end); ``turn``: rad."""

    at: XY
    words: str
    height: float = LETTERS
    anchor: str = "start"
    turn: float = 0.0
    of: str = ""
    step: str = ""  # whose number it is, and which of its numbers
    number: str = ""

    def box(self, room: float = 0.4) -> Box:
        """What it takes up, upright."""
        wide = width(self.words, self.height)
        start = {"start": 0.0, "middle": -wide / 2, "end": -wide}[self.anchor]
        c, s = math.cos(self.turn), math.sin(self.turn)
        corners = [
            (self.at[0] + u * c - v * s, self.at[1] + u * s + v * c)
            for u in (start - room, start + wide + room)
            for v in (-room - 0.2 * self.height, self.height + room)
        ]
        return box_of(corners)


@dataclass
class Drawn:
    """Lines, arrows and words together."""

    lines: list[Line] = field(default_factory=list)
    arrows: list[Arrow] = field(default_factory=list)
    texts: list[Text] = field(default_factory=list)

    def add(self, other: Drawn) -> None:
        """Put another drawing to it."""
        self.lines += other.lines
        self.arrows += other.arrows
        self.texts += other.texts

    def moved(self, x: float, y: float) -> Drawn:
        """It somewhere else."""
        return Drawn(
            [line._replace(piece=moved(line.piece, x, y)) for line in self.lines],
            [a._replace(tip=(a.tip[0] + x, a.tip[1] + y)) for a in self.arrows],
            [t._replace(at=(t.at[0] + x, t.at[1] + y)) for t in self.texts],
        )


Unsaid: TypeAlias = tuple[str, str, Size, str]
"""A line of a sheet, the part it is about, a size of it that no view shows, and the side from which it is seen."""


@dataclass
class Page:
    """A sheet of paper with what is on it. ``views``: what each line that shows something takes up, by its id."""

    wide: float
    high: float
    title: str
    drawn: Drawn
    scale: float = 1.0
    views: dict[str, Box] = field(default_factory=dict)
    fits: bool = True
    unsaid: list[Unsaid] = field(default_factory=list)

    def cleaned(self) -> Page:
        """It with what no file can hold (control characters, line ends) as blanks in its words."""
        self.title = _CONTROL.sub(" ", self.title)
        self.drawn.texts = [t._replace(words=_CONTROL.sub(" ", t.words)) for t in self.drawn.texts]
        return self


_CONTROL = re.compile(r"[\x00-\x1f\x7f-\x9f\u2028\u2029\ud800-\udfff\ufffe\uffff]+")


def width(words: str, height: float) -> float:
    """About how wide a text is, mm."""
    return _WIDE * height * len(words)


def unit(v: XY) -> XY:
    """``v`` at length one."""
    length = math.hypot(*v) or 1.0
    return v[0] / length, v[1] / length


def box_of(places: Iterable[XY]) -> Box:
    """The box about some places."""
    xs, ys = zip(*places)
    return min(xs), min(ys), max(xs), max(ys)


def around(boxes: Sequence[Box]) -> Box:
    """The box about some boxes."""
    return min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes)


def meet(a: Box, b: Box) -> bool:
    """Whether two boxes overlap."""
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]


def scaled(piece: Piece, k: float) -> Piece:
    """A piece ``k`` times as large about the origin."""
    if isinstance(piece, Segment):
        return Segment(_times(piece.a, k), _times(piece.b, k))
    if isinstance(piece, ArcPiece):
        return piece._replace(centre=_times(piece.centre, k), radius=piece.radius * k)
    if isinstance(piece, EllipsePiece):
        return piece._replace(centre=_times(piece.centre, k), major=_times(piece.major, k), minor=piece.minor * k)
    return Bezier(*(_times(p, k) for p in piece))


def moved(piece: Piece, x: float, y: float) -> Piece:
    """A piece somewhere else."""
    if isinstance(piece, Segment):
        return Segment((piece.a[0] + x, piece.a[1] + y), (piece.b[0] + x, piece.b[1] + y))
    if isinstance(piece, ArcPiece | EllipsePiece):
        return piece._replace(centre=(piece.centre[0] + x, piece.centre[1] + y))
    return Bezier(*((p[0] + x, p[1] + y) for p in piece))


def _times(p: XY, k: float) -> XY:
    return p[0] * k, p[1] * k
