"""A model shown to others: to whom, the links that show it, what people say about it, who is at it just now."""

from __future__ import annotations

from typing import Any
from urllib.parse import urljoin

from flask import Blueprint, current_app, jsonify, redirect, render_template, request, session, url_for
from flask.typing import ResponseReturnValue
from flask_login import current_user, login_required
from itsdangerous import BadSignature, URLSafeSerializer

from ..core.errors import BadInput, NotFound
from ..service import commenting, modelling, showing
from ..service.rights import model_for
from . import limits
from .answers import AtIt, Comments, Here, Showings
from .bench import fresh
from .replies import SHOWN, builder, database, json_body, me, open_model, signed_in_or_shown

blueprint = Blueprint("showing", __name__)
LINKS = 20  # that a browser remembers
_LOST = "This link is not whole: copy all of it once more."


def _signer() -> URLSafeSerializer:
    return URLSafeSerializer(current_app.config["SECRET_KEY"], salt="shown by a link")


def _link(showing_id: str) -> str:
    """The address that shows a model; it can be made again at any time, and is nowhere kept."""
    return urljoin(request.host_url, url_for("showing.by_link", token=_signer().dumps(showing_id)))


@blueprint.get("/shown/<token>")
@limits.limiter.limit("300/minute")
def by_link(token: str) -> ResponseReturnValue:
    """Whoever has a link comes by it, signed in or not."""
    try:
        link = str(_signer().loads(token))
    except BadSignature:
        raise NotFound(_LOST) from None
    model_id = showing.came(database(), str(current_user.id) if current_user.is_authenticated else None, link)
    if not current_user.is_authenticated:
        kept = {**session.get(SHOWN, {})}
        kept.pop(model_id, None)
        session[SHOWN] = dict([*kept.items(), (model_id, link)][-LINKS:])
    return redirect(url_for("bench.page", model_id=model_id), 303)


# to whom


def _showings(model_id: str) -> ResponseReturnValue:
    found = showing.showings(database(), me(), model_id)
    html = render_template(
        "panels/showings.html", showings=found, words=showing.WORDS, by_link=showing.BY_LINK, link=_link,
        classes=showing.my_classes(database(), me()),
    )  # fmt: skip
    told: Showings = {"html": html, "count": sum(not s.over for s in found)}
    return jsonify(told)


@blueprint.get("/api/models/<model_id>/shown")
@login_required
def shown(model_id: str) -> ResponseReturnValue:
    """To whom it is shown, and the form for more."""
    return _showings(model_id)


@blueprint.post("/api/models/<model_id>/shown")
@login_required
def show(model_id: str) -> ResponseReturnValue:
    """Show it to one more: a person, a class, whoever has a link."""
    body = json_body()
    lets, to, days = str(body.get("lets", "")), str(body.get("to", ""))[:300], body.get("days")
    if days is not None and (not isinstance(days, int) or isinstance(days, bool)):
        raise BadInput("The days are a whole number.")
    match body.get("sort"):
        case "person":
            showing.to_person(database(), me(), model_id, to, lets, days)
        case "class":
            showing.to_class(database(), me(), model_id, to[:40], lets, days)
        case "link":
            showing.by_link(database(), me(), model_id, lets, days)
        case _:
            raise BadInput("Say to whom it is shown.")
    return _showings(model_id)


@blueprint.post("/api/models/<model_id>/shown/<showing_id>/take-back")
@login_required
def take_back(model_id: str, showing_id: str) -> ResponseReturnValue:
    """Show it to them no longer."""
    showing.take_back(database(), me(), model_id, showing_id)
    return _showings(model_id)


@blueprint.post("/models/<model_id>/put-away")
@login_required
def put_away(model_id: str) -> ResponseReturnValue:
    """Off one's own Shelf: a model that somebody else shows."""
    showing.put_away(database(), me(), model_id)
    return redirect(url_for("shelf.shelf"), 303)


# what is said


def _comments(model_id: str) -> ResponseReturnValue:
    opened = open_model(model_id)
    said = commenting.comments(database(), me(), model_id)
    steps: dict[str, int] = {}
    for one in said:
        if not one.settled:
            steps[one.step or one.part] = steps.get(one.step or one.part, 0) + 1
    html = render_template("panels/comments.html", comments=said, opened=opened, model=opened.model)
    told: Comments = {"html": html, "open": steps}
    return jsonify(told)


@blueprint.get("/api/models/<model_id>/comments")
def comments(model_id: str) -> ResponseReturnValue:
    """What was said."""
    return signed_in_or_shown() or _comments(model_id)


@blueprint.post("/api/models/<model_id>/comments")
@login_required
@limits.limiter.limit("60/minute", key_func=me)
def say(model_id: str) -> ResponseReturnValue:
    """Say something, or answer."""
    body = json_body()
    answers = body.get("answers")
    commenting.say(database(), me(), model_id, str(body.get("text", "")), body.get("about"), str(answers or "") or None)
    return _comments(model_id)


@blueprint.post("/api/models/<model_id>/comments/<comment_id>/<any(settle, reopen, delete):what>")
@login_required
def see_to(model_id: str, comment_id: str, what: str) -> ResponseReturnValue:
    """Settle a comment, take that back, delete it."""
    if what == "delete":
        commenting.delete(database(), me(), model_id, comment_id)
    else:
        commenting.settle(database(), me(), model_id, comment_id, what == "settle")
    return _comments(model_id)


# who is at it


@blueprint.post("/api/models/<model_id>/here")
def here(model_id: str) -> ResponseReturnValue:
    """Somebody is at the model, in a window of their browser: who else is, what was done since the revision that they
    see and what came of it, whether more was said.
    """
    refused = signed_in_or_shown()
    if refused is not None:
        return refused
    body = json_body()
    window, seen, at = str(body.get("window", ""))[:20], body.get("revision"), str(body.get("at", ""))[:80]
    name = current_user.name if current_user.is_authenticated else "Somebody with a link"
    with database().glance() as db:
        row = model_for(db, me(), "see", model_id)
        revision, words = row.revision, commenting.newest(db, model_id)
    mine: AtIt = {"name": name, "at": at, "who": me()}
    told: dict[str, Any] | None = None if body.get("leaves") is True else {**mine}
    there = builder().commons.here(model_id, f"{me()} {window}", told)
    since: list[str] = []
    if isinstance(seen, int) and not isinstance(seen, bool) and seen < revision:
        done = modelling.revisions(database(), me(), model_id, min(revision - seen, 5))
        since = [f"{who}: {r.summary}" for r, who in done]
    known = current_user.is_authenticated  # names are for those who are somebody here
    others = [
        AtIt(name=t["name"] if known else "somebody", at=t["at"], who="you" if known and t["who"] == me() else "")
        for w, t in there.items() if w != f"{me()} {window}"
    ]  # fmt: skip
    newest = fresh(model_id, body.get("part")) if since else None
    answer: Here = {"fresh": newest, "since": since, "said": words, "others": others}
    return jsonify(answer)
