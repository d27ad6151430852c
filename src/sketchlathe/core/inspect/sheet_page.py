"""The page of a sheet: its lines laid out, headed by what the model says of itself."""

from __future__ import annotations

from ..advice import Advice
from ..making.results import PartBuild
from ..model.document import Model, Part
from ..model.made_of import material_of
from ..sheet.laying import lay
from ..sheet.page import Page
from ..sheet.puts import Size, View, scale_words
from ..sheet.titling import Heading
from ..steps.paper import PaperLine
from ..steps.show import FROM


def shown_parts(built: PartBuild) -> list[str]:
    """The parts that a built sheet shows, by id, in the order of its lines."""
    return list(dict.fromkeys(r.put.part for r in built.steps if isinstance(r.put, View)))


def page_of(model: Model, built: PartBuild, mass: str = "") -> Page:
    """The page of a built sheet. ``mass``: of the part it shows, as its title block says it."""
    parts: list[Part] = [model.part(p) for p in shown_parts(built)]
    made_of = ", ".join(dict.fromkeys(material_of(model, p.material).name for p in parts if p.sort == "part"))
    several = len([p for p in model.there if p.sort != "sheet"]) > 1
    title = f"{model.name}: {parts[0].name}" if several and len(parts) == 1 else model.name
    puts = [(r.step, r.put) for r in built.steps if r.put is not None and r.status == "ok"]
    return lay(puts, Heading(title, made_of, model.read_in if model.fractions else model.units, mass))


def advise_on(page: Page, model: Model, sheet: Part) -> list[tuple[str, Advice]]:
    """What is to be said of a sheet, by the line that it is said of: what does not fit, what no view says."""
    found: list[tuple[str, Advice]] = []
    paper = next((s for s in sheet.steps if isinstance(s, PaperLine) and not s.skipped), None)
    if not page.fits and paper is not None:
        text = f"At {scale_words(page.scale)} the views do not fit on this paper."
        larger = {"a4": "a3", "a3": "a2", "a2": "a1", "a1": "a0"}.get(paper.size)
        if paper.scale:
            found.append((paper.id, Advice(text, "use the largest scale that fits", {"scale": ""})))
        elif larger:
            found.append((paper.id, Advice(text, f"use {larger.upper()}", {"size": larger})))
    for (line, part, side), sizes in _by_side(page).items():
        told = ", ".join(dict.fromkeys(f"{s.text} of {model.title_of(s.step)}" for s in sizes[:4]))
        more = f" and {len(sizes) - 4} more" if len(sizes) > 4 else ""
        add = {"kind": "add_step", "part": sheet.id, "step": "show", "fields": {"part": part, "side": side}}
        text = f"Not said, for no view shows it true: {told}{more}."
        found.append((line, Advice(text, f"show it {FROM[side]}", edits=(add,)) if side else Advice(text)))
    return found


def _by_side(page: Page) -> dict[tuple[str, str, str], list[Size]]:
    """What is not said: by the line, the part and the side that one more view would show."""
    groups: dict[tuple[str, str, str], list[Size]] = {}
    for line, part, size, side in page.unsaid:
        groups.setdefault((line, part, side), []).append(size)
    return groups
