"""The application factory."""

from __future__ import annotations

import threading
from typing import Any
from urllib.parse import urlsplit

from flask import Flask, Response, g, redirect, request, session, url_for
from flask.json.provider import DefaultJSONProvider
from flask.typing import ResponseReturnValue
from flask_login import LoginManager, current_user, login_user
from flask_talisman import Talisman
from flask_wtf.csrf import CSRFError, CSRFProtect
from werkzeug.exceptions import HTTPException, RequestEntityTooLarge
from werkzeug.middleware.proxy_fix import ProxyFix

from ..core.errors import BadInput, NotFound, Refused, Stopped, Trouble
from ..core.plain_json import dumped
from ..service import accounts, answering, exercises, following
from ..service.building import Builder
from ..service.commons import SharedCommons, TooMuch
from ..service.flexing import flex
from ..service.modelling import Stale
from ..service.post import post_at
from ..service.printing import PrinterLink
from ..service.replaying import replay
from ..service.rights import NotYours
from ..service.studies import Studies, Work
from ..store import Database, DatabaseGone
from ..workers import LocalEngine, LocalWorkers
from ..workers.blob_places import blobs_at
from ..workers.distributed import DistributedEngine
from ..workers.exchange import QueueGone
from . import (
    account,
    bench,
    classes,
    exchange,
    exercise,
    files,
    handbook,
    panels,
    printing,
    proving,
    shelf,
    showing,
    socket,
    varying,
    watching,
)
from .limits import limiter
from .replies import check_text, problem, wants_json
from .settings import Settings
from .signed_in import DEMO, Sessions, SignedIn

LOOPBACK = {"127.0.0.1", "::1"}
AREAS = (
    account,
    shelf,
    classes,
    bench,
    showing,
    panels,
    proving,
    exercise,
    varying,
    printing,
    exchange,
    handbook,
    files,
)


_COMPACT = {"separators": (",", ":")}


class Json(DefaultJSONProvider):
    """Answers as they are, in the order that they were made in: M2 comes before M10."""

    sort_keys = False

    def dumps(self, obj: Any, **kwargs: Any) -> str:
        """See ``plain_json``."""
        return dumped(obj) if kwargs in ({}, _COMPACT) else super().dumps(obj, **kwargs)


def create_app(settings: Settings, database: Database, workers: LocalWorkers | None) -> Flask:
    """The application over a database and workers: its own, or those that are met through Redis."""
    app = Flask(__name__, static_folder=None)  # files are served by ``files``
    app.json = Json(app)
    app.jinja_env.policies["json.dumps_kwargs"] = {}
    app.config.update(
        SECRET_KEY=settings.secret,
        SESSION_COOKIE_NAME="lathe",
        SESSION_COOKIE_HTTPONLY=True,
        SESSION_COOKIE_SAMESITE="Lax",
        SESSION_COOKIE_SECURE=settings.secure_cookies,
        MAX_CONTENT_LENGTH=FILE,
        WTF_CSRF_TIME_LIMIT=None,
        SOCK_SERVER_OPTIONS={"ping_interval": 25, "max_message_size": 200_000},
        LATHE_SETTINGS=settings,
        RATELIMIT_STORAGE_URI=settings.redis or "memory://",
        RATELIMIT_KEY_PREFIX="lathe:",
        RATELIMIT_IN_MEMORY_FALLBACK_ENABLED=bool(settings.redis),
    )
    if settings.proxies:
        app.wsgi_app = ProxyFix(  # type: ignore[method-assign]
            app.wsgi_app, x_for=settings.proxies, x_proto=settings.proxies, x_host=0
        )
    app.session_interface = Sessions()
    app.extensions["database"] = database
    app.extensions["builder"] = builder = _builder(settings, workers)
    threading.Thread(target=builder.blobs.trim, daemon=True).start()
    # what a process that ended left undone is gone on with
    app.extensions["studies"] = studies = Studies(database, builder, sorts_of(database))
    studies.wake()
    if settings.printer_port:
        app.extensions["printer"] = PrinterLink(settings.printer_port)
    watching.watch(app, builder.engine)
    _sizes(app)
    CSRFProtect(app)
    limiter.init_app(app)
    app.extensions["post"] = post_at(settings.post, settings.sender)
    _security(app, settings)
    _accounts(app, settings, database)
    for area in AREAS:
        app.register_blueprint(area.blueprint)
    if settings.provider:
        from . import elsewhere  # what it takes to speak to one takes a moment to load

        elsewhere.connect(app, settings.provider)
    socket.sock.init_app(app)
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    files.register_helpers(app, settings.scripts)
    _errors(app, settings)
    return app


def sorts_of(database: Database) -> dict[str, Work]:
    """What can be done in the background."""
    return {
        "flex": flex, "replay": replay(database), exercises.SORT: exercises.find_numbers(database),
        answering.REASONS: answering.find_reasons(database), following.SORT: following.follow(database),
    }  # fmt: skip


def _builder(settings: Settings, workers: LocalWorkers | None) -> Builder:
    blobs = blobs_at(str(settings.blobs))
    if workers is not None:
        return Builder(LocalEngine(workers, blobs, settings.build_limit))
    return Builder(DistributedEngine(settings.redis, blobs, settings.build_limit), SharedCommons(settings.redis))


FILE, JSON, LETTER = 25_000_000, 4_000_000, 64_000
"""Bytes that a request may bring: files; what a script says, which is taken apart in the web process and becomes many
times as much there; anything from somebody who is not signed in.
"""


def _sizes(app: Flask) -> None:
    @app.before_request
    def as_much_as_is_meant() -> None:
        """Before anything reads what was sent."""
        if request.method == "POST":
            most = JSON if request.mimetype.endswith("json") else FILE
            request.max_content_length = most if current_user.is_authenticated else LETTER


def _security(app: Flask, settings: Settings) -> None:
    Talisman(
        app,
        force_https=False,
        strict_transport_security=settings.secure_cookies,
        session_cookie_secure=settings.secure_cookies,
        content_security_policy={
            "default-src": "'none'",
            "script-src": "'self'",
            "style-src": "'self'",
            "font-src": "'self'",
            "img-src": "'self' data: blob:",
            "connect-src": "'self'",
            "form-action": "'self'",
            "frame-ancestors": "'none'",
            "base-uri": "'none'",
        },
        content_security_policy_nonce_in=["script-src"],
        referrer_policy="same-origin",
    )

    @app.after_request
    def not_kept(response: Response) -> Response:
        """What nobody said may be kept is not kept by browsers, nor by what stands between."""
        response.headers.setdefault("Cache-Control", "no-store")
        return response


def _accounts(app: Flask, settings: Settings, database: Database) -> None:
    login = LoginManager(app)
    login.login_view = "account.sign_in"
    login.login_message = ""
    # "basic" only marks sessions as not fresh, which nothing here asks, and writes the cookie anew at every request
    login.session_protection = None

    @login.unauthorized_handler
    def not_signed_in() -> ResponseReturnValue:
        """A page leads to the sign-in page. Pictures, meshes and scripts of a page that is being left do not: the
        sign-in page that came of it would put a form token of its own in the place of the one the person is looking
        at.
        """
        if request.headers.get("Sec-Fetch-Dest", "document") == "document" and not wants_json():
            return redirect(url_for("account.sign_in", next=request.full_path.rstrip("?")))
        signed_out = Trouble("You are signed out: sign in to go on.")
        asked_by_a_script = wants_json() or "HX-Request" in request.headers
        return problem(signed_out, 401) if asked_by_a_script else (signed_out.message, 401)

    @login.user_loader
    def load(key: str) -> SignedIn | None:
        person_id, _, token = key.partition(":")
        if token == DEMO:
            # the demo's person needs no proof, but is there for this machine only
            known = settings.demo_person == person_id and request.remote_addr in LOOPBACK
            person = accounts.find_person(database, person_id) if known else None
            name = person.name if person else None
        else:
            name = accounts.signed_in_name(database, person_id, token)
        return SignedIn(person_id, name, token) if name is not None else None

    @app.before_request
    def demo_answers_to_this_machine_only() -> ResponseReturnValue | None:
        """A page elsewhere whose name leads here (DNS rebinding) would come signed in."""
        g.demo = settings.demo_person is not None
        if not g.demo or urlsplit(f"//{request.host}").hostname in (*LOOPBACK, "localhost"):
            return None
        port = request.host.rpartition(":")[2]
        return problem(Trouble(f"The demo answers on this machine only: open http://127.0.0.1:{port}/."), 403)

    @app.before_request
    def demo_signs_itself_in() -> None:
        if request.endpoint == "files.static_file":  # a page has a hundred of them, which ask for nobody
            return
        wanted = settings.demo_person and request.remote_addr in LOOPBACK and not session.get("stays_out")
        if wanted and not current_user.is_authenticated:
            person = accounts.find_person(database, str(settings.demo_person))
            if person is not None:
                login_user(SignedIn(person.id, person.name, DEMO))

    @app.before_request
    def what_cannot_be_kept() -> None:
        """Characters that a database cannot hold are refused wherever they come in."""
        for text in (request.path, *request.args.values(), *request.args, *request.form.values()):
            check_text(text)


def _errors(app: Flask, settings: Settings) -> None:
    codes = {
        QueueGone: 503, TooMuch: 429, BadInput: 422, NotFound: 404, NotYours: 403, Refused: 409, Stale: 409,
        Stopped: 499,
    }  # fmt: skip

    @app.errorhandler(Trouble)
    def trouble(error: Trouble):  # type: ignore[no-untyped-def]
        code = next((codes[c] for c in type(error).__mro__ if c in codes), 422)
        return problem(error, code)

    @app.errorhandler(CSRFError)
    def csrf(error: CSRFError):  # type: ignore[no-untyped-def]
        return problem(Trouble("This page is too old to change anything: reload it and do it again."), 400)

    @app.errorhandler(RequestEntityTooLarge)
    def too_large(error: RequestEntityTooLarge):  # type: ignore[no-untyped-def]
        most = (request.max_content_length or FILE) / 1e6
        return problem(Trouble(f"That is too large: at most {most:g} MB can be sent here."), 413)

    @app.errorhandler(DatabaseGone)
    def no_database(error: DatabaseGone):  # type: ignore[no-untyped-def]
        return problem(
            Trouble("The database does not answer just now. Nothing that was saved is lost: try again."), 503
        )

    @app.errorhandler(HTTPException)
    def http(error: HTTPException):  # type: ignore[no-untyped-def]
        words = {
            404: "There is nothing at this address.",
            405: "That cannot be done at this address.",
            429: "Too many tries: wait a minute, then try again.",
            400: "That request could not be understood.",
        }
        return problem(Trouble(words.get(error.code or 500, error.name)), error.code or 500)

    @app.errorhandler(500)
    def broken(error: Exception):  # type: ignore[no-untyped-def]
        return problem(Trouble("Something went wrong here, and it is our fault. Nothing that was saved is lost."), 500)

    @app.context_processor
    def always() -> dict[str, object]:
        return {"demo": getattr(g, "demo", False), "settings": settings}
