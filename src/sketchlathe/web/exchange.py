"""Taking files out."""

from __future__ import annotations

import json
from typing import Any
from urllib.parse import quote

from flask import Blueprint, Response, jsonify, request
from flask.typing import ResponseReturnValue
from flask_login import login_required

from ..core.errors import BadInput
from ..core.exchange.base import DEFAULT_ANGLE, DEFAULT_CHORD
from ..service import filing, modelling
from ..service.looking import section_frame
from .answers import BroughtTold
from .bench import changed
from .replies import builder, database, json_body, me, open_model, signed_in_or_shown, ticket_of

blueprint = Blueprint("exchange", __name__)
blueprint.before_request(signed_in_or_shown)


@blueprint.get("/models/<model_id>/parts/<part_id>/take-out/<format_kind>")
def take_out(model_id: str, part_id: str, format_kind: str) -> ResponseReturnValue:
    """A part as a file."""
    opened = open_model(model_id, "copy")
    how: dict[str, Any] = {
        "chord": request.args.get("chord", DEFAULT_CHORD, type=float),
        "angle": request.args.get("angle", DEFAULT_ANGLE, type=float),
        "separate": request.args.get("separate") == "1",
        "printed": request.args.get("printed") == "1",
        "sketch": request.args.get("sketch", "")[:20],
        "body": request.args.get("body", "")[:60],
    }
    for word in ("face", "section"):
        if request.args.get(word):
            how[word] = _data(request.args[word])
    if "section" in how:
        plane = how["section"]
        how["section"] = section_frame(plane.get("origin"), plane.get("normal"))
    name, media, data = filing.export(
        builder(), opened, part_id, format_kind, ticket_of(model_id, request.args.get("ticket")), how
    )
    return as_download(name, media, data)


@blueprint.post("/api/models/<model_id>/triangles")
def triangles(model_id: str) -> ResponseReturnValue:
    """How many triangles a part has at some fineness."""
    body = json_body()
    try:
        chord, angle = float(body["chord"]), float(body["angle"])
    except (KeyError, TypeError, ValueError, OverflowError):
        raise BadInput("The chord and the angle are numbers.") from None
    ticket = ticket_of(model_id, body.get("ticket"))
    return jsonify(filing.triangles(builder(), open_model(model_id), str(body.get("part", "")), chord, angle, ticket))


@blueprint.post("/api/models/<model_id>/bring")
@login_required
def bring(model_id: str) -> ResponseReturnValue:
    """Bring a file in: a step at once; curves and parameters are answered, to be placed by the person."""
    opened = open_model(model_id, "change")
    upload = request.files.get("file")
    if upload is None or not upload.filename:
        raise BadInput("Choose a file first.")
    base = request.form.get("base", type=int)
    ticket = ticket_of(model_id, request.form.get("ticket"))
    found = filing.read_file(builder(), me(), upload.filename, upload.stream.read(), ticket)
    page = {"part": request.form.get("part", ""), "sketch": request.form.get("sketch", "")}
    if found["gives"] == "step":
        fields = found["fields"]
        edit = {
            "kind": "bring_file", "part": page["part"], "step": found["step"], "file": fields["file"],
            "data": fields["data"],
        }  # fmt: skip
    elif found["gives"] == "underlay":
        edit = {"kind": "put_underlay", "sketch": page["sketch"], "picture": found["data"]}
    else:
        told: BroughtTold = {"gives": found["gives"], "data": found["data"], "notes": list(found["notes"])}
        return jsonify(told)
    opened = modelling.change(database(), me(), model_id, base, edit)
    return jsonify({"gives": found["gives"], "notes": found["notes"], **changed(opened, page)})


def _data(text: str) -> dict[str, Any]:
    try:
        found = json.loads(text)
    except ValueError:
        found = None
    if not isinstance(found, dict):
        raise BadInput("What is to be drawn could not be understood.")
    return found


def as_download(name: str, media: str, data: bytes) -> Response:
    """A file for the browser to keep."""
    return Response(
        data,
        mimetype=media,
        headers={"Content-Disposition": f"attachment; filename=\"{name}\"; filename*=UTF-8''{quote(name)}"},
    )
