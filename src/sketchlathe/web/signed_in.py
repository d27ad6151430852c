"""Who is signed in."""

from __future__ import annotations

from flask_login import UserMixin


class SignedIn(UserMixin):
    """The signed-in person, as Flask-Login wants it."""

    def __init__(self, id: str, name: str, token: str) -> None:
        self.id = id
        self.name = name
        self.token = token

    def get_id(self) -> str:
        """What the cookie holds: who, and the proof."""
        return f"{self.id}:{self.token}"
