"""Who may do what: the one place that is asked. Projects are their owner's alone; a model is its owner's, and of those
it was shown to for as much as was said; in a class somebody is a student, a helper or a teacher. What is somebody
else's is as good as not there, so that nobody learns of it.

Whoever came by a link and is not signed in is ``visitor(link)`` where others have a person's id.
"""

from __future__ import annotations

from typing import Literal, cast, get_args

from sqlalchemy import ColumnElement, and_, or_, select, union_all
from sqlalchemy.orm import Session

from ..core.errors import NotFound, Trouble
from ..store.tables import ClassRow, Doing, ExerciseRow, Member, ModelRow, Person, Project, Showing, now

Right = Literal["see", "comment", "copy", "change", "manage"]
"""To look at it; to say something about it; to take files and copies of it; to edit what is in it; to move it, show
it to others, put it in the bin, delete it.
"""
Lets = Literal["look", "comment", "copy", "edit"]
"""For how much a model is shown to somebody."""
_ORDER: tuple[Right, ...] = ("see", "comment", "copy", "change")
LETS: dict[Lets, frozenset[Right]] = {word: frozenset(_ORDER[: k + 1]) for k, word in enumerate(get_args(Lets))}
EVERYTHING: frozenset[Right] = frozenset(get_args(Right))

GONE_PROJECT = "There is no such project on your Shelf."
GONE_MODEL = "There is no such model on your Shelf."
_ONLY = {
    "comment": "This model was shown to you to look at: ask whose it is to let you say something about it.",
    "copy": "This model was shown to you without leave to take it out: ask whose it is for that.",
    "change": "This model was shown to you, and is not yours to change. A copy of it would be.",
    "manage": "That is for whose model it is.",
}


class NotYours(Trouble):
    """Somebody may see this, but not do that."""


def visitor(link: str) -> str:
    """Who it is that came by a link and is not signed in."""
    return f"link {link}"


def is_visitor(person_id: str) -> bool:
    """Whether that is nobody's id, but who came by a link."""
    return person_id.startswith("link ")


def _is_shown(person_id: str) -> ColumnElement[bool]:
    """Whether a showing is for somebody, and still."""
    lasts = or_(Showing.until.is_(None), Showing.until > now())
    if is_visitor(person_id):
        return and_(Showing.sort == "link", Showing.id == person_id.removeprefix("link "), lasts)
    # each by an index of its own, so that it is no matter how much all others show each other
    by_name = select(Showing.id).where(Showing.person_id == person_id)
    by_class = (
        select(Showing.id)
        .join(Member, Member.class_id == Showing.class_id)
        .join(ClassRow, ClassRow.id == Member.class_id)
        .where(Member.person_id == person_id, or_(ClassRow.kept_until.is_(None), ClassRow.kept_until > now()))
    )
    # an address that was named before it had an account counts once it is proved
    by_address = (
        select(Showing.id)
        .join(Person, Person.email == Showing.address)
        .where(Person.id == person_id, Person.address_checked.is_not(None), Showing.person_id.is_(None))
    )
    return and_(lasts, Showing.id.in_(union_all(by_name, by_class, by_address)))


def shown_to(session: Session, person_id: str) -> dict[str, Lets]:
    """Models that others show to somebody, with for how much."""
    query = select(Showing.model_id, Showing.lets).where(_is_shown(person_id))
    found: dict[str, Lets] = {}
    for model_id, lets in session.execute(query):
        found[model_id] = max(found.get(model_id, "look"), cast(Lets, lets), key=lambda word: len(LETS[word]))
    return found


def rights_to(session: Session, person_id: str, row: ModelRow) -> frozenset[Right]:
    """What somebody may do with a model: nothing where it is none of theirs."""
    if row.owner_id == person_id:
        return EVERYTHING
    if row.binned is not None:
        return frozenset()
    lets = session.scalars(select(Showing.lets).where(Showing.model_id == row.id, _is_shown(person_id)))
    found = max((LETS[cast(Lets, word)] for word in lets), key=len, default=frozenset())
    return found - {"comment"} if is_visitor(person_id) else found  # what is said is said by somebody


def project_for(session: Session, person_id: str, project_id: str) -> Project:
    """A project of somebody's. Raises ``NotFound``."""
    project = session.get(Project, project_id)
    if project is None or project.owner_id != person_id:
        raise NotFound(GONE_PROJECT)
    return project


def model_for(session: Session, person_id: str, right: Right, model_id: str, *, lock: bool = False) -> ModelRow:
    """A model that somebody has this right to. Raises ``NotFound``; ``NotYours`` where they may only see it."""
    query = select(ModelRow).where(ModelRow.id == model_id)
    row = session.scalar(query.with_for_update() if lock else query)
    rights = rights_to(session, person_id, row) if row is not None else frozenset()
    if row is None or not rights:
        raise NotFound(GONE_MODEL)
    if right not in rights:
        raise NotYours(_ONLY[right])
    return row


# --- classes

ClassRight = Literal["see", "teach", "manage"]
"""To see what is given out and do it; to see what everybody does, and mark it; to make exercises, to say who is in."""
ClassRole = Literal["student", "helper", "teacher"]
IN_CLASS: dict[str, frozenset[ClassRight]] = {
    "student": frozenset({"see"}),
    "helper": frozenset({"see", "teach"}),
    "teacher": frozenset({"see", "teach", "manage"}),
}

PRACTICE = "practice"
"""The id of the class that everybody is in as a student: the exercises one does alone."""

GONE_CLASS = "There is no such class among yours."
GONE_EXERCISE = "There is no such exercise in your classes."


def role_in(session: Session, person_id: str, class_id: str) -> str:
    """What somebody is in a class; empty for who is not in it, and in one whose time is over."""
    if class_id == PRACTICE:
        return "student"
    there = or_(ClassRow.kept_until.is_(None), ClassRow.kept_until > now())
    query = (
        select(Member.role)
        .join(ClassRow, ClassRow.id == Member.class_id)
        .where(Member.class_id == class_id, Member.person_id == person_id, there)
    )
    return session.scalar(query) or ""


def class_for(session: Session, person_id: str, right: ClassRight, class_id: str, *, lock: bool = False) -> ClassRow:
    """A class that somebody has this right in. Raises ``NotFound``."""
    query = select(ClassRow).where(ClassRow.id == class_id)
    row = session.scalar(query.with_for_update() if lock else query)
    if row is None or right not in IN_CLASS.get(role_in(session, person_id, class_id), ()):
        raise NotFound(GONE_CLASS)
    return row


def exercise_for(
    session: Session, person_id: str, right: ClassRight, exercise_id: str, *, lock: bool = False
) -> ExerciseRow:
    """An exercise that somebody has this right to; who only sees it does so once it is given out and has begun.
    Raises ``NotFound``.
    """
    query = select(ExerciseRow).where(ExerciseRow.id == exercise_id)
    row = session.scalar(query.with_for_update() if lock else query)
    may_do = IN_CLASS.get(role_in(session, person_id, row.class_id), frozenset()) if row is not None else frozenset()
    if row is None or right not in may_do or ("teach" not in may_do and not is_out(row)):
        raise NotFound(GONE_EXERCISE)
    return row


def is_out(row: ExerciseRow) -> bool:
    """Whether students see an exercise now."""
    return row.given is not None and (row.opens is None or row.opens <= now())


def doing_for(session: Session, person_id: str, right: Literal["do", "teach"], doing_id: str) -> Doing:
    """What somebody does at an exercise: for themselves, or for those who teach the class. Raises ``NotFound``."""
    row = session.get(Doing, doing_id)
    if row is not None:
        exercise = session.get_one(ExerciseRow, row.exercise_id)
        may_do = IN_CLASS.get(role_in(session, person_id, exercise.class_id), frozenset())
        if (right == "do" and row.person_id == person_id and may_do) or (right == "teach" and "teach" in may_do):
            return row
    raise NotFound(GONE_EXERCISE)
