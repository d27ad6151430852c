"""DXF (the open drawing exchange format, release 2000), written by ezdxf: lines, arcs, ellipses, splines in mm."""

from __future__ import annotations

import io
import math
from typing import Any, ClassVar

from ..sketch.curves import ArcPiece, Bezier, Segment
from .base import FORMATS, Export, Format, require_outline


@FORMATS.add
class Dxf(Format):
    """A flat drawing with exact arcs and splines."""

    kind: ClassVar[str] = "dxf"
    word: ClassVar[str] = "DXF"
    ending: ClassVar[str] = "dxf"
    media: ClassVar[str] = "image/vnd.dxf"
    hint: ClassVar[str] = "a flat drawing, arcs and splines kept, in mm"
    order: ClassVar[int] = 20
    of: ClassVar[str] = "outline"
    needs_solid: ClassVar[bool] = False

    def write(self, export: Export) -> bytes:
        import ezdxf

        outline = require_outline(export)
        document = ezdxf.new("R2000", setup=["linetypes"])
        document.units = 4  # mm
        document.layers.add("outline")
        document.layers.add("construction", linetype="DASHDOT")
        space = document.modelspace()
        for drawn in outline.curves:
            for piece in drawn.pieces:
                add_piece(space, piece, {"layer": drawn.layer})
        out = io.StringIO()
        document.write(out)
        return out.getvalue().encode(document.encoding, "replace")


def add_piece(space: Any, piece: Any, look: dict[str, str]) -> None:
    """Put a piece into a drawing: a line, a circle, an arc, a spline or an ellipse."""
    if isinstance(piece, Segment):
        space.add_line(piece.a, piece.b, dxfattribs=look)
    elif isinstance(piece, ArcPiece):
        if piece.whole:
            space.add_circle(piece.centre, piece.radius, dxfattribs=look)
        else:
            low, high = sorted((piece.a0, piece.a1))
            space.add_arc(piece.centre, piece.radius, math.degrees(low), math.degrees(high), dxfattribs=look)
    elif isinstance(piece, Bezier):
        space.add_open_spline([(*p, 0) for p in piece], degree=3, dxfattribs=look)
    else:
        _add_ellipse(space, piece, look)


def _add_ellipse(space: Any, piece: Any, look: dict[str, str]) -> None:
    """The format wants the longer half axis first; turning it by a right angle turns the parameters too."""
    (ux, uy), minor = piece.major, piece.minor
    long, (low, high) = math.hypot(ux, uy), sorted((piece.a0, piece.a1))
    if long < minor:
        ux, uy = -uy / long * minor, ux / long * minor
        low, high, minor, long = low - math.pi / 2, high - math.pi / 2, long, minor
    if piece.whole:
        low, high = 0.0, 2 * math.pi
    space.add_ellipse(piece.centre, (ux, uy), minor / long, low, high, dxfattribs=look)
