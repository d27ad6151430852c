"""Classes: who is in them, who sees what, many at once."""

import re
from datetime import timedelta

import pytest
from sqlalchemy import select
from tests.web.learning import (
    Somebody,
    There,
    at_once,
    begun,
    joined,
    people_of,
    plate_with_bore,
)
from tests.web.test_pages import Visitor

from sketchlathe.service import exercises
from sketchlathe.store import Person
from sketchlathe.store.tables import ClassRow, Doing, ExerciseRow, HandIn, NumberSet, now


def test_nobody_sees_what_is_not_theirs(app, database, teacher, of_class, exercise) -> None:
    """Every address of a class asked for by a student of it, by a stranger, by nobody."""
    ben = joined(app, teacher, of_class, "Ben Sol")
    model = begun(ben, exercise)
    plate_with_bore(There(database, ben.id, model), "wide", "40 mm", "thick + 1 mm", "bore")
    ben.exercise(model, "hand-in")
    with database.transaction() as session:
        doing = session.scalar(select(Doing.id).where(Doing.exercise_id == exercise))
        hand_in = session.scalar(select(HandIn.id))
    carla, stranger, nobody = joined(app, teacher, of_class, "Carla Moor"), Somebody(app, database, "St"), Visitor(app)
    of_teachers = {
        "get": [
            f"/classes/{of_class}/people", f"/classes/{of_class}/exercises/new", f"/exercises/{exercise}/change",
            f"/exercises/{exercise}/taken-out.csv", f"/exercises/{exercise}/taken-out.zip", f"/doings/{doing}",
            f"/doings/{doing}/hand-ins/{hand_in}.png",
        ],
        "post": [
            *(f"/classes/{of_class}/{what}" for what in ("joining", "rename", "copy", "end", "keep")),
            f"/classes/{of_class}/people/{ben.id}/role", f"/classes/{of_class}/people/{ben.id}/remove",
            f"/classes/{of_class}/exercises/new", f"/exercises/{exercise}/change",
            *(f"/exercises/{exercise}/{what}" for what in ("give", "back", "away")),
            f"/doings/{doing}/mark", f"/doings/{doing}/hand-ins/{hand_in}/copy",
        ],
    }  # fmt: skip
    of_members = [f"/classes/{of_class}", f"/exercises/{exercise}/drawing"]
    form = {"name": "x", "role": "teacher", "points": "10", "title": "x", "until": "2199-01-01"}
    for who in (carla, stranger, ben):
        for path in of_teachers["get"]:
            assert who.client.get(path).status_code == 404, path
        for path in of_teachers["post"]:
            assert who.post(path, **form).status_code == 404, path
    for path in of_members:
        assert stranger.client.get(path).status_code == 404, path
    assert stranger.post(f"/exercises/{exercise}/begin").status_code == 404
    for path in (*of_teachers["get"], *of_members):
        assert nobody.client.get(path).status_code == 302, path
    for what in ("answer", "hand-in", "withdraw"):
        assert carla.exercise(model, what, id=hand_in).status_code == 404
    # nothing of it was done
    with database.transaction() as session:
        assert session.get_one(Doing, doing).marked is None
        assert session.get_one(ExerciseRow, exercise).given is not None
    assert "Form and fit" in ben.see(f"/classes/{of_class}")
    # what a student is sent has neither answers nor the numbers of others
    with database.transaction() as session:
        sets = session.scalars(select(NumberSet).where(NumberSet.exercise_id == exercise)).all()
        mine = session.get_one(Doing, doing).set_number
    sent = ben.see(f"/models/{model}") + ben.see(f"/classes/{of_class}") + ben.exercise(model).json["html"]
    for s in sets:
        assert repr(s.answers["area"][0]) not in sent
        if s.number != mine:
            assert not all(f">{text}<" in sent for text in s.numbers.values())


def test_who_is_in_a_class(app, database, teacher, of_class, exercise) -> None:
    ben, carla = (joined(app, teacher, of_class, name) for name in ("Ben Sol", "Carla Moor"))
    people = f"/classes/{of_class}/people"
    teacher.goes(f"{people}/{teacher.id}/role", role="student")
    assert "needs a teacher" in teacher.see(people)
    teacher.goes(f"{people}/{carla.id}/role", role="helper")
    assert "Ben Sol" in carla.see(f"/classes/{of_class}?exercise={exercise}")  # a helper sees everybody
    assert carla.post(f"/exercises/{exercise}/away").status_code == 404  # and makes nothing
    code = re.search(r"[a-z]+-[a-z]+-[a-z]+-\d{4}", teacher.see(people))[0]
    teacher.goes(f"/classes/{of_class}/joining", joining="no")
    late = Somebody(app, database, "Late")
    late.goes("/classes/join", code=code)
    assert "takes nobody in" in late.see("/classes")
    teacher.goes(f"/classes/{of_class}/joining", joining="yes")
    late.goes("/classes/join", code=code)
    assert "No class has this code" in late.see("/classes")  # the old one is not the new one
    model = begun(ben, exercise)
    ben.goes(f"/classes/{of_class}/leave")
    assert ben.client.get(f"/classes/{of_class}").status_code == 404
    assert ben.exercise(model).json == {"html": "", "looking": False}
    assert ben.client.get(f"/models/{model}").status_code == 200  # the model stays
    copy = teacher.goes(f"/classes/{of_class}/copy", name="Form and fit, next year")
    page = teacher.see(copy)
    assert "Spacer plate" in page
    assert "0 students" in page
    assert "<dd>9</dd>" in page  # sets
    teacher.goes(f"/classes/{of_class}/end")
    assert carla.client.get(f"/classes/{of_class}").status_code == 404


def test_codes_cannot_be_guessed_for_long(app, database) -> None:
    someone = Somebody(app, database, "Gus")
    for n in range(30):
        someone.goes("/classes/join", code=f"brisk-heron-still-{1000 + n}")
    someone.see("/classes")
    someone.goes("/classes/join", code="brisk-heron-still-2000")
    assert "Too many codes" in someone.see("/classes")


def test_thirty_begin_at_once(app, database, of_class, exercise) -> None:
    students = people_of(database, of_class, 30)
    with database.transaction() as session:
        for number in range(10, 41):
            numbers = {"wide": f"{number} mm", "bore": "8 mm"}
            session.add(NumberSet(exercise_id=exercise, number=number, numbers=numbers, answers={}, then={}))
    models = at_once(lambda who: exercises.begin(database, who, exercise), students * 2)
    assert models[:30] == models[30:]  # twice at the same moment: one model
    assert len(set(models)) == 30
    with database.transaction() as session:
        sets = session.scalars(select(Doing.set_number).where(Doing.exercise_id == exercise)).all()
        assert len(set(sets)) == 30  # of 40: nobody has a neighbour's


def test_a_class_ends_by_itself_and_says_what_it_keeps(app, database, teacher, of_class, exercise) -> None:
    ben = joined(app, teacher, of_class, "Ben Sol")
    model = begun(ben, exercise)
    m = There(database, ben.id, model)
    m.step("block", width="10 mm", depth="10 mm", height="10 mm")
    ben.exercise(model, "answer")
    ben.exercise(model, "hand-in")
    kept = ben.client.get(f"/classes/{of_class}/about-me.json").json
    (one,) = kept["exercises"]
    assert (kept["role"], one["exercise"], len(one["tries"]), len(one["handed in"])) == (
        "student",
        "Spacer plate",
        1,
        1,
    )
    assert one["handed in"][0]["figures"]["volume"] == [pytest.approx(1000)]
    teacher.goes(f"/classes/{of_class}/keep", until="2001-01-01T00:00")
    assert "is over" in teacher.see(f"/classes/{of_class}/people")
    teacher.goes(f"/classes/{of_class}/keep", until="2199-01-01T00:00:00Z")
    assert "Form and fit" in ben.see(f"/classes/{of_class}")
    with database.transaction() as session:
        session.get_one(ClassRow, of_class).kept_until = now() - timedelta(seconds=1)
    assert ben.client.get(f"/classes/{of_class}").status_code == 404
    assert teacher.client.get(f"/classes/{of_class}").status_code == 404
    teacher.see("/classes")
    with database.transaction() as session:
        assert session.get(ClassRow, of_class) is None
        assert session.get(ExerciseRow, exercise) is None
    assert ben.client.get(f"/models/{model}").status_code == 200


def test_nobody_signs_in_as_who_has_no_password(app, database, of_class) -> None:
    people_of(database, of_class, 1)
    with database.transaction() as session:
        address = session.scalar(select(Person.email).where(Person.password_hash == ""))
    for password in ("", "a good password"):
        assert Visitor(app).post("/sign-in", email=address, password=password).status_code == 422
