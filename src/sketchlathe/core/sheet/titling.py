"""What stands about the views: the frame, the title block, and in words what no size says."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import TypeAlias

from ..sketch.curves.pieces import ArcPiece, Segment
from .page import LETTERS, SMALL, Box, Drawn, Line, Page, Text, width
from .puts import Paper, scale_words

XY: TypeAlias = tuple[float, float]
LEFT, EDGE = 20.0, 10.0  # mm of paper outside the frame (ISO 5457)
TITLE = (120.0, 27.0)  # the title block, mm
_WORDS, _ROW = 118.0, 4.4  # mm that a line of words may take, and from one to the next
_MOST = 0.4  # of the paper's height that words may take


@dataclass(frozen=True)
class Heading:
    """What the title block says besides the paper's own words."""

    title: str
    made_of: str = ""
    units: str = "mm"
    mass: str = ""


def in_words(words: Sequence[tuple[str, str]], paper: Paper) -> tuple[Drawn, list[Box]]:
    """What is not drawn as a size, as lines in the lower left corner, above the title block where both have no room
    beside each other; and what of the paper is taken so. ``words``: each with the line of the sheet that says it.
    """
    right, low = paper.wide - EDGE, EDGE
    kept = [(right - TITLE[0], low, right, low + TITLE[1] + 3)]
    lines = [(of, piece) for of, text in words for piece in _wrapped(text, _WORDS)]
    if not lines:
        return Drawn(), kept
    base = low + 3 if right - TITLE[0] > LEFT + _WORDS + 6 else low + TITLE[1] + 5
    room = int((paper.high * _MOST + low - base) / _ROW)
    if len(lines) > room:
        lines = [*lines[: room - 1], (lines[0][0], f"and {len(lines) - room + 1} more lines")]
    top = base + _ROW * (len(lines) - 1)
    texts = [Text((LEFT + 3, top - _ROW * n), line, SMALL, of=of) for n, (of, line) in enumerate(lines)]
    kept.append((LEFT, base - 3, LEFT + _WORDS + 6, top + _ROW + 3))
    return Drawn(texts=texts), kept


def _wrapped(text: str, room: float) -> list[str]:
    lines = [""]
    for word in text.split():
        if lines[-1] and width(f"{lines[-1]} {word}", SMALL) > room:
            lines.append("")
        lines[-1] = f"{lines[-1]} {word}".strip()
    return [fitted(line, SMALL, room)[0] for line in lines]


def fitted(words: str, height: float, room: float, least: float = 0.0) -> tuple[str, float]:
    """Words and the height of their letters, so that they keep to some room: smaller to ``least``, then cut off."""
    while least and height > least and width(words, height) > room:
        height -= 0.25
    most = max(int(room / width("x", height)), 1)
    return (words if len(words) <= most else f"{words[: most - 1]}…"), height


def draw_frame(page: Page, paper: Paper) -> None:
    """The frame, and what shows the middles of its sides (ISO 5457)."""
    left, low, right, high = LEFT, EDGE, paper.wide - EDGE, paper.high - EDGE
    _path(page.drawn, "frame", (left, low), (right, low), (right, high), (left, high), (left, low))
    for a, b in (
        ((paper.wide / 2, 0.0), (paper.wide / 2, low + 3)), ((paper.wide / 2, paper.high), (paper.wide / 2, high - 3)),
        ((0.0, paper.high / 2), (left + 3, paper.high / 2)),
        ((paper.wide, paper.high / 2), (right - 3, paper.high / 2)),
    ):  # fmt: skip
        page.drawn.lines.append(Line(Segment(a, b), "thin"))


def _path(drawn: Drawn, look: str, *places: XY) -> None:
    drawn.lines += [Line(Segment(a, b), look) for a, b in pairwise(places)]


def draw_title_block(page: Page, paper: Paper, heading: Heading) -> None:
    """What the sheet is of (after ISO 7200), with the sign of how its views are arranged (ISO 5456-2)."""
    x, y, (w, h) = paper.wide - EDGE - TITLE[0], EDGE, TITLE
    row = h / 3
    _path(page.drawn, "thin", (x, y), (x, y + h), (x + w, y + h))
    for k in (1, 2):
        _path(page.drawn, "thin", (x, y + row * k), (x + w, y + row * k))
    cells = [
        (0.0, 2, 0.62, "title", page.title), (0.62, 2, 0.38, "number", paper.number),
        (0.0, 1, 0.62, "made of", ", ".join(filter(None, (heading.made_of, heading.mass)))),
        (0.62, 1, 0.38, "drawn", paper.by),
        (0.0, 0, 0.2, "scale", scale_words(page.scale)), (0.2, 0, 0.2, "paper", paper.called),
        (0.4, 0, 0.22, "sizes in", heading.units),
    ]  # fmt: skip
    for left, line, wide, label, words in cells:
        cx, cy = x + left * w, y + line * row
        if left:
            _path(page.drawn, "thin", (cx, cy), (cx, cy + row))
        page.drawn.texts.append(Text((cx + 1.2, cy + row - 2.6), label, 1.8))
        page.drawn.texts.append(Text((cx + 1.2, cy + 1.6), *fitted(words, LETTERS, wide * w - 3, 2.0)))
    _path(page.drawn, "thin", (x + 0.62 * w, y), (x + 0.62 * w, y + row))
    _sign(page.drawn, x + 0.81 * w, y + row / 2, paper)


def _sign(drawn: Drawn, x: float, y: float, paper: Paper) -> None:
    """A cone from its side and from its end: which stands where says how views are arranged."""
    side, end = (-6.0, 6.0) if paper.first_angle else (6.0, -6.0)
    a, b = 1.25, 2.5  # seen from its thin end, which is on the left
    _path(drawn, "thin", (x + side + 4, y - b), (x + side + 4, y + b), (x + side - 4, y + a), (x + side - 4, y - a),
          (x + side + 4, y - b))  # fmt: skip
    for r in (a, b):
        drawn.lines.append(Line(ArcPiece((x + end, y), r, 0.0, 2 * math.pi), "thin"))
    drawn.lines.append(Line(Segment((x + side - 5.5, y), (x + side + 5.5, y)), "centre"))
    drawn.lines.append(Line(Segment((x + end - 3.5, y), (x + end + 3.5, y)), "centre"))
    drawn.lines.append(Line(Segment((x + end, y - 3.5), (x + end, y + 3.5)), "centre"))
