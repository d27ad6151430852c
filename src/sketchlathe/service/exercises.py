"""Exercises of a class: made of a model, given out, begun. Sets of numbers are found in the background."""

from __future__ import annotations

import io
import random
import threading
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any

from cachetools import LRUCache
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.errors import BadInput, NotFound, Refused, Trouble
from ..core.exercises import terms as exercise_terms
from ..core.exercises.numbers import Figures, Numbers, candidates, changed_by, edits_of, figures_of, same_answer
from ..core.exercises.terms import MOST_SETS, Terms
from ..core.model.document import Model, Parameter, new_model, read_model
from ..core.model.made_of import material_of
from ..core.steps.paper import PaperLine
from ..store import Database, Project
from ..store.tables import ClassRow, Doing, ExerciseRow, Member, ModelRow, NumberSet, now
from . import filing, shelf
from .accounts import clean
from .building import Builder, failed_step, weighed_of
from .modelling import Opened, written
from .overview import counts, states_of
from .rights import GONE_EXERCISE, IN_CLASS, PRACTICE, ClassRight, class_for, exercise_for, is_out, role_in
from .studies import Studies, Turn, Work

SORT = "numbers"
WANTED = 40  # sets of numbers; a class of thirty has one each
MOST_TRIED = 400
MOST_WORDS, MOST_TASK = 4000, 8_000_000


_drawings: LRUCache[str, bytes] = LRUCache(32 << 20, getsizeof=len)
_lock = threading.Lock()


@dataclass(frozen=True)
class Wish:
    """What a maker wants of an exercise. ``task``: a picture of the drawing (its media type, its bytes)."""

    title: str
    words: str
    terms: Terms
    opens: datetime | None = None
    ends: datetime | None = None
    task: tuple[str, bytes] | None = None


def picture_of_task(data: bytes) -> tuple[str, bytes]:
    """A drawing that was brought as a picture, as it is kept: upright, not larger than is read. Raises ``BadInput``."""
    from PIL import Image, ImageOps

    if len(data) > MOST_TASK:
        raise BadInput(
            f"The drawing has {len(data) / 1e6:.0f} MB; at most {MOST_TASK / 1e6:.0f} are kept.", where="task"
        )
    try:
        with Image.open(io.BytesIO(data), formats=("PNG", "JPEG", "WEBP", "GIF", "TIFF")) as image:
            if image.width * image.height > 60_000_000:
                raise BadInput("The drawing has more than 60 million points: make it smaller.", where="task")
            upright = ImageOps.exif_transpose(image).convert("RGB")
    except BadInput:
        raise
    except Exception:
        raise BadInput(
            "The drawing must be a picture: PNG, JPEG, WebP, GIF or TIFF. A PDF can be saved as one.", where="task"
        ) from None
    upright.thumbnail((2400, 2400))
    out = io.BytesIO()
    upright.save(out, "PNG", optimize=True)
    return "image/png", out.getvalue()


def make(database: Database, person_id: str, class_id: str, opened: Opened, wish: Wish) -> ExerciseRow:
    """An exercise of a model as it is now, not given out yet. Raises ``BadInput``."""
    title, words = _said(wish)
    exercise_terms.check(wish.terms, opened.model)
    with database.transaction() as session:
        class_for(session, person_id, "manage", class_id, lock=True)
        last = session.scalar(select(func.max(ExerciseRow.number)).where(ExerciseRow.class_id == class_id)) or 0
        if last >= 200:
            raise Refused("This class has 200 exercises: make another class for more.")
        row = ExerciseRow(
            class_id=class_id, number=last + 1, title=title, words=words, maker_id=person_id,
            units=opened.model.units, document=opened.model.as_json(), terms=wish.terms.model_dump(mode="json"),
            task=wish.task[1] if wish.task else None, task_media=wish.task[0] if wish.task else "",
            opens=wish.opens, ends=wish.ends, given=None,
        )  # fmt: skip
        session.add(row)
    return row


def _said(wish: Wish) -> tuple[str, str]:
    title, words = clean(wish.title), wish.words.replace("\r\n", "\n").strip()
    if not 1 <= len(title) <= 120:
        raise BadInput(f"An exercise's title needs 1 to 120 characters; this has {len(title)}.", where="title")
    if len(words) > MOST_WORDS:
        raise BadInput(f"What is to be done has {len(words)} characters; at most {MOST_WORDS} are kept.", where="words")
    if wish.opens and wish.ends and wish.ends <= wish.opens:
        raise BadInput("It ends before it begins: choose a later end.", where="ends")
    return title, words


def change(database: Database, person_id: str, exercise_id: str, wish: Wish) -> None:
    """Other words, times and help. What is asked and which numbers differ stays: somebody may be at it."""
    title, words = _said(wish)
    with database.transaction() as session:
        row = exercise_for(session, person_id, "manage", exercise_id, lock=True)
        old = Terms.model_validate(row.terms)
        row.title, row.words, row.opens, row.ends = title, words, wish.opens, wish.ends
        kept = {"tries": wish.terms.tries, "off_after": wish.terms.off_after, "why_after": wish.terms.why_after}
        row.terms = old.model_copy(update=kept).model_dump(mode="json")
        if wish.task is not None:
            row.task_media, row.task = wish.task


def take_away(database: Database, person_id: str, exercise_id: str) -> str:
    """Delete an exercise with all that was handed in for it; the id of its class."""
    with database.transaction() as session:
        row = exercise_for(session, person_id, "manage", exercise_id)
        session.delete(row)
        return row.class_id


def give_out(database: Database, person_id: str, exercise_id: str, given: bool) -> None:
    """Give an exercise to the class, or take it back while nobody has begun. Raises ``Refused``."""
    with database.transaction() as session:
        row = exercise_for(session, person_id, "manage", exercise_id, lock=True)
        if given and not _count(session, exercise_id):
            raise Refused("No set of numbers is there yet: wait until the first is found.")
        if not given and session.scalar(_students_at(row).limit(1)):
            raise Refused("Somebody has begun with it: let it end instead, by giving it an end that is over.")
        row.given = (row.given or now()) if given else None


def _students_at(row: ExerciseRow) -> Any:
    return (
        select(Doing.id)
        .join(Member, (Member.person_id == Doing.person_id) & (Member.class_id == row.class_id))
        .where(Doing.exercise_id == row.id, Member.role == "student")
    )


def _count(session: Session, exercise_id: str) -> int:
    return int(session.scalar(select(func.count()).where(NumberSet.exercise_id == exercise_id)) or 0)


# --- sets of numbers, in the background


def look_for_numbers(studies: Studies, opened: Opened, person_id: str, exercise: ExerciseRow) -> None:
    """Begin to find sets of numbers for an exercise."""
    seed = random.SystemRandom().randrange(1 << 30)
    part = Terms.model_validate(exercise.terms).part
    studies.begin(opened, person_id, part, SORT, {"seed": seed}, about=exercise.id)


def find_numbers(database: Database) -> Work:
    """The work of finding sets: each is built, and kept if it builds and its answers are its own."""

    def work(turn: Turn) -> bool:
        exercise_id, found = turn.about, turn.found
        with database.transaction() as session:
            row = session.get(ExerciseRow, exercise_id)
            if row is None:
                return True
            model, terms = read_model(row.document), Terms.model_validate(row.terms)
            made = select(NumberSet).where(NumberSet.exercise_id == exercise_id).order_by(NumberSet.number)
            known: list[Figures] = [s.answers for s in session.scalars(made)]  # type: ignore[misc]
        opened = replace(turn.opened, model=model)
        for key in ("tried", "broken", "alike"):
            found.setdefault(key, 0)
        for index, numbers in enumerate(candidates(terms, model, int(turn.asked["seed"]))):
            if len(known) >= (min(WANTED, MOST_SETS) if terms.varying else 1) or index >= MOST_TRIED:
                break
            if index < found["tried"]:  # before somebody else's turn
                continue
            if turn.ended.is_set():
                return False
            figures = _figures(turn, opened, terms, numbers)
            after = _figures(turn, opened, terms, changed_by(terms.then, numbers)) if terms.then and figures else None
            found["tried"] = index + 1
            if figures is None or (terms.then and after is None):
                found["broken"] += 1
            elif any(same_answer(terms.asked, figures, other) for other in known):
                found["alike"] += 1
            else:
                known.append(figures)
                _keep(database, exercise_id, len(known), numbers, figures, after)
            turn.keep()
        if not known and "why" not in found:
            found["why"] = "No combination of these numbers is left: let them differ in a wider range."
        return True

    return work


def _figures(turn: Turn, opened: Opened, terms: Terms, numbers: Numbers) -> Figures | None:
    """What the maker's part comes to with some numbers; nothing where it does not build."""
    turn.tickets.add(turn.id)
    try:
        there = Builder.as_edited(opened, edits_of(numbers))
        built = turn.builder.as_it_is(there, terms.part, turn.id, patient=True)
    except Trouble as problem:
        turn.found["why"] = problem.message
        return None
    failed = failed_step(built)
    if failed or not built["bodies"]:
        message = next((s["message"] for s in built["steps"] if s["id"] == failed), "There is no body.")
        turn.found["why"] = f"{there.model.title_of(failed)}: {message}" if failed else message
        return None
    return figures_of(terms.asked, weighed_of(built))


def _keep(
    database: Database, exercise_id: str, number: int, numbers: Numbers, answers: Figures, then: Figures | None
) -> None:
    with database.transaction() as session:
        if session.get(ExerciseRow, exercise_id) is not None:  # taken away meanwhile
            session.add(NumberSet(
                exercise_id=exercise_id, number=number, numbers=dict(numbers), answers=_plain(answers),
                then=_plain(then) if then is not None else None,
            ))  # fmt: skip


def _plain(figures: Figures) -> dict[str, Any]:
    return {str(what): values for what, values in figures.items()}


# --- what is seen and done


@dataclass(frozen=True)
class Shown:
    """An exercise in a list: for those who do it with how they stand, for those who teach with how many have it."""

    id: str
    number: int
    title: str
    given: datetime | None
    opens: datetime | None
    ends: datetime | None
    sets: int
    begun: int
    handed_in: int
    mine: str  # the id of what I do at it
    model: str
    state: str  # one of overview.STATES
    seconds: float  # that I was at work on it, where it is done


def of_class(database: Database, person_id: str, class_id: str) -> list[Shown]:
    """The exercises of a class by number; students see what is given out and has begun."""
    with database.transaction() as session:
        class_for(session, person_id, "see", class_id)
        teaches = "teach" in IN_CLASS[role_in(session, person_id, class_id)]
        rows = session.scalars(
            select(ExerciseRow).where(ExerciseRow.class_id == class_id).order_by(ExerciseRow.number)
        ).all()
        counted = (
            select(NumberSet.exercise_id, func.count())
            .where(NumberSet.exercise_id.in_([r.id for r in rows]))
            .group_by(NumberSet.exercise_id)
        )
        sets = {exercise: int(count) for exercise, count in session.execute(counted)}
        mine = states_of(session, [r.id for r in rows], person_id)
        begun, handed = counts(session, class_id) if teaches else ({}, {})
    shown = []
    for r in rows:
        if teaches or is_out(r):
            doing = mine.get(r.id)
            shown.append(Shown(
                r.id, r.number, r.title, r.given, r.opens, r.ends, sets.get(r.id, 0), begun.get(r.id, 0),
                handed.get(r.id, 0), doing.id if doing else "", doing.model_id or "" if doing else "",
                doing.state if doing else "not begun", doing.seconds if doing else 0.0,
            ))  # fmt: skip
    return shown


def see(
    database: Database, person_id: str, exercise_id: str, right: ClassRight = "see"
) -> tuple[ExerciseRow, ClassRow, Terms]:
    """An exercise with its class and what it asks. Raises ``NotFound``."""
    with database.transaction() as session:
        row = exercise_for(session, person_id, right, exercise_id)
        return row, session.get_one(ClassRow, row.class_id), Terms.model_validate(row.terms)


def task_of(database: Database, builder: Builder, person_id: str, exercise_id: str) -> tuple[str, bytes]:
    """The drawing of an exercise, and what it is (a media type): the one that was brought, or one made of the maker's
    part with the numbers of whoever asks. Raises ``NotFound``, ``Trouble``.
    """
    with database.transaction() as session:
        row = exercise_for(session, person_id, "see", exercise_id)
        if row.task is not None:
            return row.task_media, row.task
        query = (
            select(NumberSet)
            .join(Doing, (Doing.exercise_id == NumberSet.exercise_id) & (Doing.set_number == NumberSet.number))
            .where(Doing.exercise_id == exercise_id, Doing.person_id == person_id)
        )
        mine = session.scalar(query)
        of_class = session.get_one(ClassRow, row.class_id).name
        number, numbers = (mine.number, mine.numbers) if mine is not None else (0, {})
        key = f"{exercise_id}:{number}:{row.title}"
        with _lock:
            if key in _drawings:
                return "image/svg+xml", _drawings[key]
        terms, as_text = Terms.model_validate(row.terms), written(read_model(row.document))
    opened = Opened(
        exercise_id, "", 0, as_text.model, as_text.text, can_undo=False, can_redo=False, files=as_text.files,
        who=person_id,
    )  # fmt: skip
    there = Builder.as_edited(opened, edits_of(numbers))
    there, sheet = _with_sheet(there, terms.part, row.title, f"{of_class}, {row.number}"[:80])
    # what the part weighs may be what is asked
    _, _, page = filing.export(builder, there, sheet, "sheet_svg", "", {"weighed": False})
    with _lock:
        _drawings[key] = page
    return "image/svg+xml", page


def _with_sheet(opened: Opened, part: str, title: str, number: str) -> tuple[Opened, str]:
    """A model with a sheet of a part, and which it is: the maker's, or one with the usual views; named by the
    exercise.
    """
    sheets = [p for p in opened.model.there if p.sort == "sheet" and any(s.brings() == part for s in p.steps)]
    if not sheets:
        opened = Builder.as_edited(opened, [{"kind": "add_part", "sort": "sheet", "of": part}])
        sheets = [opened.model.parts[-1]]
    paper = next((s.id for s in sheets[0].steps if isinstance(s, PaperLine)), None)
    fields = {"heading": title[:80], "number": number}
    head: dict[str, Any] = {"kind": "set_fields", "step": paper, "fields": fields}
    if paper is None:
        head = {"kind": "add_step", "part": sheets[0].id, "step": "paper", "fields": fields}
    return Builder.as_edited(opened, [head]), sheets[0].id


def begin(database: Database, person_id: str, exercise_id: str) -> str:
    """The model in which somebody does an exercise: a new one with their numbers as parameters, or the one they have.
    Of the sets of numbers they get one that the fewest have. Raises ``Refused``.
    """
    with database.transaction() as session:
        row = exercise_for(session, person_id, "see", exercise_id, lock=True)
        doing = session.scalar(select(Doing).where(Doing.exercise_id == exercise_id, Doing.person_id == person_id))
        there = session.get(ModelRow, doing.model_id) if doing is not None and doing.model_id else None
        if there is not None:
            there.binned = None
            session.get_one(Project, there.project_id).binned = None
            return there.id
        if doing is None:
            doing = Doing(
                exercise_id=exercise_id, person_id=person_id, set_number=_least_used(session, exercise_id),
                right=None, then_right=None, marked=None,
            )  # fmt: skip
            session.add(doing)
        numbers = session.get_one(NumberSet, (exercise_id, doing.set_number)).numbers
        start = started(row, numbers)
        project = project_called(session, person_id, session.get_one(ClassRow, row.class_id).name)
        model = shelf.add_model(session, person_id, project.id, start, f"Begun for exercise {row.number}")
        doing.model_id = model.id
        return model.id


def again(database: Database, person_id: str, exercise_id: str) -> str:
    """One of the exercises that one does alone, begun anew with other numbers; the model of before stays."""
    with database.transaction() as session:
        row = exercise_for(session, person_id, "see", exercise_id, lock=True)
        doing = session.scalar(select(Doing).where(Doing.exercise_id == exercise_id, Doing.person_id == person_id))
        if row.class_id != PRACTICE or doing is None:
            raise NotFound(GONE_EXERCISE)
        had = doing.set_number
        session.delete(doing)
        session.flush()
        other = session.scalar(
            select(NumberSet.number)
            .where(NumberSet.exercise_id == exercise_id, NumberSet.number != had)
            .order_by(func.random())
            .limit(1)
        )
        session.add(Doing(
            exercise_id=exercise_id, person_id=person_id, set_number=other or had, right=None, then_right=None,
            marked=None,
        ))  # fmt: skip
    return begin(database, person_id, exercise_id)


def _least_used(session: Session, exercise_id: str) -> int:
    used = func.count(Doing.id)
    number = session.scalar(
        select(NumberSet.number)
        .outerjoin(Doing, (Doing.exercise_id == NumberSet.exercise_id) & (Doing.set_number == NumberSet.number))
        .where(NumberSet.exercise_id == exercise_id)
        .group_by(NumberSet.number)
        .order_by(used, func.random())
        .limit(1)
    )
    if number is None:
        raise Refused("The numbers of this exercise are still being found: try again in a minute.")
    return number


def started(row: ExerciseRow, numbers: Mapping[str, Any]) -> Model:
    """An empty model with somebody's numbers, and those that are to be changed afterwards, as parameters."""
    model, terms = read_model(row.document), Terms.model_validate(row.terms)
    wanted = [*numbers, *(c.parameter for c in terms.then if c.parameter not in numbers)]
    known = {p.name: p for p in model.parameters}
    given = tuple(
        Parameter(name=name, formula=str(numbers.get(name, known[name].formula)), note=known[name].note)
        for name in wanted
    )
    return new_model(row.title, row.units).changed(parameters=given, fractions=model.fractions)  # type: ignore[arg-type]


def project_called(session: Session, person_id: str, name: str) -> Project:
    """Somebody's project with a name: the one that is there, or a new one."""
    found = session.scalar(
        select(Project)
        .where(Project.owner_id == person_id, Project.name == name, Project.binned.is_(None))
        .order_by(Project.created)
        .limit(1)
    )
    if found is None:
        found = Project(owner_id=person_id, name=name, binned=None)
        session.add(found)
        session.flush()
    return found


def made_of(row: ExerciseRow, asked: Terms) -> str:
    """What the part is to be made of, where its mass is asked; otherwise nothing."""
    if all(a.what != "mass" for a in asked.asked):
        return ""
    model = read_model(row.document)
    return material_of(model, model.part(asked.part).material).name
