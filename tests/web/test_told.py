"""The page is told what the types of its scripts say, no more and no less."""

import json
import re
from pathlib import Path

import pytest
from pydantic import TypeAdapter
from scripts.make_types import FILE, text
from tests.web.test_pages import member  # noqa: F401

from sketchlathe.core.exchange.modelfile import load_model
from sketchlathe.service import shelf
from sketchlathe.store import Person
from sketchlathe.web.told import BuiltTold, Changed, Kinds, State

EXAMPLES = sorted((Path(__file__).parents[2] / "examples").glob("*.json"))


def exactly(told, value) -> None:
    """Raises where a field is missing, of another type, or not declared."""
    form = TypeAdapter(told)
    assert form.dump_python(form.validate_json(json.dumps(value), strict=True), mode="json") == value


def test_the_types_of_the_scripts_are_those_of_python() -> None:
    assert FILE.read_text() == text(), "run: PYTHONPATH=src:. python scripts/make_types.py"


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
    exactly(State, state)
    exactly(Kinds, kinds)
    part = state["parts"][0]
    sketch = next((s["id"] for s in part["steps"] if s["kind"] == "sketch"), None)
    edit = {"kind": "rename_model", "name": "Another name"}
    answer = member.ask(f"/api/models/{id}/edit", {"base": 1, "part": part["id"], "sketch": sketch, "edit": edit})
    assert answer.status_code == 200, answer.get_json()
    exactly(Changed, answer.get_json())
    assert sketch is None or answer.get_json()["sketch"]["curves"]
    built = member.ask(f"/api/models/{id}/build", {"part": part["id"], "ticket": "t"}).get_json()
    exactly(BuiltTold, built)
    assert built["bodies"]
