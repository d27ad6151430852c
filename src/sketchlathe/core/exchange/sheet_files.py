"""A sheet as a file: PDF and SVG at true size, DXF with lines, arcs and words on layers."""

from __future__ import annotations

import io
import math
import tempfile
from pathlib import Path
from typing import Any, ClassVar

from ..errors import CannotBuild
from ..inspect.handin import plain_fonts
from ..inspect.sheet_page import page_of
from ..sheet.page import LOOKS, Page, Text
from ..sheet.svg import svg
from ..sketch.curves.pieces import ArcPiece, Bezier, EllipsePiece, Piece, Segment
from .base import FORMATS, Export, Format
from .dxf import add_piece

_INK = (31, 45, 53)
_POINT = 72 / 25.4  # points in a mm


def _page(export: Export) -> Page:
    if export.built is None or not any(r.put is not None for r in export.built.steps):
        raise CannotBuild("Nothing is on this sheet yet: show a part first.")
    return page_of(export.model, export.built, export.mass)


@FORMATS.add
class SheetPdf(Format):
    """The sheet for paper."""

    kind: ClassVar[str] = "sheet_pdf"
    word: ClassVar[str] = "PDF"
    ending: ClassVar[str] = "pdf"
    media: ClassVar[str] = "application/pdf"
    hint: ClassVar[str] = "for paper, at true size, with its letters inside"
    order: ClassVar[int] = 30
    of: ClassVar[str] = "sheet"
    needs_solid: ClassVar[bool] = False

    def write(self, export: Export) -> bytes:
        from fpdf import FPDF

        page = _page(export)
        pdf = FPDF(unit="mm", format=(page.wide, page.high))
        pdf.set_auto_page_break(False)
        pdf.set_margin(0)
        pdf.set_title(page.title)
        pdf.set_creator("Sketch Lathe")
        with tempfile.TemporaryDirectory() as folder:
            for name, data in zip(("plain", "more"), plain_fonts()):
                path = Path(folder) / f"{name}.ttf"
                path.write_bytes(data)
                pdf.add_font(name, fname=path)
            pdf.set_fallback_fonts(["more"])
            pdf.add_page()
            self._draw(pdf, page)
            return bytes(pdf.output())

    def _draw(self, pdf: Any, page: Page) -> None:
        pdf.set_draw_color(*_INK)
        pdf.set_fill_color(*_INK)
        pdf.set_text_color(*_INK)
        for look, (width, dashes, _) in LOOKS.items():
            pieces = [line.piece for line in page.drawn.lines if line.look == look]
            if not pieces:
                continue
            dashed = f"[{' '.join(f'{d * _POINT:.3f}' for d in dashes)}] 0 d"
            strokes = " ".join(_stroke(p) for p in pieces)
            # the operators of a page's content (ISO 32000-1, 8.5): what a drawing needs and no more
            pdf._out(f"q 1 J {width * _POINT:.3f} w {dashed} {strokes} S Q")
        for arrow in page.drawn.arrows:
            pdf.polygon([(x, page.high - y) for x, y in arrow.corners()], style="F")
        for text in page.drawn.texts:
            _write(pdf, text, page.high)


def _write(pdf: Any, text: Text, high: float) -> None:
    if not text.words:
        return
    pdf.set_font("plain", size=text.height / 0.73 * _POINT)
    words = text.words.replace("⌀", "Ø")  # our letters have no sign of their own for it
    wide = pdf.get_string_width(words)
    start = {"start": 0.0, "middle": -wide / 2, "end": -wide}[text.anchor]
    x, y = text.at[0], high - text.at[1]
    with pdf.rotation(math.degrees(text.turn), x, y):
        pdf.text(x + start, y, words)


def _stroke(piece: Piece) -> str:
    """A piece as path operators; round ones as cubic pieces of at most an eighth turn (off by 4e-6 of the radius)."""
    cubics: list[Bezier] = []
    if isinstance(piece, Segment):
        (ax, ay), (bx, by) = piece
        return f"{ax * _POINT:.4f} {ay * _POINT:.4f} m {bx * _POINT:.4f} {by * _POINT:.4f} l"
    if isinstance(piece, Bezier):
        cubics = [piece]
    else:
        cubics = list(_as_cubics(piece))
    x, y = cubics[0].p0
    out = [f"{x * _POINT:.4f} {y * _POINT:.4f} m"]
    out += [" ".join(f"{v * _POINT:.4f}" for p in c[1:] for v in p) + " c" for c in cubics]
    return " ".join(out)


def _as_cubics(piece: ArcPiece | EllipsePiece) -> list[Bezier]:
    if isinstance(piece, ArcPiece):
        u, v = (piece.radius, 0.0), (0.0, piece.radius)
    else:
        long = math.hypot(*piece.major)
        u = piece.major
        v = (-piece.major[1] / long * piece.minor, piece.major[0] / long * piece.minor)
    count = max(1, math.ceil(abs(piece.a1 - piece.a0) / (math.pi / 4)))
    h = (piece.a1 - piece.a0) / count
    k = 4 / 3 * math.tan(h / 4)

    def at(a: float) -> tuple[float, float]:
        c, s = math.cos(a), math.sin(a)
        return piece.centre[0] + c * u[0] + s * v[0], piece.centre[1] + c * u[1] + s * v[1]

    def way(a: float) -> tuple[float, float]:
        c, s = math.cos(a), math.sin(a)
        return -s * u[0] + c * v[0], -s * u[1] + c * v[1]

    found = []
    for i in range(count):
        a, b = piece.a0 + i * h, piece.a0 + (i + 1) * h
        p, q, d, e = at(a), at(b), way(a), way(b)
        found.append(Bezier(p, (p[0] + k * d[0], p[1] + k * d[1]), (q[0] - k * e[0], q[1] - k * e[1]), q))
    return found


@FORMATS.add
class SheetSvg(Format):
    """The sheet for documents."""

    kind: ClassVar[str] = "sheet_svg"
    word: ClassVar[str] = "SVG"
    ending: ClassVar[str] = "svg"
    media: ClassVar[str] = "image/svg+xml"
    hint: ClassVar[str] = "for documents, in mm"
    order: ClassVar[int] = 31
    of: ClassVar[str] = "sheet"
    needs_solid: ClassVar[bool] = False

    def write(self, export: Export) -> bytes:
        return b'<?xml version="1.0" encoding="UTF-8"?>\n' + svg(_page(export)).encode()


@FORMATS.add
class SheetDxf(Format):
    """The sheet for other drawing programs."""

    kind: ClassVar[str] = "sheet_dxf"
    word: ClassVar[str] = "DXF"
    ending: ClassVar[str] = "dxf"
    media: ClassVar[str] = "image/vnd.dxf"
    hint: ClassVar[str] = "for drawing programs: lines, arcs and words on layers"
    order: ClassVar[int] = 32
    of: ClassVar[str] = "sheet"
    needs_solid: ClassVar[bool] = False

    def write(self, export: Export) -> bytes:
        import ezdxf
        from ezdxf.enums import TextEntityAlignment

        page = _page(export)
        document = ezdxf.new("R2010", setup=["linetypes"])  # the first that is UTF-8 throughout
        document.units = 4  # mm
        for look in LOOKS.values():
            kind = "DASHDOT" if len(look.dashes) > 2 else "DASHED" if look.dashes else "CONTINUOUS"
            document.layers.add(look.word, linetype=kind, lineweight=round(look.width * 100))
        document.layers.add("words")
        space = document.modelspace()
        for line in page.drawn.lines:
            add_piece(space, line.piece, {"layer": LOOKS[line.look].word})
        for arrow in page.drawn.arrows:
            a, b, c = arrow.corners()
            space.add_solid([a, b, c, c], dxfattribs={"layer": LOOKS["size"].word})
        align = {
            "start": TextEntityAlignment.LEFT, "middle": TextEntityAlignment.CENTER, "end": TextEntityAlignment.RIGHT,
        }  # fmt: skip
        for text in page.drawn.texts:
            if text.words:
                entity = space.add_text(
                    text.words.replace("⌀", "%%c"),
                    height=text.height,
                    rotation=math.degrees(text.turn),
                    dxfattribs={"layer": "words"},
                )
                entity.set_placement(text.at, align=align[text.anchor])
        out = io.StringIO()
        document.write(out)
        return out.getvalue().encode("utf-8")
