"""How problems are answered: JSON to scripts, a small piece to htmx, a page to people."""

from __future__ import annotations

from typing import Any

from flask import current_app, jsonify, render_template, request, session
from flask.typing import ResponseReturnValue
from flask_login import current_user

from ..core.errors import BadInput, Refused, Trouble
from ..core.model.document import Part
from ..service import modelling
from ..service.building import Builder
from ..service.modelling import Opened, Stale
from ..service.rights import Right, visitor
from ..service.studies import Studies
from ..store import Database


def database() -> Database:
    """The application's database."""
    found: Database = current_app.extensions["database"]
    return found


def builder() -> Builder:
    """The application's builder."""
    found: Builder = current_app.extensions["builder"]
    return found


def studies() -> Studies:
    """The application's work in the background."""
    found: Studies = current_app.extensions["studies"]
    return found


def me() -> str:
    """Who asks: the id of the signed-in person, or who came by a link that shows the model of this address."""
    return str(current_user.id) if current_user.is_authenticated else _visitor()


SHOWN = "shown"
"""In the cookie of who is not signed in: the links they came by, by the model each shows."""


def _visitor() -> str:
    link = session.get(SHOWN, {}).get((request.view_args or {}).get("model_id"))
    return visitor(link) if link else ""


def signed_in_or_shown() -> ResponseReturnValue | None:
    """Before what may be looked at: somebody is signed in, or came by a link. What they may see is asked by each."""
    if current_user.is_authenticated or _visitor():
        return None
    found: ResponseReturnValue = current_app.login_manager.unauthorized()  # type: ignore[attr-defined]
    return found


def open_model(model_id: str, right: Right = "see") -> Opened:
    """A model that who asks has a right to."""
    return modelling.open_model(database(), me(), model_id, right)


def json_body() -> dict[str, Any]:
    """What a script sent."""
    try:
        body = request.get_json(silent=True)
        if isinstance(body, dict):
            _check_texts(body)
    except (RecursionError, ValueError):  # nested deeper, or longer numbers, than anything we ever send
        body = None
    if not isinstance(body, dict):
        raise BadInput("That request could not be understood.")
    return body


def check_text(text: str) -> None:
    """Refuse what no database can hold: the zero character, and halves of characters."""
    if "\0" in text or any("\ud800" <= c <= "\udfff" for c in text):
        raise BadInput("There is a character in this that cannot be kept; type it again without it.")


def _check_texts(value: Any) -> None:
    if isinstance(value, str):
        check_text(value)
    elif isinstance(value, dict):
        for key, inner in value.items():
            check_text(key)
            _check_texts(inner)
    elif isinstance(value, list):
        for inner in value:
            _check_texts(inner)


def part_asked(opened: Opened) -> Part:
    """The part a panel is for; the first where none is named."""
    wanted = request.args.get("part")
    return next((p for p in opened.model.there if p.id == wanted), opened.model.there[0])


def ticket_of(model_id: str, ticket: Any) -> str:
    """Under what name work for a page runs: another model's, or somebody else's, cannot be stopped with it."""
    return f"{model_id}:{me()}:{str(ticket or '')[:40]}"


def wants_json() -> bool:
    """Whether a script asked."""
    return request.is_json or request.accept_mimetypes.best == "application/json" or request.path.startswith("/api/")


def problem(error: Trouble, code: int) -> ResponseReturnValue:
    """An error in the form its asker can show."""
    if wants_json():
        body: dict[str, Any] = {"message": error.message, "where": error.where}
        if isinstance(error, Refused):
            body["fights"] = list(error.fights)
            body["words"] = list(error.words)
        if isinstance(error, Stale):
            body.update(stale=True, revision=error.revision, changes=error.changes)
        return jsonify(body), code
    if request.headers.get("HX-Request"):
        return (
            render_template("_problem.html", message=error.message),
            200,
            {"HX-Retarget": "#problem", "HX-Reswap": "innerHTML"},
        )
    return render_template("problem.html", message=error.message, code=code), code
