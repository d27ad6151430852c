"""Letters as exact outlines, from the open fonts that ship with the program (licences beside them in ``fonts/``).

Outlines come from fontTools; here they are cut to cap height 1, laid along a line or round a circle.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import lru_cache
from pathlib import Path
from typing import Any, Literal, NamedTuple

from fontTools.pens.recordingPen import DecomposingRecordingPen
from fontTools.ttLib import TTFont

from ...errors import BadInput
from .pieces import XY, Bezier, Piece, Segment

FOLDER = Path(__file__).parents[1] / "fonts"
FontName = Literal["plain", "serif", "stencil"]
FONTS: dict[str, str] = {"plain": "Plain", "serif": "Serif", "stencil": "Stencil (letters keep their islands)"}
MOST_LETTERS = 200

Contour = tuple[Piece, ...]


class Glyph(NamedTuple):
    """One letter at cap height 1: closed contours with ink on their left, and how far the next one starts."""

    contours: tuple[Contour, ...]
    advance: float


class _Face(NamedTuple):
    glyphs: Any
    letters: dict[int, str]
    cap: float
    widths: Any


@lru_cache(maxsize=8)
def _faces(font: str) -> tuple[_Face, ...]:
    if font not in FONTS:
        raise BadInput(f"There is no font “{font[:30]}”; there are: {', '.join(FONTS)}.")
    faces = []
    for file in ("latin", "more"):
        read = TTFont(FOLDER / f"{font}-{file}.woff", lazy=True)
        cap = float(getattr(read["OS/2"], "sCapHeight", 0) or 0.7 * read["head"].unitsPerEm)
        faces.append(_Face(read.getGlyphSet(), read.getBestCmap(), cap, read["hmtx"]))
    return tuple(faces)


@lru_cache(maxsize=2000)
def glyph(font: str, letter: str) -> Glyph:
    """The outline of a letter. Raises ``BadInput`` when the font does not have it."""
    for face in _faces(font):
        name = face.letters.get(ord(letter))
        if name is None:
            continue
        pen = DecomposingRecordingPen(face.glyphs)
        face.glyphs[name].draw(pen)
        contours = _contours(pen.value, 1 / face.cap)
        if sum(area(c) for c in contours) < 0:
            contours = [turned_round(c) for c in contours]
        return Glyph(tuple(contours), face.widths[name][0] / face.cap)
    raise BadInput(f"The font {FONTS[font]} has no letter “{letter}”; leave it out or choose another font.")


def _contours(commands: Sequence[tuple[str, tuple[Any, ...]]], scale: float) -> list[Contour]:
    out: list[Contour] = []
    now: list[Piece] = []
    pen: XY = (0.0, 0.0)
    start: XY = (0.0, 0.0)

    def at(p: Sequence[float]) -> XY:
        return (p[0] * scale, p[1] * scale)

    for command, arguments in commands:
        if command == "moveTo":
            pen = start = at(arguments[0])
        elif command == "lineTo":
            goal = at(arguments[0])
            if goal != pen:
                now.append(Segment(pen, goal))
            pen = goal
        elif command == "curveTo":
            c1, c2, goal = (at(p) for p in arguments)
            now.append(Bezier(pen, c1, c2, goal))
            pen = goal
        elif command == "qCurveTo":
            pen = _quadratics(now, pen, [None if p is None else at(p) for p in arguments])
        elif command in ("closePath", "endPath"):
            if pen != start:
                now.append(Segment(pen, start))
            if now:
                out.append(tuple(now))
            now = []
    return out


def _quadratics(now: list[Piece], pen: XY, points: list[XY | None]) -> XY:
    """A TrueType run of off-curve points: the on-curve ones between them are implied half way."""
    goal = points[-1]
    offs = [p for p in points[:-1] if p is not None]
    if goal is None:  # a contour without on-curve points starts half way between two
        goal = ((offs[0][0] + offs[-1][0]) / 2, (offs[0][1] + offs[-1][1]) / 2)
        pen = goal
    for i, q in enumerate(offs):
        end = goal if i == len(offs) - 1 else ((q[0] + offs[i + 1][0]) / 2, (q[1] + offs[i + 1][1]) / 2)
        c1 = (pen[0] + 2 / 3 * (q[0] - pen[0]), pen[1] + 2 / 3 * (q[1] - pen[1]))
        c2 = (end[0] + 2 / 3 * (q[0] - end[0]), end[1] + 2 / 3 * (q[1] - end[1]))
        now.append(Bezier(pen, c1, c2, end))
        pen = end
    return goal


def area(contour: Contour) -> float:
    """Signed area of a contour of segments and Béziers, exact (Green's theorem)."""
    total = 0.0
    for piece in contour:
        if isinstance(piece, Segment):
            total += (piece.a[0] * piece.b[1] - piece.b[0] * piece.a[1]) / 2
        elif isinstance(piece, Bezier):
            (x0, y0), (x1, y1), (x2, y2), (x3, y3) = piece
            total += (
                x0 * (6 * y1 + 3 * y2 + y3) - 3 * x1 * (2 * y0 - y2 - y3) - 3 * x2 * (y0 + y1 - 2 * y3)
                - x3 * (y0 + 3 * y1 + 6 * y2)
            ) / 20  # fmt: skip
    return total


def turned_round(contour: Contour) -> Contour:
    """The same contour run the other way."""
    return tuple(p.reversed() for p in reversed(contour))


def mapped(contour: Contour, f: Callable[[XY], XY]) -> Contour:
    """A contour with every point mapped by an affine ``f``."""
    out: list[Piece] = []
    for piece in contour:
        points = [f(p) for p in piece]  # type: ignore[arg-type]
        out.append(Segment(*points) if isinstance(piece, Segment) else Bezier(*points))
    return tuple(out)


def width_of(words: str, font: str, spacing: float) -> float:
    """How long a line of text is at cap height 1 (never 0)."""
    advances = [glyph(font, letter).advance for letter in words]
    return max(sum(advances) * spacing, 1e-3)


def straight(words: str, font: str, spacing: float) -> list[tuple[Glyph, float]]:
    """Each letter with where it starts along the baseline, at cap height 1."""
    out, at = [], 0.0
    for letter in words:
        found = glyph(font, letter)
        # extra spacing goes on both sides of a letter, so that a line stays centred
        out.append((found, at + found.advance * (spacing - 1) / 2))
        at += found.advance * spacing
    return out


def outlines(
    words: str, font: str, height: float, spacing: float, at: XY, to: XY, *, bend: str = "", mirrored: bool = False
) -> list[Contour]:
    """The contours of a text, ink on the left, in mm.

    Straight (``bend`` empty): the baseline runs from ``at`` towards ``to``. ``bend`` "outside" or "inside": round the
    circle about ``to`` through ``at``, its middle at ``at``, tops away from the centre or towards it.
    """
    length = width_of(words, font, spacing)
    long = math.dist(at, to)
    if long < 1e-12:
        return []
    ux, uy = (to[0] - at[0]) / long, (to[1] - at[1]) / long
    out: list[Contour] = []
    for found, start in straight(words, font, spacing):
        if bend:
            # the letter stands upright on the circle at its own middle
            middle = start + found.advance / 2 - length / 2
            turn = (-middle if bend == "outside" else middle) * height / long
            if mirrored:
                turn = -turn
            rx, ry = -ux, -uy  # from the centre to the text's middle
            c, s = math.cos(turn), math.sin(turn)
            rx, ry = rx * c - ry * s, rx * s + ry * c
            up = (rx, ry) if bend == "outside" else (-rx, -ry)
            origin = (to[0] + rx * long, to[1] + ry * long)
            shift = -found.advance / 2
        else:
            up, origin, shift = (-uy, ux), at, start
        ex, ey = up[1], -up[0]  # along the baseline
        if mirrored and bend:
            ex, ey = -ex, -ey
        elif mirrored:
            shift, ex, ey = start - length, -ex, -ey

        def place(p: XY, o: XY = origin, e: XY = (ex, ey), u: XY = up, d: float = shift) -> XY:
            x, y = (p[0] + d) * height, p[1] * height
            return (o[0] + e[0] * x + u[0] * y, o[1] + e[1] * x + u[1] * y)

        for contour in found.contours:
            placed = mapped(contour, place)
            out.append(turned_round(placed) if mirrored else placed)
    return out
