"""The hand-in sheet: one A4 page with picture, steps as sentences, Weigh & size and the checks. PDF, and PNG of it."""

from __future__ import annotations

import functools
import io
import tempfile
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING

from fontTools.ttLib import TTFont

from ..sketch.curves.lettering import FOLDER

if TYPE_CHECKING:
    from fpdf import FPDF

_INK, _SOFT, _RULE = (31, 45, 53), (77, 90, 98), (216, 205, 184)
_LEFT, _WIDE, _BOTTOM = 16.0, 178.0, 281.0


@dataclass(frozen=True)
class Sheet:
    """What stands on the page. ``rows`` and ``checks``: (what, value, remark)."""

    title: str
    person: str
    day: date
    revision: int
    material: str
    picture: bytes
    rows: Sequence[tuple[str, str]]
    checks: Sequence[tuple[str, str, str]]
    steps: Sequence[str]
    bodies: Sequence[tuple[str, str]] = ()  # name, what it amounts to
    parameters: Sequence[tuple[str, str]] = ()
    afterwards: Sequence[str] = ()  # what is left to be done by hand


@functools.cache
def plain_fonts() -> tuple[bytes, bytes]:
    """The plain font that ships with the program, as TrueType: Latin, and what else it has."""
    out = []
    for name in ("plain-latin.woff", "plain-more.woff"):
        font, data = TTFont(Path(FOLDER) / name), io.BytesIO()
        font.flavor = None
        font.save(data)
        out.append(data.getvalue())
    return out[0], out[1]


def _page(title: str, folder: Path) -> FPDF:
    from fpdf import FPDF  # takes a third of a second, for which every worker that starts would wait

    page = FPDF(format="A4")
    page.set_auto_page_break(False)
    page.set_title(title)
    page.set_creator("Sketch Lathe")
    for name, data in zip(("plain", "more"), plain_fonts()):
        path = folder / f"{name}.ttf"
        path.write_bytes(data)
        page.add_font(name, fname=path)
    page.set_fallback_fonts(["more"])
    page.add_page()
    return page


def pdf(sheet: Sheet) -> bytes:
    """The page as PDF."""
    with tempfile.TemporaryDirectory() as folder:
        page = _page(sheet.title, Path(folder))
        _fill(page, sheet)
        return bytes(page.output())


def _fill(page: FPDF, sheet: Sheet) -> None:
    _write(page, _LEFT, 15, 22, sheet.title, width=_WIDE, shrink=True)
    facts = [f for f in (sheet.person, sheet.day.isoformat(), f"revision {sheet.revision}", sheet.material) if f]
    _write(page, _LEFT, 26, 10, "   ".join(facts), _SOFT, width=_WIDE, shrink=True)
    page.set_draw_color(*_RULE)
    page.line(_LEFT, 33, _LEFT + _WIDE, 33)
    page.image(io.BytesIO(sheet.picture), _LEFT, 37, 104, 58.5)
    page.rect(_LEFT, 37, 104, 58.5)
    y = _table(page, 126, 37, 68, "Weigh & size", sheet.rows)
    y = max(y, 100.0)
    tables = [(t, rows) for t, rows in (("Bodies", sheet.bodies), ("Parameters", sheet.parameters)) if rows]
    wide = (_WIDE - 8 * (len(tables) - 1)) / max(len(tables), 1)
    ends = [
        _table(page, _LEFT + i * (wide + 8), y, wide, t, rows[:9], wide * 0.4) for i, (t, rows) in enumerate(tables)
    ]
    y = max([y, *(e + 3 for e in ends)])
    if sheet.checks:
        y = _checks(page, y, sheet.checks)
    if sheet.afterwards:
        y = _afterwards(page, y, sheet.afterwards)
    _steps(page, y + 2, sheet.steps)
    _write(page, _LEFT, _BOTTOM, 8, "Made with Sketch Lathe", _SOFT)


def png(sheet: Sheet, dots_per_inch: int = 150) -> bytes:
    """The page as PNG: the PDF, drawn."""
    import pypdfium2

    document = pypdfium2.PdfDocument(pdf(sheet))
    try:
        image = document[0].render(scale=dots_per_inch / 72).to_pil()
        out = io.BytesIO()
        image.save(out, "PNG", optimize=True)
        return out.getvalue()
    finally:
        document.close()


def _write(
    page: FPDF, x: float, y: float, size: float, text: str, colour: tuple[int, int, int] = _INK, *, width: float = 0,
    align: str = "L", shrink: bool = False,
) -> None:  # fmt: skip
    page.set_text_color(*colour)
    page.set_font("plain", size=size)
    while shrink and size > 5 and page.get_string_width(text) > width:
        size -= 0.5
        page.set_font("plain", size=size)
    if width and page.get_string_width(text) > width:
        while text and page.get_string_width(text + "…") > width:
            text = text[:-1]
        text += "…"
    page.set_xy(x, y)
    page.cell(width or None, size * 0.42, text, align=align)


def _heading(page: FPDF, x: float, y: float, text: str) -> float:
    _write(page, x, y, 9, text.upper(), _SOFT)
    return y + 6


def _table(
    page: FPDF, x: float, y: float, width: float, title: str, rows: Sequence[tuple[str, str]], first: float = 22
) -> float:
    y = _heading(page, x, y, title)
    for what, value in rows:
        _write(page, x, y, 9.5, what, _SOFT, width=first - 1)
        _write(page, x + first, y, 9.5, value, width=width - first, align="R", shrink=True)
        page.line(x, y + 5.2, x + width, y + 5.2)
        y += 6.4
    return y


def _checks(page: FPDF, y: float, checks: Sequence[tuple[str, str, str]]) -> float:
    y = _heading(page, _LEFT, y, "Answer check")
    for what, wanted, said in checks:
        _write(page, _LEFT, y, 10, what, _SOFT)
        _write(page, _LEFT + 34, y, 10, f"expected {wanted}", width=70)
        _write(page, _LEFT + 106, y, 10, said, width=72, align="R")
        page.line(_LEFT, y + 5.4, _LEFT + _WIDE, y + 5.4)
        y += 6.8
    return y + 2


def _afterwards(page: FPDF, y: float, what: Sequence[str]) -> float:
    y = _heading(page, _LEFT, y, "After printing")
    most = 6
    shown = [*what[: most - 1], f"and {len(what) - most + 1} more"] if len(what) > most else what
    for text in shown:
        _write(page, _LEFT, y, 10, text, width=_WIDE)
        y += 5.4
    return y + 2


def _steps(page: FPDF, y: float, steps: Sequence[str]) -> None:
    """Numbered sentences; smaller letters and at last an honest "and so many more" keep them on the page."""
    y = _heading(page, _LEFT, y, "Steps")
    room = _BOTTOM - 4 - y
    for size in (10.0, 9.0, 8.0, 7.0, 6.0):
        page.set_font("plain", size=size)
        high = size * 0.47
        needs = [_lines(page, s, high) * high + 0.9 for s in steps]
        if sum(needs) <= room:
            break
    for number, text in enumerate(steps):
        need = needs[number]
        if y + need > _BOTTOM - 4 - (high if number < len(steps) - 1 else 0):
            _write(page, _LEFT + 9, y, size, f"and {len(steps) - number} more steps", _SOFT)
            return
        _write(page, _LEFT, y, size, str(number + 1), _SOFT, width=6, align="R")
        page.set_text_color(*_INK)
        page.set_font("plain", size=size)
        page.set_xy(_LEFT + 9, y)
        page.multi_cell(_WIDE - 9, high, text)
        y += need


def _lines(page: FPDF, text: str, high: float) -> int:
    found = page.multi_cell(_WIDE - 9, high, text, dry_run=True, output="LINES")
    assert isinstance(found, list)
    return len(found)
