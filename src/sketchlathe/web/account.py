"""Signing up, in and out."""

from __future__ import annotations

import re

from flask import Blueprint, current_app, g, redirect, render_template, request, session, url_for
from flask.typing import ResponseReturnValue
from flask_login import current_user, login_required, login_user, logout_user

from ..core.errors import BadInput, Trouble
from ..service import accounts
from ..service.post import Post
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
            tried = limits.Try(email)
            person = accounts.sign_in(database(), email, request.form.get("password", ""))
            tried.right()
            if _letters() and person.address_checked is None:
                _ask_whose(person)
                return render_template("confirm.html", name=None, email=person.email)
            limits.right_password(email)
            return enter(person)
        except limits.TooManyTries as problem:
            error, code = problem, 429
        except BadInput as problem:
            error, code = problem, 422
    return render_template("sign_in.html", error=error, new=False, demo=g.demo), code


def _letters() -> Post | None:
    """Where letters with links can be sent: who sends them."""
    settings = current_app.config["LATHE_SETTINGS"]
    post: Post | None = current_app.extensions["post"]
    return post if settings.site else None


def _send(person: Person, subject: str, text: str, link: str = "") -> None:
    """A letter to the address that is kept, never to what somebody typed; so many an hour for one account."""
    post = current_app.extensions["post"]
    if post is not None and (not link or limits.letter_may_go(person.email)):
        site = current_app.config["LATHE_SETTINGS"].site.rstrip("/")
        token = accounts.reset_link(database(), person.email) if link else ""
        post.send(person.email, subject, text.format(link=f"{site}{url_for(link, token=token)}" if link else ""))


def _ask_whose(person: Person) -> None:
    _send(person, "Sketch Lathe: is this your address?", _CONFIRM, "account.confirm")


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
    error: Trouble | None = None
    code = 200
    if request.method == "POST":
        form = request.form
        try:
            _check_passwords(new=True)
            person = accounts.sign_up(database(), form.get("name", ""), form.get("email", ""), form.get("password", ""))
            if not _letters():
                return enter(person)
            _ask_whose(person)
            return render_template("confirm.html", name=None, email=person.email)
        except accounts.Taken as taken:
            if _letters():  # whether there is such an account is told to its owner alone
                _send(taken.person, "Sketch Lathe: you have an account", _TAKEN, "account.new_password")
                return render_template("confirm.html", name=None, email=taken.person.email)
            error, code = taken, 422
        except BadInput as problem:
            error, code = problem, 422
    return render_template("sign_in.html", error=error, new=True, demo=g.demo), code


@blueprint.route("/confirm/<token>", methods=["GET", "POST"])
@limits.limiter.limit(limits.address_limit, methods=["POST"])
def confirm(token: str) -> ResponseReturnValue:
    """An address is somebody's when they have its letter and know the password: either alone is not enough."""
    person = accounts.use_reset_link(database(), token, None)
    error: Trouble | None = None
    if request.method == "POST":
        try:
            tried = limits.Try(person.email)
            accounts.sign_in(database(), person.email, request.form.get("password", ""))
            tried.right()
            limits.right_password(person.email)
            return enter(accounts.confirm(database(), token))
        except BadInput as problem:
            error = problem
    return render_template("confirm.html", error=error, name=person.name), 422 if error else 200


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
    can, sent = _letters() is not None, False
    if request.method == "POST" and can:
        person = accounts.known(database(), request.form.get("email", ""))
        if person is not None:
            _send(person, "Sketch Lathe: a new password", _FORGOTTEN, "account.new_password")
        sent = True
    return render_template("forgotten.html", can=can, sent=sent)


_CONFIRM = """Somebody, probably you, made an account at Sketch Lathe with this address.

This link says that the address is yours; it asks for the password once, and is good for a day:
{link}

If it was not you, nothing has to be done: without this link nobody gets in.
"""
_TAKEN = """Somebody, probably you, wanted to make an account at Sketch Lathe with this address. You have one already.

If you do not know its password any more, this link gives you a new one; it is good once, for a day:
{link}
"""
_FORGOTTEN = """Somebody, probably you, asked for a new password at Sketch Lathe.

This link is good once, for a day:
{link}

If it was not you, nothing has to be done: the password you have goes on working.
"""
_CHANGED = """The password of your account at Sketch Lathe was changed just now, and every browser was signed out.

If it was not you, ask for a new password on the sign-in page, and tell whoever runs the server.
"""


@blueprint.route("/new-password/<token>", methods=["GET", "POST"])
@limits.limiter.limit(limits.address_limit, methods=["POST"])
def new_password(token: str) -> ResponseReturnValue:
    """A new password, by a link that is good once."""
    error: Trouble | None = None
    name = accounts.use_reset_link(database(), token, None).name
    if request.method == "POST":
        try:
            person = accounts.use_reset_link(database(), token, request.form.get("password", ""))
            _send(person, "Sketch Lathe: your password was changed", _CHANGED)
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
            tried = limits.Try(current_user.id)
            accounts.change_password(database(), current_user.id, old, new)
            tried.right()
            person = accounts.find_person(database(), current_user.id)
            assert person is not None
            _send(person, "Sketch Lathe: your password was changed", _CHANGED)
            return enter(person)
        except BadInput as problem:
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
