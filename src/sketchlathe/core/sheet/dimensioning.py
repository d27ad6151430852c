"""Where sizes go in a view, in the form of ISO 129-1: lengths outside it in rows, the shortest nearest; radii,
diameters and angles where there is room for their numbers. Each place that could be is weighed by what it would cover.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from ..frames import dot
from ..sketch.curves.pieces import ArcPiece, EllipsePiece, Piece, Segment, box_of_piece
from .page import LETTERS, Arrow, Box, Drawn, Line, Text, around, box_of, unit, width
from .puts import Size, View

XY = tuple[float, float]
FIRST, NEXT = 9.0, 7.0  # mm from the outline to the first row of sizes, and on
GAP, OVER = 0.8, 1.6  # mm between what is measured and its extension line, and that beyond the arrow
_ROOM = 7.0  # mm that two arrows take
_FIELD, _MARGIN, _MOST = 0.5, 80.0, 2000  # mm: how fine a board is, how far beyond the view; fields along a side
_LOOKS = 40


class _Board:
    """A view as it fills: what of it is drawn, and where words are. Both are kept as fields of half a millimetre, so
    that what a place costs does not grow with what is there.
    """

    def __init__(self, view: View, scale: float, there: Drawn) -> None:
        self.view, self.scale = view, scale
        self.box = taken(there, outline_box(view, scale))
        self.drawn, self.of = Drawn(), ""
        self._low = np.array(self.box[:2]) - _MARGIN
        extent = np.array(self.box[2:]) + _MARGIN - self._low
        self._field = max(_FIELD, float(extent.max()) / _MOST)
        count = np.ceil(extent / self._field).astype(np.int64) + 1
        self._last = count - 1
        self._ink, self._words = np.zeros(count, np.int16), np.zeros(count, np.int16)
        self._part = _places_on(view, scale)
        self._near = np.zeros(count, bool)  # within a millimetre of a visible line of the part
        self._put(self._ink, self._part)
        for dx in range(-2, 3):
            for dy in range(-2, 3):
                i, j = self._fields(self._part).T
                self._near[np.clip(i + dx, 0, count[0] - 1), np.clip(j + dy, 0, count[1] - 1)] = True
        for text in there.texts:
            self._write(text.box())

    def _fields(self, places: np.ndarray) -> np.ndarray:
        found = ((places - self._low) / self._field).astype(np.int64)
        return np.asarray(np.minimum(np.maximum(found, 0), self._last))

    def _put(self, on: np.ndarray, places: np.ndarray) -> None:
        i, j = self._fields(places).T
        on[i, j] = 1

    def _slice(self, box: Box) -> tuple[slice, slice]:
        (i, j), (k, l) = self._fields(np.array([box[:2], box[2:]]))
        return slice(i, k + 1), slice(j, l + 1)

    def _write(self, box: Box) -> None:
        self._words[self._slice(box)] += 1

    def flat(self, size: Size, p: XY) -> XY:
        """Where a place of a size's plane is in the view, mm of paper."""
        x, y = self.view.frame.flat(size.plane.place(*p))
        return x * self.scale, y * self.scale

    def way(self, size: Size, v: XY) -> XY:
        """A direction of a size's plane in the view."""
        o = self.view.frame.flat(size.plane.place(0.0, 0.0))
        p = self.view.frame.flat(size.plane.place(*v))
        return unit((p[0] - o[0], p[1] - o[1]))

    def covers(self, box: Box) -> float:
        """How bad words in a box would be: for words and ink that are there already."""
        where = self._slice(box)
        return 100.0 * float(self._words[where].max(initial=0)) + 0.5 * float(self._ink[where].sum())

    def crosses(self, a: XY, b: XY) -> float:
        """How bad a line would be: for the words that it runs through."""
        i, j = self._fields(_on_line(a, b)).T
        return 40.0 * float(self._words[i, j].max(initial=0))

    def touches(self, p: XY) -> bool:
        """Whether a visible line of the part runs through a place."""
        i, j = self._fields(np.array([p]))[0]
        return bool(self._near[i, j])

    def outermost(self, p: XY, k: int, level: float) -> float:
        """How far a line from ``p`` on to a level (along y where ``k`` is 0, else along x) runs along the part: an
        extension line begins behind that.
        """
        own = self._part
        low, high = sorted((p[1 - k], level))
        on = own[(np.abs(own[:, k] - p[k]) < 0.02) & (own[:, 1 - k] >= low) & (own[:, 1 - k] <= high)][:, 1 - k]
        if not len(on):
            return p[1 - k]
        return float(on.max() if level > p[1 - k] else on.min())

    def line(self, a: XY, b: XY) -> None:
        """A thin line."""
        if math.dist(a, b) > 0.05:
            self.drawn.lines.append(Line(Segment(a, b), "size", self.of))
            self._put(self._ink, _on_line(a, b))

    def arrow(self, tip: XY, way: XY) -> None:
        """An arrowhead."""
        self.drawn.arrows.append(Arrow(tip, way, self.of))

    def text(self, at: XY, size: Size, anchor: str, turn: float = 0.0) -> None:
        """The number of a size."""
        made = Text(at, size.text, LETTERS, anchor, turn, self.of, size.step, size.number)
        self.drawn.texts.append(made)
        self._write(made.box())


def dimension(view: View, sizes: Sequence[tuple[str, Size]], scale: float, there: Drawn) -> Drawn:
    """The sizes drawn into a view, mm of paper about the origin of its frame; each with the line of the sheet that says
    it. ``there``: what is drawn beside the view already.
    """
    board = _Board(view, scale, there)
    flat: list[tuple[str, Size, _Length]] = []
    others: list[tuple[str, Size]] = []
    for of, size in sizes:
        length = _Length.of(board, size) if size.form == "linear" else None
        if length is not None and length.straight:
            flat.append((of, size, length))
        else:
            others.append((of, size))
    _in_rows(board, flat)
    for of, size in others:
        board.of = of
        _free(board, size)
    return board.drawn


def outline_box(view: View, scale: float) -> Box:
    """What a view takes up without its sizes."""
    boxes = [box_of_piece(line.piece) for line in view.lines if line.visible]
    if not boxes:
        return 0.0, 0.0, 0.0, 0.0
    low, high, right, top = around([(*a, *b) for a, b in boxes])
    return low * scale, high * scale, right * scale, top * scale


def _places_on(view: View, scale: float) -> np.ndarray:
    """Places (n, 2) on the visible lines, about every millimetre, mm of paper."""
    found = [np.zeros((0, 2)), *(_along(line.piece, scale) for line in view.lines if line.visible)]
    return np.asarray(np.concatenate(found) * scale)


def _on_line(a: XY, b: XY) -> np.ndarray:
    count = min(int(math.dist(a, b) / _FIELD) + 2, 2000)
    steps = np.arange(count)[:, None] / (count - 1)
    return np.asarray(steps * (b[0] - a[0], b[1] - a[1]) + a)


def _along(piece: Piece, scale: float) -> np.ndarray:
    """Places on a piece, in its own millimetres."""
    if isinstance(piece, Segment):
        return np.linspace(piece.a, piece.b, min(int(math.dist(*piece) * scale) + 2, 2000))
    if isinstance(piece, ArcPiece | EllipsePiece):
        long = piece.radius if isinstance(piece, ArcPiece) else math.hypot(*piece.major)
        u = np.array((long, 0.0) if isinstance(piece, ArcPiece) else piece.major)
        v = np.array((-u[1], u[0])) * (1.0 if isinstance(piece, ArcPiece) else piece.minor / long)
        turns = np.linspace(piece.a0, piece.a1, min(int(abs(piece.a1 - piece.a0) * long * scale) + 3, 2000))
        return np.asarray(np.array(piece.centre) + np.outer(np.cos(turns), u) + np.outer(np.sin(turns), v))
    t = np.linspace(0.0, 1.0, min(int(math.dist(piece.p0, piece.p3) * scale) + 4, 200))[:, None]
    p, q, r, s = map(np.array, piece)
    return np.asarray((1 - t) ** 3 * p + 3 * (1 - t) ** 2 * t * q + 3 * (1 - t) * t**2 * r + t**3 * s)


# --- lengths


@dataclass
class _Length:
    """A length between two places along a direction, all in the view."""

    a: XY
    b: XY
    way: XY

    @classmethod
    def of(cls, board: _Board, size: Size) -> _Length:
        a, b, way = size.points
        return cls(board.flat(size, a), board.flat(size, b), board.way(size, way))

    @property
    def straight(self) -> bool:
        """Whether it runs across or up."""
        return min(abs(self.way[0]), abs(self.way[1])) < 1e-6


def _in_rows(board: _Board, lengths: Sequence[tuple[str, Size, _Length]]) -> None:
    """Lengths across and up, in rows below, above, left and right of the view: each on the side that is nearer to what
    it measures, the shortest next to the outline.
    """
    left, low, right, high = board.box
    middle = ((left + right) / 2, (low + high) / 2)
    sides: dict[tuple[int, int], list[tuple[float, float, str, Size, _Length]]] = {}
    for of, size, length in lengths:
        k = 0 if abs(length.way[0]) > 0.5 else 1  # along which axis
        other = (length.a[1 - k] + length.b[1 - k]) / 2
        sense = -1 if other <= middle[1 - k] + 1e-6 else 1
        if k == 1 and abs(other - middle[0]) < 1e-6:
            sense = 1
        ends = sorted((length.a[k], length.b[k]))
        sides.setdefault((k, sense), []).append((ends[0], ends[1], of, size, length))
    for (k, sense), found in sides.items():
        rows: list[list[tuple[float, float]]] = []
        edge = board.box[(1 - k) + (2 if sense > 0 else 0)]
        for start, end, of, size, length in sorted(found, key=lambda f: f[1] - f[0]):
            wide = width(size.text, LETTERS)
            inside = end - start >= wide + _ROOM
            taken = (start, end) if inside else (start - 6, end + 6 + (wide if end - start < wide + 1 else 0))
            row = next(
                (
                    r
                    for r, spans in enumerate(rows)
                    if all(taken[1] < a + 0.01 or b < taken[0] + 0.01 for a, b in spans)
                ),
                len(rows),
            )
            # one that spans another stands outside it, else its extension lines would cut through
            inner = [r for r, spans in enumerate(rows) for a, b in spans if a > start - 0.01 and b < end + 0.01]
            row = max(row, max(inner) + 1) if inner and row <= max(inner) else row
            while len(rows) <= row:
                rows.append([])
            rows[row].append(taken)
            board.of = of
            _one_length(board, size, length, k, edge + sense * (FIRST + NEXT * row), sense, inside=inside)


def _one_length(board: _Board, size: Size, length: _Length, k: int, level: float, sense: int, *, inside: bool) -> None:
    """A length whose line stands at ``level``."""

    def at(along: float, across: float) -> XY:
        return (along, across) if k == 0 else (across, along)

    start, end = sorted((length.a, length.b), key=lambda p: p[k])
    for p in (start, end):
        way = 1.0 if level > p[1 - k] else -1.0
        from_ = board.outermost(p, k, level)
        if abs(level - from_) > GAP:
            board.line(at(p[k], from_ + way * GAP), at(p[k], level + sense * OVER))
    low, high = start[k], end[k]
    wide = width(size.text, LETTERS)
    outward = (at(-1.0, 0.0), at(1.0, 0.0))
    # read from below, or from the right
    turn = 0.0 if k == 0 else math.pi / 2
    lift = 1.0

    def words(along: float, anchor: str) -> None:
        place = (along, level + lift) if k == 0 else (level - lift, along)
        board.text(place, size, anchor, turn)

    if inside:
        board.line(at(low, level), at(high, level))
        board.arrow(at(low, level), outward[0])
        board.arrow(at(high, level), outward[1])
        words((low + high) / 2, "middle")
        return
    # no room between: the arrows come from outside
    beyond = high + 6 + (wide if high - low < wide + 1 else 0)
    board.line(at(low - 6, level), at(beyond, level))
    board.arrow(at(low, level), outward[1])
    board.arrow(at(high, level), outward[0])
    if high - low < wide + 1:
        words(high + 5, "start")
    else:
        words((low + high) / 2, "middle")


# --- what goes where there is room


@dataclass
class _Try:
    """One way to draw a size: thin lines, arrows, where its words would stand."""

    lines: list[tuple[XY, XY]]
    arrows: list[tuple[XY, XY]]
    at: XY
    anchor: str
    turn: float = 0.0
    cost: float = 0.0
    arc: ArcPiece | None = None
    bare: bool = False  # nothing of what it measures is there


def _free(board: _Board, size: Size) -> None:
    """A size where it covers least."""
    ways = {"linear": _aslant, "radial": _round, "diametral": _round, "angular": _angle}
    best: _Try | None = None
    least = math.inf
    # the cheapest first: what is already dearer than the best needs no look; where it is crowded, not all are looked at
    for tried in sorted(ways[size.form](board, size), key=lambda t: t.cost)[:_LOOKS]:
        if tried.cost >= least:
            break
        box = Text(tried.at, size.text, LETTERS, tried.anchor, tried.turn).box()
        worth = tried.cost + board.covers(box)
        for a, b in tried.lines:
            worth = worth + board.crosses(a, b) if worth < least else worth
        if worth < least:
            best, least = tried, worth
    if best is None or best.bare:  # what it measures is not in this view
        return
    for a, b in best.lines:
        board.line(a, b)
    if best.arc is not None:
        board.drawn.lines.append(Line(best.arc, "size", board.of))
    for tip, way in best.arrows:
        board.arrow(tip, way)
    board.text(best.at, size, best.anchor, best.turn)


def _aslant(board: _Board, size: Size) -> Iterator[_Try]:
    length = _Length.of(board, size)
    way = length.way if length.way[0] > 0 else (-length.way[0], -length.way[1])
    normal = (-way[1], way[0])
    turn = math.atan2(way[1], way[0])
    wide = width(size.text, LETTERS)
    for away in (9.0, 16.0, 23.0, 30.0, -9.0, -16.0, -23.0, -30.0):
        # so far from the outer one of both ends
        levels = [p[0] * normal[0] + p[1] * normal[1] for p in (length.a, length.b)]
        level = (max(levels) if away > 0 else min(levels)) + away
        ends = sorted((p[0] * way[0] + p[1] * way[1], v, p) for p, v in zip((length.a, length.b), levels))

        def at(along: float, across: float) -> XY:
            return along * way[0] + across * normal[0], along * way[1] + across * normal[1]

        lines = []
        for t, v, _ in ends:
            sense = 1.0 if level > v else -1.0
            lines.append((at(t, v + sense * GAP), at(t, level + sense * OVER)))
        low, high = ends[0][0], ends[1][0]
        back, on = (-way[0], -way[1]), way
        if high - low > wide + _ROOM:
            lines.append((at(low, level), at(high, level)))
            arrows = [(at(low, level), back), (at(high, level), on)]
            yield _Try(lines, arrows, at((low + high) / 2, level + 1.0), "middle", turn, abs(away) * 0.4)
        else:
            lines.append((at(low - 6, level), at(high + 6 + wide, level)))
            arrows = [(at(low, level), on), (at(high, level), back)]
            yield _Try(lines, arrows, at(high + 5, level + 1.0), "start", turn, abs(away) * 0.4)


_ANGLES = [math.radians(a) for a in (45, 135, 225, 315, 30, 60, 120, 150, 210, 240, 300, 330, 15, 75, 105, 165)]


def _round(board: _Board, size: Size) -> Iterator[_Try]:
    """A radius or a diameter: a line from the rim outwards, the number on its shoulder."""
    centre, rim = (board.flat(size, p) for p in size.points[:2])
    radius = math.dist(centre, rim)
    label = board.flat(size, size.at)
    wide = width(size.text, LETTERS)
    wanted = math.atan2(label[1] - centre[1], label[0] - centre[0])
    for angle in (wanted, *_ANGLES):
        u = (math.cos(angle), math.sin(angle))
        if abs(u[0]) < 0.05:
            continue
        tip = (centre[0] + radius * u[0], centre[1] + radius * u[1])
        bare = not board.touches(tip)
        for out in (7.0, 12.0, 18.0, 26.0, 36.0, *((-0.35 * radius,) if radius > 14 else ())):
            elbow = (tip[0] + out * u[0], tip[1] + out * u[1])
            sense = 1.0 if u[0] > 0 else -1.0
            end = (elbow[0] + sense * (wide + 1.0), elbow[1])
            words = (elbow[0] + sense * 0.6, elbow[1] + 0.9)
            inward = (-u[0], -u[1]) if out > 0 else u
            lines = [(tip, elbow), (elbow, end)]
            inside = _in(board.box, elbow) and _in(board.box, end)
            cost = (
                abs(out) * 0.5 + (0.0 if angle == wanted else 2.0) + (6.0 if inside and out > 0 else 0.0) + 1e3 * bare
            )
            yield _Try(lines, [(tip, inward)], words, "start" if sense > 0 else "end", 0.0, cost, bare=bare)


def _in(box: Box, p: XY) -> bool:
    return box[0] < p[0] < box[2] and box[1] < p[1] < box[3]


def _angle(board: _Board, size: Size) -> Iterator[_Try]:
    """An angle: an arc about its corner, from one side on to the other."""
    centre = board.flat(size, size.points[0])
    first, second = (board.way(size, v) for v in size.points[1:3])
    if dot(board.view.frame.normal, size.plane.normal) < 0:
        first, second = second, first
    start = math.atan2(first[1], first[0])
    sweep = (math.atan2(second[1], second[0]) - start) % (2 * math.pi)
    label = board.flat(size, size.at)
    for radius in (math.dist(label, centre), 12.0, 18.0, 26.0, 36.0, 48.0):
        if radius < 6:
            continue
        ends = [(centre[0] + radius * math.cos(a), centre[1] + radius * math.sin(a)) for a in (start, start + sweep)]
        arc = ArcPiece(centre, radius, start, start + sweep)
        half = start + sweep / 2
        u = (math.cos(half), math.sin(half))
        at = (centre[0] + (radius + 1.5) * u[0], centre[1] + (radius + 1.5) * u[1] - LETTERS / 2 * (1 - u[1]))
        anchor = "middle" if abs(u[0]) < 0.3 else "start" if u[0] > 0 else "end"
        arrows = [(ends[0], (math.sin(start), -math.cos(start))),
                  (ends[1], (-math.sin(start + sweep), math.cos(start + sweep)))]  # fmt: skip
        lines = [(centre, (e[0] + OVER * math.cos(a), e[1] + OVER * math.sin(a)))
                 for e, a in zip(ends, (start, start + sweep))]  # fmt: skip
        yield _Try(lines, arrows, at, anchor, 0.0, abs(radius - 18) * 0.1, arc)


def taken(drawn: Drawn, box: Box) -> Box:
    """What a view takes up with its sizes."""
    boxes = [box, *(t.box() for t in drawn.texts)]
    boxes += [(*a, *b) for a, b in (box_of_piece(line.piece) for line in drawn.lines)]
    boxes += [box_of(a.corners()) for a in drawn.arrows]
    return around(boxes)
