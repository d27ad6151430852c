"""Proving a part: Weigh & size, Answer check, the hand-in sheet."""

from __future__ import annotations

from flask import Blueprint, jsonify
from flask.typing import ResponseReturnValue
from flask_login import current_user

from ..core.amounts import weighing
from ..core.errors import BadInput
from ..core.inspect.figures import figure_of, figures_of, goal_of
from ..core.inspect.fits import USUAL_PLAY
from ..core.quantity import evaluate
from ..core.quantity.units import LENGTH, show
from ..core.steps.base import full_sentence
from ..service import laying, looking, modelling
from ..service.building import weighed_of
from .answers import FigureKind, FitShown, GoalRead, LookedAt
from .exchange import as_download
from .replies import builder, database, json_body, me, open_model, signed_in_or_shown, ticket_of

blueprint = Blueprint("proving", __name__)


blueprint.before_request(signed_in_or_shown)


@blueprint.post("/api/models/<model_id>/seek")
def seek(model_id: str) -> ResponseReturnValue:
    """The value of a parameter at which the part comes to a mass, a volume, a size."""
    body = json_body()
    part, name, figure, goal = (str(body.get(k) or "")[:120] for k in ("part", "parameter", "figure", "goal"))
    ticket = ticket_of(model_id, body.get("ticket"))
    return jsonify(looking.seek(builder(), open_model(model_id, "change"), part, name, figure, goal, ticket))


@blueprint.get("/api/models/<model_id>/figures/<part_id>")
def figures(model_id: str, part_id: str) -> ResponseReturnValue:
    """What a part can be made to come to."""
    opened = open_model(model_id)
    found = figures_of(opened.model, opened.model.part(part_id))
    told: list[FigureKind] = [{"id": f.id, "word": f.word, "usual": f.usual} for f in found]
    return jsonify(told)


@blueprint.post("/api/models/<model_id>/goal")
def goal(model_id: str) -> ResponseReturnValue:
    """How what is typed as a goal is read."""
    body, opened = json_body(), open_model(model_id)
    part = opened.model.part(str(body.get("part", "")))
    figure = figure_of(str(body.get("figure") or "")[:120], opened.model, part)
    try:
        value = goal_of(figure, str(body.get("text") or "")[:120], opened.model)
    except BadInput as problem:
        return jsonify(GoalRead(text="", problem=str(problem)))
    return jsonify(GoalRead(text=figure.say(value, opened.model), problem=""))


@blueprint.post("/api/models/<model_id>/lighten")
def lighten(model_id: str) -> ResponseReturnValue:
    """The values of some parameters at which the part is lightest and still as it must be."""
    body = json_body()
    names, still = body.get("parameters"), body.get("still")
    if not isinstance(names, list) or not all(isinstance(n, str) for n in names) or not isinstance(still, dict):
        raise BadInput("Choose the parameters that may change.")
    ticket = ticket_of(model_id, body.get("ticket"))
    return jsonify(
        looking.lighten(builder(), open_model(model_id, "change"), str(body.get("part", "")), names[:10], still, ticket)
    )


@blueprint.post("/api/models/<model_id>/explain")
def explain(model_id: str) -> ResponseReturnValue:
    """Single slips that would account for what is off, likeliest first."""
    body = json_body()
    opened = open_model(model_id, "change")
    return jsonify(
        looking.explain(builder(), opened, str(body.get("part", "")), ticket_of(model_id, body.get("ticket")))
    )


@blueprint.post("/api/models/<model_id>/measure")
def measure(model_id: str) -> ResponseReturnValue:
    """One or two picked things measured."""
    body = json_body()
    things = body.get("things")
    if not isinstance(things, list) or not 1 <= len(things) <= 2:
        raise BadInput("Pick one or two things to measure.")
    ticket = ticket_of(model_id, body.get("ticket"))
    return jsonify(looking.measure(builder(), open_model(model_id), str(body.get("part", "")), things, ticket))


@blueprint.post("/api/models/<model_id>/fit")
def fit(model_id: str) -> ResponseReturnValue:
    """Whether the bodies of a part go together, and what would cure it."""
    body = json_body()
    opened = open_model(model_id)
    text = str(body.get("play") or "")[:400] or f"{USUAL_PLAY} mm"
    play = evaluate(text, opened.model.table.values, wanted=LENGTH, length_unit=opened.model.units).value
    ticket = ticket_of(model_id, body.get("ticket"))
    found = laying.check_fit(builder(), opened, str(body.get("part", "")), play, ticket)
    told: FitShown = {**found, "play": show(play, LENGTH, opened.model.read_in), "revision": opened.revision}
    return jsonify(told)


@blueprint.get("/models/<model_id>/parts/<part_id>/hand-in.<any(pdf, png):kind>")
def hand_in(model_id: str, part_id: str, kind: str) -> ResponseReturnValue:
    """One page to hand in: picture, steps, Weigh & size, checks."""
    opened = open_model(model_id, "copy")
    name = current_user.name if current_user.is_authenticated else ""
    name, media, data = looking.hand_in(builder(), opened, part_id, kind, name)
    return as_download(name, media, data)


@blueprint.post("/api/models/<model_id>/revisions/<int:number>/look")
def look_at(model_id: str, number: int) -> ResponseReturnValue:
    """A part as it was at a revision: its bodies, its steps in words."""
    body = json_body()
    older = modelling.look_at(database(), me(), model_id, number)
    wanted = str(body.get("part", ""))
    part = next((p for p in older.model.there if p.id == wanted), older.model.there[0])
    built = builder().build(older, part.id, ticket_of(model_id, body.get("ticket")))
    limit = len(part.steps) if part.now is None else part.now
    units = weighing.Units(older.model.units, "oz" if older.model.units == "in" else "g")
    whole = weighing.rows(weighed_of(built), units) if built["bodies"] else []
    told: LookedAt = {
        "bodies": built["bodies"],
        "steps": [
            {"title": older.model.title_of(s.id), "text": full_sentence(s, older.model), "out": s.skipped or n >= limit}
            for n, s in enumerate(part.steps)
        ],
        "parameters": [f"{p.name} = {p.formula}" for p in older.model.parameters],
        "facts": [(r.what, r.text) for r in whole if r.what in ("mass", "volume", "box")],
    }  # fmt: skip
    return jsonify(told)
