"""Signing in through a provider (OpenID Connect): authorization code with PKCE; no passwords come here."""

from __future__ import annotations

from typing import Any

import requests
from authlib.common.errors import AuthlibBaseError  # type: ignore[import-untyped]
from authlib.integrations.flask_client import OAuth  # type: ignore[import-untyped]
from flask import Blueprint, Flask, current_app, render_template, session, url_for
from flask.typing import ResponseReturnValue
from joserfc.errors import JoseError

from ..core.errors import BadInput
from ..service import accounts
from .account import enter
from .replies import database
from .settings import Provider

blueprint = Blueprint("elsewhere", __name__)
NOT_THERE = "The sign-in of {} did not work just now: try again, or sign in with a password."


def connect(app: Flask, provider: Provider) -> None:
    """Make a provider known, and how one gets there and back."""
    app.register_blueprint(blueprint)
    app.extensions["provider"] = OAuth(app).register(
        "provider",
        server_metadata_url=f"{provider.issuer.rstrip('/')}/.well-known/openid-configuration",
        client_id=provider.client,
        client_secret=provider.secret,
        client_kwargs={"scope": "openid email profile", "code_challenge_method": "S256", "timeout": 10},
    )


def _there() -> tuple[Any, Provider]:
    return current_app.extensions["provider"], current_app.config["LATHE_SETTINGS"].provider


def _back() -> str:
    site = current_app.config["LATHE_SETTINGS"].site.rstrip("/")
    return site + url_for("elsewhere.done") if site else url_for("elsewhere.done", _external=True)


@blueprint.get("/sign-in/elsewhere")
def begin() -> ResponseReturnValue:
    """Off to the provider."""
    client, provider = _there()
    try:
        there: ResponseReturnValue = client.authorize_redirect(_back())
        return there
    except (AuthlibBaseError, JoseError, requests.RequestException, ValueError):
        return _refused(NOT_THERE.format(provider.title))


@blueprint.get("/sign-in/elsewhere/done")
def done() -> ResponseReturnValue:
    """Back from the provider."""
    client, provider = _there()
    try:
        told = client.authorize_access_token().get("userinfo") or {}
        person = accounts.enter_from_elsewhere(
            database(), str(told["iss"]), str(told["sub"]), str(told.get("email") or ""),
            told.get("email_verified") is True, str(told.get("name") or ""),
        )  # fmt: skip
    except (AuthlibBaseError, JoseError, requests.RequestException, ValueError, KeyError):
        return _refused(NOT_THERE.format(provider.title))
    except BadInput as problem:
        return _refused(problem.message)
    return enter(person)


def _refused(message: str) -> ResponseReturnValue:
    for key in [k for k in session if k.startswith("_state_")]:
        session.pop(key)
    return render_template("sign_in.html", error=BadInput(message), new=False), 422
