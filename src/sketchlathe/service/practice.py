"""Exercises that one can do alone: a class that everybody is in as a student and nobody teaches. They come with the
program (``practice.json``, which ``scripts/make_practice.py`` makes), and are stored when somebody first looks at them.
"""

from __future__ import annotations

import hashlib
import json
from pathlib import Path
from typing import Any

from sqlalchemy import delete, func, select
from sqlalchemy.orm import Session

from ..store import Database
from ..store.tables import ClassRow, Doing, ExerciseRow, NumberSet, now
from .rights import PRACTICE

FILE = Path(__file__).with_name("practice.json")
_LOCK = 8420_0029  # one process stores them, the others wait


def ready(database: Database) -> str:
    """Have the exercises that came with this version stored; the id of their class. What somebody is at stays."""
    data = FILE.read_bytes()
    code = f"practice-{hashlib.sha256(data).hexdigest()[:16]}"
    with database.transaction() as session:
        if session.scalar(select(ClassRow.code).where(ClassRow.id == PRACTICE)) == code:
            return PRACTICE
        session.execute(select(func.pg_advisory_xact_lock(_LOCK)))
        row = session.scalar(select(ClassRow).where(ClassRow.id == PRACTICE).execution_options(populate_existing=True))
        if row is None:
            row = ClassRow(id=PRACTICE, name="Exercises", code="", joining=False, kept_until=None)
            session.add(row)
            session.flush()
        if row.code != code:
            row.code = code
            for number, told in enumerate(json.loads(data), 1):
                _bring(session, number, told)
    return PRACTICE


def _bring(session: Session, number: int, told: dict[str, Any]) -> None:
    """Store an exercise, or what this version has of it where nobody has begun with another's."""
    row = session.scalar(
        select(ExerciseRow).where(ExerciseRow.class_id == PRACTICE, ExerciseRow.title == told["title"])
    )
    if row is None:
        row = ExerciseRow(
            class_id=PRACTICE, number=number, title=told["title"], words=told["words"], maker_id=None,
            units=told["model"]["units"], document=told["model"], terms=told["terms"], task=None, opens=None,
            ends=None, given=now(),
        )  # fmt: skip
        session.add(row)
        session.flush()
    elif session.scalar(select(Doing.id).where(Doing.exercise_id == row.id).limit(1)):
        row.number, row.words = number, told["words"]
        return
    row.number, row.words, row.document, row.terms = number, told["words"], told["model"], told["terms"]
    session.execute(delete(NumberSet).where(NumberSet.exercise_id == row.id))
    session.add_all(NumberSet(exercise_id=row.id, number=n, **numbers) for n, numbers in enumerate(told["sets"], 1))
