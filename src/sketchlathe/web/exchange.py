"""Taking files out."""

from __future__ import annotations

from urllib.parse import quote

from flask import Blueprint, Response, request
from flask.typing import ResponseReturnValue
from flask_login import login_required

from ..core.exchange.base import DEFAULT_ANGLE, DEFAULT_CHORD
from ..service import modelling
from .answers import builder, database, me

blueprint = Blueprint("exchange", __name__)


@blueprint.get("/models/<model_id>/parts/<part_id>/take-out/<format_kind>")
@login_required  # type: ignore[misc]
def take_out(model_id: str, part_id: str, format_kind: str) -> ResponseReturnValue:
    """A part as a file."""
    opened = modelling.open_model(database(), me(), model_id)
    chord = request.args.get("chord", DEFAULT_CHORD, type=float)
    angle = request.args.get("angle", DEFAULT_ANGLE, type=float)
    name, media, data = builder().export(
        opened, part_id, format_kind, request.args.get("ticket", "")[:60], chord, angle
    )
    return as_download(name, media, data)


def as_download(name: str, media: str, data: bytes) -> Response:
    """A file for the browser to keep."""
    return Response(
        data,
        mimetype=media,
        headers={"Content-Disposition": f"attachment; filename=\"{name}\"; filename*=UTF-8''{quote(name)}"},
    )
