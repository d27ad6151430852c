"""Every kind of step, from its declaration: opened by Edit and kept as it is, it is the same.

With ``LATHE_FORMS=all`` in every form that a battery has a part for (some minutes), else each kind once.
"""

from __future__ import annotations

import json
import os
from typing import Any

import pytest
from tests.batteries import formulas, further
from tests.batteries.making import Sizes
from tests.hand import Hand, plate

from sketchlathe.core.model.document import Part
from sketchlathe.core.steps.base import STEPS, Step
from sketchlathe.service import modelling, shelf

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-3")]
ALL = os.environ.get("LATHE_FORMS") == "all"


def form_of(step: Step) -> tuple[str, ...]:
    """What tells a step from others of its kind: the choices in its sentence."""
    choices = [str(getattr(step, n)) for n, b in step.blanks().items() if b.type == "choice" and step.shown(n)]
    return (step.kind, *choices) if ALL else (step.kind,)  # type: ignore[attr-defined]


def editable(step: Step) -> bool:
    return not step.drawn


def sheet() -> Hand:
    """A part with a sheet of it that has every kind of line."""
    hand = plate("60", "40", "20")
    hand.do("add_part", sort="sheet", of="p1")
    at = hand.model.parts[-1].id
    hand.do("add_step", part=at, step="cut_open", fields={"part": "p1", "side": "front", "at": "12 mm"})
    hand.do("add_step", part=at, step="note", fields={"words": "Break all edges"})
    return hand


def chosen() -> list[tuple[Hand, Part, list[Step]]]:
    """Models, of each a part, and the steps of it that show what no one before it has shown."""
    seen: set[tuple[str, ...]] = set()
    found = []
    for make in formulas.PARTS + further.PARTS:
        hand, _ = make(Sizes(f"{make.__name__}0"))
        fresh = {form_of(s): s for s in hand.steps if editable(s) and form_of(s) not in seen}
        seen |= fresh.keys()
        if fresh:
            found.append((hand, hand.model.parts[0], list(fresh.values())))
    on_sheet = sheet()
    lines = {form_of(s): s for s in on_sheet.model.parts[-1].steps}
    seen |= lines.keys()
    found.append((on_sheet, on_sheet.model.parts[-1], list(lines.values())))
    missing = {k.model_fields["kind"].default for k in STEPS if not k.drawn} - {form[0] for form in seen}
    assert missing == set(), "no part has one"
    return found


def document(site: Any, model_id: str) -> dict[str, Any]:
    model = modelling.open_model(site.database, site.person, model_id).model
    return json.loads(json.dumps(model.as_json()))


def steps_of(told: dict[str, Any], part: Part) -> list[dict[str, Any]]:
    return next(p["steps"] for p in told["parts"] if p["id"] == part.id)


def test_every_kind_is_opened_and_kept_unchanged(bench) -> None:
    site, off = bench.site, []
    project = shelf.projects(site.database, site.person)[0][0]
    for hand, part, steps in chosen():
        row = shelf.make_model(site.database, site.person, project.id, "Opened", model=hand.model)
        address = f"{site}/models/{row.id}?part={part.id}"
        bench.page.goto(address)
        bench.page.locator("#steps li.step").first.wait_for()
        bench.still()
        before = document(site, row.id)
        for step in steps:
            what = f"{step.kind} {form_of(step)[1:]}"
            bench.act(part.index(step.id) + 1, "Edit")
            try:
                bench.page.locator("#keep:enabled").wait_for(timeout=60_000)
                bench.keep()
            except Exception:
                off.append(f"{what}: {bench.page.locator('#bar').inner_text()}")
                bench.page.goto(address)
                bench.page.locator("#steps li.step").first.wait_for()
                bench.still()
                continue
            now = document(site, row.id)
            if now["parts"] != before["parts"]:
                was = next(s for s in steps_of(before, part) if s["id"] == step.id)
                is_ = next(s for s in steps_of(now, part) if s["id"] == step.id)
                off.append(f"{what}: {[(k, was.get(k), is_.get(k)) for k in is_ if was.get(k) != is_.get(k)]}")
                before = now
    assert off == []
