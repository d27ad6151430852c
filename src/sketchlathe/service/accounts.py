"""Signing up and in."""

from __future__ import annotations

import hashlib
import re
import secrets
from datetime import timedelta
from functools import lru_cache

from argon2 import PasswordHasher
from argon2.exceptions import VerificationError
from sqlalchemy import delete, select
from sqlalchemy.exc import IntegrityError

from ..core.errors import BadInput
from ..store import Database, Person, Project, SignIn
from ..store.tables import now

_HASHER = PasswordHasher()
MIN_PASSWORD = 10
SIGNED_IN_FOR = timedelta(days=60)


def clean(text: str) -> str:
    """A name as it is kept: in one line, without characters that are none."""
    return " ".join("".join(c if c.isprintable() or c.isspace() else " " for c in text).split())


@lru_cache(maxsize=1)
def _nobody() -> str:
    """A hash to check against when there is no such person: a wrong address then takes as long as a wrong password."""
    return _HASHER.hash("nobody has this password")


def sign_up(database: Database, name: str, email: str, password: str) -> Person:
    """A new person with a first project. Raises ``BadInput`` naming the field."""
    name, email = clean(name), email.strip().lower()
    if not 1 <= len(name) <= 80:
        raise BadInput("Your name needs 1 to 80 characters.", where="name")
    if not re.fullmatch(r"[^@\s\x00-\x1f\x7f]+@[^@\s\x00-\x1f\x7f]+", email) or len(email) > 200:
        raise BadInput("That does not look like an e-mail address.", where="email")
    if not MIN_PASSWORD <= len(password) <= 200:
        raise BadInput(f"The password needs {MIN_PASSWORD} to 200 characters.", where="password")
    try:
        with database.transaction() as session:
            person = Person(name=name, email=email, password_hash=_HASHER.hash(password))
            session.add(person)
            session.flush()
            session.add(Project(owner_id=person.id, name="First project"))
    except IntegrityError as error:
        raise BadInput(
            "There is an account with this e-mail address already: sign in instead.", where="email"
        ) from error
    return person


def sign_in(database: Database, email: str, password: str) -> Person:
    """The person, or ``BadInput``. Takes as long for an unknown address as for a wrong password."""
    with database.transaction() as session:
        person = session.scalar(select(Person).where(Person.email == clean(email).lower()[:200]))
    try:
        _HASHER.verify(person.password_hash if person else _nobody(), password[:200])
    except VerificationError:
        person = None
    if person is None:
        raise BadInput("This e-mail address and password do not go together.", where="email")
    return person


def open_session(database: Database, person_id: str) -> str:
    """A new signed-in browser; the token for its cookie. Those of long ago are forgotten."""
    token = secrets.token_urlsafe(24)
    with database.transaction() as session:
        session.execute(delete(SignIn).where(SignIn.person_id == person_id, SignIn.at < now() - SIGNED_IN_FOR))
        session.add(SignIn(id=_digest(token), person_id=person_id))
    return token


def close_session(database: Database, token: str) -> None:
    """The browser with this token is not signed in any more, whoever still holds its cookie."""
    with database.transaction() as session:
        session.execute(delete(SignIn).where(SignIn.id == _digest(token)))


def find_signed_in(database: Database, person_id: str, token: str) -> Person | None:
    """The person, if the browser with this token is signed in as them."""
    with database.transaction() as session:
        query = select(Person).join(SignIn, SignIn.person_id == Person.id)
        found = query.where(SignIn.id == _digest(token), Person.id == person_id, SignIn.at > now() - SIGNED_IN_FOR)
        return session.scalar(found)


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def find_person(database: Database, person_id: str) -> Person | None:
    """The person with this id."""
    with database.transaction() as session:
        return session.get(Person, person_id)
