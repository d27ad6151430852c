"""Who is signed in, and the cookie that says so."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from flask import Flask, Response
from flask.sessions import SecureCookieSessionInterface, SessionMixin
from flask_login import UserMixin
from itsdangerous import SignatureExpired, TimestampSigner, URLSafeTimedSerializer


class _Signer(TimestampSigner):
    """A clock that was put back signs nobody out: what seems to be signed later than now is believed too."""

    def unsign(self, signed_value: str | bytes, max_age: int | None = None, return_timestamp: Any = False) -> Any:
        try:
            return super().unsign(signed_value, max_age, return_timestamp)
        except SignatureExpired as late:
            if late.date_signed is None or late.date_signed < datetime.now(UTC):
                raise
            return super().unsign(signed_value, None, return_timestamp)


class Sessions(SecureCookieSessionInterface):
    """Flask's signed cookie."""

    def get_signing_serializer(self, app: Flask) -> URLSafeTimedSerializer | None:
        """What signs it and reads it again."""
        serializer = super().get_signing_serializer(app)
        if serializer is not None:
            serializer.signer = _Signer
        return serializer

    def save_session(self, app: Flask, session: SessionMixin, response: Response) -> None:
        """What is kept for everybody is the same for everybody: no cookie is set with it, and the browser has it still
        when its cookies are others (``Vary: Cookie`` would have it fetch a hundred scripts again).
        """
        if not response.cache_control.public:
            super().save_session(app, session, response)


DEMO = "demo"  # in place of a token


class SignedIn(UserMixin):
    """The signed-in person, as Flask-Login wants it."""

    def __init__(self, id: str, name: str, token: str) -> None:
        self.id = id
        self.name = name
        self.token = token

    def get_id(self) -> str:
        """What the cookie holds: who, and the proof."""
        return f"{self.id}:{self.token}"
