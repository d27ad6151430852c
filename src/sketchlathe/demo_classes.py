"""The demo's classes, from ``examples/class``: what made-up people did is done again, edit by edit."""

from __future__ import annotations

import json
import secrets
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from .service import classes, exercises, modelling
from .store import Database, Person, Project, Revision
from .store.tables import Attempt, ClassRow, Doing, ExerciseRow, HandIn, Member, NumberSet, now

BETWEEN = timedelta(seconds=55)  # two edits of a made-up person


def load_classes(database: Database, person_id: str, file: Path) -> None:
    """Make the classes of a file. Where it names nobody (""), the demo's person is meant."""
    for told in json.loads(file.read_text()):
        people = {"": person_id}
        for name in {*told["people"], told["teacher"]} - {""}:
            people[name] = _somebody(database, name)
        with database.transaction() as session:
            row = ClassRow(name=told["name"], code=classes.new_code(), joining=True, kept_until=None)
            session.add(row)
            session.flush()
            roles = {told["teacher"]: "teacher", **told["people"]}
            session.add_all(Member(class_id=row.id, person_id=people[name], role=role) for name, role in roles.items())
        for number, exercise in enumerate(told["exercises"], 1):
            _exercise(database, row.id, people[told["teacher"]], number, exercise, people)


def _somebody(database: Database, name: str) -> str:
    """Somebody who never signs in: no password leads to this account."""
    with database.transaction() as session:
        address = f"{name.lower().replace(' ', '.')}.{secrets.token_hex(2)}@weather-post.example"
        person = Person(name=name, email=address, password_hash="", address_checked=now())
        session.add(person)
        session.flush()
        session.add(Project(owner_id=person.id, name="Mine", binned=None))
        return person.id


def _exercise(
    database: Database, class_id: str, maker: str, number: int, told: dict[str, Any], people: dict[str, str]
) -> None:
    began = now() - timedelta(days=3 - number)
    with database.transaction() as session:
        row = ExerciseRow(
            class_id=class_id, number=number, title=told["title"], words=told["words"], maker_id=maker,
            units=told["model"]["units"], document=told["model"], terms=told["terms"], task=None, opens=None,
            ends=now() + timedelta(days=4 * number), given=began, made=began,
        )  # fmt: skip
        session.add(row)
        session.flush()
        for n, numbers in enumerate(told["sets"], 1):
            session.add(NumberSet(exercise_id=row.id, number=n, **numbers))
    for n, doing in enumerate(told["doings"]):
        _doing(database, row.id, people[doing["who"]], doing, began + timedelta(minutes=7 * n))


def _doing(database: Database, exercise_id: str, person_id: str, told: dict[str, Any], at: datetime) -> None:
    with database.transaction() as session:
        session.add(
            Doing(
                exercise_id=exercise_id, person_id=person_id, set_number=told["set"], opened=at, right=None,
                then_right=None, points=told.get("points", ""), remark=told.get("remark", ""),
                marked=now() if told.get("points") else None,
            )
        )  # fmt: skip
    model = exercises.begin(database, person_id, exercise_id)
    revisions = [modelling.open_model(database, person_id, model).revision]
    for edit in told["edits"]:
        revisions.append(modelling.change(database, person_id, model, None, edit).revision)
    with database.transaction() as session:
        doing = session.scalars(
            select(Doing).where(Doing.exercise_id == exercise_id, Doing.person_id == person_id)
        ).one()
        for number in range(1, revisions[-1] + 1):
            session.execute(
                update(Revision)
                .where(Revision.model_id == model, Revision.number == number)
                .values(at=at + number * BETWEEN)
            )
        for tried in told["tries"]:
            when = at + revisions[tried["after"]] * BETWEEN + BETWEEN / 2
            session.add(Attempt(
                doing_id=doing.id, at=when, revision=revisions[tried["after"]], phase=tried["phase"],
                right=tried["right"], shares=tried["shares"], slip=tried["slip"], reason=tried["reason"],
            ))  # fmt: skip
            if tried["right"] and tried["phase"] == "first":
                doing.right = when
            elif tried["right"]:
                doing.then_right = when
        if "handed" in told:
            _hand_in(session, doing, modelling.open_model(database, person_id, model), told["handed"], at)


def _hand_in(session: Session, doing: Doing, opened: modelling.Opened, told: dict[str, Any], at: datetime) -> None:
    session.add(HandIn(
        doing_id=doing.id, at=at + opened.revision * BETWEEN + BETWEEN, revision=opened.revision, part_id="p1",
        document=opened.model.as_json(), figures=told["figures"], right=told["right"], late=False, withdrawn=None,
        shows=told["shows"],
    ))  # fmt: skip
