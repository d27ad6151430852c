"""Where what lines put on a sheet goes: views lined up (ISO 5456-2), sizes in them, frame and title block."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from ..sketch.curves.pieces import ArcPiece, Segment
from .cutting import cuts_on
from .dimensioning import dimension, outline_box, taken
from .page import LETTERS, Box, Drawn, Line, Page, Text, meet, scaled
from .puts import IN_FIRST_ANGLE, SCALES, Note, Paper, Put, Size, Sizes, View
from .telling import told
from .titling import EDGE, LEFT, Heading, draw_frame, draw_title_block, in_words

XY = tuple[float, float]
BETWEEN = 12.0  # mm at least between views


@dataclass
class _Block:
    """A view with its sizes at some scale, about the origin of its frame."""

    of: str
    view: View
    drawn: Drawn
    box: Box
    at: XY = (0.0, 0.0)  # where that origin goes
    outline: Box = (0.0, 0.0, 0.0, 0.0)


@dataclass
class _Laid:
    """What was found for one scale."""

    scale: float
    blocks: list[_Block] = field(default_factory=list)
    fits: bool = True


def lay(puts: Sequence[tuple[str, Put]], heading: Heading) -> Page:
    """The sheet. ``puts``: what each of its lines puts on it, in their order."""
    paper = next((p for _, p in puts if isinstance(p, Paper)), Paper())
    views = [(of, p) for of, p in puts if isinstance(p, View)]
    by_view, unsaid = told(views, [(of, p) for of, p in puts if isinstance(p, Sizes)])
    page = Page(paper.wide, paper.high, paper.title or heading.title, Drawn(), unsaid=unsaid)
    words, kept = in_words([(of, line) for of, p in puts if isinstance(p, Sizes) for line in p.words], paper)
    laid = _scaled(paper, views, by_view, kept)
    page.scale, page.fits = laid.scale, laid.fits
    for block in laid.blocks:
        page.drawn.add(block.drawn.moved(*block.at))
        page.views[block.of] = _at(block.box, block.at)
    page.drawn.add(words)
    for of, note in puts:
        if isinstance(note, Note):
            page.drawn.texts.append(Text(note.at, note.words, LETTERS, of=of))
    draw_frame(page, paper)
    draw_title_block(page, paper, heading)
    return page.cleaned()


# --- at which scale, and where


def _scaled(
    paper: Paper,
    views: Sequence[tuple[str, View]],
    sizes: Mapping[str, Sequence[tuple[str, Size]]],
    kept: Sequence[Box],
) -> _Laid:
    laid = _Laid(paper.scale or 1.0)
    for scale in (paper.scale,) if paper.scale else SCALES:
        laid = _Laid(scale)
        if not paper.scale and scale != SCALES[-1] and _too_large(paper, views, scale):
            continue
        for of, view in views:
            drawn = _view(of, view, scale)
            outline = outline_box(view, scale)
            cuts = cuts_on(of, views, scale)
            drawn.add(dimension(view, sizes.get(of, ()), scale, cuts))
            drawn.add(cuts)
            laid.blocks.append(_Block(of, view, drawn, taken(drawn, outline), outline=outline))
        laid.fits = _placed(laid.blocks, paper, kept)
        if laid.fits:
            break
    return laid


def _too_large(paper: Paper, views: Sequence[tuple[str, View]], scale: float) -> bool:
    """Whether one view alone is too large, or all of them together."""
    boxes = [outline_box(view, scale) for _, view in views]
    sizes = [(b[2] - b[0], b[3] - b[1]) for b in boxes]
    room = (paper.wide - LEFT - EDGE - 6, paper.high - 2 * EDGE - 6)
    return any(w > room[0] or h > room[1] for w, h in sizes) or sum(w * h for w, h in sizes) > room[0] * room[1]


def _placed(blocks: Sequence[_Block], paper: Paper, kept: Sequence[Box]) -> bool:
    """Put views into columns and rows, part by part beside each other; whether they fit."""
    low, high = EDGE + 3, paper.high - EDGE - 3
    left, right = LEFT + 3, paper.wide - EDGE - 3
    groups = list(dict.fromkeys(b.view.part for b in blocks))
    grids = [_Grid([b for b in blocks if b.view.part == part], paper) for part in groups]
    if not grids:
        return True
    wide = sum(g.wide for g in grids) + BETWEEN * (len(grids) - 1)
    tall = max(g.high for g in grids)
    for lift in (0.0, *sorted({box[3] - low for box in kept})):
        room_x, room_y = right - left - wide, high - (low + lift) - tall
        if room_x < 0 or room_y < 0:
            continue
        x = left
        for grid in grids:
            grid.put(x, low + lift, room_x / len(grids), high - low - lift)
            x += grid.wide + room_x / len(grids) + BETWEEN
        boxes = [_at(b.box, b.at) for b in blocks]
        if not any(meet(box, k) for box in boxes for k in kept):
            return True
    if wide > right - left or tall > high - low:
        x = left
        for grid in grids:
            grid.put(x, low, 0.0, max(high - low, grid.high))
            x += grid.wide + BETWEEN
    return False


def _at(box: Box, at: XY) -> Box:
    return box[0] + at[0], box[1] + at[1], box[2] + at[0], box[3] + at[1]


class _Grid:
    """The views of one part in columns and rows: what stands above another shares its width, what beside its height."""

    def __init__(self, blocks: Sequence[_Block], paper: Paper) -> None:
        self._cells: dict[tuple[int, int], _Block] = {}
        for block in blocks:
            column, row = IN_FIRST_ANGLE[block.view.side]
            column, row = (column, row) if paper.first_angle else (-column, -row)
            cell = (column, row)
            if block.view.side == "corner":
                cell = (1, 1 if any(r > 0 for _, r in self._cells) and not paper.first_angle else -1)
                cell = (1, 1) if cell in self._cells else cell
            while cell in self._cells:  # a second one from the same side, or a cut that is seen from there
                cell = (cell[0] + 1, cell[1])
            self._cells[cell] = block
        self._columns = sorted({c for c, _ in self._cells})
        self._rows = sorted({r for _, r in self._cells})
        self._across = {c: self._span(0, c) for c in self._columns}
        self._up = {r: self._span(1, r) for r in self._rows}
        self.wide = sum(b - a for a, b in self._across.values()) + BETWEEN * (len(self._columns) - 1)
        self.high = sum(b - a for a, b in self._up.values()) + BETWEEN * (len(self._rows) - 1)

    def _span(self, k: int, number: int) -> tuple[float, float]:
        """From where to where a column (row) goes about the origin that its views share."""
        blocks = [b for cell, b in self._cells.items() if cell[k] == number]
        lined = [b for b in blocks if b.view.side != "corner"]
        low = min((b.box[k] for b in lined), default=0.0)
        high = max((b.box[k + 2] for b in lined), default=0.0)
        widest = max(b.box[k + 2] - b.box[k] for b in blocks)
        if high - low < widest:
            low, high = low - (widest - high + low) / 2, high + (widest - high + low) / 2
        return low, high

    def put(self, left: float, low: float, spare: float, tall: float) -> None:
        """Stand in some room, what is left of it shared out between the views and about them."""
        between = BETWEEN + spare / (len(self._columns) + 1)
        above = BETWEEN + max(tall - self.high, 0.0) / (len(self._rows) + 1)
        x = left + spare / (len(self._columns) + 1)
        at_x, at_y = {}, {}
        for c in self._columns:
            at_x[c] = x - self._across[c][0]
            x += self._across[c][1] - self._across[c][0] + between
        y = low + max(tall - self.high, 0.0) / (len(self._rows) + 1)
        for r in self._rows:
            at_y[r] = y - self._up[r][0]
            y += self._up[r][1] - self._up[r][0] + above
        for (c, r), block in self._cells.items():
            x, y = at_x[c], at_y[r]
            if block.view.side == "corner":  # it is lined up with nothing: in the middle of its cell
                x += sum(self._across[c]) / 2 - (block.box[0] + block.box[2]) / 2
                y += sum(self._up[r]) / 2 - (block.box[1] + block.box[3]) / 2
            block.at = (x + block.view.moved[0], y + block.view.moved[1])


# --- what is drawn


def _view(of: str, view: View, scale: float) -> Drawn:
    """The lines of a view, with the middles of what is round in it."""
    drawn = Drawn()
    for line in view.lines:
        look = "smooth" if line.sort == "smooth" else "visible"
        if line.sort == "smooth" and not (view.smooth and line.visible):
            continue
        if not line.visible:
            if not view.hidden:
                continue
            look = "hidden"
        drawn.lines.append(Line(scaled(line.piece, scale), look, of))
    if view.side != "corner":
        for piece in _middles(view, scale):
            drawn.lines.append(Line(piece, "centre", of))
    return drawn


def _middles(view: View, scale: float) -> Iterator[Segment]:
    """Centre lines: through whole circles, and along what is round and seen from its side."""
    widest: dict[tuple[float, float], float] = {}
    for line in view.lines:
        p = line.piece
        if isinstance(p, ArcPiece) and abs(p.a1 - p.a0) > 2 * math.pi - 1e-6 and (line.visible or view.hidden):
            key = (round(p.centre[0], 4), round(p.centre[1], 4))
            widest[key] = max(widest.get(key, 0.0), p.radius)
    for (x, y), radius in widest.items():
        long = radius * scale + 2.5
        yield Segment((x * scale - long, y * scale), (x * scale + long, y * scale))
        yield Segment((x * scale, y * scale - long), (x * scale, y * scale + long))
    walls: dict[tuple[str, int], list[Segment]] = {}
    for line in view.lines:
        if line.sort == "outline" and isinstance(line.piece, Segment) and (line.visible or view.hidden):
            walls.setdefault(line.face, []).append(line.piece)
    done: set[tuple[float, ...]] = set()
    for lines in walls.values():
        for axis in _between(lines):
            a, b = axis
            same = tuple(round(v, 3) for p in sorted((a, b)) for v in p)
            if same in done:
                continue
            done.add(same)
            long = math.dist(a, b)
            u = ((b[0] - a[0]) / long, (b[1] - a[1]) / long)
            yield Segment(
                (a[0] * scale - 2.5 * u[0], a[1] * scale - 2.5 * u[1]),
                (b[0] * scale + 2.5 * u[0], b[1] * scale + 2.5 * u[1]),
            )


def _between(lines: Sequence[Segment]) -> Iterator[Segment]:
    """The middle of the two outermost of parallel lines that stand opposite each other."""
    if len(lines) < 2:
        return
    first = lines[0]
    long = math.dist(*first)
    u = ((first.b[0] - first.a[0]) / long, (first.b[1] - first.a[1]) / long)
    off = []
    for line in lines:
        if abs((line.b[0] - line.a[0]) * u[1] - (line.b[1] - line.a[1]) * u[0]) > 1e-4 * math.dist(*line):
            return
        off.append(-line.a[0] * u[1] + line.a[1] * u[0])
    if max(off) - min(off) < 1e-3:
        return
    along = [p[0] * u[0] + p[1] * u[1] for line in lines for p in line]
    middle = (max(off) + min(off)) / 2
    ends = [(t * u[0] - middle * u[1], t * u[1] + middle * u[0]) for t in (min(along), max(along))]
    if math.dist(*ends) > 1e-3:
        yield Segment(*ends)
