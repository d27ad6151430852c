"""Classes: people in them, exercises with numbers of one's own, answers, handing in, what a teacher sees."""

import base64
import csv
import io
import math
import re
import secrets
import time
import zipfile
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import pytest
from defusedxml import ElementTree
from PIL import Image
from sqlalchemy import func, select
from tests.hand import ORIGIN, Hand
from tests.web.test_pages import Visitor

from sketchlathe.core.errors import Refused
from sketchlathe.core.exchange.modelfile import dump_model, load_model
from sketchlathe.service import answering, exercises, modelling
from sketchlathe.store import Person
from sketchlathe.store.tables import Attempt, ClassRow, Doing, ExerciseRow, HandIn, Member, NumberSet, now
from sketchlathe.web.limits import limiter


def spacer() -> Hand:
    """A plate with a bore; its sizes are parameters."""
    m = Hand()
    for name, value in (("wide", "60 mm"), ("deep", "40 mm"), ("thick", "8 mm"), ("bore", "12 mm")):
        m.do("add_parameter", name=name, formula=value)
    return plate_with_bore(m, "wide", "deep", "thick", "bore")


def plate_with_bore(m: Hand, wide: str, deep: str, thick: str, bore: str) -> Hand:
    s = m.sketch("top")
    m.draw(s, "rectangle", ORIGIN, (60.0, 40.0), sizes=(wide, deep))
    m.step("extrude", regions=m.regions(s), distance=thick)
    m.step("block", shape="cylinder", diameter=bore, height="200 mm", x="20 mm", y="15 mm", z="-100 mm", result="cut")
    return m


def volume(wide: float, deep: float, thick: float, bore: float) -> float:
    return (wide * deep - math.pi / 4 * bore**2) * thick


class There(Hand):
    """A hand on a stored model of somebody."""

    def __init__(self, database, person_id: str, model_id: str) -> None:
        self.at = database, person_id, model_id
        super().__init__(modelling.open_model(*self.at).model)

    def do(self, kind: str, **fields):
        self.model = modelling.change(*self.at, None, {"kind": kind, **fields}).model
        return self.model


class Somebody(Visitor):
    """Somebody with an account."""

    def __init__(self, app, database, name: str) -> None:
        super().__init__(app)
        limiter.reset()
        self.database, self.name = database, name
        email = f"{secrets.token_hex(6)}@weather-post.example"
        assert self.post("/sign-up", name=name, email=email, password="a good password").status_code == 302
        with database.transaction() as session:
            self.id = session.scalar(select(Person.id).where(Person.email == email))

    def see(self, path: str) -> str:
        answer = self.client.get(path, follow_redirects=True)
        assert answer.status_code == 200, (path, answer.status_code)
        return answer.get_data(as_text=True)

    def goes(self, path: str, **form) -> str:
        """Where a form leads."""
        answer = self.post(path, **form)
        assert answer.status_code in (302, 303), (path, answer.status_code, answer.get_data(as_text=True)[-600:])
        return answer.headers["Location"]

    def exercise(self, model: str, what: str = "", **body):
        body = {"part": "p1", **body} if what else None
        return self.ask(f"/api/models/{model}/exercise{'/' + what if what else ''}", body)

    def numbers(self, model: str) -> dict[str, float]:
        opened = modelling.open_model(self.database, self.id, model)
        return {name: q.value for name, q in opened.model.table.values.items()}


@pytest.fixture
def teacher(app, database) -> Somebody:
    return Somebody(app, database, "Ona Reed")


@pytest.fixture
def of_class(teacher) -> str:
    return teacher.goes("/classes", name="Form and fit").rsplit("/", 1)[1]


def joined(app, teacher: Somebody, of_class: str, name: str) -> Somebody:
    code = re.search(r"[a-z]+-[a-z]+-[a-z]+-\d{4}", teacher.see(f"/classes/{of_class}/people"))[0]
    made = Somebody(app, teacher.database, name)
    # as somebody says it aloud
    assert made.goes("/classes/join", code=f" {code.upper().replace('-', ' ')} ") == f"/classes/{of_class}"
    return made


FORM = {
    "title": "Spacer plate", "words": "Make the plate of the drawing.", "part": "p1", "asked": ["volume", "area"],
    "within-volume": "0.1", "within-area": "0.1", "differs": ["wide", "bore"], "low-wide": "50 mm",
    "high-wide": "70 mm", "step-wide": "10 mm", "low-bore": "8 mm", "high-bore": "16 mm", "step-bore": "4 mm",
    "changes": ["thick"], "then-thick": "11 mm", "tries": "0", "off_after": "1", "why_after": "2",
}  # fmt: skip


@pytest.fixture
def exercise(teacher, of_class) -> str:
    return made(teacher, of_class)


def made(teacher: Somebody, of_class: str, hand: Hand | None = None, *, given: bool = True, **form) -> str:
    """An exercise with its sets of numbers, given out."""
    project = re.search(r"/projects/(\w+)/models", teacher.see("/"))[1]
    file = (io.BytesIO(dump_model((hand or spacer()).model.changed(name="Spacer"))), "spacer.json")
    model = teacher.goes(f"/projects/{project}/bring-in", file=file).rsplit("/", 1)[1]
    there = teacher.goes(f"/classes/{of_class}/exercises/new", **{**FORM, "model": model, **form})
    exercise = re.search(r"exercise=(\w+)", there)[1]
    until = time.monotonic() + 240
    while "Finding sets" in (page := teacher.see(there)):
        assert time.monotonic() < until, page
        time.sleep(0.1)
    if given:
        teacher.goes(f"/exercises/{exercise}/give")
    return exercise


def begun(person: Somebody, exercise: str) -> str:
    return person.goes(f"/exercises/{exercise}/begin").rsplit("/", 1)[1]


def rested(read, seconds: float = 240):
    until = time.monotonic() + seconds
    while not (found := read()):
        assert time.monotonic() < until
        time.sleep(0.1)
    return found


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
    assert f"{numbers['bore']:g} mm" in texts
    picture = page.find("{*}image").get("{http://www.w3.org/1999/xlink}href") or page.find("{*}image").get("href")
    assert Image.open(io.BytesIO(base64.b64decode(picture.partition(",")[2]))).size == (1200, 900)
    assert "script" not in answer.text


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


def people_of(database, of_class: str, count: int) -> list[str]:
    """So many students, without the wait for their passwords."""
    with database.transaction() as session:
        made = [
            Person(name=f"Student {n}", email=f"{secrets.token_hex(8)}@weather-post.example", password_hash="")
            for n in range(count)
        ]
        session.add_all(made)
        session.flush()
        session.add_all(Member(class_id=of_class, person_id=p.id, role="student") for p in made)
        return [p.id for p in made]


def at_once(act, things) -> list:
    with ThreadPoolExecutor(8) as pool:
        return list(pool.map(act, things))


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
