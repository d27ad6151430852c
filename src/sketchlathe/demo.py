"""The demo's person, project and classes: the Weather post, from the files in ``examples/``."""

from __future__ import annotations

import os
import secrets
from collections.abc import Callable
from pathlib import Path

from sqlalchemy import select

from .core.exchange.modelfile import load_model
from .demo_classes import load_classes
from .service import accounts, shelf
from .store import Database, Person, Project

NAME, EMAIL, PROJECT = "Ona Reed", "ona.reed@weather-post.example", "Weather post"


def examples_folder() -> Path:
    """Where the example models are."""
    return Path(os.environ.get("LATHE_ROOT", Path(__file__).parents[2])) / "examples"


def load_demo(database: Database, say: Callable[[str], None]) -> str:
    """Make the demo's person and project if they are not there yet; the person's id. What was made is kept."""
    with database.transaction() as session:
        person = session.scalar(select(Person).where(Person.email == EMAIL))
    if person is not None:
        return person.id
    say("loading the Weather post demo")
    person = accounts.sign_up(database, NAME, EMAIL, secrets.token_urlsafe(24))
    with database.transaction() as session:
        project = session.scalars(select(Project).where(Project.owner_id == person.id)).one()
        project.name = PROJECT
    for path in sorted(examples_folder().glob("*.json"), reverse=True):
        model = load_model(path.read_bytes())
        shelf.make_model(database, person.id, project.id, model.name, model.units, model)
    load_classes(database, person.id, examples_folder() / "class" / "form-and-fit.json")
    return person.id
