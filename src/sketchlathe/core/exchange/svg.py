"""SVG 1.1 (W3C): paths in mm, y turned downwards; arcs stay arcs, splines stay Béziers."""

from __future__ import annotations

from collections.abc import Iterator
from typing import ClassVar
from xml.sax.saxutils import escape

from ..sketch.curves.base import piece_path
from ..sketch.curves.pieces import ArcPiece, Bezier, EllipsePiece, Piece, Segment, box_of_piece
from .base import FORMATS, Export, Format, require_outline

_LOOKS = {
    "outline": 'fill="none" stroke="#1f2d35" stroke-width="0.25"',
    "construction": 'fill="none" stroke="#1f2d35" stroke-width="0.13" stroke-dasharray="4 1 0.6 1"',
}


@FORMATS.add
class Svg(Format):
    """A flat drawing for cutting machines and documents."""

    kind: ClassVar[str] = "svg"
    word: ClassVar[str] = "SVG"
    ending: ClassVar[str] = "svg"
    media: ClassVar[str] = "image/svg+xml"
    hint: ClassVar[str] = "a flat drawing, in mm, for cutting machines and documents"
    order: ClassVar[int] = 21
    of: ClassVar[str] = "outline"
    needs_solid: ClassVar[bool] = False

    def write(self, export: Export) -> bytes:
        outline = require_outline(export)
        boxes = [box_of_piece(p) for d in outline.curves for p in d.pieces]
        low = [min(b[0][i] for b in boxes) - 1 for i in (0, 1)]
        high = [max(b[1][i] for b in boxes) + 1 for i in (0, 1)]
        w, h = high[0] - low[0], high[1] - low[1]
        paths = "\n".join(
            f'  <path class="{d.layer}" {_LOOKS[d.layer]} d="{piece_path(list(_turned_down(d.pieces)))}"/>'
            for d in outline.curves
        )
        return (
            '<?xml version="1.0" encoding="UTF-8"?>\n'
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{w:.6g}mm" height="{h:.6g}mm"'
            f' viewBox="{low[0]:.6g} {-high[1]:.6g} {w:.6g} {h:.6g}">\n'
            f"  <title>{escape(outline.title)}</title>\n{paths}\n</svg>\n"
        ).encode()


def _turned_down(pieces: tuple[Piece, ...]) -> Iterator[Piece]:
    """The pieces with y downwards, as SVG has it."""
    for p in pieces:
        if isinstance(p, Segment):
            yield Segment((p.a[0], -p.a[1]), (p.b[0], -p.b[1]))
        elif isinstance(p, ArcPiece):
            yield ArcPiece((p.centre[0], -p.centre[1]), p.radius, -p.a0, -p.a1)
        elif isinstance(p, EllipsePiece):
            yield p._replace(centre=(p.centre[0], -p.centre[1]), major=(p.major[0], -p.major[1]), a0=-p.a0, a1=-p.a1)
        else:
            yield Bezier(*((x, -y) for x, y in p))
