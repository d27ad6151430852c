"""The page is told what the types of its scripts say, no more and no less."""

import json
import re
from pathlib import Path

import pytest
from scripts.make_types import FILE, text
from tests.forms import BESIDE, HEAD, exactly, path_of
from tests.web.test_pages import member  # noqa: F401

from sketchlathe.core.exchange.modelfile import load_model
from sketchlathe.service import shelf
from sketchlathe.store import Person
from sketchlathe.web.answers import ANSWERS
from sketchlathe.web.told import Kinds, State

EXAMPLES = sorted((Path(__file__).parents[2] / "examples").glob("*.json"))


def test_the_types_of_the_scripts_are_those_of_python() -> None:
    assert FILE.read_text() == text(), "run: PYTHONPATH=src:. python scripts/make_types.py"


def test_every_address_has_a_form_and_no_other_has(app) -> None:
    there = {p for rule in app.url_map.iter_rules() if rule.rule.startswith(HEAD) for p in path_of(rule.rule)}
    assert there - BESIDE == set(ANSWERS)


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda p: p.stem)
def test_answers_have_the_forms_that_are_declared(path, member, database) -> None:  # noqa: F811
    project = re.search(r"/projects/(\w+)/models", member.client.get("/").get_data(as_text=True))[1]
    with database.transaction() as session:
        owner = session.query(Person).filter(Person.email == member.email).one().id
    id = shelf.make_model(database, owner, project, path.stem, model=load_model(path.read_bytes())).id
    page = member.client.get(f"/models/{id}").get_data(as_text=True)
    state, kinds = (
        json.loads(re.search(rf'<script[^>]* id="{name}"[^>]*>(.*?)</script>', page, re.S)[1])
        for name in ("state", "kinds")
    )
    exactly(State, json.dumps(state))
    exactly(Kinds, json.dumps(kinds))
    part = state["parts"][0]
    sketch = next((s["id"] for s in part["steps"] if s["kind"] == "sketch"), None)
    edit = {"kind": "rename_model", "name": "Another name"}
    answer = member.ask(f"/api/models/{id}/edit", {"base": 1, "part": part["id"], "sketch": sketch, "edit": edit})
    assert answer.status_code == 200, answer.get_json()
    assert sketch is None or answer.get_json()["sketch"]["curves"]
    built = member.ask(f"/api/models/{id}/build", {"part": part["id"], "ticket": "t"}).get_json()
    assert built["bodies"]
