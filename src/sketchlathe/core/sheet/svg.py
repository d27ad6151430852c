"""A sheet as SVG: true size, y downwards, each line of the sheet a group that can be found."""

from __future__ import annotations

import math
from xml.sax.saxutils import escape, quoteattr

from ..sketch.curves.base import piece_path
from ..sketch.curves.pieces import ArcPiece, Bezier, EllipsePiece, Piece, Segment
from .page import LOOKS, Page, Text

INK = "#1f2d35"
FONT = "'Barlow Semi Condensed', 'DejaVu Sans Condensed', 'Arial Narrow', sans-serif"


def svg(page: Page) -> str:
    """The sheet."""
    h = page.high
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{page.wide:g}mm" height="{h:g}mm" '
        f'viewBox="0 0 {page.wide:g} {h:g}" fill="none" stroke="{INK}" font-family={quoteattr(FONT)}>',
        f"<title>{escape(page.title)}</title>",
        f'<rect width="{page.wide:g}" height="{h:g}" fill="#fff" stroke="none"/>',
    ]
    groups: dict[tuple[str, str], list[str]] = {}
    for line in page.drawn.lines:
        groups.setdefault((line.of, line.look), []).append(piece_path([turned_down(line.piece, h)]))
    for (of, look), paths in groups.items():
        width, dashes, _ = LOOKS[look]
        dashed = f' stroke-dasharray="{" ".join(f"{d:g}" for d in dashes)}"' if dashes else ""
        out.append(
            f'<path class="{look}"{_of(of)} stroke-width="{width:g}" stroke-linecap="round"{dashed} '
            f'd="{"".join(paths)}"/>'
        )
    for arrow in page.drawn.arrows:
        places = " ".join(f"{x:.3f},{h - y:.3f}" for x, y in arrow.corners())
        out.append(f'<polygon{_of(arrow.of)} fill="{INK}" stroke="none" points="{places}"/>')
    out += [_text(t, h) for t in page.drawn.texts if t.words]
    return "".join([*out, "</svg>"])


def _of(of: str) -> str:
    return f" data-line={quoteattr(of)}" if of else ""


def _text(t: Text, h: float) -> str:
    x, y = t.at[0], h - t.at[1]
    turn = f' transform="rotate({-math.degrees(t.turn):.3f} {x:.3f} {y:.3f})"' if abs(t.turn) > 1e-9 else ""
    step = f" data-step={quoteattr(t.step)} data-number={quoteattr(t.number)}" if t.step and t.number else ""
    # letters of a font are about 0.73 of its size high
    return (
        f'<text{_of(t.of)}{step} x="{x:.3f}" y="{y:.3f}" font-size="{t.height / 0.73:.3f}" '
        f'text-anchor="{t.anchor}" fill="{INK}" stroke="none"{turn}>{escape(t.words)}</text>'
    )


def turned_down(piece: Piece, high: float) -> Piece:
    """A piece with y counted downwards from the top of the paper."""
    if isinstance(piece, Segment):
        return Segment((piece.a[0], high - piece.a[1]), (piece.b[0], high - piece.b[1]))
    if isinstance(piece, ArcPiece):
        return ArcPiece((piece.centre[0], high - piece.centre[1]), piece.radius, -piece.a0, -piece.a1)
    if isinstance(piece, EllipsePiece):
        return piece._replace(
            centre=(piece.centre[0], high - piece.centre[1]), major=(piece.major[0], -piece.major[1]),
            a0=-piece.a0, a1=-piece.a1,
        )  # fmt: skip
    return Bezier(*((x, high - y) for x, y in piece))
