"""Pictures to be traced: PNG, JPEG, the first page of a PDF; made small enough to be kept in a sketch."""

from __future__ import annotations

import base64
import io
from typing import Any, ClassVar

from ..errors import BadInput
from ..sketch.underlay import MOST_TEXT
from .base import READERS, Brought, Reader

MOST_PIXELS = 60_000_000
SIDE = 2000  # pixels of the longer side that are kept
_DENSITY = 150 / 72  # pixels a point of a PDF page


@READERS.add
class Picture(Reader):
    """A photograph or a scan of what is to be drawn."""

    kind: ClassVar[str] = "picture"
    word: ClassVar[str] = "picture"
    endings: ClassVar[tuple[str, ...]] = (".png", ".jpg", ".jpeg", ".pdf")
    gives: ClassVar[str] = "underlay"

    def read(self, data: bytes, name: str) -> Brought:
        from PIL import Image, ImageOps, UnidentifiedImageError

        scale = 0.0
        if data[:5] == b"%PDF-":
            image, scale = _page(data, name)
        else:
            try:
                image = Image.open(io.BytesIO(data), formats=("PNG", "JPEG"))
            except (UnidentifiedImageError, OSError, ValueError, SyntaxError) as error:
                raise BadInput(f"“{name}” is not a picture: it is neither PNG nor JPEG nor PDF.") from error
            except Image.DecompressionBombError:
                raise BadInput(_too_large(name, 0)) from None
            if image.width * image.height > MOST_PIXELS:
                raise BadInput(_too_large(name, image.width * image.height))
            try:
                image = ImageOps.exif_transpose(image)
                image.load()
            except (OSError, ValueError, SyntaxError) as error:
                raise BadInput(f"“{name}” is damaged, or cut short: it cannot be shown.") from error
        flat = _on_white(image)
        before = max(flat.size)
        flat.thumbnail((SIDE, SIDE))
        if scale:
            scale *= before / max(flat.size)
        media, packed = _packed(flat, name)
        return Brought(
            "underlay",
            data={
                "name": name, "media": media, "data": packed, "wide": flat.width, "high": flat.height,
                # a page says how large it is; of a photograph nobody knows
                "scale": scale or 100.0 / max(flat.size),
            },
            notes=() if scale else ("Its size is not known yet: set it by two points and their distance.",),
        )  # fmt: skip


def _too_large(name: str, pixels: int) -> str:
    much = f"{pixels / 1e6:.0f} million" if pixels else "far too many"
    return f"“{name}” has {much} pixels; at most {MOST_PIXELS / 1e6:.0f} million can be read. Make it smaller first."


def _page(data: bytes, name: str) -> tuple[Any, float]:
    """The first page as a picture, and mm a pixel."""
    import pypdfium2

    try:
        document = pypdfium2.PdfDocument(data)
        if len(document) == 0:
            raise BadInput(f"“{name}” has no page.")
        page = document[0]
        wide, high = page.get_size()
        density = min(_DENSITY, SIDE / max(wide, high, 1.0))
        return page.render(scale=density).to_pil(), 25.4 / 72 / density
    except pypdfium2.PdfiumError as error:
        raise BadInput(f"“{name}” cannot be read as PDF: it is damaged, or locked.") from error


def _on_white(image: Any) -> Any:
    """Without transparency: what shows through is paper."""
    from PIL import Image

    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        clear = image.convert("RGBA")
        white = Image.new("RGBA", clear.size, "white")
        return Image.alpha_composite(white, clear).convert("RGB")
    return image.convert("L" if image.mode in ("1", "L", "I;16", "I") else "RGB")


def _packed(image: Any, name: str) -> tuple[str, str]:
    """The smaller of PNG and JPEG as text; coarser where even that is too much."""
    for quality in (82, 60, 40):
        found = []
        for media, how in (("image/png", {"optimize": True}), ("image/jpeg", {"quality": quality})):
            out = io.BytesIO()
            image.save(out, media.partition("/")[2].upper(), **how)
            found.append((len(out.getvalue()), media, out.getvalue()))
        _, media, data = min(found)
        text = base64.b64encode(data).decode("ascii")
        if len(text) <= MOST_TEXT:
            return media, text
    raise BadInput(f"“{name}” is too rich to be kept in a sketch: make it smaller first.")
