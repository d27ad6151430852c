"""The drawing that an exercise is read from, where its maker brought none: what the part looks like, its sketches with
their sizes as drawings have them (ISO 129), and what else is typed, on one A4 page lying. As SVG, in mm.
"""

from __future__ import annotations

import base64
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from html import escape
from itertools import pairwise

from ..model.document import Model, Part
from ..sketch.curves.pieces import box_of_piece
from ..sketch.document import ValuedSketch
from ..sketch.shown import DimensionShown, Moving
from ..sketch.view import live_view
from ..steps.base import full_sentence, said_in_numbers
from ..steps.sketch import SketchStep

WIDE, HIGH, EDGE = 297.0, 210.0, 10.0
LEFT = 96.0  # mm that the picture and the words take
TITLE = 18.0
MOST_SKETCHES = 6
ROOM = 13.0  # mm about a sketch for its sizes
LETTERS, SMALL = 3.1, 2.6  # height of letters, mm

XY = tuple[float, float]
At = Callable[[XY], XY]


@dataclass(frozen=True)
class Task:
    """What stands in the title block, and which numbers are whose: names with their values."""

    title: str
    remark: str
    numbers: Sequence[tuple[str, str]]
    made_of: str = ""


def drawing(model: Model, part: Part, picture: bytes, task: Task) -> bytes:
    """The page. ``picture``: a PNG of the part, 4 to 3."""
    inner = WIDE - 2 * EDGE
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {WIDE:g} {HIGH:g}" width="1485" height="1050" '
        f'font-family="DejaVu Sans Condensed, Arial Narrow, sans-serif" font-size="{LETTERS}" fill="#1f2d35">',
        f'<rect width="{WIDE:g}" height="{HIGH:g}" fill="#fff"/>',
        f'<rect x="{EDGE}" y="{EDGE}" width="{inner:g}" height="{HIGH - 2 * EDGE:g}" fill="none" stroke="#1f2d35" '
        'stroke-width=".5"/>',
    ]
    steps = [s for s in part.steps if isinstance(s, SketchStep) and s.sketch.curves and not s.skipped][:MOST_SKETCHES]
    # where there is no sketch, the picture has its room
    x, w = (EDGE + 2, LEFT - 4) if steps else (EDGE + LEFT, inner - LEFT - 6)
    encoded = base64.b64encode(picture).decode()
    out.append(
        f'<image x="{x:g}" y="{EDGE + 2}" width="{w:g}" height="{w * 0.75:g}" href="data:image/png;base64,{encoded}"/>'
    )
    out += _words(model, part, task, EDGE + 4, EDGE + 8 + (w * 0.75 if steps else 0))
    valued = [s.sketch.valued(model.table.values, model.units) for s in steps]
    shown = [_Sketch.of(v, model) for v in valued]
    columns = max((1, 2, 3), key=lambda c: min((k.scale_in(*_cell(c, len(steps))) for k in shown), default=1.0))
    w, h = _cell(columns, len(steps))
    for n, (step, sketch) in enumerate(zip(steps, shown)):
        x, y = EDGE + LEFT + w * (n % columns), EDGE + h * (n // columns)
        out.append(_text(x + 4, y + 6, full_sentence(step, model), SMALL, "#4d5a62"))
        out += sketch.drawn(x, y, w, h)
    out += _title(model, task)
    return "".join([*out, "</svg>"]).encode()


def _text(x: float, y: float, text: str, size: float = LETTERS, colour: str = "", anchor: str = "start") -> str:
    fill = f' fill="{colour}"' if colour else ""
    return f'<text x="{x:.2f}" y="{y:.2f}" font-size="{size:g}" text-anchor="{anchor}"{fill}>{escape(text)}</text>'


def _wrapped(text: str, letters: int) -> list[str]:
    lines = [""]
    for word in text.split():
        if lines[-1] and len(lines[-1]) + 1 + len(word) > letters:
            lines.append("")
        lines[-1] = f"{lines[-1]} {word}".strip()
    return lines


def _words(model: Model, part: Part, task: Task, x: float, y: float) -> list[str]:
    """Numbers of one's own, then what is made of the sketches."""
    out = []
    if task.numbers:
        out.append(_text(x, y, "Numbers of this drawing", SMALL, "#4d5a62"))
        for name, value in task.numbers[:8]:
            y += 4.6
            out += [_text(x, y, name), _text(x + 60, y, value, anchor="end")]
        y += 7
    made = [said_in_numbers(s, model) for s in part.steps if not isinstance(s, SketchStep) and not s.skipped]
    lines = [(n, line) for n, text in enumerate(made, 1) for line in [*_wrapped(text, 52), ""]]
    room = int((HIGH - EDGE - 3 - y) / 3.9)
    for number, (_, line) in enumerate(lines[:room]):
        left = len(lines) - room
        out.append(_text(x, y + 3.9 * number, f"and {left} more lines" if left > 0 and number == room - 1 else line))
    return out


def _title(model: Model, task: Task) -> list[str]:
    """The title block (after ISO 7200): title, remark, units, material."""
    x, y, w = EDGE + LEFT, HIGH - EDGE - TITLE, WIDE - 2 * EDGE - LEFT
    third = w / 3
    out = [
        f'<path d="M{x} {HIGH - EDGE}V{y}h{w}M{x + 2 * third:.2f} {y}v{TITLE}m0 {-TITLE / 2}h{third:.2f}" '
        'fill="none" stroke="#1f2d35" stroke-width=".5"/>',
        _text(x + 3, y + 8, task.title, 5.4),
        _text(x + 3, y + 14, task.remark, SMALL, "#4d5a62"),
        _text(x + 2 * third + 2, y + 3.6, "sizes in", 2.1, "#4d5a62"),
        _text(x + 2 * third + 2, y + 7.6, model.units),
    ]
    if task.made_of:
        out += [
            _text(x + 2 * third + 2, y + TITLE / 2 + 3.6, "made of", 2.1, "#4d5a62"),
            _text(x + 2 * third + 2, y + TITLE / 2 + 7.6, task.made_of),
        ]
    return out


def _cell(columns: int, count: int) -> tuple[float, float]:
    """How wide and high the room of one sketch is."""
    rows = max(math.ceil(count / columns), 1)
    return (WIDE - 2 * EDGE - LEFT) / columns, (HIGH - 2 * EDGE - TITLE) / rows


@dataclass(frozen=True)
class _Sketch:
    """A sketch with its driving sizes, and the corners of what it takes."""

    shown: Moving
    dimensions: Sequence[DimensionShown]
    low: XY
    high: XY

    @classmethod
    def of(cls, sketch: ValuedSketch, model: Model) -> _Sketch:
        shown = live_view(sketch, model.read_in)
        dimensions = [d for d in shown["dimensions"] if d["driving"]]
        corners = [corner for c in sketch.curves for piece in c.pieces() for corner in box_of_piece(piece)]
        corners += [d["label"] for d in dimensions] + [(0.0, 0.0)]
        low = (min(p[0] for p in corners), min(p[1] for p in corners))
        return cls(shown, dimensions, low, (max(p[0] for p in corners), max(p[1] for p in corners)))

    def scale_in(self, wide: float, high: float) -> float:
        """How large it can be drawn in some room."""
        across, up = self.high[0] - self.low[0], self.high[1] - self.low[1]
        return min((wide - 2 * ROOM) / max(across, 1e-6), (high - 6 - 2 * ROOM) / max(up, 1e-6))

    def drawn(self, x: float, y: float, wide: float, high: float) -> list[str]:
        """It as large as the room allows, below a line of words."""
        scale = self.scale_in(wide, high)
        middle = (self.low[0] + self.high[0]) / 2, (self.low[1] + self.high[1]) / 2

        def at(p: XY) -> XY:
            return x + wide / 2 + (p[0] - middle[0]) * scale, y + 6 + (high - 6) / 2 - (p[1] - middle[1]) * scale

        zero = at((0.0, 0.0))
        out = [
            f'<path d="M{zero[0] - 4:.2f} {zero[1]:.2f}h8M{zero[0]:.2f} {zero[1] - 4:.2f}v8" stroke="#4d5a62" '
            'stroke-width=".18" stroke-dasharray="2.4 .8 .6 .8"/>',
            f'<g transform="translate({zero[0]:.3f} {zero[1]:.3f}) scale({scale:.6f} {-scale:.6f})" '
            f'fill="none" stroke="#1f2d35" stroke-width="{0.5 / scale:.5f}" stroke-linecap="round">',
        ]
        for curve in self.shown["curves"]:
            thin = f' stroke-width="{0.25 / scale:.5f}" stroke-dasharray="{4 / scale:.4f} {1 / scale:.4f}"'
            out.append(f'<path d="{curve["path"]}"{thin if curve["construction"] else ""}/>')
        out.append("</g>")
        for dimension in self.dimensions:
            out += _dimension(dimension, at)
        return out


# --- sizes


def _unit(v: XY) -> XY:
    length = math.hypot(*v) or 1.0
    return v[0] / length, v[1] / length


def _from(a: XY, way: XY, k: float) -> XY:
    return a[0] + way[0] * k, a[1] + way[1] * k


def _less(a: XY, b: XY) -> XY:
    return a[0] - b[0], a[1] - b[1]


def _dot(a: XY, b: XY) -> float:
    return a[0] * b[0] + a[1] * b[1]


def _line(a: XY, b: XY) -> str:
    return f"M{a[0]:.2f} {a[1]:.2f}L{b[0]:.2f} {b[1]:.2f}"


def _arrow(tip: XY, way: XY) -> str:
    """A filled arrowhead, 2.4 mm long, that points along ``way``."""
    w = _unit(way)
    back, n = _from(tip, w, -2.4), (-w[1], w[0])
    a, b = _from(back, n, 0.5), _from(back, n, -0.5)
    return f"M{tip[0]:.2f} {tip[1]:.2f}L{a[0]:.2f} {a[1]:.2f}L{b[0]:.2f} {b[1]:.2f}Z"


@dataclass
class _Drawn:
    """Lines, arrows, where the text goes and along what."""

    lines: str
    arrows: str
    middle: XY
    along: XY = (1.0, 0.0)


def _linear(points: Sequence[XY], label: XY, at: At) -> _Drawn:
    a, b, way = points
    n = (-way[1], way[0])
    feet = [_from(p, n, _dot(_less(label, p), n)) for p in (a, b)]
    ends, (c, d), middle = [at(a), at(b)], [at(f) for f in feet], at(label)
    along, lines = _unit(_less(d, c)), ""
    for start, foot in zip(ends, (c, d)):
        v = _less(foot, start)
        if math.hypot(*v) > 1.2:
            lines += _line(_from(start, _unit(v), 0.9), _from(foot, _unit(v), 1.5))
    length, t = math.hypot(*_less(d, c)), _dot(_less(middle, c), along)
    lines += _line(_from(c, along, min(0.0, t)), _from(c, along, max(length, t)))
    back = (-along[0], -along[1])
    if length < 8:  # no room between: the arrows come from outside
        lines += _line(_from(c, along, -4.5), c) + _line(d, _from(d, along, 4.5))
        arrows = _arrow(c, along) + _arrow(d, back)
    else:
        arrows = _arrow(c, back) + _arrow(d, along)
    return _Drawn(lines, arrows, _from(c, along, t), along)


def _round(points: Sequence[XY], label: XY, at: At, *, across: bool) -> _Drawn:
    centre, rim = points[0], points[1]
    radius, way = math.dist(rim, centre), _unit(_less(label, centre))
    near, far = at(_from(centre, way, radius)), at(_from(centre, way, -radius))
    text = at(label)
    start = far if across else at(centre)
    along = _unit(_less(near, start))
    outside = _dot(_less(text, near), along) > 0
    lines = _line(start if across or not outside else near, text if outside else near)
    back = (-along[0], -along[1])
    arrows = _arrow(near, along) + _arrow(far, back) if across else _arrow(near, back if outside else along)
    return _Drawn(lines, arrows, text, along)


def _angular(points: Sequence[XY], label: XY, at: At) -> _Drawn:
    centre, u, v = points
    radius, first = math.dist(label, centre), math.atan2(u[1], u[0])
    sweep = (math.atan2(v[1], v[0]) - first) % (2 * math.pi)
    turns = [first + sweep * i / 24 for i in range(25)]
    arc = [at(_from(centre, (math.cos(a), math.sin(a)), radius)) for a in turns]
    lines = "".join(_line(p, q) for p, q in pairwise(arc)) + _line(at(centre), arc[0]) + _line(at(centre), arc[-1])
    return _Drawn(lines, _arrow(arc[0], _less(arc[0], arc[1])) + _arrow(arc[-1], _less(arc[-1], arc[-2])), at(label))


def _dimension(d: DimensionShown, at: At) -> list[str]:
    points, label = d["points"], d["label"]
    if d["form"] == "linear":
        drawn = _linear(points, label, at)
    elif d["form"] == "angular":
        drawn = _angular(points, label, at)
    else:
        drawn = _round(points, label, at, across=d["form"] == "diametral")
    turn = math.degrees(math.atan2(drawn.along[1], drawn.along[0]))
    turn += 180 if turn > 89.99 or turn < -90.01 else 0  # read from below or from the right
    x, y = drawn.middle
    wide = len(d["text"]) * 1.65 + 1
    return [
        f'<path d="{drawn.lines}" fill="none" stroke="#1f2d35" stroke-width=".22"/><path d="{drawn.arrows}"/>',
        f'<g transform="translate({x:.2f} {y:.2f}) rotate({turn:.2f})"><rect x="{-wide / 2:.2f}" y="-3.6" '
        f'width="{wide:.2f}" height="3.1" fill="#fff"/>{_text(0, -1.0, d["text"], anchor="middle")}</g>',
    ]
