"""Signing up, in and out."""

from __future__ import annotations

import re

from flask import Blueprint, current_app, g, redirect, render_template, request, session, url_for
from flask.typing import ResponseReturnValue
from flask_login import current_user, login_required, login_user, logout_user

from ..core.errors import BadInput, Trouble
from ..service import accounts
from ..store import Person
from . import limits
from .answers import database

blueprint = Blueprint("account", __name__)


def _enter(person: Person) -> ResponseReturnValue:
    from .app import SignedIn

    was_in = session.get("was_in")
    session.clear()
    session["was_in"] = was_in
    login_user(SignedIn(person.id, person.name, _session_of(person)))
    target = request.args.get("next", "")
    # a place of ours: browsers take control characters out of an address, so none may be in it
    local = re.fullmatch(r"/(?![/\\])[\x21-\x5b\x5d-\x7e]*", target)
    return redirect(target if local else url_for("shelf.shelf"))


def _session_of(person: Person) -> str:
    return accounts.open_session(database(), person.id, request.headers.get("User-Agent", ""))


@blueprint.route("/sign-in", methods=["GET", "POST"])
def sign_in() -> ResponseReturnValue:
    """The sign-in page."""
    if current_user.is_authenticated:
        return redirect(url_for("shelf.shelf"))
    error: Trouble | None = None
    code = 200
    if request.method == "POST":
        email = request.form.get("email", "")
        try:
            limits.check_tries(email)
            person = accounts.sign_in(database(), email, request.form.get("password", ""))
            limits.right_password(email)
            return _enter(person)
        except limits.TooManyTries as problem:
            error, code = problem, 429
        except BadInput as problem:
            limits.wrong_password(email)
            error, code = problem, 422
    return render_template("sign_in.html", error=error, new=False, demo=g.demo), code


@blueprint.route("/sign-up", methods=["GET", "POST"])
@limits.limiter.limit(limits.address_limit, methods=["POST"])
def sign_up() -> ResponseReturnValue:
    """The sign-up page."""
    error, code = None, 200
    if request.method == "POST":
        form = request.form
        try:
            return _enter(
                accounts.sign_up(database(), form.get("name", ""), form.get("email", ""), form.get("password", ""))
            )
        except BadInput as problem:
            error, code = problem, 422
    return render_template("sign_in.html", error=error, new=True, demo=g.demo), code


@blueprint.post("/sign-out")
def sign_out() -> ResponseReturnValue:
    """End the session. The demo then waits to be asked before it signs in again."""
    if current_user.is_authenticated:
        accounts.close_session(database(), current_user.token)
    logout_user()
    was_in = session.get("was_in")
    session.clear()
    session.update(stays_out=True, was_in=was_in)
    return redirect(url_for("account.sign_in"))


@blueprint.post("/demo-sign-in")
def demo_sign_in() -> ResponseReturnValue:
    """Go on as the demo's person (only where the demo runs)."""
    if current_app.config["LATHE_SETTINGS"].demo_person:
        session.pop("stays_out", None)
    return redirect(url_for("shelf.shelf"))


@blueprint.route("/new-password/<token>", methods=["GET", "POST"])
@limits.limiter.limit(limits.address_limit, methods=["POST"])
def new_password(token: str) -> ResponseReturnValue:
    """A new password, by a link that is good once."""
    error: Trouble | None = None
    name = accounts.use_reset_link(database(), token, None)
    if request.method == "POST":
        try:
            accounts.use_reset_link(database(), token, request.form.get("password", ""))
            return redirect(url_for("account.sign_in"))
        except BadInput as problem:
            error = problem
    return render_template("new_password.html", error=error, name=name), 422 if error else 200


@blueprint.route("/account", methods=["GET", "POST"])
@login_required
def page() -> ResponseReturnValue:
    """One's own account: the password, and where one is signed in."""
    error: Trouble | None = None
    if request.method == "POST":
        old, new = request.form.get("old", ""), request.form.get("password", "")
        try:
            limits.check_tries(current_user.id)
            accounts.change_password(database(), current_user.id, old, new)
            person = accounts.find_person(database(), current_user.id)
            assert person is not None
            return _enter(person)
        except BadInput as problem:
            limits.wrong_password(current_user.id)
            error = problem
    where = accounts.sessions(database(), current_user.id, current_user.token)
    return render_template("account.html", error=error, sessions=where), 422 if error else 200


@blueprint.post("/account/end")
@login_required
def end_session() -> ResponseReturnValue:
    """Sign a browser of one's own out."""
    accounts.end_session(database(), current_user.id, request.form.get("session", "none")[:64])
    return redirect(url_for("account.page"))
