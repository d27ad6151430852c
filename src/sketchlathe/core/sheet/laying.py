"""Where what lines put on a sheet goes: views lined up (ISO 5456-2), sizes in them, frame and title block."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import pairwise

import shapely
import shapely.affinity

from ..frames import dot
from ..sketch.curves.pieces import ArcPiece, Segment
from .dimensioning import dimension, outline_box, taken
from .page import LETTERS, SMALL, Arrow, Box, Drawn, Line, Page, Text, Unsaid, meet, scaled, unit, width
from .puts import IN_FIRST_ANGLE, OPPOSITE, SCALES, Note, Paper, Put, Size, Sizes, View, scale_words, side_for

XY = tuple[float, float]
LEFT, EDGE = 20.0, 10.0  # mm of paper outside the frame (ISO 5457)
TITLE = (120.0, 27.0)  # the title block, mm
BETWEEN = 12.0  # mm at least between views
_WORDS = 118.0  # mm that a line of words may take


@dataclass(frozen=True)
class Heading:
    """What the title block says besides the paper's own words. ``text`` writes mm as sizes are written."""

    title: str
    made_of: str = ""
    units: str = "mm"
    mass: str = ""


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
    told, unsaid = _told(views, [(of, p) for of, p in puts if isinstance(p, Sizes)])
    words = [(of, line) for of, p in puts if isinstance(p, Sizes) for line in p.words]
    page = Page(paper.wide, paper.high, paper.title or heading.title, Drawn(), unsaid=unsaid)
    rows = [piece for _, line in words for piece in _wrapped(line, _WORDS)]
    rest = len(rows) * 4.4 + 6 if rows else 0.0
    laid = _scaled(paper, views, told, rest)
    page.scale = laid.scale
    page.fits = laid.fits
    for block in laid.blocks:
        page.drawn.add(block.drawn.moved(*block.at))
        page.views[block.of] = _at(block.box, block.at)
    _write_words(page.drawn, words)
    for of, note in puts:
        if isinstance(note, Note):
            for number, line in enumerate(note.words.split("\n")):
                page.drawn.texts.append(Text((note.at[0], note.at[1] - 5.5 * number), line, LETTERS, of=of))
    _frame(page, paper)
    _title_block(page, paper, heading)
    return page


# --- which view says which size


def _told(
    views: Sequence[tuple[str, View]], sizes: Sequence[tuple[str, Sizes]]
) -> tuple[dict[str, list[tuple[str, Size]]], list[Unsaid]]:
    """The sizes by the view that says them: the first that shows them true; each once. And those that no view shows:
    the line that would say it, the part, the size, and the side that would show it.
    """
    found: dict[str, list[tuple[str, Size]]] = {of: [] for of, _ in views}
    unsaid: list[Unsaid] = []
    said: set[tuple[object, ...]] = set()
    for line, told in sizes:
        there = [(of, v) for of, v in views if v.part == told.part and v.side != "corner"]
        there.sort(key=lambda found: found[1].cut is not None)  # in what is whole first
        for size in told.sizes:
            where = next((v for v in there if v[1].shows_true(size.plane)), None)
            if where is None and size.form == "linear":
                where = next((v for v in there if _lies_in(size, v[1])), None)
            elif where is not None and size.form in ("radial", "diametral"):
                where, behind = _where_round(size, there)
                if where is None and behind is None:
                    continue  # nothing of it is in the part
                if where is None and behind is not None:
                    unsaid.append((line, told.part, size, OPPOSITE[behind.side]))
                    continue
            if where is None:
                unsaid.append((line, told.part, size, side_for(size)))
            elif _first_time(said, size):
                found[where[0]].append((line, size))
        for of, view in there:
            found[of] = _counted(found[of], view)
        for ways in told.over_all:
            across = any(size.text == f"⌀{ways[0].text}" for sizes in found.values() for _, size in sizes)
            if across or any(_first_time(said, way, keep=False) is False for way in ways):
                continue  # it is said already
            for of, view in there:
                way = next((w for w in ways if view.shows_true(w.plane)), None)
                if way is not None:
                    _first_time(said, way)
                    found[of].append((line, way))
                    break
    return found, unsaid


def _where_round(size: Size, views: Sequence[tuple[str, View]]) -> tuple[tuple[str, View] | None, View | None]:
    """The view in which something of a circle is seen; where there is none, one in which it is behind something."""
    radius, behind = math.dist(*size.points[:2]), None
    for of, view in views:
        if not view.shows_true(size.plane):
            continue
        centre = view.frame.flat(size.plane.place(*size.points[0]))
        for line in view.lines:
            p = line.piece
            if isinstance(p, ArcPiece) and abs(p.radius - radius) < 1e-3 and math.dist(p.centre, centre) < 1e-3:
                if line.visible:
                    return (of, view), None
                behind = behind or view
    return None, behind


def _counted(sizes: Sequence[tuple[str, Size]], view: View) -> list[tuple[str, Size]]:
    """Diameters that several circles of a view have, said once with how many there are."""
    round_: dict[float, set[XY]] = {}
    for line in view.lines:
        p = line.piece
        if isinstance(p, ArcPiece) and line.visible and abs(p.a1 - p.a0) > 2 * math.pi - 1e-6:
            round_.setdefault(round(p.radius, 4), set()).add((round(p.centre[0], 3), round(p.centre[1], 3)))
    found, said = [], set()
    for of, size in sizes:
        if size.form == "diametral":
            radius = round(math.dist(*size.points[:2]), 4)
            if (radius, size.text) in said:
                continue
            count = len(round_.get(radius, ()))
            if count > 1 and "×" not in size.text:
                said.add((radius, size.text))
                size = replace(size, text=f"{count}× {size.text}")
        found.append((of, size))
    return found


def _lies_in(size: Size, view: View) -> bool:
    """Whether a length is seen true though its plane is not."""
    a, b = (size.plane.place(*p) for p in (size.points[2], (0.0, 0.0)))
    return abs(dot(view.frame.normal, tuple(p - q for p, q in zip(a, b)))) < 1e-9  # type: ignore[arg-type]


def _first_time(said: set[tuple[object, ...]], size: Size, *, keep: bool = True) -> bool:
    """Whether nothing has said this yet: of lengths, the same stretch of space along the same way."""
    if size.form == "linear":
        a, b, way = size.points
        origin, along = size.plane.place(0.0, 0.0), size.plane.place(*way)
        u = tuple(p - q for p, q in zip(along, origin))
        u = u if u > (0.0, 0.0, 0.0) else tuple(-v for v in u)
        ends = sorted(round(dot(size.plane.place(*p), u), 5) + 0.0 for p in (a, b))  # type: ignore[arg-type]
        key: tuple[object, ...] = ("linear", *(round(v, 5) + 0.0 for v in u), *ends)
    else:
        # of what is round, the same axis: a bore is as wide at its other end
        centre, n = size.plane.place(*size.points[0]), size.plane.normal
        n = n if n > (0.0, 0.0, 0.0) else (-n[0], -n[1], -n[2])
        height = dot(centre, n) if size.form != "angular" else 0.0
        foot = (c - height * v for c, v in zip(centre, n))
        key = (size.form, size.text, *(round(v, 4) + 0.0 for v in (*n, *foot)))
    if key in said:
        return False
    if keep:
        said.add(key)
    return True


# --- at which scale, and where


def _scaled(
    paper: Paper, views: Sequence[tuple[str, View]], told: Mapping[str, Sequence[tuple[str, Size]]], rest: float
) -> _Laid:
    laid = _Laid(paper.scale or 1.0)
    for scale in (paper.scale,) if paper.scale else SCALES:
        laid = _Laid(scale)
        if not paper.scale and scale != SCALES[-1] and _too_large(paper, views, scale):
            continue
        for of, view in views:
            drawn = _view(of, view, scale)
            outline = outline_box(view, scale)
            cuts = _cuts_on(of, views, scale)
            drawn.add(dimension(view, told.get(of, ()), scale, cuts))
            drawn.add(cuts)
            laid.blocks.append(_Block(of, view, drawn, taken(drawn, outline), outline=outline))
        laid.fits = _placed(laid.blocks, paper, rest)
        if laid.fits:
            break
    return laid


def _too_large(paper: Paper, views: Sequence[tuple[str, View]], scale: float) -> bool:
    """Whether one view alone is too large, or all of them together."""
    boxes = [outline_box(view, scale) for _, view in views]
    sizes = [(b[2] - b[0], b[3] - b[1]) for b in boxes]
    room = (paper.wide - LEFT - EDGE - 6, paper.high - 2 * EDGE - 6)
    return any(w > room[0] or h > room[1] for w, h in sizes) or sum(w * h for w, h in sizes) > room[0] * room[1]


def _placed(blocks: Sequence[_Block], paper: Paper, rest: float) -> bool:
    """Put views into columns and rows, part by part beside each other; whether they fit."""
    low, high = EDGE + 3, paper.high - EDGE - 3
    left, right = LEFT + 3, paper.wide - EDGE - 3
    groups = list(dict.fromkeys(b.view.part for b in blocks))
    grids = [_Grid([b for b in blocks if b.view.part == part], paper) for part in groups]
    if not grids:
        return True
    wide = sum(g.wide for g in grids) + BETWEEN * (len(grids) - 1)
    tall = max(g.high for g in grids)
    kept = [(right + 3 - TITLE[0], low - 3, right + 3, low - 3 + TITLE[1] + 3)]
    if rest:
        kept.append((left - 3, low - 3, left - 3 + _WORDS + 6, low - 3 + rest))
    for lift in (0.0, TITLE[1] + 3, max(TITLE[1] + 3, rest)):
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


_LETTERS = "ABCDEFGHJKLMNPRSTUVWXYZ"  # ISO 128-3: not I, O, Q


def _cuts_on(of: str, views: Sequence[tuple[str, View]], scale: float) -> Drawn:
    """What tells of cuts in a view: of a cut itself its letters and hatching, in another one where the plane runs."""
    drawn = Drawn()
    cuts = [(line, v) for line, v in views if v.cut is not None]
    for number, (line, cut) in enumerate(cuts):
        assert cut.cut is not None
        letter = _LETTERS[number % len(_LETTERS)]
        if line == of:
            box = outline_box(cut, scale)
            drawn.texts.append(Text(((box[0] + box[2]) / 2, box[3] + 4), f"{letter}–{letter}", 5.0, "middle", of=of))
            for k, area in enumerate(cut.cut.areas):
                for piece in _hatch(area, scale, k):
                    drawn.lines.append(Line(piece, "hatch", of))
            continue
        marked = next((o for o, v in views if v.part == cut.part and v.cut is None and _edge_on(v, cut)), "")
        if marked == of:
            _plane_line(drawn, line, letter, cut, next(v for o, v in views if o == of), scale)
    return drawn


def _edge_on(view: View, cut: View) -> bool:
    return view.side != "corner" and abs(dot(view.frame.normal, cut.frame.normal)) < 1e-9


def _hatch(area: Sequence[Sequence[Sequence[XY]]], scale: float, number: int) -> Iterator[Segment]:
    """Lines at half a right angle over what was cut, of neighbours each otherwise (ISO 128-3), mm of paper."""
    shape = shapely.affinity.scale(
        shapely.unary_union([shapely.Polygon(rings[0], rings[1:]) for rings in area]), scale, scale, origin=(0, 0)
    )
    if shape.is_empty:
        return
    left, low, right, high = shape.bounds
    sense, apart = (1.0 if number % 2 == 0 else -1.0), 2.5 + 0.7 * (number // 2 % 3)
    reach = (right - left) + (high - low)
    first = (left if sense > 0 else low + left) - high if sense > 0 else left + low
    count = int(reach / (apart * math.sqrt(2))) + 2
    lines = []
    for k in range(count):
        c = first + k * apart * math.sqrt(2)
        # x - y = c, or x + y = c
        lines.append([(left, left - c), (right, right - c)] if sense > 0 else [(left, c - left), (right, c - right)])
    for line in shapely.intersection(shape, shapely.linestrings(lines)):
        for piece in getattr(line, "geoms", [line]):
            if isinstance(piece, shapely.LineString) and piece.length > 0.2:
                a, b = piece.coords[0], piece.coords[-1]
                yield Segment((a[0], a[1]), (b[0], b[1]))


def _plane_line(drawn: Drawn, of: str, letter: str, cut: View, view: View, scale: float) -> None:
    """Where the plane of a cut runs in a view that sees it from its edge, and which way one looks at it."""
    assert cut.cut is not None
    plane = cut.cut.plane
    at, to = view.frame.flat(plane.origin), view.frame.flat(plane.place(0.0, 0.0, -1.0))
    way = unit((to[0] - at[0], to[1] - at[1]))
    box = outline_box(view, scale)
    k = 0 if abs(way[0]) > 0.5 else 1  # across which axis one looks
    level = at[k] * scale
    ends = [box[1 - k] - 5.0, box[3 - k] + 5.0]

    def place(along: float, on: float = 0.0) -> XY:
        return (level + on, along) if k == 0 else (along, level + on)

    drawn.lines.append(Line(Segment(place(ends[0]), place(ends[1])), "centre", of))
    for end, inward in ((ends[0], 1.0), (ends[1], -1.0)):
        drawn.lines.append(Line(Segment(place(end - 5 * inward), place(end)), "visible", of))
        tip = place(end - 2.5 * inward, 0.0)
        back = (tip[0] - 6 * way[0], tip[1] - 6 * way[1])
        drawn.lines.append(Line(Segment(back, tip), "size", of))
        drawn.arrows.append(Arrow(tip, way, of))
        drawn.texts.append(
            Text((back[0] - 2.5 * way[0], back[1] - 2.5 * way[1] - 1.75), letter, LETTERS, "middle", of=of)
        )


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


def _wrapped(text: str, room: float) -> list[str]:
    lines = [""]
    for word in text.split():
        if lines[-1] and width(f"{lines[-1]} {word}", SMALL) > room:
            lines.append("")
        lines[-1] = f"{lines[-1]} {word}".strip()
    return lines


def _write_words(drawn: Drawn, words: Sequence[tuple[str, str]]) -> None:
    """What is not drawn as a size, as lines of words in the lower left corner."""
    lines = [(of, piece) for of, line in words for piece in _wrapped(line, _WORDS)]
    y = EDGE + 3 + 4.4 * (len(lines) - 1)
    for number, (of, line) in enumerate(lines):
        drawn.texts.append(Text((LEFT + 3, y - 4.4 * number), line, SMALL, of=of))


def _frame(page: Page, paper: Paper) -> None:
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


def _title_block(page: Page, paper: Paper, heading: Heading) -> None:
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
        height = LETTERS
        while height > 1.8 and width(words, height) > wide * w - 3:
            height -= 0.25
        page.drawn.texts.append(Text((cx + 1.2, cy + 1.6), words, height))
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
