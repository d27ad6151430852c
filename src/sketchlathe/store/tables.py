"""The tables. Model documents are kept whole; revisions keep RFC 6902 patches both ways."""

from __future__ import annotations

import uuid
from datetime import UTC, datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, LargeBinary, String, Text, UniqueConstraint, func
from sqlalchemy.dialects.postgresql import JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column, relationship
from sqlalchemy.types import DateTime


def new_id() -> str:
    """A random identifier (32 hexadecimal digits)."""
    return uuid.uuid4().hex


def now() -> datetime:
    """The time, with its zone."""
    return datetime.now(UTC)


class Base(DeclarativeBase):
    """All tables."""

    type_annotation_map = {
        datetime: DateTime(timezone=True), dict[str, Any]: JSONB, list[Any]: JSONB, dict[str, Any] | None: JSONB,
    }  # fmt: skip


class Person(Base):
    """Someone who can sign in."""

    __tablename__ = "people"
    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    name: Mapped[str] = mapped_column(String(80))
    email: Mapped[str] = mapped_column(String(200), unique=True)
    password_hash: Mapped[str] = mapped_column(String(200))
    created: Mapped[datetime] = mapped_column(default=now)
    locked: Mapped[datetime | None]  # whoever runs the server has shut the account
    quota_models: Mapped[int | None]  # where it is not what everybody may have
    quota_mb: Mapped[int | None]
    subject: Mapped[str | None] = mapped_column(String(400), unique=True)  # who this is at a sign-in provider
    address_checked: Mapped[datetime | None]  # when a letter, or a provider's word, proved that the address is theirs


class SignIn(Base):
    """A signed-in browser; deleted when it signs out. ``id`` is a digest of the token that its cookie holds."""

    __tablename__ = "sign_ins"
    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id", ondelete="CASCADE"), index=True)
    at: Mapped[datetime] = mapped_column(default=now)
    browser: Mapped[str] = mapped_column(String(200), default="")


class ResetLink(Base):
    """A link by which a person gives themselves a new password, once. ``id`` is a digest of what stands in it."""

    __tablename__ = "reset_links"
    id: Mapped[str] = mapped_column(String(64), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id", ondelete="CASCADE"), index=True)
    until: Mapped[datetime]


class Project(Base):
    """A shelf board: models that belong together."""

    __tablename__ = "projects"
    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    owner_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    name: Mapped[str] = mapped_column(String(120))
    created: Mapped[datetime] = mapped_column(default=now)
    binned: Mapped[datetime | None]
    models: Mapped[list[ModelRow]] = relationship(back_populates="project")


class ModelRow(Base):
    """A model as it is now. ``history`` holds the numbers of the revisions to undo and to redo."""

    __tablename__ = "models"
    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    owner_id: Mapped[str] = mapped_column(ForeignKey("people.id"), index=True)
    project_id: Mapped[str] = mapped_column(ForeignKey("projects.id"), index=True)
    name: Mapped[str] = mapped_column(String(120))
    units: Mapped[str] = mapped_column(String(4))
    steps: Mapped[int] = mapped_column(default=0)
    # loaded only when the revision at hand is another one
    document: Mapped[dict[str, Any]] = mapped_column(deferred=True)
    revision: Mapped[int] = mapped_column(default=0)
    history: Mapped[dict[str, Any]] = mapped_column(default=lambda: {"undo": [], "redo": []})
    created: Mapped[datetime] = mapped_column(default=now)
    changed: Mapped[datetime] = mapped_column(default=now)
    binned: Mapped[datetime | None]
    picture: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    picture_revision: Mapped[int] = mapped_column(default=-1)
    origin: Mapped[dict[str, Any] | None]  # of a copy on which something is tried: the model, its revision, its name
    project: Mapped[Project] = relationship(back_populates="models")


class BroughtFile(Base):
    """A file that was brought into a model, as it stands in documents in memory; found by its digest."""

    __tablename__ = "files"
    digest: Mapped[str] = mapped_column(String(32), primary_key=True)
    text: Mapped[str] = mapped_column(Text)
    size: Mapped[int]
    used: Mapped[datetime] = mapped_column(default=now)  # when a model last began to refer to it


class ModelFile(Base):
    """A model that has or had a file: its revisions may need it."""

    __tablename__ = "model_files"
    model_id: Mapped[str] = mapped_column(ForeignKey("models.id", ondelete="CASCADE"), primary_key=True)
    digest: Mapped[str] = mapped_column(ForeignKey("files.digest"), primary_key=True, index=True)


class Revision(Base):
    """One acknowledged change of a model."""

    __tablename__ = "revisions"
    model_id: Mapped[str] = mapped_column(ForeignKey("models.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    at: Mapped[datetime] = mapped_column(default=now)
    sort: Mapped[str] = mapped_column(String(12))  # edit, follow, undo, redo, restore
    summary: Mapped[str] = mapped_column(Text)
    forward: Mapped[list[Any]]
    backward: Mapped[list[Any]]


class Snapshot(Base):
    """A model's whole document after some of its revisions, so that none is far from one. Derived: it can be made again
    from the revisions, and is not needed to read them.
    """

    __tablename__ = "snapshots"
    model_id: Mapped[str] = mapped_column(ForeignKey("models.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    document: Mapped[dict[str, Any]]


class Study(Base):
    """Work in the background on one part of a model, that outlives the process which does it.

    ``state``: waiting, running, done, stopped, failed. ``beat``: when somebody last worked on it; whoever finds a
    running one without a beat takes it over.
    """

    __tablename__ = "studies"
    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    model_id: Mapped[str] = mapped_column(ForeignKey("models.id", ondelete="CASCADE"), index=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id"))
    part_id: Mapped[str] = mapped_column(String(20))
    sort: Mapped[str] = mapped_column(String(12))
    revision: Mapped[int]
    about: Mapped[str] = mapped_column(String(32), default="", index=True)  # beside the part: an exercise, a try
    asked: Mapped[dict[str, Any]]
    found: Mapped[dict[str, Any]] = mapped_column(default=dict)
    state: Mapped[str] = mapped_column(String(12), default="waiting", index=True)
    beat: Mapped[datetime] = mapped_column(default=now)
    made: Mapped[datetime] = mapped_column(default=now)


class ClassRow(Base):
    """People who get exercises together. Whoever has its code joins it, while it is open for that."""

    __tablename__ = "classes"
    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    name: Mapped[str] = mapped_column(String(120))
    code: Mapped[str] = mapped_column(String(40), unique=True)
    joining: Mapped[bool] = mapped_column(default=True)
    made: Mapped[datetime] = mapped_column(default=now)
    kept_until: Mapped[datetime | None]  # then it is deleted with all that was handed in


class Member(Base):
    """Somebody in a class. ``role``: student, helper, teacher."""

    __tablename__ = "members"
    class_id: Mapped[str] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id", ondelete="CASCADE"), primary_key=True, index=True)
    role: Mapped[str] = mapped_column(String(12))
    joined: Mapped[datetime] = mapped_column(default=now)


class ExerciseRow(Base):
    """An exercise of a class. It has its maker's model as it was then, whatever becomes of that."""

    __tablename__ = "exercises"
    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    class_id: Mapped[str] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    number: Mapped[int]
    title: Mapped[str] = mapped_column(String(120))
    words: Mapped[str] = mapped_column(Text, default="")
    maker_id: Mapped[str | None] = mapped_column(ForeignKey("people.id"))  # none: came with the program
    units: Mapped[str] = mapped_column(String(4))
    document: Mapped[dict[str, Any]] = mapped_column(deferred=True)  # whole, with its files
    terms: Mapped[dict[str, Any]]
    task: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    task_media: Mapped[str] = mapped_column(String(40), default="")
    opens: Mapped[datetime | None]
    ends: Mapped[datetime | None]
    given: Mapped[datetime | None]  # out to the class; before, only those who teach see it
    made: Mapped[datetime] = mapped_column(default=now)


class NumberSet(Base):
    """One set of an exercise's numbers, and what the maker's part comes to with it."""

    __tablename__ = "number_sets"
    exercise_id: Mapped[str] = mapped_column(ForeignKey("exercises.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    numbers: Mapped[dict[str, Any]]
    answers: Mapped[dict[str, Any]]
    then: Mapped[dict[str, Any] | None]  # what it comes to after the change that is asked for, where one is


class Doing(Base):
    """Somebody at an exercise: their numbers, their model, how it stands."""

    __tablename__ = "doings"
    __table_args__ = (UniqueConstraint("exercise_id", "person_id"),)
    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    exercise_id: Mapped[str] = mapped_column(ForeignKey("exercises.id", ondelete="CASCADE"), index=True)
    person_id: Mapped[str] = mapped_column(ForeignKey("people.id", ondelete="CASCADE"), index=True)
    set_number: Mapped[int]
    model_id: Mapped[str | None] = mapped_column(ForeignKey("models.id", ondelete="SET NULL"), index=True)
    opened: Mapped[datetime] = mapped_column(default=now)
    right: Mapped[datetime | None]  # when all figures were, first
    then_right: Mapped[datetime | None]
    points: Mapped[str] = mapped_column(String(40), default="")
    remark: Mapped[str] = mapped_column(Text, default="")
    marked: Mapped[datetime | None]


class Attempt(Base):
    """An answer that was tried. ``phase``: first, or then (after the change). ``shares``: how far off, by figure."""

    __tablename__ = "attempts"
    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    doing_id: Mapped[str] = mapped_column(ForeignKey("doings.id", ondelete="CASCADE"), index=True)
    at: Mapped[datetime] = mapped_column(default=now)
    revision: Mapped[int]
    phase: Mapped[str] = mapped_column(String(8))
    right: Mapped[bool]
    shares: Mapped[dict[str, Any]]
    slip: Mapped[str | None] = mapped_column(String(60))  # once a reason was looked for; empty where none was found
    reason: Mapped[str] = mapped_column(Text, default="")


class HandIn(Base):
    """What was given in, as it was then. ``shows``: what was found out about it since (see ``service.following``)."""

    __tablename__ = "hand_ins"
    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    doing_id: Mapped[str] = mapped_column(ForeignKey("doings.id", ondelete="CASCADE"), index=True)
    at: Mapped[datetime] = mapped_column(default=now)
    revision: Mapped[int]
    part_id: Mapped[str] = mapped_column(String(20))
    document: Mapped[dict[str, Any]] = mapped_column(deferred=True)  # whole, with its files
    figures: Mapped[dict[str, Any]]
    right: Mapped[bool]
    late: Mapped[bool]
    withdrawn: Mapped[datetime | None]
    shows: Mapped[dict[str, Any]] = mapped_column(default=dict)


class Showing(Base):
    """A model shown to somebody else. ``sort``: a person (by address), a class, whoever has a link (its ``id``,
    signed), or a person who came by one (``through_id``: goes with it).
    """

    __tablename__ = "showings"
    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    model_id: Mapped[str] = mapped_column(ForeignKey("models.id", ondelete="CASCADE"), index=True)
    sort: Mapped[str] = mapped_column(String(8))  # person, class, link
    address: Mapped[str] = mapped_column(String(200), default="", index=True)
    person_id: Mapped[str | None] = mapped_column(ForeignKey("people.id", ondelete="CASCADE"), index=True)
    class_id: Mapped[str | None] = mapped_column(ForeignKey("classes.id", ondelete="CASCADE"), index=True)
    through_id: Mapped[str | None] = mapped_column(ForeignKey("showings.id", ondelete="CASCADE"), index=True)
    lets: Mapped[str] = mapped_column(String(8))  # look, comment, copy, edit: each with those before it
    until: Mapped[datetime | None]
    made: Mapped[datetime] = mapped_column(default=now)


class Comment(Base):
    """What somebody says about a model, or in answer to that. ``about``: a part, a step of it; where it stands."""

    __tablename__ = "comments"
    id: Mapped[str] = mapped_column(String(32), primary_key=True, default=new_id)
    model_id: Mapped[str] = mapped_column(ForeignKey("models.id", ondelete="CASCADE"), index=True)
    answers_id: Mapped[str | None] = mapped_column(ForeignKey("comments.id", ondelete="CASCADE"), index=True)
    person_id: Mapped[str | None] = mapped_column(ForeignKey("people.id", ondelete="SET NULL"), index=True)
    name: Mapped[str] = mapped_column(String(80))  # who that was, though they may have left
    at: Mapped[datetime] = mapped_column(default=now)
    revision: Mapped[int]
    about: Mapped[dict[str, Any]] = mapped_column(default=dict)
    text: Mapped[str] = mapped_column(Text)
    settled: Mapped[datetime | None]


Index("models_by_name", func.lower(ModelRow.name))
