"""What those who teach see of a class: everybody at an exercise, how often, how far off, for how long, and why."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import extract, func, select
from sqlalchemy.orm import Session

from ..core.exchange.base import plain_name
from ..core.exchange.modelfile import dump_model
from ..core.exercises.slips import Slip, typical
from ..core.exercises.terms import Terms
from ..core.model.document import read_model
from ..core.plain_csv import written
from ..store import Database
from ..store.tables import Attempt, Doing, ExerciseRow, HandIn, Member, NumberSet, Person, Revision
from .rights import class_for, doing_for, exercise_for

PAUSE = 300  # s between two changes from which on somebody was away
STATES = {
    "not begun": "not begun", "opened": "opened", "trying": "trying", "right": "right, not handed in",
    "handed in": "handed in", "late": "handed in late", "marked": "marked",
}  # fmt: skip


@dataclass(frozen=True)
class State:
    """What somebody does at an exercise, and how it stands."""

    id: str
    model_id: str | None
    state: str
    seconds: float = 0.0  # at work, where it is done


@dataclass(frozen=True)
class Line:
    """Somebody at an exercise."""

    person_id: str
    name: str
    role: str
    doing_id: str = ""
    model_id: str = ""
    state: str = "not begun"
    tries: int = 0
    share: float | None = None  # how far the first figure of the last try was off
    seconds: float = 0.0  # at work
    shows: tuple[tuple[str, str], ...] = ()  # good, warn or bad, and words
    points: str = ""

    @property
    def minutes(self) -> str:
        """The time at work, to be read."""
        return f"{self.seconds / 60:.0f} min" if self.model_id else ""

    @property
    def off(self) -> str:
        """How far off, to be read."""
        return "" if self.share is None else f"{self.share * 100:+.2f} %".replace("-", "−")


def _last_hand_in() -> Any:
    return (
        select(HandIn.id)
        .where(HandIn.doing_id == Doing.id, HandIn.withdrawn.is_(None))
        .order_by(HandIn.at.desc())
        .limit(1)
        .correlate(Doing)
        .scalar_subquery()
    )


def _tries() -> Any:
    return select(func.count()).where(Attempt.doing_id == Doing.id).correlate(Doing).scalar_subquery()


def state(doing: Doing | None, tries: int, late: bool | None) -> str:
    """How somebody stands. ``late``: of what was handed in last; None where nothing was."""
    if doing is None:
        return "not begun"
    if doing.marked is not None:
        return "marked"
    if late is not None:
        return "late" if late else "handed in"
    return "right" if doing.right is not None else "trying" if tries else "opened"


def states_of(session: Session, exercise_ids: Sequence[str], person_id: str) -> dict[str, State]:
    """How somebody stands at exercises."""
    query = (
        select(Doing, _tries(), HandIn.late)
        .outerjoin(HandIn, HandIn.id == _last_hand_in())
        .where(Doing.exercise_id.in_(exercise_ids), Doing.person_id == person_id)
    )
    rows = session.execute(query).all()
    seconds = _at_work(session, [doing.model_id for doing, _, _ in rows if doing.model_id and doing.right])
    return {
        doing.exercise_id: State(doing.id, doing.model_id, state(doing, tries, late), seconds.get(doing.model_id, 0.0))
        for doing, tries, late in rows
    }


def counts(session: Session, class_id: str) -> tuple[dict[str, int], dict[str, int]]:
    """How many students have begun, and handed in, each exercise of a class."""
    query = (
        select(Doing.exercise_id, func.count(Doing.id), func.count(_last_hand_in()))
        .join(ExerciseRow, ExerciseRow.id == Doing.exercise_id)
        .join(Member, (Member.person_id == Doing.person_id) & (Member.class_id == ExerciseRow.class_id))
        .where(ExerciseRow.class_id == class_id, Member.role == "student")
        .group_by(Doing.exercise_id)
    )
    rows = session.execute(query).all()
    return {r[0]: r[1] for r in rows}, {r[0]: r[2] for r in rows}


def lines(database: Database, person_id: str, exercise_id: str) -> list[Line]:
    """Everybody of the class at an exercise, by name: those who do not teach, and of the others who tried it."""
    with database.transaction() as session:
        exercise = exercise_for(session, person_id, "teach", exercise_id)
        first = Terms.model_validate(exercise.terms).asked[0].what
        last = (
            select(Attempt.shares)
            .where(Attempt.doing_id == Doing.id)
            .order_by(Attempt.at.desc())
            .limit(1)
            .correlate(Doing)
            .scalar_subquery()
        )
        query = (
            select(Person.id, Person.name, Member.role, Doing, _tries(), last, HandIn.late, HandIn.shows)
            .join(Member, Member.person_id == Person.id)
            .outerjoin(Doing, (Doing.person_id == Person.id) & (Doing.exercise_id == exercise_id))
            .outerjoin(HandIn, HandIn.id == _last_hand_in())
            .where(Member.class_id == exercise.class_id)
            .order_by(func.lower(Person.name), Person.id)
        )
        rows = session.execute(query).all()
        seconds = _at_work(session, [r[3].model_id for r in rows if r[3] is not None and r[3].model_id])
    return [_line(row, seconds, first) for row in rows if row[2] == "student" or row[3] is not None]


def _line(row: Any, seconds: dict[str, float], first: str) -> Line:
    person, name, role, doing, tries, shares, late, shows = row
    if doing is None:
        return Line(person, name, role)
    return Line(
        person, name, role, doing.id, doing.model_id or "", state(doing, tries, late), tries,
        shares[first]["share"] if shares else None, seconds.get(doing.model_id or "", 0.0),
        tuple((how, text) for how, text in (shows or {}).get("says", ())), doing.points,
    )  # fmt: skip


def _at_work(session: Session, models: Sequence[str]) -> dict[str, float]:
    """Seconds from change to change of models, pauses left out."""
    before = func.lag(Revision.at).over(partition_by=Revision.model_id, order_by=Revision.number)
    gap = extract("epoch", Revision.at - before).label("gap")
    gaps = select(Revision.model_id, gap).where(Revision.model_id.in_(models)).subquery()
    query = select(gaps.c.model_id, func.sum(gaps.c.gap)).where(gaps.c.gap < PAUSE).group_by(gaps.c.model_id)
    return {model: float(sum_) for model, sum_ in session.execute(query)}


def slips(database: Database, person_id: str, exercise_id: str) -> list[Slip]:
    """What went wrong at an exercise, over the class."""
    with database.transaction() as session:
        exercise_for(session, person_id, "teach", exercise_id)
        query = (
            select(Person.name, Attempt.slip, Attempt.reason)
            .join(Doing, Doing.id == Attempt.doing_id)
            .join(Person, Person.id == Doing.person_id)
            .where(Doing.exercise_id == exercise_id, Attempt.slip.is_not(None), Attempt.slip != "")
            .order_by(Attempt.at.desc())
        )
        return typical((name, sort or "", reason) for name, sort, reason in session.execute(query))


def tries_until_right(database: Database, person_id: str, exercise_id: str) -> dict[int, int]:
    """How many people needed how many tries until all was right."""
    with database.transaction() as session:
        exercise_for(session, person_id, "teach", exercise_id)
        needed = (
            select(func.count().label("tries"))
            .select_from(Attempt)
            .join(Doing, Doing.id == Attempt.doing_id)
            .where(Doing.exercise_id == exercise_id, Doing.right.is_not(None), Attempt.at <= Doing.right)
            .group_by(Doing.id)
            .subquery()
        )
        query = select(needed.c.tries, func.count()).group_by(needed.c.tries).order_by(needed.c.tries)
        return {int(tries): int(people) for tries, people in session.execute(query)}


# --- one of them, and all of them taken out


@dataclass(frozen=True)
class Work:
    """What somebody did at an exercise, for who looks at it."""

    doing: Doing
    person: str
    exercise: ExerciseRow
    numbers: dict[str, Any]
    tries: list[Attempt] = field(default_factory=list)
    hand_ins: list[HandIn] = field(default_factory=list)


def work_of(database: Database, person_id: str, doing_id: str) -> Work:
    """What somebody did at an exercise. Raises ``NotFound``."""
    with database.transaction() as session:
        doing = doing_for(session, person_id, "teach", doing_id)
        exercise = session.get_one(ExerciseRow, doing.exercise_id)
        return Work(
            doing, session.get_one(Person, doing.person_id).name, exercise,
            session.get_one(NumberSet, (doing.exercise_id, doing.set_number)).numbers,
            list(session.scalars(select(Attempt).where(Attempt.doing_id == doing_id).order_by(Attempt.at))),
            list(session.scalars(select(HandIn).where(HandIn.doing_id == doing_id).order_by(HandIn.at.desc()))),
        )  # fmt: skip


def as_csv(database: Database, person_id: str, exercise_id: str) -> str:
    """Everybody at an exercise as a table."""
    rows: list[list[object]] = [["name", "state", "tries", "off %", "minutes at work", "what it shows", "points"]]
    for line in lines(database, person_id, exercise_id):
        share = "" if line.share is None else f"{line.share * 100:.4f}"
        says = "; ".join(text for _, text in line.shows)
        rows.append([line.name, STATES[line.state], line.tries, share, round(line.seconds / 60), says, line.points])
    return written(rows)


def as_zip(database: Database, person_id: str, exercise_id: str) -> bytes:
    """What everybody handed in last, as model files."""
    out = io.BytesIO()
    with database.transaction() as session, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as packed:
        exercise_for(session, person_id, "teach", exercise_id)
        query = (
            select(Person.name, HandIn)
            .join(Doing, Doing.person_id == Person.id)
            .join(HandIn, HandIn.id == _last_hand_in())
            .where(Doing.exercise_id == exercise_id)
            .order_by(func.lower(Person.name), Person.id)
        )
        for number, (name, hand_in) in enumerate(session.execute(query), 1):
            packed.writestr(f"{number:02} {plain_name(name)}.json", dump_model(read_model(hand_in.document)))
    return out.getvalue()


def students_in(database: Database, person_id: str, class_id: str) -> int:
    """How many students a class has."""
    with database.transaction() as session:
        class_for(session, person_id, "see", class_id)
        query = select(func.count()).where(Member.class_id == class_id, Member.role == "student")
        return int(session.scalar(query) or 0)


def about(database: Database, person_id: str, class_id: str) -> dict[str, Any]:
    """All that is kept about somebody in a class, for themselves."""
    with database.transaction() as session:
        class_for(session, person_id, "see", class_id)
        member = session.get(Member, (class_id, person_id))
        query = (
            select(Doing, ExerciseRow.title)
            .join(ExerciseRow, ExerciseRow.id == Doing.exercise_id)
            .where(ExerciseRow.class_id == class_id, Doing.person_id == person_id)
            .order_by(ExerciseRow.number)
        )
        done = []
        for doing, title in session.execute(query).all():
            tries = session.scalars(select(Attempt).where(Attempt.doing_id == doing.id).order_by(Attempt.at))
            handed = session.scalars(select(HandIn).where(HandIn.doing_id == doing.id).order_by(HandIn.at))
            done.append({
                "exercise": title, "opened": doing.opened.isoformat(), "points": doing.points, "remark": doing.remark,
                "numbers": session.get_one(NumberSet, (doing.exercise_id, doing.set_number)).numbers,
                "tries": [
                    {"at": t.at.isoformat(), "revision": t.revision, "figures": t.shares, "slip": t.slip,
                     "reason": t.reason}
                    for t in tries
                ],
                "handed in": [
                    {"at": h.at.isoformat(), "revision": h.revision, "figures": h.figures, "late": h.late,
                     "withdrawn": h.withdrawn.isoformat() if h.withdrawn else None, "found": h.shows}
                    for h in handed
                ],
            })  # fmt: skip
        joined = {"role": member.role, "joined": member.joined.isoformat()} if member is not None else {}
        return {**joined, "exercises": done}
