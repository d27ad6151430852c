"""Answering an exercise: a part is held against what it should come to here, on the server; what is expected never
leaves it. A reason for what is off is looked for in the background, also for those who teach.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.amounts.answers import KINDS
from ..core.amounts.weighing import Units, Weighed
from ..core.errors import NotFound, Refused, Trouble
from ..core.exercises.judging import Judged, as_answers, judged
from ..core.exercises.numbers import Figures, figures_of
from ..core.exercises.terms import Terms
from ..core.model.document import read_model
from ..store import Database
from ..store.tables import Attempt, ClassRow, Doing, ExerciseRow, HandIn, NumberSet, Person, now
from . import exercises, looking, shelf
from .accounts import clean
from .building import Builder, failed_step, weighed_of
from .following import SORT as FOLLOWING
from .modelling import Opened, written
from .rights import PRACTICE, doing_for, is_out, role_in
from .studies import Studies, Turn, Work

REASONS = "reasons"
LOOKING = "still being looked for"
LOOKS = timedelta(minutes=10)
GONE = "This model is no exercise of yours."
NOT_WHOLE = "{step} fails: an answer is tried with a part that is whole. Mend it first; this was not counted."


@dataclass(frozen=True)
class Figure:
    """A figure that is asked, and what is said of the last try: nothing before the first."""

    word: str
    within: float
    right: bool | None = None
    text: str = ""


@dataclass(frozen=True)
class Handed:
    """Something that was handed in."""

    id: str
    at: datetime
    revision: int
    late: bool
    withdrawn: bool


@dataclass(frozen=True)
class Standing:
    """How somebody stands at the exercise that a model is for: all that they are told."""

    doing: str
    exercise: str
    number: int
    title: str
    of_class: str
    words: str
    numbers: list[tuple[str, str, str]]  # name, value, note
    made_of: str
    phase: str  # first, then, done
    then: list[tuple[str, str]]
    figures: list[Figure]
    tries: int
    tries_left: int | None
    reason: str
    may_ask_why: bool
    ends: datetime | None
    over: bool
    handed: list[Handed] = field(default_factory=list)
    points: str = ""
    remark: str = ""
    marked: bool = False
    own: bool = False  # one of those that one does alone: nothing is handed in


@dataclass
class _Asked:
    """What an answer is held against."""

    doing: Doing
    row: ExerciseRow
    terms: Terms
    numbers: NumberSet
    tries: list[Attempt]

    @property
    def phase(self) -> str:
        """What is answered next: as it is, after the change that is asked for, nothing more."""
        if self.doing.right is None:
            return "first"
        return "then" if self.terms.then and self.doing.then_right is None else "done"

    @property
    def expected(self) -> Figures:
        """What the part should come to in this phase."""
        return (self.numbers.then or {}) if self.phase == "then" else self.numbers.answers  # type: ignore[return-value]

    @property
    def left(self) -> int | None:
        """How many tries are left, as it is or after the change; None for as many as one likes."""
        used = sum(t.phase == self.phase for t in self.tries)
        return max(self.terms.tries - used, 0) if self.terms.tries else None


def _must(session: Session, person_id: str, model_id: str) -> _Asked:
    """What an answer is held against. Raises ``NotFound`` where the model is no exercise of theirs."""
    asked = _asked(session, person_id, model_id)
    if asked is None:
        raise NotFound(GONE)
    return asked


def _asked(session: Session, person_id: str, model_id: str) -> _Asked | None:
    doing = session.scalar(select(Doing).where(Doing.model_id == model_id, Doing.person_id == person_id))
    if doing is None:
        return None
    row = session.get_one(ExerciseRow, doing.exercise_id)
    role = role_in(session, person_id, row.class_id)
    if not role or (role == "student" and not is_out(row)):
        return None
    tries = session.scalars(select(Attempt).where(Attempt.doing_id == doing.id).order_by(Attempt.at)).all()
    numbers = session.get_one(NumberSet, (row.id, doing.set_number))
    return _Asked(doing, row, Terms.model_validate(row.terms), numbers, list(tries))


def standing(database: Database, person_id: str, opened: Opened) -> Standing | None:
    """How somebody stands at the exercise a model is for; nothing where it is for none."""
    with database.transaction() as session:
        asked = _asked(session, person_id, opened.id)
        if asked is None:
            return None
        of_class = session.get_one(ClassRow, asked.row.class_id).name
        handed = session.scalars(
            select(HandIn).where(HandIn.doing_id == asked.doing.id).order_by(HandIn.at.desc())
        ).all()
        made_of = exercises.made_of(asked.row, asked.terms)
    notes = {p.name: p.note for p in opened.model.parameters}
    doing, row, terms = asked.doing, asked.row, asked.terms
    last, wrong, reason = _last(asked)
    return Standing(
        doing.id, row.id, row.number, row.title, of_class, row.words,
        [(v.parameter, str(asked.numbers.numbers[v.parameter]), notes.get(v.parameter, "")) for v in terms.varying],
        made_of,
        asked.phase, [(c.parameter, c.value) for c in terms.then], last, len(asked.tries), asked.left, reason,
        bool(terms.why_after) and wrong >= terms.why_after, row.ends, row.ends is not None and row.ends <= now(),
        [Handed(h.id, h.at, h.revision, h.late, h.withdrawn is not None) for h in handed],
        doing.points, doing.remark, doing.marked is not None, row.class_id == PRACTICE,
    )  # fmt: skip


def _last(asked: _Asked) -> tuple[list[Figure], int, str]:
    """What is said of the last try, how many of this phase were wrong, and why, as far as that may be said."""
    terms, phase = asked.terms, asked.phase
    mine = [t for t in asked.tries if phase == "done" or t.phase == phase]
    wrong = sum(not t.right for t in mine)
    last = mine[-1] if mine else None
    told = bool(terms.off_after) and wrong >= terms.off_after
    figures = []
    for a in terms.asked:
        said = (last.shares.get(a.what) if last else None) or {}
        figures.append(Figure(
            KINDS[a.what], a.within, said.get("right"),
            "" if not said or said["right"] else said["text"] if told else "not right yet",
        ))  # fmt: skip
    reason = ""
    if last is not None and not last.right and terms.why_after and wrong >= terms.why_after:
        # what looked for it may have died before it was begun: nobody is kept waiting for ever
        waits = last.slip is None and now() - last.at < LOOKS
        reason = LOOKING if waits else last.reason or "no single slip accounts for it"
    return figures, wrong, reason


def _built(builder: Builder, opened: Opened, part_id: str, ticket: str) -> Weighed:
    """What a part comes to. Raises ``Refused`` where it is not whole."""
    built = builder.build(opened, part_id, ticket)
    failed = failed_step(built)
    if failed:
        raise Refused(NOT_WHOLE.format(step=opened.model.title_of(failed)))
    if not built["bodies"]:
        raise Refused("There is no body yet: an answer is what your part comes to. This was not counted.")
    return weighed_of(built)


def answer(
    database: Database, builder: Builder, studies: Studies, person_id: str, opened: Opened, part_id: str, ticket: str
) -> None:
    """Try an answer: the part as it is now. The same revision again counts once. Raises ``Refused``, ``NotFound``."""
    weighed = _built(builder, opened, part_id, ticket)
    with database.transaction() as session:
        # several clicks at once are one after the other, and no try too many
        session.get_one(Doing, _must(session, person_id, opened.id).doing.id, with_for_update=True)
        asked = _must(session, person_id, opened.id)
        if asked.phase == "done":
            raise Refused("All of it is right already.")
        if asked.left == 0:
            raise Refused(f"All {asked.terms.tries} tries are used: hand in what you have.")
        if asked.tries and (asked.tries[-1].revision, asked.tries[-1].phase) == (opened.revision, asked.phase):
            return
        found = judged(asked.terms.asked, asked.expected, weighed, Units(opened.model.units))
        right = all(j.right for j in found)
        attempt = Attempt(
            doing_id=asked.doing.id, revision=opened.revision, phase=asked.phase, right=right, shares=plain(found),
            slip="" if right else None,
        )  # fmt: skip
        session.add(attempt)
        session.flush()
        if right and asked.phase == "first":
            asked.doing.right = attempt.at
        elif right:
            asked.doing.then_right = attempt.at
    if not right:
        studies.begin(opened, person_id, part_id, REASONS, {}, about=attempt.id)


def plain(found: list[Judged]) -> dict[str, Any]:
    """What was judged, as it is stored."""
    return {j.what: {"right": j.right, "share": j.share, "text": j.text} for j in found}


def find_reasons(database: Database) -> Work:
    """The work of finding out why an answer is off."""

    def work(turn: Turn) -> bool:
        with database.transaction() as session:
            attempt = session.get(Attempt, turn.about)
            doing = session.get(Doing, attempt.doing_id) if attempt is not None else None
            if attempt is None or doing is None or attempt.slip is not None:
                return True
            terms = Terms.model_validate(session.get_one(ExerciseRow, doing.exercise_id).terms)
            numbers = session.get_one(NumberSet, (doing.exercise_id, doing.set_number))
            expected: Figures = (numbers.then or {}) if attempt.phase == "then" else numbers.answers  # type: ignore[assignment]
        turn.tickets.add(turn.id)
        try:
            causes = looking.explain(
                turn.builder, expecting(turn.opened, turn.part_id, terms, expected), turn.part_id, turn.id
            )
        except Trouble:
            causes = []
        with database.transaction() as session:
            there = session.get(Attempt, attempt.id)
            if there is not None:
                there.slip = causes[0]["slip"] if causes else ""
                there.reason = causes[0]["text"] if causes else ""
        return True

    return work


def expecting(opened: Opened, part_id: str, terms: Terms, expected: Figures) -> Opened:
    """The model as if what is expected had been typed in it; nothing of it is stored."""
    given = [
        {"kind": "set_answer", "part": part_id, "what": a.what, "text": a.text, "tolerance": a.tolerance}
        for a in as_answers(terms.asked, expected)
    ]
    return Builder.as_edited(opened, given)


# --- handing in


def hand_in(
    database: Database, builder: Builder, studies: Studies, person_id: str, opened: Opened, part_id: str, ticket: str
) -> None:
    """Hand in the part as it is now; what was handed in before stays to be seen. Raises ``Refused``, ``NotFound``."""
    weighed = _built(builder, opened, part_id, ticket)
    with database.transaction() as session:
        asked = _must(session, person_id, opened.id)
        if asked.doing.marked is not None:
            raise Refused("This is marked already: ask your teacher before you hand in again.")
        again = session.scalar(
            select(HandIn.id).where(
                HandIn.doing_id == asked.doing.id, HandIn.revision == opened.revision, HandIn.withdrawn.is_(None)
            )
        )
        if again is not None:
            return
        if (session.scalar(select(func.count()).where(HandIn.doing_id == asked.doing.id)) or 0) >= 50:
            raise Refused("This was handed in fifty times: ask your teacher before you do so again.")
        late = asked.row.ends is not None and now() > asked.row.ends
        row = HandIn(
            doing_id=asked.doing.id, revision=opened.revision, part_id=part_id, document=opened.model.as_json(),
            figures={str(k): v for k, v in figures_of(asked.terms.asked, weighed).items()},
            right=is_right(asked.terms, asked.numbers, weighed), late=late, withdrawn=None, shows={},
        )  # fmt: skip
        session.add(row)
        session.flush()
    studies.begin(opened, person_id, part_id, FOLLOWING, {}, about=row.id)


def is_right(terms: Terms, numbers: NumberSet, weighed: Weighed) -> bool:
    """Whether a part is what was asked, as it is or after the change."""
    known: tuple[Any, Any] = numbers.answers, numbers.then
    return any(all(j.right for j in judged(terms.asked, expected, weighed, Units())) for expected in known if expected)


def withdraw(database: Database, person_id: str, model_id: str, hand_in_id: str) -> None:
    """Take back what was handed in, while it is not marked. Raises ``Refused``, ``NotFound``."""
    with database.transaction() as session:
        asked = _must(session, person_id, model_id)
        row = session.get(HandIn, hand_in_id)
        if row is None or row.doing_id != asked.doing.id:
            raise NotFound(GONE)
        if asked.doing.marked is not None:
            raise Refused("This is marked already: it stays handed in.")
        row.withdrawn = row.withdrawn or now()


def mark(database: Database, person_id: str, doing_id: str, points: str, remark: str) -> None:
    """Say what somebody's work is worth; with neither points nor a remark it is not marked any more."""
    points, remark = clean(points)[:40], remark.replace("\r\n", "\n").strip()[:4000]
    with database.transaction() as session:
        doing = doing_for(session, person_id, "teach", doing_id)
        doing.points, doing.remark = points, remark
        doing.marked = (doing.marked or now()) if points or remark else None


def handed_in(database: Database, person_id: str, doing_id: str, hand_in_id: str) -> tuple[Opened, str]:
    """What somebody handed in, opened for who teaches, and which part it is. Raises ``NotFound``."""
    with database.transaction() as session:
        doing = doing_for(session, person_id, "teach", doing_id)
        row = session.get(HandIn, hand_in_id)
        if row is None or row.doing_id != doing.id:
            raise NotFound("This was not handed in.")
        as_text = written(read_model(row.document))
        opened = Opened(
            row.id, "", row.revision, as_text.model, as_text.text, can_undo=False, can_redo=False,
            files=as_text.files, who=person_id,
        )  # fmt: skip
        return opened, row.part_id


def copy_to_shelf(database: Database, person_id: str, doing_id: str, hand_in_id: str) -> str:
    """What somebody handed in, as a model on the Shelf of who teaches; its id."""
    opened, _ = handed_in(database, person_id, doing_id, hand_in_id)
    with database.transaction() as session:
        doing = doing_for(session, person_id, "teach", doing_id)
        exercise = session.get_one(ExerciseRow, doing.exercise_id)
        who = session.get_one(Person, doing.person_id).name
        of_class = session.get_one(ClassRow, exercise.class_id).name
        project = exercises.project_called(session, person_id, f"{of_class}, handed in"[:120])
        named = opened.model.changed(name=f"{exercise.title[:70]}, {who[:40]}")
        return shelf.add_model(session, person_id, project.id, named, f"Handed in by {who}").id
