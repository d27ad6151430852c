"""Somebody with an account, a class, an exercise made and begun: what tests of classes and exercises share."""

import io
import math
import re
import secrets
import time
from concurrent.futures import ThreadPoolExecutor

from sqlalchemy import select
from tests.hand import ORIGIN, Hand
from tests.web.test_pages import Visitor

from sketchlathe.core.exchange.modelfile import dump_model
from sketchlathe.service import modelling
from sketchlathe.store import Person
from sketchlathe.store.tables import Member
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
