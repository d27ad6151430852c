"""Exercises: made, given out, answered, handed in, and what a teacher sees of that."""

import csv
import io
import re
import zipfile
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import pytest
from defusedxml import ElementTree
from PIL import Image
from sqlalchemy import func, select
from tests.web.learning import (
    FORM,
    There,
    at_once,
    begun,
    joined,
    made,
    people_of,
    plate_with_bore,
    rested,
    spacer,
    volume,
)

from sketchlathe.core.errors import Refused
from sketchlathe.core.exchange.modelfile import dump_model, load_model
from sketchlathe.service import answering, exercises, modelling
from sketchlathe.store.tables import Attempt, Doing, ExerciseRow, HandIn, NumberSet, now


def test_everybody_has_numbers_of_their_own_and_their_answers(app, database, teacher, of_class, exercise) -> None:
    with database.transaction() as session:
        sets = session.scalars(select(NumberSet).where(NumberSet.exercise_id == exercise)).all()
        assert len({tuple(s.numbers.items()) for s in sets}) == len(sets) == 9  # three of one by three of the other
        for s in sets:
            wide, bore = (float(s.numbers[n].removesuffix(" mm")) for n in ("wide", "bore"))
            assert s.answers["volume"] == [pytest.approx(volume(wide, 40, 8, bore), rel=1e-9)]
            assert s.then["volume"] == [pytest.approx(volume(wide, 40, 11, bore), rel=1e-9)]
    got = []
    for name in ("Ben Sol", "Carla Moor", "Deniz Alp"):
        student = joined(app, teacher, of_class, name)
        numbers = student.numbers(begun(student, exercise))
        assert set(numbers) == {"wide", "bore", "thick"}
        assert numbers["thick"] == 8
        got.append((numbers["wide"], numbers["bore"]))
    assert len(set(got)) == 3


def test_an_answer_is_right_then_the_part_follows_and_is_handed_in(app, database, teacher, of_class, exercise) -> None:
    ben = joined(app, teacher, of_class, "Ben Sol")
    model = begun(ben, exercise)
    assert begun(ben, exercise) == model  # again: the same one
    none = ben.exercise(model, "answer")
    assert none.status_code == 409
    assert "no body yet" in none.json["message"]
    plate_with_bore(There(database, ben.id, model), "wide", "40 mm", "thick", "bore")
    told = ben.exercise(model, "answer").json["html"]
    assert "Right. Then:" in told
    assert "11 mm" in told
    wrong = ben.exercise(model, "answer").json["html"]  # the part as it was: not 11 mm thick
    assert "too small by" in wrong
    assert ben.exercise(model, "answer").json["html"] == wrong  # the same revision counts once
    There(database, ben.id, model).do("set_parameter", name="thick", formula="11 mm")
    told = ben.exercise(model, "answer").json["html"]
    assert told.count("✓ right") == 2
    assert "3 tries" in told
    told = ben.exercise(model, "hand-in").json["html"]
    assert "Handed in: revision" in told
    assert ben.exercise(model, "hand-in").json["html"].count("Handed in: revision") == 1
    with database.transaction() as session:
        handed = session.scalars(select(HandIn).join(Doing).where(Doing.exercise_id == exercise)).all()
        assert [h.right for h in handed] == [True]
        numbers = ben.numbers(model)
        wanted = volume(numbers["wide"], 40, 11, numbers["bore"])
        assert handed[0].figures["volume"] == [pytest.approx(wanted, rel=1e-9)]
    page = teacher.see(f"/classes/{of_class}?exercise={exercise}")
    row = re.search(r"<tr><th scope=\"row\">Ben Sol.*?</tr>", page, re.S)[0]
    assert "handed in" in row
    assert "+0.00 %" in row
    rested(lambda: "survives its own numbers" in teacher.see(f"/classes/{of_class}?exercise={exercise}"))


def test_why_an_answer_is_off_is_said_after_two_and_put_together_for_the_teacher(
    app, database, teacher, of_class, exercise
) -> None:
    carla = joined(app, teacher, of_class, "Carla Moor")
    model = begun(carla, exercise)
    there = plate_with_bore(There(database, carla.id, model), "wide", "40 mm", "thick", "bore / 2")
    first = carla.exercise(model, "answer").json
    assert "too large by" in first["html"]
    assert "Why?" not in first["html"]
    block = there.steps[-1].id
    there.do("set_fields", step=block, fields={"diameter": f"{carla.numbers(model)['bore'] / 2} mm"})
    carla.exercise(model, "answer")
    told = rested(
        lambda: "Why?" in (html := carla.exercise(model).json["html"]) and "being looked" not in html and html
    )
    assert "Block 1" in told
    # what it should be is nowhere said
    assert f"{volume(carla.numbers(model)['wide'], 40, 8, carla.numbers(model)['bore']) / 1000:.2f}" not in told
    page = rested(lambda: "radius for diameter" in (p := teacher.see(f"/classes/{of_class}?exercise={exercise}")) and p)
    assert "Carla Moor" in re.search(r"radius for diameter.*?</details>", page, re.S)[0]
    # the column says how far its own figure is off, whatever else is asked
    n = carla.numbers(model)
    share = volume(n["wide"], 40, 8, n["bore"] / 2) / volume(n["wide"], 40, 8, n["bore"]) - 1
    assert f"{share * 100:+.2f} %" in re.search(r"<tr><th scope=\"row\">Carla Moor.*?</tr>", page, re.S)[0]


def test_a_part_that_does_not_follow_is_seen(app, database, teacher, of_class, exercise) -> None:
    deniz = joined(app, teacher, of_class, "Deniz Alp")
    model = begun(deniz, exercise)
    numbers = deniz.numbers(model)
    # half of the thickness typed, half of it by the parameter
    m = There(database, deniz.id, model)
    plate_with_bore(m, f"{numbers['wide']} mm", "40 mm", "4 mm + thick / 2", f"{numbers['bore']} mm")
    assert "Right. Then:" in deniz.exercise(model, "answer").json["html"]
    deniz.exercise(model, "hand-in")
    page = rested(lambda: "does not follow to thick 11 mm" in (p := teacher.see(f"/classes/{of_class}")) and p)
    assert "volume too small by" in page
    with database.transaction() as session:
        doing = session.scalar(select(Doing.id).where(Doing.person_id == deniz.id))
    look = teacher.see(f"/doings/{doing}")
    assert "4 mm + thick / 2" in look
    hand_in = re.search(r"hand-ins/(\w+)\.png", look)[1]
    png = teacher.client.get(f"/doings/{doing}/hand-ins/{hand_in}.png")
    assert Image.open(io.BytesIO(png.data)).size == (720, 405)
    copy = teacher.goes(f"/doings/{doing}/hand-ins/{hand_in}/copy").rsplit("/", 1)[1]
    assert modelling.open_model(database, teacher.id, copy).model.name == "Spacer plate, Deniz Alp"
    teacher.goes(f"/doings/{doing}/mark", points="7 of 10", remark="The thickness should be one number.")
    told = deniz.exercise(model).json["html"]
    assert "7 of 10" in told
    assert "one number" in told
    assert deniz.exercise(model, "hand-in").status_code == 409
    rows = list(csv.DictReader(io.StringIO(
        teacher.client.get(f"/exercises/{exercise}/taken-out.csv").data.decode("utf-8-sig")
    )))  # fmt: skip
    assert [(r["name"], r["points"], r["tries"]) for r in rows] == [("Deniz Alp", "7 of 10", "1")]
    packed = zipfile.ZipFile(io.BytesIO(teacher.client.get(f"/exercises/{exercise}/taken-out.zip").data))
    assert packed.namelist() == ["01 deniz-alp.json"]
    assert len(load_model(packed.read("01 deniz-alp.json")).parts[0].steps) == 3


def test_somebody_elses_numbers_and_a_part_from_elsewhere_are_seen(app, database, teacher, of_class, exercise) -> None:
    ben, edda = (joined(app, teacher, of_class, name) for name in ("Ben Sol", "Edda Wren"))
    theirs = ben.numbers(begun(ben, exercise))
    model = begun(edda, exercise)
    m = There(database, edda.id, model)
    plate_with_bore(m, f"{theirs['wide']} mm", "40 mm", "8 mm", f"{theirs['bore']} mm")
    edda.exercise(model, "hand-in")
    rested(lambda: "has the figures of Ben Sol" in teacher.see(f"/classes/{of_class}?exercise={exercise}"))


def test_tries_end_and_what_is_late_is_called_so(app, database, teacher, of_class) -> None:
    exercise = made(teacher, of_class, tries="1", off_after="0", differs=[], changes=[])
    with database.transaction() as session:
        sets = session.scalars(select(NumberSet).where(NumberSet.exercise_id == exercise)).all()
        assert [s.numbers for s in sets] == [{}]
        session.get_one(ExerciseRow, exercise).ends = now() - timedelta(seconds=1)
    finn = joined(app, teacher, of_class, "Finn Oak")
    model = begun(finn, exercise)
    m = plate_with_bore(There(database, finn.id, model), "60 mm", "40 mm", "8.1 mm", "12 mm")
    told = finn.exercise(model, "answer").json["html"]
    assert "not right yet" in told
    assert "too large" not in told
    assert "0 left" in told
    m.do("set_fields", step=m.steps[1].id, fields={"distance": "8 mm"})
    refused = finn.exercise(model, "answer")
    assert refused.status_code == 409
    assert "All 1 tries are used" in refused.json["message"]
    told = finn.exercise(model, "hand-in").json["html"]
    assert ", late" in told
    again = re.search(r'data-id="(\w+)"', told)[1]
    assert "withdrawn" in finn.exercise(model, "withdraw", id=again).json["html"]
    with database.transaction() as session:
        assert session.get_one(HandIn, again).right


def test_a_try_after_the_change_is_not_one_before_it(app, database, teacher, of_class) -> None:
    exercise = made(teacher, of_class, tries="1", differs=[])
    greta = joined(app, teacher, of_class, "Greta Lund")
    model = begun(greta, exercise)
    m = plate_with_bore(There(database, greta.id, model), "60 mm", "40 mm", "thick", "12 mm")
    told = greta.exercise(model, "answer").json["html"]
    assert "Right. Then:" in told
    assert "1 left" in told
    m.do("set_parameter", name="thick", formula="11 mm")
    assert greta.exercise(model, "answer").json["html"].count("✓ right") == 2


def test_an_exercise_is_not_seen_before_it_is_out(app, database, teacher, of_class) -> None:
    exercise = made(teacher, of_class, given=False, opens="2199-01-01T08:00:00Z", differs=[], changes=[])
    ben = joined(app, teacher, of_class, "Ben Sol")
    assert "Spacer plate" not in ben.see(f"/classes/{of_class}")
    assert ben.post(f"/exercises/{exercise}/begin").status_code == 404
    teacher.goes(f"/exercises/{exercise}/give")
    assert "Spacer plate" not in ben.see(f"/classes/{of_class}")
    assert ben.post(f"/exercises/{exercise}/begin").status_code == 404
    form = {**FORM, "opens": "", "title": "Spacer plate, today"}
    teacher.goes(f"/exercises/{exercise}/change", **form)
    assert "Spacer plate, today" in ben.see(f"/classes/{of_class}")
    begun(ben, exercise)
    # once somebody has begun it is not taken back
    teacher.goes(f"/exercises/{exercise}/back")
    assert "has begun" in teacher.see(f"/classes/{of_class}")


def test_a_model_that_goes_takes_no_exercise_with_it(app, database, teacher, of_class, exercise) -> None:
    page = teacher.see("/")
    model = re.search(r'href="/models/(\w+)"', page)[1]
    teacher.goes(f"/models/{model}/bin")
    teacher.goes(f"/models/{model}/gone")
    ben = joined(app, teacher, of_class, "Ben Sol")
    mine = begun(ben, exercise)
    plate_with_bore(There(database, ben.id, mine), "wide", "40 mm", "thick", "bore")
    assert "Right. Then:" in ben.exercise(mine, "answer").json["html"]
    # and one's own, thrown away for good, is begun anew with the same numbers
    numbers = ben.numbers(mine)
    ben.goes(f"/models/{mine}/bin")
    assert begun(ben, exercise) == mine  # out of the bin
    ben.goes(f"/models/{mine}/bin")
    ben.goes(f"/models/{mine}/gone")
    again = begun(ben, exercise)
    assert again != mine
    assert ben.numbers(again) == numbers


@pytest.mark.parametrize(
    ("form", "says"),
    [
        ({"asked": []}, "Tick at least one figure"),
        ({"low-wide": "90 mm", "high-wide": "50 mm"}, "the first is the larger"),
        ({"step-wide": "0"}, "a step above nought"),
        ({"step-wide": "0.001 mm"}, "take a larger step"),
        ({"low-wide": "fifty"}, "fifty"),
        ({"low-wide": ""}, "A number is wanted here"),
        (
            {"differs": ["nothing"], "low-nothing": "1", "high-nothing": "2", "step-nothing": "1"},
            "no parameter nothing",
        ),
        ({"within-volume": "0"}, "percentage above 0"),
        ({"title": " "}, "1 to 120 characters"),
        ({"tries": "-1"}, "0 to 99"),
        ({"opens": "2030-01-02T10:00", "ends": "2030-01-01T10:00"}, "ends before it begins"),
        ({"ends": "soon"}, "not a moment"),
        ({"words": "x" * 5000}, "at most 4000"),
    ],
)
def test_what_an_exercise_cannot_be_is_said(teacher, of_class, form, says) -> None:
    project = re.search(r"/projects/(\w+)/models", teacher.see("/"))[1]
    file = (io.BytesIO(dump_model(spacer().model.changed(name="Spacer"))), "spacer.json")
    model = teacher.goes(f"/projects/{project}/bring-in", file=file).rsplit("/", 1)[1]
    answer = teacher.post(f"/classes/{of_class}/exercises/new", **{**FORM, "model": model, **form})
    assert answer.status_code == 422
    page = answer.get_data(as_text=True)
    assert says in page
    assert 'value="50 mm"' in page or "low-wide" in form  # what was typed is still there


def test_a_drawing_is_a_picture(teacher, of_class) -> None:
    out = io.BytesIO()
    Image.new("RGB", (4000, 3000), "white").save(out, "JPEG")
    out.seek(0)
    exercise = made(teacher, of_class, differs=[], changes=[], task=(out, "drawing.jpg"))
    png = teacher.client.get(f"/exercises/{exercise}/drawing")
    assert Image.open(io.BytesIO(png.data)).size == (2400, 1800)
    answer = teacher.post(f"/exercises/{exercise}/change", **FORM, task=(io.BytesIO(b"%PDF-1.7 nothing"), "a.png"))
    assert answer.status_code == 422
    assert "must be a picture" in answer.get_data(as_text=True)


def test_where_no_drawing_was_brought_one_is_made_with_ones_own_numbers(app, teacher, of_class, exercise) -> None:
    ben = joined(app, teacher, of_class, "Ben Sol")
    numbers = ben.numbers(begun(ben, exercise))
    answer = ben.client.get(f"/exercises/{exercise}/drawing")
    assert answer.mimetype == "image/svg+xml"
    page = ElementTree.fromstring(answer.data)
    texts = [t.text for t in page.findall(".//{*}text")]
    assert f"{numbers['wide']:g}" in texts  # the size of the sketch, above its line
    assert any(f"diameter {numbers['bore']:g} mm" in (t or "") for t in texts)
    assert "8" in texts  # how thick it is: a drawing has numbers where the model has names
    assert "made of" in texts, texts
    assert "Spacer plate" in texts, texts
    assert not any(t and " g" in t for t in texts), "its mass is what is asked"
    assert "script" not in answer.text


def test_a_class_opens_its_drawings_at_once(app, teacher, of_class, exercise) -> None:
    """Each gets the one of their numbers; nobody's takes the place of another's that waits."""
    people = [joined(app, teacher, of_class, f"Student {n}") for n in range(6)]
    numbers = [someone.numbers(begun(someone, exercise)) for someone in people]
    with ThreadPoolExecutor(6) as at_once:
        answers = list(at_once.map(lambda p: p.client.get(f"/exercises/{exercise}/drawing"), people))
    assert [a.status_code for a in answers] == [200] * 6
    for answer, mine in zip(answers, numbers):
        assert f">{mine['wide']:g}<" in answer.text


def test_combinations_that_do_not_build_are_thrown_out(teacher, of_class, database) -> None:
    """A fillet of 5 mm on a plate that is thinner than that."""
    m = spacer()
    from tests.batteries.making import edge

    m.step("fillet", edges=[edge(m, (60, 20, 8))], radius="5 mm")
    exercise = made(
        teacher, of_class, m, given=False, differs=["thick"], changes=[],
        **{"low-thick": "2 mm", "high-thick": "9 mm", "step-thick": "1 mm"},
    )  # fmt: skip
    with database.transaction() as session:
        sets = session.scalars(select(NumberSet).where(NumberSet.exercise_id == exercise)).all()
        assert sorted(s.numbers["thick"] for s in sets) == ["6 mm", "7 mm", "8 mm", "9 mm"] or sorted(
            s.numbers["thick"] for s in sets
        ) == ["5 mm", "6 mm", "7 mm", "8 mm", "9 mm"]
    assert "did not" in teacher.see(f"/classes/{of_class}?exercise={exercise}")


def test_many_clicks_are_no_more_tries_than_there_are(app, database, teacher, of_class) -> None:
    exercise = made(teacher, of_class, tries="2", differs=[], changes=[])
    (who,) = people_of(database, of_class, 1)
    model = exercises.begin(database, who, exercise)
    m = plate_with_bore(There(database, who, model), "60 mm", "40 mm", "8.5 mm", "12 mm")
    builder, studies = app.extensions["builder"], app.extensions["studies"]

    def tried(n: int) -> str:
        try:
            answering.answer(database, builder, studies, who, states[n % 4], "p1", f"{model}:{n}")
        except Refused as problem:
            return problem.message
        return ""

    states = []
    for n in range(4):  # four states of the part, each tried twice at once
        m.do("set_fields", step=m.steps[1].id, fields={"distance": f"{9 + n} mm"})
        states.append(modelling.open_model(database, who, model))
    said = at_once(tried, range(8))
    with database.transaction() as session:
        assert session.scalar(select(func.count()).select_from(Attempt).join(Doing).where(Doing.person_id == who)) == 2
    assert any("tries are used" in s for s in said)
