"""A model shown to others: to a person by their address, to a class one is in, to whoever has a link; for how much and
until when; taken back. Asking ``rights`` is all that anything else does about it.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import cast, get_args

from sqlalchemy import ColumnElement, and_, func, or_, select
from sqlalchemy.orm import Session

from ..core.errors import BadInput, NotFound, Refused
from ..store import Database, ModelRow, Person
from ..store.tables import ClassRow, Member, Showing, now
from .accounts import address as as_address
from .rights import LETS, Lets, class_for, model_for, rights_to, visitor

WORDS: dict[Lets, str] = {
    "look": "look at it", "comment": "look, and say something about it", "copy": "also copy it and take it out",
    "edit": "also change it",
}  # fmt: skip
"""For how much, in words."""
BY_LINK: tuple[Lets, ...] = ("look", "copy")
"""What a link may be for: whoever has it is nobody in particular."""
MOST = 200
"""To how many a model may be shown, those that came by a link among them."""
_GONE = "That is not shown to anybody any more."
_LINK_GONE = "This link shows nothing (any more): ask whoever sent it for another one."


@dataclass(frozen=True)
class Shown:
    """To whom a model is shown. ``to``: an address, a class's name, empty for a link; ``came``: who came by it."""

    id: str
    sort: str
    to: str
    lets: Lets
    until: datetime | None
    over: bool
    came: tuple[str, ...]


def showings(database: Database, person_id: str, model_id: str) -> list[Shown]:
    """To whom somebody shows a model of theirs, in the order in which that was said."""
    with database.transaction() as session:
        model_for(session, person_id, "manage", model_id)
        query = select(Showing, ClassRow.name).outerjoin(ClassRow, ClassRow.id == Showing.class_id)
        rows = session.execute(query.where(Showing.model_id == model_id).order_by(Showing.made, Showing.id)).all()
        names = select(Showing.through_id, Person.name).join(Person, Person.id == Showing.person_id)
        came: dict[str, list[str]] = {}
        for through, name in session.execute(names.where(Showing.through_id.in_([row.id for row, _ in rows]))):
            came.setdefault(str(through), []).append(name)
        return [
            Shown(
                row.id, row.sort, of_class or row.address, row.lets,  # type: ignore[arg-type]
                row.until, row.until is not None and row.until <= now(), tuple(sorted(came.get(row.id, ()))),
            )
            for row, of_class in rows if row.through_id is None
        ]  # fmt: skip


def _begin(session: Session, person_id: str, model_id: str, lets: str, days: int | None) -> Showing:
    model_for(session, person_id, "manage", model_id, lock=True)
    if lets not in get_args(Lets):
        raise BadInput("Say for how much it is shown.")
    if days is not None and not 1 <= days <= 3650:
        raise BadInput("A model is shown for 1 to 3650 days, or for good.")
    if (session.scalar(select(func.count()).where(Showing.model_id == model_id)) or 0) >= MOST:
        raise Refused(f"This model is shown to {MOST} already: take some of that back first.")
    return Showing(model_id=model_id, lets=lets, until=None if days is None else now() + timedelta(days=days))


def to_person(
    database: Database, person_id: str, model_id: str, address: str, lets: str, days: int | None = None
) -> None:
    """Show it to whom an address belongs. Whether there is such a person is not said: who has no account yet sees it
    once they have one and the address is proved to be theirs. Said again, it is for what was said last.
    """
    to = as_address(address)
    if "@" not in to:
        raise BadInput("Type the e-mail address that they sign in with.", where="address")
    with database.transaction() as session:
        row = _begin(session, person_id, model_id, lets, days)
        person = session.scalar(select(Person).where(Person.email == to))
        if person is not None and person.id == person_id:
            raise BadInput("That is you.", where="address")
        _instead(session, row, Showing.sort == "person", Showing.address == to)
        row.sort, row.address, row.person_id = "person", to, person.id if person is not None else None
        session.add(row)


def to_class(
    database: Database, person_id: str, model_id: str, class_id: str, lets: str, days: int | None = None
) -> None:
    """Show it to everybody in a class one is in, whoever that will be."""
    with database.transaction() as session:
        row = _begin(session, person_id, model_id, lets, days)
        class_for(session, person_id, "see", class_id)
        _instead(session, row, Showing.sort == "class", Showing.class_id == class_id)
        row.sort, row.class_id = "class", class_id
        session.add(row)


def by_link(database: Database, person_id: str, model_id: str, lets: str, days: int | None = None) -> str:
    """A link for whoever has it; its id."""
    if lets not in BY_LINK:
        raise BadInput("A link is for looking, and taking copies where you say so: name people for anything more.")
    with database.transaction() as session:
        row = _begin(session, person_id, model_id, lets, days)
        row.sort = "link"
        session.add(row)
        session.flush()
        return row.id


def _instead(session: Session, row: Showing, *same: ColumnElement[bool]) -> None:
    """What was said of the same one before is over."""
    old = select(Showing).where(Showing.model_id == row.model_id, Showing.through_id.is_(None), *same)
    for before in session.scalars(old):
        session.delete(before)


def take_back(database: Database, person_id: str, model_id: str, showing_id: str) -> None:
    """Show it no longer to one of those; who came by a link that is taken back is out too."""
    with database.transaction() as session:
        model_for(session, person_id, "manage", model_id)
        row = session.get(Showing, showing_id)
        if row is None or row.model_id != model_id:
            raise NotFound(_GONE)
        session.delete(row)


def put_away(database: Database, person_id: str, model_id: str) -> None:
    """Somebody does not want to be shown a model any longer: what was shown to them by name, or by a link, is over."""
    with database.transaction() as session:
        address = session.get_one(Person, person_id).email
        to_me = or_(Showing.person_id == person_id, and_(Showing.sort == "person", Showing.address == address))
        rows = session.scalars(select(Showing).where(Showing.model_id == model_id, to_me)).all()
        if not rows:
            raise NotFound("That is shown to a class you are in: whose model it is can take it back.")
        for row in rows:
            session.delete(row)


def came(database: Database, person_id: str | None, link: str) -> str:
    """Somebody came by a link (None: who is not signed in); the model it shows. Who is signed in finds it on their
    Shelf from then on. Raises ``NotFound``.
    """
    with database.transaction() as session:
        row = session.get(Showing, link)
        model = session.get(ModelRow, row.model_id) if row is not None else None
        if row is None or model is None or not rights_to(session, visitor(link), model):
            raise NotFound(_LINK_GONE)
        if person_id is not None and not rights_to(session, person_id, model) >= LETS[cast(Lets, row.lets)]:
            held = select(func.count()).where(Showing.model_id == model.id)
            if (session.scalar(held) or 0) >= MOST:
                raise Refused("As many people as can be have come by this link: ask whoever sent it.")
            mine = Showing(
                model_id=model.id, sort="person", person_id=person_id, through_id=row.id, lets=row.lets,
                until=row.until,
            )  # fmt: skip
            session.add(mine)
        return model.id


def whose(database: Database, model_id: str) -> str:
    """The name of whose model it is."""
    with database.transaction() as session:
        query = select(Person.name).join(ModelRow, ModelRow.owner_id == Person.id)
        return session.scalar(query.where(ModelRow.id == model_id)) or ""


def my_classes(database: Database, person_id: str) -> list[tuple[str, str]]:
    """The classes one may show something to: id and name."""
    with database.transaction() as session:
        query = select(ClassRow.id, ClassRow.name).join(Member, Member.class_id == ClassRow.id)
        return [(i, name) for i, name in session.execute(query.where(Member.person_id == person_id))]
