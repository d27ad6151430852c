"""What people say about a model: at a part or a step of it, answered, settled. Nothing of it changes the model."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.errors import BadInput, NotFound, Refused
from ..store import Database, ModelRow, Person
from ..store.tables import Comment, now
from . import files
from .rights import NotYours, model_for, rights_to

LENGTH, MOST = 4000, 1000
"""Characters a comment may have; comments a model may have."""


@dataclass(frozen=True)
class Said:
    """A comment. ``mine``: whoever asks said it; ``step``: where it stands, empty for the part as a whole."""

    id: str
    name: str
    mine: bool
    at: datetime
    revision: int
    part: str
    step: str
    text: str
    settled: bool
    answers: tuple[Said, ...]


def comments(database: Database, person_id: str, model_id: str) -> list[Said]:
    """What was said, in that order; answers with what they answer."""
    with database.transaction() as session:
        model_for(session, person_id, "see", model_id)
        query = select(Comment).where(Comment.model_id == model_id).order_by(Comment.at, Comment.id)
        rows = session.scalars(query).all()
    answers: dict[str, list[Said]] = {}
    for row in rows:
        if row.answers_id:
            answers.setdefault(row.answers_id, []).append(_said(row, person_id, ()))
    return [_said(row, person_id, tuple(answers.get(row.id, ()))) for row in rows if not row.answers_id]


def open_by_model(database: Database, model_ids: list[str]) -> dict[str, int]:
    """How much of what was said about models is open, by model; those of whose none is are not named."""
    with database.transaction() as session:
        query = select(Comment.model_id, func.count()).where(
            Comment.model_id.in_(model_ids), Comment.answers_id.is_(None), Comment.settled.is_(None)
        )
        return {model_id: int(count) for model_id, count in session.execute(query.group_by(Comment.model_id))}


def _said(row: Comment, person_id: str, answers: tuple[Said, ...]) -> Said:
    part, step = (str(row.about.get(word, "")) for word in ("part", "step"))
    mine = row.person_id == person_id
    return Said(
        row.id, row.name, mine, row.at, row.revision, part, step, row.text, row.settled is not None, answers
    )  # fmt: skip


def newest(session: Session, model_id: str) -> str:
    """A word that is another one whenever what was said is."""
    query = select(func.count(), func.max(Comment.at), func.max(Comment.settled), func.count(Comment.settled))
    return " ".join(map(str, session.execute(query.where(Comment.model_id == model_id)).one()))


def say(
    database: Database, person_id: str, model_id: str, text: str, about: Any = None, answers: str | None = None
) -> str:
    """Say something about a model's part or step, or answer what was said; its id."""
    words = "\n".join(" ".join(line.split()) for line in str(text).splitlines()).strip()
    words = "".join(c for c in words if c.isprintable() or c == "\n")
    if not 1 <= len(words) <= LENGTH:
        raise BadInput(f"A comment has 1 to {LENGTH} characters; this has {len(words)}.")
    with database.transaction() as session:
        row = model_for(session, person_id, "comment", model_id)
        if (session.scalar(select(func.count()).where(Comment.model_id == model_id)) or 0) >= MOST:
            raise Refused(f"As much has been said about this model as can be ({MOST} comments): delete some first.")
        person = session.get_one(Person, person_id)
        made = Comment(model_id=model_id, person_id=person_id, name=person.name, revision=row.revision, text=words)
        if answers:
            first = _comment(session, model_id, answers)
            made.answers_id = first.answers_id or first.id
            first.settled = None  # there is more to say
        else:
            made.about = _about(session, row, about)
        session.add(made)
        session.flush()
        return made.id


def _about(session: Session, row: ModelRow, about: Any) -> dict[str, str]:
    told = about if isinstance(about, dict) else {}
    model = files.read(session, row.document)
    part = next((p for p in model.there if p.id == told.get("part")), None)
    if part is None:
        raise BadInput("What this is about is not in the model any more.")
    found = {"part": part.id}
    if any(s.id == told.get("step") for s in part.steps):
        found["step"] = str(told["step"])
    return found


def _comment(session: Session, model_id: str, comment_id: str) -> Comment:
    row = session.get(Comment, comment_id)
    if row is None or row.model_id != model_id:
        raise NotFound("That comment was deleted.")
    return row


def settle(database: Database, person_id: str, model_id: str, comment_id: str, settled: bool) -> None:
    """It is seen to, or after all is not: said by whoever said it, or may change the model."""
    with database.transaction() as session:
        _for(session, person_id, model_id, comment_id).settled = now() if settled else None


def delete(database: Database, person_id: str, model_id: str, comment_id: str) -> None:
    """Delete a comment with its answers: one's own, or at one's own model."""
    with database.transaction() as session:
        session.delete(_for(session, person_id, model_id, comment_id, "manage"))


def _for(session: Session, person_id: str, model_id: str, comment_id: str, right: str = "change") -> Comment:
    model = model_for(session, person_id, "comment", model_id)
    row = _comment(session, model_id, comment_id)
    if row.person_id != person_id and right not in rights_to(session, person_id, model):
        raise NotYours("That was said by somebody else: answer it instead.")
    return row
