"""Signing up, in and out."""

from __future__ import annotations

from flask import Blueprint, current_app, g, redirect, render_template, request, session, url_for
from flask.typing import ResponseReturnValue
from flask_login import current_user, login_user, logout_user

from ..core.errors import BadInput
from ..service import accounts
from .answers import database
from .limits import limiter, sign_in_limit

blueprint = Blueprint("account", __name__)


def _enter(person: object) -> ResponseReturnValue:
    from .app import SignedIn

    session.clear()
    login_user(SignedIn(person.id, person.name))  # type: ignore[attr-defined]
    target = request.args.get("next", "")
    local = target.startswith("/") and not target.startswith("//") and "\\" not in target
    return redirect(target if local else url_for("shelf.shelf"))


@blueprint.route("/sign-in", methods=["GET", "POST"])
@limiter.limit(sign_in_limit, methods=["POST"])
def sign_in() -> ResponseReturnValue:
    """The sign-in page."""
    if current_user.is_authenticated:
        return redirect(url_for("shelf.shelf"))
    error, code = None, 200
    if request.method == "POST":
        try:
            return _enter(accounts.sign_in(database(), request.form.get("email", ""), request.form.get("password", "")))
        except BadInput as problem:
            error, code = problem, 422
    return render_template("sign_in.html", error=error, new=False, demo=g.demo), code


@blueprint.route("/sign-up", methods=["GET", "POST"])
@limiter.limit(sign_in_limit, methods=["POST"])
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
    logout_user()
    session.clear()
    session["stays_out"] = True
    return redirect(url_for("account.sign_in"))


@blueprint.post("/demo-sign-in")
def demo_sign_in() -> ResponseReturnValue:
    """Go on as the demo's person (only where the demo runs)."""
    if current_app.config["LATHE_SETTINGS"].demo_person:
        session.pop("stays_out", None)
    return redirect(url_for("shelf.shelf"))
