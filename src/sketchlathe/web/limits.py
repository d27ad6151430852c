"""How often something may be tried.

Right passwords are never counted: thirty people who sign in from one address are a class. Wrong ones are counted by
account, wherever they come from, and by address. While an account is being guessed at, a browser that was signed in
to it before is still let in (its signed cookie says so).
"""

from __future__ import annotations

import hashlib
import time

from flask import current_app, request, session
from flask_limiter import Limiter
from flask_limiter.util import get_remote_address
from limits import RateLimitItem, parse
from limits.storage import MemoryStorage
from limits.strategies import MovingWindowRateLimiter, RateLimiter

from ..core.errors import BadInput
from ..service.accounts import address

PUT_BACK = 30.0  # s by which a clock must be put back for counting to begin anew
limiter = Limiter(
    get_remote_address
)  # where it counts is said in the configuration: shared, where processes are several
_alone = MovingWindowRateLimiter(MemoryStorage())


class _Clock:
    """Counts end by the clock on the wall: where that is put back they would last as long as it was put back by."""

    def __init__(self) -> None:
        self._ahead = self._now()

    @staticmethod
    def _now() -> float:
        return time.time() - time.monotonic()

    def is_put_back(self) -> bool:
        """Whether it was, since this was asked last."""
        before, self._ahead = self._ahead, self._now()
        return self._ahead < before - PUT_BACK


_clock = _Clock()


def _counting() -> RateLimiter:
    """Who counts: this process alone, while what all share does not answer."""
    if _clock.is_put_back():
        _alone.storage.reset()
        limiter.reset()
    shared = limiter.limiter
    return shared if limiter.storage.check() else _alone


class TooManyTries(BadInput):
    """Somebody guesses passwords."""


def address_limit() -> str:
    """How many accounts one address may make, and how many wrong passwords it may send."""
    return str(current_app.config["LATHE_SETTINGS"].address_limit)


def _account_limit() -> str:
    return str(current_app.config["LATHE_SETTINGS"].sign_in_limit)


def _account(email: str) -> str:
    return hashlib.sha256(address(email).encode(errors="replace")).hexdigest()[:20]


class Try:
    """One try of a password, counted before it is looked at: many at once are as many. Raises ``TooManyTries``."""

    def __init__(self, email: str) -> None:
        known = session.get("was_in") == _account(email)
        account = ("wrong known" if known else "wrong", _account(email))
        self._counts = [
            (parse(_account_limit()), account),
            (parse(address_limit()), ("wrong from", get_remote_address() or request.remote_addr or "?")),
        ]
        self._storage = _counting().storage
        held = [self._add(item, names, 1) <= item.amount for item, names in self._counts]  # all of them counted
        if not all(held):
            self.right()  # what is not even looked at counts for nothing
            raise TooManyTries("Too many wrong passwords: wait some minutes, then try again.", where="password")

    def _add(self, item: RateLimitItem, names: tuple[str, ...], amount: int) -> int:
        return self._storage.incr(item.key_for(*names), item.get_expiry(), amount)

    def right(self) -> None:
        """It was the right one, or none: it counts for nothing."""
        for item, names in self._counts:
            self._add(item, names, -1)


def right_password(email: str) -> None:
    """This browser belongs to somebody who knows the password."""
    session["was_in"] = _account(email)


LETTERS = "3 per hour"


def letter_may_go(email: str) -> bool:
    """Whether one more letter may go to an account's address; it is counted."""
    return _counting().hit(parse(LETTERS), "letter", _account(email))


CODES = "30 per hour"


def code_may_be_tried(person_id: str) -> bool:
    """Whether somebody may try one more code of a class; it is counted, right or wrong."""
    return _counting().hit(parse(CODES), "code", person_id)
