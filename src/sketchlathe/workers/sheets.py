"""What the screen is told of a sheet: its page, and what its title block says of the part."""

from __future__ import annotations

from ..core.advice import Advice
from ..core.inspect.sheet_page import advise_on, page_of, shown_parts
from ..core.making.results import PartBuild
from ..core.model.document import Model, Part
from ..core.quantity.units import number_text
from ..core.sheet.puts import View
from ..core.sheet.svg import svg
from .answers import PageFacts
from .caches import measured, stuff_of
from .jobs import Desk


def mass_on(desk: Desk, document: str, built: PartBuild) -> str:
    """The mass of the part that a sheet shows, as it is written there; nothing where it shows several."""
    parts = shown_parts(built)
    if len(parts) != 1:
        return ""
    model, part, shown = desk.built(document, parts[0])
    grams = sum(measured(b, shown.solid_key).volume * stuff_of(model, part, b)["density"] / 1000 for b in shown.bodies)
    return f"{number_text(grams, 2)} g" if grams else ""


def page_facts(
    desk: Desk, document: str, model: Model, sheet: Part, built: PartBuild
) -> tuple[PageFacts, list[tuple[str, Advice]]]:
    """The page as the screen draws it, and what is to be said of its lines."""
    page = page_of(model, built, mass_on(desk, document, built))
    told: PageFacts = {
        "svg": svg(page), "wide": page.wide, "high": page.high, "scale": page.scale,
        "views": {of: list(box) for of, box in page.views.items()},
        "moved": {r.step: list(r.put.moved) for r in built.steps if isinstance(r.put, View)},
    }  # fmt: skip
    return told, advise_on(page, model, sheet)
