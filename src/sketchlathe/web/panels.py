"""The Bench's panels: pieces of HTML that travel with the answers to edits and builds, so that
nothing is asked twice.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from flask import Blueprint, render_template, request
from flask.typing import ResponseReturnValue

from ..core.amounts import answers, weighing
from ..core.inspect.parts_list import as_rows, parts_list
from ..core.model.document import Part
from ..core.model.edits.parameters import uses_of
from ..core.model.edits.steps import standings
from ..core.model.made_of import material_of, said_of
from ..core.model.variants import is_taken
from ..core.quantity.units import show
from ..core.registry import kind_of
from ..core.saying import not_whole, opens
from ..core.sketch.solver.freedom import freedom
from ..core.steps.base import sentence_of
from ..core.steps.sketch import SketchStep
from ..service import modelling
from ..service.building import BuiltAt, weighed_of
from ..service.modelling import Opened
from .replies import builder, database, me, open_model, signed_in_or_shown

blueprint = Blueprint("panels", __name__)
blueprint.before_request(signed_in_or_shown)


@dataclass(frozen=True)
class Asked:
    """What a panel is filled for: a part at a revision, its build (an older one until this one's is there; the page
    says so meanwhile), and how the person reads figures.
    """

    opened: Opened
    part: Part
    built: BuiltAt | None
    reading: Mapping[str, Any]


Panel = Callable[[Asked], str]
PANELS: dict[str, Panel] = {}


def _panel(name: str) -> Callable[[Panel], Panel]:
    """Declares what fills the element of the page with this id."""

    def declare(fill: Panel) -> Panel:
        PANELS[name] = fill
        return fill

    return declare


def asked_for(opened: Opened, part_id: Any, reading: Any = None) -> Asked:
    """A part (the first where none is named) with the newest build that is at hand."""
    part = next((p for p in opened.model.there if p.id == part_id), opened.model.there[0])
    return Asked(opened, part, builder().last(opened, part.id), reading if isinstance(reading, dict) else {})


def filled(asked: Asked, names: Iterable[str] = ()) -> dict[str, str]:
    """Panels by name as HTML; all of them where none is named."""
    return {name: PANELS[name](asked) for name in names or PANELS}


@_panel("parts")
def parts(asked: Asked) -> str:
    """The parts of the model, and which one is shown."""
    return render_template("panels/parts.html", model=asked.opened.model, part=asked.part)


@_panel("steps")
def steps(asked: Asked) -> str:
    """The list of steps as sentences."""
    model, part = asked.opened.model, asked.part
    results = {s["id"]: s for s in asked.built["steps"]} if asked.built else {}
    limit = len(part.steps) if part.now is None else part.now
    entries = []
    stands = standings(part)
    for number, step in enumerate(part.steps):
        entries.append(
            {
                "step": step,
                "kind": kind_of(type(step)),
                "number": number + 1,
                "title": model.title_of(step.id),
                "sentence": _held(sentence_of(step, model)),
                "after_now": number >= limit,
                "result": results.get(step.id, {}),
                "is_sketch": isinstance(step, SketchStep),
                "freedom": freedom(step.sketch).count if isinstance(step, SketchStep) and step.sketch.curves else None,
                "needs": [model.title_of(s.id) for s in part.steps if s.id in stands[step.id].needs],
                "users": [model.title_of(s.id) for s in part.steps if step.id in stands[s.id].needs],
                "room": stands[step.id],
            }
        )
    return render_template("panels/steps.html", opened=asked.opened, part=part, entries=entries, limit=limit)


def _held(sentence: list[dict[str, str]]) -> list[dict[str, str]]:
    """Marks (commas, brackets) go with the blank before them, so that no line begins with one."""
    out: list[dict[str, str]] = []
    for piece in sentence:
        mark = re.match(r"[,.:;)]*", piece["text"])
        if out and "blank" in out[-1] and "blank" not in piece and mark and mark[0]:
            out[-1] = {**out[-1], "mark": mark[0]}
            piece = {**piece, "text": piece["text"][len(mark[0]) :]}
        out.append(piece)
    return out


@_panel("parameters")
def parameters(asked: Asked) -> str:
    """The table of parameters."""
    model = asked.opened.model
    limits = {k.knob: f"{k.low or 'any'} to {k.high or 'any'}" for k in model.limits}
    rows = [
        {
            "name": p.name,
            "formula": p.formula,
            "note": p.note,
            "value": show(model.table[p.name].value, model.table[p.name].dimension, model.read_in),
            "uses": uses_of(model, p.name),
            "limits": limits.get(f"p:{p.name}", ""),
        }
        for p in model.parameters
    ]
    return render_template("panels/parameters.html", opened=asked.opened, rows=rows)


@_panel("variants")
def variants(asked: Asked) -> str:
    """The variants, and which one the model stands at."""
    model = asked.opened.model
    rows = [{"id": v.id, "name": v.name, "taken": is_taken(model, v)} for v in model.variants[:8]]
    return render_template("panels/variants.html", variants=rows, more=len(model.variants) - len(rows))


@_panel("weigh")
def weigh(asked: Asked) -> str:
    """Weigh & size of the part as built."""
    model, part, built = asked.opened.model, asked.part, asked.built
    wanted = str(asked.reading.get("body") or "")
    if built and all(b["id"] != wanted for b in built["bodies"]):
        wanted = ""
    units = _units(asked)
    rows = weighing.rows(weighed_of(built, wanted), units) if built and built["bodies"] else []
    return render_template(
        "panels/weigh.html", opened=asked.opened, part=part, rows=rows, built=built, wanted=wanted, units=units,
        material=_material(asked, wanted),
        lacks=_lacks(asked),
        titles={b["id"]: model.title_of_body(b["id"]) for b in built["bodies"]} if built else {},
        length_units=weighing.LENGTH_UNITS, mass_units=weighing.MASS_UNITS,
    )  # fmt: skip


@_panel("parts-list")
def listed(asked: Asked) -> str:
    """What parts put together consist of; nothing for a part."""
    if asked.part.sort != "together":
        return ""
    entries = parts_list(asked.opened.model, asked.part, asked.built["bodies"] if asked.built else ())
    units = replace(_units(asked), digits=4)
    *rows, whole = as_rows(entries, units)
    return render_template(
        "panels/parts-list.html", opened=asked.opened, part=asked.part, rows=rows, whole=whole, units=units
    )


def _lacks(asked: Asked) -> str:
    """What is said where a part is not whole."""
    steps = asked.built["steps"] if asked.built else ()
    return opens(not_whole([asked.opened.model.title_of(s["id"]) for s in steps if s["status"] == "failed"]))


def _material(asked: Asked, wanted: str) -> str:
    """What a body, or the part, is made of; of parts together, what they are."""
    model, part = asked.opened.model, asked.part
    keys = [b["material"] for b in asked.built["bodies"] if wanted in ("", b["id"])] if asked.built else []
    if keys and (wanted or part.sort == "together"):
        return said_of(model, keys)
    return material_of(model, part.material).name


def _units(asked: Asked) -> weighing.Units:
    """The person's units of Weigh & size; the model's where they have not chosen."""
    # what a browser kept may be anything; an edit that is on disk must not be answered with a refusal because of it
    told = {k: v for k, v in asked.reading.items() if isinstance(v, str)}
    units, digits = asked.opened.model.units, told.get("digits", "")
    return weighing.Units(
        told["length"] if told.get("length") in weighing.LENGTH_UNITS else units,
        told["mass"] if told.get("mass") in weighing.MASS_UNITS else ("oz" if units == "in" else "g"),
        min(max(int(digits), 2), 10) if re.fullmatch(r"[0-9]{1,2}", digits) else 5,
    )


@_panel("answers")
def verdicts(asked: Asked) -> str:
    """Answer check: what is expected, and whether the part agrees."""
    given = {a.what: a for a in asked.part.answers}
    found = {}
    if asked.built and asked.built["bodies"]:
        whole, units = weighed_of(asked.built), weighing.Units(asked.opened.model.units)
        found = {what: answers.verdict(a, whole, units) for what, a in given.items()}
    return render_template(
        "panels/answers.html", opened=asked.opened, part=asked.part, kinds=answers.KINDS, given=given, verdicts=found,
        built=asked.built,
    )  # fmt: skip


@blueprint.get("/models/<model_id>/panels/<any(steps, parameters, weigh, answers):name>")
def panel(model_id: str, name: str) -> ResponseReturnValue:
    """One panel by itself."""
    return PANELS[name](asked_for(open_model(model_id), request.args.get("part"), request.args.to_dict()))


@blueprint.get("/models/<model_id>/panels/revisions")
def revisions(model_id: str) -> ResponseReturnValue:
    """What was done, newest first."""
    opened = open_model(model_id)
    return render_template(
        "panels/revisions.html", opened=opened, revisions=modelling.revisions(database(), me(), model_id)
    )
