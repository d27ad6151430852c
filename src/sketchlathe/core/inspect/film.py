"""Pictures of revisions as a film: one picture a revision, with its words below, as an animated GIF or PNG."""

from __future__ import annotations

import functools
import io
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

from PIL import Image, ImageDraw, ImageFont

from .handin import plain_fonts

WIDTH, HEIGHT, STRIP = 640, 360, 44
SECONDS, LAST = 0.9, 2.5  # a picture, and the last one
PAPER, INK, FAINT = "#f9f5eb", "#1f2d35", "#5b666b"
Kind = Literal["gif", "png"]


@dataclass(frozen=True)
class Frame:
    """One revision: its picture (PNG, ``WIDTH`` x ``HEIGHT``; None: no solid yet), its number, what was done."""

    picture: bytes | None
    number: int
    words: str


def film(frames: Iterable[Frame], kind: Kind) -> bytes:
    """The film, played for ever. At least one frame is needed."""
    sheets = [_sheet(f) for f in frames]
    times = [int(1000 * SECONDS)] * (len(sheets) - 1) + [int(1000 * LAST)]
    out = io.BytesIO()
    more = {"save_all": True, "append_images": sheets[1:], "duration": times, "loop": 0}
    if kind == "gif":
        sheets[0].save(out, "GIF", optimize=True, **more)
    else:
        sheets[0].save(out, "PNG", **more)
    return out.getvalue()


@functools.cache
def _font(size: int) -> ImageFont.FreeTypeFont:
    return ImageFont.truetype(io.BytesIO(plain_fonts()[0]), size)


def _sheet(frame: Frame) -> Image.Image:
    sheet = Image.new("RGB", (WIDTH, HEIGHT + STRIP), PAPER)
    if frame.picture is not None:
        sheet.paste(Image.open(io.BytesIO(frame.picture)).convert("RGB"), (0, 0))
    pen = ImageDraw.Draw(sheet)
    pen.line([(0, HEIGHT), (WIDTH, HEIGHT)], FAINT)
    number = f"{frame.number}"
    pen.text((16, HEIGHT + STRIP / 2), number, FAINT, _font(15), anchor="lm")
    left = 30 + pen.textlength(number, _font(15))
    pen.text((left, HEIGHT + STRIP / 2), _cut(pen, frame.words, WIDTH - left - 16), INK, _font(17), anchor="lm")
    return sheet


def _cut(pen: ImageDraw.ImageDraw, text: str, width: float) -> str:
    """As much of a text as fits."""
    if pen.textlength(text, _font(17)) <= width:
        return text
    while text and pen.textlength(f"{text}…", _font(17)) > width:
        text = text[:-1]
    return f"{text.rstrip()}…"
