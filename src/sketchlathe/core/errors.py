"""What a person can put right. Every message is a sentence meant for them."""

from __future__ import annotations


class Trouble(Exception):
    """Something a person asked for cannot be done; ``str(trouble)`` says what happened and what to do.

    ``where`` names the place (a field, a step id, a constraint id) for the screen to mark.
    """

    def __init__(self, message: str, *, where: str | None = None) -> None:
        super().__init__(message)
        self.message = message
        self.where = where


class BadInput(Trouble):
    """What was given cannot be understood or is outside what is allowed."""


class NotFound(Trouble):
    """What is referred to is not there (any more)."""


class Refused(Trouble):
    """Understood, but it would break something; ``fights`` lists the ids it fights with,
    ``words`` says what each is.
    """

    def __init__(
        self, message: str, *, where: str | None = None, fights: tuple[str, ...] = (), words: tuple[str, ...] = ()
    ) -> None:
        super().__init__(message, where=where)
        self.fights = fights
        self.words = words


class Stopped(Trouble):
    """The person (or a newer request) stopped the work."""


class CannotBuild(Trouble):
    """A step that cannot be built as it stands. ``blame`` holds picks or points to mark in the view."""

    def __init__(self, message: str, *, where: str | None = None, blame: tuple[object, ...] = ()) -> None:
        super().__init__(message, where=where)
        self.blame = blame
        self.fixes: tuple[object, ...] = ()  # remedies (see model.advice)
