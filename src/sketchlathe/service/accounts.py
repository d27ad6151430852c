"""Signing up and in."""

from __future__ import annotations

import re
from functools import lru_cache

from argon2 import PasswordHasher
from argon2.exceptions import VerificationError
from sqlalchemy import select
from sqlalchemy.exc import IntegrityError

from ..core.errors import BadInput
from ..store import Database, Person, Project

_HASHER = PasswordHasher()
MIN_PASSWORD = 10


@lru_cache(maxsize=1)
def _nobody() -> str:
    """A hash to check against when there is no such person: a wrong address then takes as long as a wrong password."""
    return _HASHER.hash("nobody has this password")


def sign_up(database: Database, name: str, email: str, password: str) -> Person:
    """A new person with a first project. Raises ``BadInput`` naming the field."""
    name, email = name.strip(), email.strip().lower()
    if not 1 <= len(name) <= 80:
        raise BadInput("Your name needs 1 to 80 characters.", where="name")
    if not re.fullmatch(r"[^@\s]+@[^@\s]+", email) or len(email) > 200:
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
        person = session.scalar(select(Person).where(Person.email == email.strip().lower()[:200]))
    try:
        _HASHER.verify(person.password_hash if person else _nobody(), password[:200])
    except VerificationError:
        person = None
    if person is None:
        raise BadInput("This e-mail address and password do not go together.", where="email")
    return person


def find_person(database: Database, person_id: str) -> Person | None:
    """The person with this id."""
    with database.transaction() as session:
        return session.get(Person, person_id)
