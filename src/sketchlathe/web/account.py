"""Signing up, in and out."""

from __future__ import annotations

import contextlib
import re

from flask import Blueprint, current_app, g, redirect, render_template, request, session, url_for
from flask.typing import ResponseReturnValue
from flask_login import current_user, login_required, login_user, logout_user

from ..core.errors import BadInput, NotFound, Trouble
from ..service import accounts
from ..store import Person
from . import limits
from .replies import database

blueprint = Blueprint("account", __name__)


def enter(person: Person) -> ResponseReturnValue:
    """Sign this browser in."""
    from .signed_in import SignedIn

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
            _check_passwords()
            limits.check_tries(email)
            person = accounts.sign_in(database(), email, request.form.get("password", ""))
            limits.right_password(email)
            return enter(person)
        except limits.TooManyTries as problem:
            error, code = problem, 429
        except BadInput as problem:
            limits.wrong_password(email)
            error, code = problem, 422
    return render_template("sign_in.html", error=error, new=False, demo=g.demo), code


def _check_passwords(*, new: bool = False) -> None:
    settings = current_app.config["LATHE_SETTINGS"]
    if not settings.passwords:
        raise BadInput(f"Here people sign in through {settings.provider.title if settings.provider else 'a provider'}.")
    if new and not settings.sign_up:
        raise BadInput("Accounts on this server are made by whoever runs it: ask them for one.")


@blueprint.route("/sign-up", methods=["GET", "POST"])
@limits.limiter.limit(limits.address_limit, methods=["POST"])
def sign_up() -> ResponseReturnValue:
    """The sign-up page."""
    error, code = None, 200
    if request.method == "POST":
        form = request.form
        try:
            _check_passwords(new=True)
            return enter(
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


@blueprint.route("/forgotten", methods=["GET", "POST"])
@limits.limiter.limit(limits.address_limit, methods=["POST"])
def forgotten() -> ResponseReturnValue:
    """A link for a new password by e-mail; what is said does not tell whether there is such an account."""
    post, site = current_app.extensions["post"], current_app.config["LATHE_SETTINGS"].site.rstrip("/")
    can, sent = post is not None and bool(site), False
    if request.method == "POST" and can:
        email = request.form.get("email", "").strip().lower()[:200]
        with contextlib.suppress(NotFound):
            link = f"{site}{url_for('account.new_password', token=accounts.reset_link(database(), email))}"
            post.send(email, "Sketch Lathe: a new password", _FORGOTTEN.format(link=link))
        sent = True
    return render_template("forgotten.html", can=can, sent=sent)


_FORGOTTEN = """Somebody, probably you, asked for a new password at Sketch Lathe.

This link is good once, for a day:
{link}

If it was not you, nothing has to be done: the password you have goes on working.
"""
_CHANGED = """The password of your account at Sketch Lathe was changed just now, and every browser was signed out.

If it was not you, ask for a new password on the sign-in page, and tell whoever runs the server.
"""


def _tell_of_change(email: str) -> None:
    post = current_app.extensions["post"]
    if post is not None:
        post.send(email, "Sketch Lathe: your password was changed", _CHANGED)


@blueprint.route("/new-password/<token>", methods=["GET", "POST"])
@limits.limiter.limit(limits.address_limit, methods=["POST"])
def new_password(token: str) -> ResponseReturnValue:
    """A new password, by a link that is good once."""
    error: Trouble | None = None
    name = accounts.use_reset_link(database(), token, None).name
    if request.method == "POST":
        try:
            person = accounts.use_reset_link(database(), token, request.form.get("password", ""))
            _tell_of_change(person.email)
            limits.right_password(person.email)  # whoever has the letter gets in, however many others guess meanwhile
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
            _tell_of_change(person.email)
            return enter(person)
        except BadInput as problem:
            limits.wrong_password(current_user.id)
            error = problem
    where = accounts.sessions(database(), current_user.id, current_user.token)
    known = accounts.find_person(database(), current_user.id)
    told = [(browser_name(signed.browser), signed, here) for signed, here in where]
    elsewhere = known is not None and known.subject is not None
    return render_template("account.html", error=error, sessions=told, elsewhere=elsewhere), 422 if error else 200


# what browsers call themselves: the first that is found is the one (others name those before them too)
_BROWSERS = {"Edg": "Edge", "OPR": "Opera", "Firefox": "Firefox", "Chrom": "Chromium or Chrome", "Safari": "Safari"}
_SYSTEMS = {"Android": "Android", "iPhone": "iPhone", "iPad": "iPad", "Windows": "Windows", "Mac OS": "macOS",
            "CrOS": "ChromeOS", "Linux": "Linux"}  # fmt: skip


def browser_name(told: str) -> str:
    """What a browser is, in words, from what it says of itself."""
    browser = next((name for mark, name in _BROWSERS.items() if mark in told), "a browser")
    system = next((name for mark, name in _SYSTEMS.items() if mark in told), "")
    return f"{browser} on {system}" if system else browser


@blueprint.post("/account/end")
@login_required
def end_session() -> ResponseReturnValue:
    """Sign a browser of one's own out."""
    accounts.end_session(database(), current_user.id, request.form.get("session", "none")[:64])
    return redirect(url_for("account.page"))
