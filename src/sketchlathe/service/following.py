"""What is found out about something handed in, in the background: does the part follow a change, does it survive its
own numbers, whose numbers does it have. It is shown to who teaches; nobody is punished by it.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.amounts.weighing import Units
from ..core.errors import Trouble
from ..core.exercises.judging import judged
from ..core.exercises.numbers import Figures, same_answer
from ..core.exercises.terms import Asked, Change, Terms
from ..core.model.document import Model, read_model
from ..core.model.edits.parameters import uses_of
from ..core.model.knobs import Knob, knobs
from ..core.quantity import evaluate
from ..store import Database
from ..store.tables import Doing, ExerciseRow, HandIn, NumberSet, Person, Revision
from .building import Builder, failed_step, weighed_of
from .modelling import Opened
from .studies import Turn, Work

SORT = "following"
MOST_NUMBERS = 24  # that are made a tenth larger and smaller
SURVIVES = "survives its own numbers, a tenth larger and smaller"
Says = tuple[str, str]
"""good, warn or bad; and in words."""


def follow(database: Database) -> Work:
    """The work of finding out about something handed in."""

    def work(turn: Turn) -> bool:
        with database.transaction() as session:
            hand_in = session.get(HandIn, turn.about)
            doing = session.get(Doing, hand_in.doing_id) if hand_in is not None else None
            if hand_in is None or doing is None:
                return True
            terms = Terms.model_validate(session.get_one(ExerciseRow, doing.exercise_id).terms)
            numbers = session.get_one(NumberSet, (doing.exercise_id, doing.set_number))
            opened = replace(turn.opened, model=read_model(hand_in.document))
            says: list[Says] = list(_whose(session, terms.asked, hand_in, doing))
            says += _at_once(session, opened, hand_in, doing)
        part_id = hand_in.part_id
        if terms.then and numbers.then is not None:
            says += then(turn, opened, part_id, terms, numbers)
        broken = list(shaken(turn, opened, part_id))
        if turn.ended.is_set():
            return False
        says += [("warn", text) for text in broken[:3]]
        if not broken:
            says.append(("good", SURVIVES))
        with database.transaction() as session:
            there = session.get(HandIn, hand_in.id)
            if there is not None:
                there.shows = {"says": [list(s) for s in says]}
        return True

    return work


def then(turn: Turn, opened: Opened, part_id: str, terms: Terms, numbers: NumberSet) -> Iterator[Says]:
    """The change that the exercise asks for, made in the part that was handed in."""
    wish = ", ".join(f"{c.parameter} {c.value}" for c in terms.then)
    edits = [_edit(opened.model, part_id, c, numbers.numbers.get(c.parameter)) for c in terms.then]
    known = [e for e in edits if e is not None]
    if len(known) < len(edits):
        # whoever made the change themselves before handing in has it in the part
        yield "warn", f"no number in it is the {terms.then[edits.index(None)].parameter} that was given: not tried"
        return
    turn.tickets.add(turn.id)
    try:
        there = Builder.as_edited(opened, known)
        built = turn.builder.as_it_is(there, part_id, turn.id, patient=True)
    except Trouble as problem:
        yield "bad", f"fails at {wish}: {problem.message}"
        return
    failed = failed_step(built)
    if failed or not built["bodies"]:
        yield "bad", f"fails at {wish}: {there.model.title_of(failed) if failed else 'no body is left'}"
        return
    expected: Figures = numbers.then or {}  # type: ignore[assignment]
    found = judged(terms.asked, expected, weighed_of(built), Units(opened.model.units))
    off = [j for j in found if not j.right]
    yield (
        ("good", f"follows to {wish}")
        if not off
        else ("bad", f"does not follow to {wish}: {off[0].word} {off[0].text}")
    )


def _edit(model: Model, part_id: str, change: Change, given: Any) -> dict[str, Any] | None:
    """The edit that makes a change: of the parameter, if something follows it, else of the one number that has its
    value.
    """
    has = next((p for p in model.parameters if p.name == change.parameter), None)
    if has is not None and uses_of(model, change.parameter):
        return {"kind": "set_parameter", "name": change.parameter, "formula": change.value}
    if given is None and has is not None:
        given = has.formula
    if given is None:
        return None
    try:
        value = evaluate(str(given), model.table.values, length_unit=model.units)
    except Trouble:
        return None
    alike = [
        k for k in knobs(model, model.part(part_id))
        if k.step and k.dimension == value.dimension and abs(k.value - value.value) < 1e-6
    ]  # fmt: skip
    return dict(alike[0].turn(change.value)) if len(alike) == 1 else None


def shaken(turn: Turn, opened: Opened, part_id: str) -> Iterator[str]:
    """Numbers of a part at which it breaks, a tenth larger or smaller: in words."""
    model = opened.model
    for knob in list(knobs(model, model.part(part_id)))[:MOST_NUMBERS]:
        if turn.ended.is_set():
            return
        if knob.whole or abs(knob.value) < 1e-9:
            continue
        for factor in (1.1, 0.9):
            if text := _breaks(turn, opened, part_id, knob, knob.value * factor):
                yield text
                break


def _breaks(turn: Turn, opened: Opened, part_id: str, knob: Knob, value: float) -> str:
    turn.tickets.add(ticket := f"{turn.id}.{knob.id}")
    edits = [dict(knob.turned(value, opened.model))]
    try:
        outcome = turn.builder.try_edits(opened, part_id, edits, place=opened.id, ticket=ticket)
    except Trouble:
        return ""
    if outcome.holds:
        return ""
    where = f": {opened.model.title_of(outcome.step)}" if outcome.step else ""
    return f"breaks where {knob.name} is {knob.said(value, opened.model, 4)}{where}"


def _whose(session: Session, asked: tuple[Asked, ...], hand_in: HandIn, doing: Doing) -> Iterator[Says]:
    """Whether a part that is not right has the figures of somebody else's numbers."""
    if hand_in.right:
        return
    query = (
        select(NumberSet, Person.name)
        .join(Doing, (Doing.exercise_id == NumberSet.exercise_id) & (Doing.set_number == NumberSet.number))
        .join(Person, Person.id == Doing.person_id)
        .where(NumberSet.exercise_id == doing.exercise_id, NumberSet.number != doing.set_number)
    )
    mine: Figures = hand_in.figures  # type: ignore[assignment]
    for numbers, name in session.execute(query):
        known: tuple[Any, Any] = numbers.answers, numbers.then
        for theirs in known:
            if theirs and same_answer(asked, theirs, mine):
                yield "warn", f"has the figures of {name}'s numbers"
                return


def _at_once(session: Session, opened: Opened, hand_in: HandIn, doing: Doing) -> Iterator[Says]:
    """Whether a part came from elsewhere, or all of it in one change."""
    part = opened.model.part(hand_in.part_id)
    if any(step.brought for step in part.steps):
        yield "warn", "made of a file that was brought in"
    query = select(func.count()).where(Revision.model_id == doing.model_id, Revision.number <= hand_in.revision)
    changes = session.scalar(query) or 0
    if len(part.steps) >= 3 and changes <= len(part.steps):
        yield "warn", f"{len(part.steps)} steps in {changes} changes: not made here step by step"
