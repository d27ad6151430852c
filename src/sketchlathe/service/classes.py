"""Classes: who is in them, and how one comes in."""

from __future__ import annotations

import secrets
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from ..core.errors import BadInput, NotFound, Refused
from ..store import Database
from ..store.tables import ClassRow, Doing, ExerciseRow, Member, NumberSet, Person, now
from .accounts import clean
from .rights import IN_CLASS, ClassRight, class_for, role_in

MOST_CLASSES, MOST_PEOPLE = 60, 600
ROLES = {"student": "student", "helper": "helper", "teacher": "teacher"}

_HOW = (
    "brisk", "calm", "clear", "cloudy", "cold", "damp", "dewy", "dry", "early", "fair", "foggy", "fresh", "frosty",
    "gusty", "hazy", "high", "late", "light", "low", "mild", "misty", "north", "pale", "quiet", "rainy", "sharp",
    "slow", "snowy", "south", "still", "stormy", "sunny", "thawing", "warm", "wet", "white", "wide", "windy",
)  # fmt: skip
_WHAT = (
    "anvil", "arc", "barometer", "beacon", "buoy", "cirrus", "cloud", "compass", "cumulus", "dawn", "dial", "dome",
    "drift", "drizzle", "dusk", "flag", "front", "funnel", "gauge", "hail", "heron", "hill", "ice", "kite", "lantern",
    "mast", "meadow", "mist", "north", "pier", "plover", "rain", "ridge", "shore", "sleet", "squall", "stratus",
    "swift", "tern", "thaw", "tide", "vane", "wind",
)  # fmt: skip


def new_code() -> str:
    """A code that can be said aloud: three words' worth and a number, one of some three hundred million."""
    return f"{secrets.choice(_HOW)}-{secrets.choice(_WHAT)}-{secrets.choice(_HOW)}-{secrets.randbelow(9000) + 1000}"


@dataclass(frozen=True)
class Mine:
    """A class somebody is in, and what they are there."""

    id: str
    name: str
    role: str
    people: int
    exercises: int

    @property
    def teaches(self) -> bool:
        """Whether they see what everybody does."""
        return "teach" in IN_CLASS[self.role]


@dataclass(frozen=True)
class InClass:
    """Somebody in a class."""

    id: str
    name: str
    role: str
    joined: datetime


def _name(text: str) -> str:
    name = clean(text)
    if not 1 <= len(name) <= 120:
        raise BadInput(f"A class's name needs 1 to 120 characters; this has {len(name)}.", where="name")
    return name


def mine(database: Database, person_id: str) -> list[Mine]:
    """The classes somebody is in, by name. Those whose time is over, anybody's, are deleted first."""
    with database.transaction() as session:
        session.execute(delete(ClassRow).where(ClassRow.kept_until <= now()))
        people = select(func.count()).where(Member.class_id == ClassRow.id).correlate(ClassRow).scalar_subquery()
        given = (
            select(func.count())
            .where(ExerciseRow.class_id == ClassRow.id, ExerciseRow.given.is_not(None))
            .correlate(ClassRow)
            .scalar_subquery()
        )
        query = (
            select(ClassRow.id, ClassRow.name, Member.role, people, given)
            .join(Member, Member.class_id == ClassRow.id)
            .where(Member.person_id == person_id)
            .order_by(func.lower(ClassRow.name), ClassRow.id)
        )
        return [Mine(*row) for row in session.execute(query)]


def start(database: Database, person_id: str, name: str) -> ClassRow:
    """A new class, whose teacher is whoever starts it."""
    with database.transaction() as session:
        return _start(session, person_id, _name(name))


def _start(session: Session, person_id: str, name: str) -> ClassRow:
    taught = select(func.count()).where(Member.person_id == person_id, Member.role == "teacher")
    if (session.scalar(taught) or 0) >= MOST_CLASSES:
        raise Refused(f"You teach {MOST_CLASSES} classes, which is as many as one person may have: end some first.")
    row = ClassRow(name=name, code=new_code())
    session.add(row)
    session.flush()
    session.add(Member(class_id=row.id, person_id=person_id, role="teacher"))
    return row


def join(database: Database, person_id: str, code: str) -> ClassRow:
    """Come into a class as a student, by its code. Raises ``NotFound``, ``Refused``."""
    wanted = "-".join(clean(code).lower().replace("-", " ").split())[:40]
    with database.transaction() as session:
        # locked: whoever comes at the same moment as the last one that fits is counted
        row = session.scalar(select(ClassRow).where(ClassRow.code == wanted).with_for_update())
        if row is None:
            raise NotFound("No class has this code. It looks like brisk-heron-still-4120; ask your teacher for it.")
        if role_in(session, person_id, row.id):
            return row
        if not row.joining:
            raise Refused("This class takes nobody in just now: ask your teacher to let people join.")
        if (session.scalar(select(func.count()).where(Member.class_id == row.id)) or 0) >= MOST_PEOPLE:
            raise Refused(f"There are {MOST_PEOPLE} people in this class, which is as many as one may have.")
        session.execute(
            insert(Member)
            .values(class_id=row.id, person_id=person_id, role="student", joined=now())
            .on_conflict_do_nothing()
        )
        return row


def see(database: Database, person_id: str, class_id: str, right: ClassRight = "see") -> tuple[ClassRow, str]:
    """A class, and what somebody is in it. Raises ``NotFound``."""
    with database.transaction() as session:
        return class_for(session, person_id, right, class_id), role_in(session, person_id, class_id)


def people(database: Database, person_id: str, class_id: str) -> list[InClass]:
    """Who is in a class: those who teach first, then by name."""
    with database.transaction() as session:
        class_for(session, person_id, "teach", class_id)
        query = (
            select(Person.id, Person.name, Member.role, Member.joined)
            .join(Member, Member.person_id == Person.id)
            .where(Member.class_id == class_id)
            .order_by(Member.role.desc(), func.lower(Person.name), Person.id)
        )
        return [InClass(*row) for row in session.execute(query)]


def rename(database: Database, person_id: str, class_id: str, name: str) -> None:
    """Another name."""
    with database.transaction() as session:
        class_for(session, person_id, "manage", class_id).name = _name(name)


def let_join(database: Database, person_id: str, class_id: str, joining: bool) -> None:
    """Whether the code lets people in. When it does again it is another one: the old one may be known anywhere."""
    with database.transaction() as session:
        row = class_for(session, person_id, "manage", class_id, lock=True)
        if joining and not row.joining:
            row.code = new_code()
        row.joining = joining


def set_role(database: Database, person_id: str, class_id: str, other: str, role: str) -> None:
    """Make somebody in a class a student, a helper or a teacher. Raises ``Refused``: one teacher must stay."""
    if role not in ROLES:
        raise BadInput("In a class one is a student, a helper or a teacher.")
    with database.transaction() as session:
        member = _member(session, person_id, class_id, other)
        if member.role == "teacher" and role != "teacher":
            _another_teacher(session, class_id, other)
        member.role = role


def remove(database: Database, person_id: str, class_id: str, other: str) -> None:
    """Take somebody out of a class, with what they tried and handed in; their models stay theirs."""
    with database.transaction() as session:
        member = _member(session, person_id, class_id, other)
        _take_out(session, member)


def leave(database: Database, person_id: str, class_id: str) -> None:
    """Leave a class: what one tried and handed in goes, one's models stay."""
    with database.transaction() as session:
        class_for(session, person_id, "see", class_id, lock=True)
        member = session.get(Member, (class_id, person_id))
        if member is not None:  # nobody leaves what everybody has
            _take_out(session, member)


def _member(session: Session, person_id: str, class_id: str, other: str) -> Member:
    class_for(session, person_id, "manage", class_id, lock=True)
    member = session.get(Member, (class_id, other))
    if member is None:
        raise NotFound("They are not in this class (any more).")
    return member


def _another_teacher(session: Session, class_id: str, but: str) -> None:
    others = select(func.count()).where(Member.class_id == class_id, Member.role == "teacher", Member.person_id != but)
    if not session.scalar(others):
        raise Refused("A class needs a teacher: make somebody else one first, or end the class.")


def _take_out(session: Session, member: Member) -> None:
    if member.role == "teacher":
        _another_teacher(session, member.class_id, member.person_id)
    exercises = select(ExerciseRow.id).where(ExerciseRow.class_id == member.class_id)
    session.execute(delete(Doing).where(Doing.person_id == member.person_id, Doing.exercise_id.in_(exercises)))
    session.delete(member)


def end(database: Database, person_id: str, class_id: str) -> str:
    """Delete a class with its exercises and all that was handed in; its name. Everybody's models stay theirs."""
    with database.transaction() as session:
        row = class_for(session, person_id, "manage", class_id)
        session.delete(row)
        return row.name


def copy(database: Database, person_id: str, class_id: str, name: str) -> ClassRow:
    """The class anew, for other people: its exercises, not given out yet, and nobody but whoever copies it."""
    with database.transaction() as session:
        class_for(session, person_id, "manage", class_id)
        new = _start(session, person_id, _name(name))
        for row in session.scalars(select(ExerciseRow).where(ExerciseRow.class_id == class_id)):
            again = ExerciseRow(
                class_id=new.id, number=row.number, title=row.title, words=row.words, maker_id=person_id,
                units=row.units, document=row.document, terms=row.terms, task=row.task, task_media=row.task_media,
                opens=None, ends=None, given=None,
            )  # fmt: skip
            session.add(again)
            session.flush()
            for s in session.scalars(select(NumberSet).where(NumberSet.exercise_id == row.id)):
                session.add(
                    NumberSet(exercise_id=again.id, number=s.number, numbers=s.numbers, answers=s.answers, then=s.then)
                )
        return new


def keep_until(database: Database, person_id: str, class_id: str, until: datetime | None) -> None:
    """When a class is to be deleted by itself, with all that was handed in."""
    if until is not None and until <= now():
        raise BadInput("That moment is over: choose a later one, or end the class now.", where="until")
    with database.transaction() as session:
        class_for(session, person_id, "manage", class_id).kept_until = until
