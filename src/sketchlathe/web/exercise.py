"""The exercise that a model is for, on the Bench: what is asked, trying an answer, handing in."""

from __future__ import annotations

from typing import Any

from flask import Blueprint, jsonify, render_template
from flask.typing import ResponseReturnValue
from flask_login import login_required
from markupsafe import Markup

from ..service import answering
from ..service.modelling import Opened
from .answers import ExerciseTold
from .replies import builder, database, json_body, me, open_model, studies, ticket_of

blueprint = Blueprint("exercise", __name__)


@blueprint.before_request
@login_required
def signed_in_only() -> None:
    """Every model is somebody's."""


def panel(opened: Opened) -> Markup:
    """What is asked of the person at this model; empty where nothing is."""
    found = answering.standing(database(), me(), opened)
    return Markup(render_template("panels/exercise.html", at=found) if found else "")


def _told(opened: Opened) -> ResponseReturnValue:
    found = answering.standing(database(), me(), opened)
    html = render_template("panels/exercise.html", at=found) if found else ""
    told: ExerciseTold = {"html": html, "looking": bool(found and found.reason == answering.LOOKING)}
    return jsonify(told)


@blueprint.get("/api/models/<model_id>/exercise")
def shown(model_id: str) -> ResponseReturnValue:
    """How it stands."""
    return _told(open_model(model_id))


def _asked(model_id: str) -> tuple[Opened, tuple[Any, ...]]:
    body, opened = json_body(), open_model(model_id)
    part = opened.model.part(str(body.get("part", "")))
    asks = (database(), builder(), studies(), me(), opened, part.id, ticket_of(model_id, body.get("ticket")))
    return opened, asks


@blueprint.post("/api/models/<model_id>/exercise/answer")
def answer(model_id: str) -> ResponseReturnValue:
    """Is it right?"""
    opened, asks = _asked(model_id)
    answering.answer(*asks)
    return _told(opened)


@blueprint.post("/api/models/<model_id>/exercise/hand-in")
def hand_in(model_id: str) -> ResponseReturnValue:
    """Hand in the part as it is."""
    opened, asks = _asked(model_id)
    answering.hand_in(*asks)
    return _told(opened)


@blueprint.post("/api/models/<model_id>/exercise/withdraw")
def withdraw(model_id: str) -> ResponseReturnValue:
    """Take something back that was handed in."""
    opened = open_model(model_id)
    answering.withdraw(database(), me(), model_id, str(json_body().get("id", "")))
    return _told(opened)
