"""Signing up and in."""

from __future__ import annotations

import hashlib
import re
import secrets
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import timedelta
from functools import lru_cache
from pathlib import Path

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import bindparam, delete, select
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from ..core.errors import BadInput, NotFound
from ..store import Database, Person, Project, ResetLink, SignIn
from ..store.tables import now
from .quotas import Holding, holding

_HASHER = PasswordHasher()
HASHES, PATIENCE = 4, 20.0  # at a time in a process; how long (s) one waits for a turn
_seats = threading.BoundedSemaphore(HASHES)
MIN_PASSWORD = 10
# what people take for a password when ten characters are asked for; digits behind it, and signs, change nothing
COMMON = frozenset((Path(__file__).parent / "common_passwords.txt").read_text().split())
SIGNED_IN_FOR = timedelta(days=60)


def clean(text: str) -> str:
    """A name as it is kept: in one line, without characters that are none."""
    return " ".join("".join(c if c.isprintable() or c.isspace() else " " for c in text).split())


def address(email: str) -> str:
    """An e-mail address as it is kept, looked up and counted: what looks the same is the same."""
    return clean(email).lower()[:200]


@contextmanager
def _hashing() -> Iterator[None]:
    """A seat for hashing a password: each takes 64 MB, so few at a time. Raises ``BadInput`` when none is free."""
    if not _seats.acquire(timeout=PATIENCE):
        raise BadInput("Many people are signing in just now: try again in a moment.", where="email")
    try:
        yield
    finally:
        _seats.release()


def _hashed(password: str) -> str:
    with _hashing():
        return _HASHER.hash(password)


def _is(password: str, hashed: str) -> bool:
    """Whether a password is the one that was hashed; where there is none (the demo's people) nothing is."""
    with _hashing():
        try:
            return _HASHER.verify(hashed, password[:200])
        except (VerificationError, InvalidHashError):
            return False


@lru_cache(maxsize=1)
def _nobody() -> str:
    """A hash to check against when there is no such person: a wrong address then takes as long as a wrong password."""
    return _HASHER.hash("nobody has this password")


def sign_up(database: Database, name: str, email: str, password: str) -> Person:
    """A new person with a first project. Raises ``BadInput`` naming the field."""
    name, email = clean(name), address(email)
    if not 1 <= len(name) <= 80:
        raise BadInput("Your name needs 1 to 80 characters.", where="name")
    if not re.fullmatch(r"[^@\s\x00-\x1f\x7f]+@[^@\s\x00-\x1f\x7f]+", email) or len(email) > 200:
        raise BadInput("That does not look like an e-mail address.", where="email")
    _check_password(password)
    hashed = _hashed(password)
    try:
        with database.transaction() as session:
            person = Person(name=name, email=email, password_hash=hashed)
            session.add(person)
            session.flush()
            session.add(Project(owner_id=person.id, name="First project"))
    except IntegrityError as error:
        there = known(database, email)
        if there is None:
            raise
        raise Taken(there) from error
    return person


class Taken(BadInput):
    """There is an account with that address: ``person``'s."""

    def __init__(self, person: Person) -> None:
        super().__init__("There is an account with this e-mail address already: sign in instead.", where="email")
        self.person = person


def _check_password(password: str) -> None:
    if not MIN_PASSWORD <= len(password) <= 200:
        raise BadInput(f"The password needs {MIN_PASSWORD} to 200 characters.", where="password")
    plain = re.sub(r"[\W_]", "", password.lower())
    letters = re.sub(r"\d+$", "", plain)
    if len(set(plain)) < 5 or plain in "01234567890123456789" or plain in "98765432109876543210" or letters in COMMON:
        raise BadInput("That password is one of those that are tried first: take another one.", where="password")


def sign_in(database: Database, email: str, password: str) -> Person:
    """The person, or ``BadInput``. Takes as long for an unknown address as for a wrong password."""
    with database.transaction() as session:
        person = session.scalar(select(Person).where(Person.email == address(email)))
    if not _is(password, person.password_hash if person else _nobody()) or person is None:
        raise BadInput("This e-mail address and password do not go together.", where="email")
    if person.locked is not None:
        raise BadInput("This account is shut: ask whoever runs this server.", where="email")
    return person


def open_session(database: Database, person_id: str, browser: str = "") -> str:
    """A new signed-in browser; the token for its cookie. Those of long ago are forgotten."""
    token = secrets.token_urlsafe(24)
    with database.transaction() as session:
        session.execute(delete(SignIn).where(SignIn.person_id == person_id, SignIn.at < now() - SIGNED_IN_FOR))
        session.add(SignIn(id=_digest(token), person_id=person_id, browser=clean(browser)[:200]))
    return token


def close_session(database: Database, token: str) -> None:
    """The browser with this token is not signed in any more, whoever still holds its cookie."""
    with database.transaction() as session:
        session.execute(delete(SignIn).where(SignIn.id == _digest(token)))


_SIGNED_IN = select(Person.name).join(SignIn, SignIn.person_id == Person.id)
_SIGNED_IN = _SIGNED_IN.where(SignIn.id == bindparam("proof"), SignIn.at > bindparam("since"))
_SIGNED_IN = _SIGNED_IN.where(Person.id == bindparam("person"), Person.locked.is_(None))


def signed_in_name(database: Database, person_id: str, token: str) -> str | None:
    """What the person is called, if the browser with this token is signed in as them. Asked at every request."""
    given = {"proof": _digest(token), "person": person_id, "since": now() - SIGNED_IN_FOR}
    with database.glance() as session:
        return session.scalar(_SIGNED_IN, given)


def sessions(database: Database, person_id: str, token: str) -> list[tuple[SignIn, bool]]:
    """Where a person is signed in, newest first, and which of them is the browser with this token."""
    with database.transaction() as session:
        query = select(SignIn).where(SignIn.person_id == person_id, SignIn.at > now() - SIGNED_IN_FOR)
        return [(s, s.id == _digest(token)) for s in session.scalars(query.order_by(SignIn.at.desc()))]


def end_session(database: Database, person_id: str, session_id: str) -> None:
    """Sign a person's browser out, by the id of its row; an empty one: all of them."""
    with database.transaction() as session:
        query = delete(SignIn).where(SignIn.person_id == person_id)
        session.execute(query.where(SignIn.id == session_id) if session_id else query)


def change_password(database: Database, person_id: str, old: str, new: str) -> None:
    """Another password for somebody who knows the old one; all their browsers are signed out."""
    with database.transaction() as session:
        hashed = session.get_one(Person, person_id).password_hash
    if not _is(old, hashed):
        raise BadInput("That is not your password as it is now.", where="old")
    _set_password(database, person_id, new)


def _set_password(database: Database, person_id: str, password: str) -> None:
    _check_password(password)
    hashed = _hashed(password)
    with database.transaction() as session:
        session.get_one(Person, person_id).password_hash = hashed
        _shut_all_doors(session, person_id)


def _shut_all_doors(session: Session, person_id: str) -> None:
    """Every browser is signed out, every letter's link is used up."""
    session.execute(delete(SignIn).where(SignIn.person_id == person_id))
    session.execute(delete(ResetLink).where(ResetLink.person_id == person_id))


def _address_is_theirs(person: Person) -> None:
    """Somebody who has the address was here. A provider that had only said so before is no way in any more."""
    if person.address_checked is None:
        person.address_checked, person.subject = now(), None


def confirm(database: Database, token: str) -> Person:
    """The person whose address a letter's link proves; the link is used up. Raises ``NotFound``."""
    person = use_reset_link(database, token, None)
    with database.transaction() as session:
        session.execute(delete(ResetLink).where(ResetLink.person_id == person.id))
        person = session.get_one(Person, person.id)
        person.address_checked = person.address_checked or now()
        return person


def reset_link(database: Database, email: str) -> str:
    """What stands in a link by which a person gives themselves a new password, once, within a day."""
    token = secrets.token_urlsafe(24)
    with database.transaction() as session:
        person = by_email(session, email)
        session.execute(delete(ResetLink).where(ResetLink.person_id == person.id))
        session.add(ResetLink(id=_digest(token), person_id=person.id, until=now() + timedelta(days=1)))
    return token


def use_reset_link(database: Database, token: str, password: str | None) -> Person:
    """The person a link is for; with a password, theirs from now on, and the link is used up. Raises
    ``NotFound``.
    """
    with database.transaction() as session:
        link = session.get(ResetLink, _digest(token))
        if link is None or link.until < now():
            raise NotFound("This link was used already, or is more than a day old: ask for another one.")
        person = session.get_one(Person, link.person_id)
    if password is not None:
        _set_password(database, person.id, password)
        with database.transaction() as session:
            _address_is_theirs(session.get_one(Person, person.id))
    return person


def lock(database: Database, email: str, shut: bool) -> Person:
    """Shut an account, or open it again; a shut one is signed out everywhere."""
    with database.transaction() as session:
        person = by_email(session, email)
        person.locked = now() if shut else None
        if shut:
            session.execute(delete(SignIn).where(SignIn.person_id == person.id))
        return person


def known(database: Database, email: str) -> Person | None:
    """The person with an address."""
    with database.transaction() as session:
        return session.scalar(select(Person).where(Person.email == address(email)))


def by_email(session: Session, email: str) -> Person:
    """The person with an address. Raises ``NotFound``."""
    person = session.scalar(select(Person).where(Person.email == address(email)))
    if person is None:
        raise NotFound(f"There is no account with the address {email[:200]}.")
    return person


def everybody(database: Database) -> list[tuple[Person, Holding]]:
    """All people by name, with what each has and may have."""
    with database.transaction() as session:
        people = session.scalars(select(Person).order_by(Person.name))
        return [(person, holding(session, person.id)) for person in people]


def enter_from_elsewhere(
    database: Database, issuer: str, subject: str, email: str, verified: bool, name: str
) -> Person:
    """Somebody whom a sign-in provider knows. An account that was made here is theirs only where the provider has
    checked the address; whoever else got in by that account does so no longer. Otherwise the first visit makes one.
    Raises ``BadInput``.
    """
    key = f"{issuer} {subject}"[:400]
    with database.transaction() as session:
        person = session.scalar(select(Person).where(Person.subject == key))
        if person is None:
            person = session.scalar(select(Person).where(Person.email == address(email)))
            taken = person is not None and person.subject is not None and person.address_checked is not None
            if person is not None and (not verified or taken):
                raise BadInput(
                    "There is an account with this e-mail address already, and your provider does not say that the "
                    "address is yours: sign in with the password."
                )
            if person is not None:
                person.subject = key
                person.password_hash = _hashed(secrets.token_urlsafe(24))
                _shut_all_doors(session, person.id)
        if person is not None and verified and person.email == address(email):
            person.address_checked = person.address_checked or now()
    if person is None:
        made = sign_up(database, name or email.partition("@")[0], email, secrets.token_urlsafe(24))
        with database.transaction() as session:
            person = session.get_one(Person, made.id)
            person.subject = key
            person.address_checked = now() if verified else None
    if person.locked is not None:
        raise BadInput("This account is shut: ask whoever runs this server.")
    return person


def _digest(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def find_person(database: Database, person_id: str) -> Person | None:
    """The person with this id."""
    with database.transaction() as session:
        return session.get(Person, person_id)


def give_room(database: Database, email: str, models: int | None, megabytes: int | None) -> Holding:
    """Let somebody have another number of models or megabytes (0: what everybody may)."""
    with database.transaction() as session:
        person = by_email(session, email)
        if models is not None:
            person.quota_models = models or None
        if megabytes is not None:
            person.quota_mb = megabytes or None
        session.flush()
        return holding(session, person.id)
