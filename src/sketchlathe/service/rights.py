"""Who may do what: the one place that is asked. Projects and models are their owner's alone; in a class somebody is a
student, a helper or a teacher. What is somebody else's is as good as not there, so that nobody learns of it.
"""

from __future__ import annotations

from typing import Literal

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from ..core.errors import NotFound
from ..store.tables import ClassRow, Doing, ExerciseRow, Member, ModelRow, Project, now

Right = Literal["see", "change", "manage"]
"""To look at it and take copies; to edit what is in it; to name it, move it, put it in the bin, delete it."""
Role = Literal["owner", "stranger"]
_RIGHTS: dict[Role, frozenset[Right]] = {"owner": frozenset({"see", "change", "manage"}), "stranger": frozenset()}

GONE_PROJECT = "There is no such project on your Shelf."
GONE_MODEL = "There is no such model on your Shelf."


def role_of(person_id: str, thing: Project | ModelRow) -> Role:
    """What somebody is to a project or model."""
    return "owner" if thing.owner_id == person_id else "stranger"


def may(person_id: str, right: Right, thing: Project | ModelRow) -> bool:
    """Whether somebody has a right to a project or model."""
    return right in _RIGHTS[role_of(person_id, thing)]


def project_for(session: Session, person_id: str, right: Right, project_id: str) -> Project:
    """A project that somebody has this right to. Raises ``NotFound``."""
    project = session.get(Project, project_id)
    if project is None or not may(person_id, right, project):
        raise NotFound(GONE_PROJECT)
    return project


def model_for(session: Session, person_id: str, right: Right, model_id: str, *, lock: bool = False) -> ModelRow:
    """A model that somebody has this right to. Raises ``NotFound``."""
    query = select(ModelRow).where(ModelRow.id == model_id)
    row = session.scalar(query.with_for_update() if lock else query)
    if row is None or not may(person_id, right, row):
        raise NotFound(GONE_MODEL)
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
