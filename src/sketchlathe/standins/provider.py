"""The Practice provider: an OpenID Connect provider on loopback whose people are made up, and who need no password.

Authorization code flow with PKCE (RFC 7636) and RS256 identity tokens (OpenID Connect Core 1.0, section 3.1).
"""

from __future__ import annotations

import base64
import hashlib
import secrets
import time
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlencode

from flask import Flask, abort, jsonify, redirect, render_template_string, request
from flask.typing import ResponseReturnValue
from joserfc import jwt
from joserfc.jwk import RSAKey

PEOPLE: dict[str, dict[str, Any]] = {
    "pia": {"name": "Pia Holm", "email": "pia.holm@weather-post.example", "email_verified": True},
    "ivo": {"name": "Ivo Marsh", "email": "ivo.marsh@weather-post.example", "email_verified": True},
    "una": {"name": "Una Vale", "email": "una.vale@weather-post.example", "email_verified": False},
}
_PAGE = """<!doctype html><html lang="en"><title>Practice provider</title><h1>Who are you?</h1>
<ul>{% for id, person in people.items() %}
<li><a href="{{ url }}&amp;who={{ id }}">{{ person.name }}</a></li>{% endfor %}
</ul></html>"""


@dataclass(frozen=True)
class _Code:
    who: str
    client: str
    back: str
    nonce: str
    challenge: str
    until: float


def practice_provider(issuer: str, client: str, secret: str) -> Flask:
    """The provider at an address, for one client that it knows."""
    app, key = Flask(__name__), RSAKey.generate_key(2048, {"kid": "practice", "use": "sig"})
    codes: dict[str, _Code] = {}

    @app.get("/.well-known/openid-configuration")
    def about() -> ResponseReturnValue:
        return jsonify(
            issuer=issuer, authorization_endpoint=f"{issuer}/authorize", token_endpoint=f"{issuer}/token",
            jwks_uri=f"{issuer}/keys", response_types_supported=["code"], subject_types_supported=["public"],
            id_token_signing_alg_values_supported=["RS256"], code_challenge_methods_supported=["S256"],
        )  # fmt: skip

    @app.get("/keys")
    def keys() -> ResponseReturnValue:
        return jsonify(keys=[key.as_dict(private=False)])

    @app.get("/authorize")
    def authorize() -> ResponseReturnValue:
        asked = request.args
        if asked.get("client_id") != client or asked.get("code_challenge_method") != "S256":
            abort(400)
        if asked.get("who") not in PEOPLE:
            return render_template_string(_PAGE, people=PEOPLE, url=f"/authorize?{urlencode(list(asked.items()))}")
        code = secrets.token_urlsafe(16)
        codes[code] = _Code(
            asked["who"], client, asked["redirect_uri"], asked.get("nonce", ""), asked["code_challenge"],
            time.time() + 60,
        )  # fmt: skip
        return redirect(f"{asked['redirect_uri']}?{urlencode({'code': code, 'state': asked.get('state', '')})}")

    @app.post("/token")
    def token() -> ResponseReturnValue:
        told, given = request.form, request.authorization
        code = codes.pop(told.get("code", ""), None)
        known = given is not None and (given.username, given.password) == (client, secret)
        if code is None or not known or code.until < time.time() or code.back != told.get("redirect_uri"):
            return jsonify(error="invalid_grant"), 400
        digest = hashlib.sha256(told.get("code_verifier", "").encode()).digest()
        if base64.urlsafe_b64encode(digest).rstrip(b"=").decode() != code.challenge:
            return jsonify(error="invalid_grant"), 400
        now = int(time.time())
        claims = {
            "iss": issuer, "sub": code.who, "aud": client, "iat": now, "exp": now + 300, "nonce": code.nonce,
            **PEOPLE[code.who],
        }  # fmt: skip
        signed = jwt.encode({"alg": "RS256", "kid": "practice"}, claims, key)
        return jsonify(access_token=secrets.token_urlsafe(16), token_type="Bearer", expires_in=300, id_token=signed)

    return app
