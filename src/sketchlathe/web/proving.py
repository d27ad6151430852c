"""Proving a part: Weigh & size, Answer check, the hand-in sheet."""

from __future__ import annotations

import re
from typing import Any

from flask import Blueprint, jsonify, render_template, request
from flask.typing import ResponseReturnValue
from flask_login import current_user, login_required

from ..core.errors import BadInput
from ..core.inspect import answers, weighing
from ..core.inspect.materials import key_for, material_of
from ..core.model.document import body_title
from ..core.steps.base import full_sentence
from ..service import modelling
from ..service.modelling import Opened
from .answers import builder, database, json_body, me, open_model, part_asked, ticket_of
from .exchange import as_download

blueprint = Blueprint("proving", __name__)


@blueprint.before_request
@login_required  # type: ignore[misc]
def signed_in_only() -> None:
    """Every model is somebody's."""


def _weighed(built: dict[str, Any], wanted: str = "") -> weighing.Weighed:
    """A build's bodies together, or one of them."""
    return weighing.together(
        [
            weighing.weighed(b["volume"], b["area"], b["centre"], b["box"], b["moments"], b["density"])
            for b in built["bodies"]
            if wanted in ("", b["id"])
        ]
    )


@blueprint.get("/models/<model_id>/panels/weigh")
def weigh_panel(model_id: str) -> ResponseReturnValue:
    """Weigh & size of the part as built."""
    opened = open_model(model_id)
    part = part_asked(opened)
    built = builder().kept(opened, part.id)
    wanted = request.args.get("body", "")
    if built and all(b["id"] != wanted for b in built["bodies"]):
        wanted = ""
    units = _units(opened)
    rows = weighing.rows(_weighed(built, wanted), units) if built and built["bodies"] else []
    return render_template(
        "panels/weigh.html", opened=opened, part=part, rows=rows, built=built, wanted=wanted, units=units,
        material=material_of(opened.model, key_for(part, wanted) if wanted else part.material),
        titles={b["id"]: body_title(opened.model, b["id"]) for b in built["bodies"]} if built else {},
        length_units=weighing.LENGTH_UNITS, mass_units=weighing.MASS_UNITS,
    )  # fmt: skip


def _units(opened: Opened) -> weighing.Units:
    """The person's units of Weigh & size; the model's where they have not chosen."""
    digits = request.args.get("digits", "5")
    mass = request.args.get("mass", "oz" if opened.model.units == "in" else "g")
    length = request.args.get("length", "")
    return weighing.Units(
        length if length in weighing.LENGTH_UNITS else opened.model.units,
        mass if mass in weighing.MASS_UNITS else "g",
        min(int(digits), 12) if re.fullmatch(r"[0-9]{1,2}", digits) else 5,
    )


@blueprint.get("/models/<model_id>/panels/answers")
def answers_panel(model_id: str) -> ResponseReturnValue:
    """Answer check: what is expected, and whether the part agrees."""
    opened = open_model(model_id)
    part = part_asked(opened)
    built = builder().kept(opened, part.id)
    given = {a.what: a for a in part.answers}
    verdicts = {}
    if built and built["bodies"]:
        whole, units = _weighed(built), weighing.Units(opened.model.units)
        verdicts = {what: answers.verdict(a, whole, units) for what, a in given.items()}
    return render_template(
        "panels/answers.html",
        opened=opened,
        part=part,
        kinds=answers.KINDS,
        given=given,
        verdicts=verdicts,
        built=built,
    )


@blueprint.post("/api/models/<model_id>/explain")
def explain(model_id: str) -> ResponseReturnValue:
    """Single slips that would account for what is off, likeliest first."""
    body = json_body()
    opened = open_model(model_id)
    return jsonify(builder().explain(opened, str(body.get("part", "")), ticket_of(model_id, body.get("ticket"))))


@blueprint.post("/api/models/<model_id>/measure")
def measure(model_id: str) -> ResponseReturnValue:
    """One or two picked things measured."""
    body = json_body()
    things = body.get("things")
    if not isinstance(things, list) or not 1 <= len(things) <= 2:
        raise BadInput("Pick one or two things to measure.")
    ticket = ticket_of(model_id, body.get("ticket"))
    return jsonify(builder().measure(open_model(model_id), str(body.get("part", "")), things, ticket))


@blueprint.get("/models/<model_id>/parts/<part_id>/hand-in.<any(pdf, png):kind>")
def hand_in(model_id: str, part_id: str, kind: str) -> ResponseReturnValue:
    """One page to hand in: picture, steps, Weigh & size, checks."""
    opened = open_model(model_id)
    name, media, data = builder().hand_in(opened, part_id, kind, current_user.name)
    return as_download(name, media, data)


@blueprint.post("/api/models/<model_id>/revisions/<int:number>/look")
def look_at(model_id: str, number: int) -> ResponseReturnValue:
    """A part as it was at a revision: its bodies, its steps in words."""
    body = json_body()
    older = modelling.look_at(database(), me(), model_id, number)
    wanted = str(body.get("part", ""))
    part = next((p for p in older.model.parts if p.id == wanted), older.model.parts[0])
    built = builder().build(older, part.id, ticket_of(model_id, body.get("ticket")))
    limit = len(part.steps) if part.now is None else part.now
    units = weighing.Units(older.model.units, "oz" if older.model.units == "in" else "g")
    whole = weighing.rows(_weighed(built), units) if built["bodies"] else []
    return jsonify({
        "bodies": built["bodies"],
        "steps": [
            {"title": older.model.title_of(s.id), "text": full_sentence(s, older.model), "out": s.skipped or n >= limit}
            for n, s in enumerate(part.steps)
        ],
        "parameters": [f"{p.name} = {p.formula}" for p in older.model.parameters],
        "facts": [(r.what, r.text) for r in whole if r.what in ("mass", "volume", "box")],
    })  # fmt: skip
