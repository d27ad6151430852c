"""The Shelf: projects and models. Everything belongs to one person, and only they see it."""

from __future__ import annotations

from typing import Any

import orjson
from sqlalchemy import Text, cast, func, or_, select
from sqlalchemy.dialects.postgresql import JSONPATH
from sqlalchemy.orm import Session

from ..core.errors import BadInput, Refused
from ..core.model.document import Model, new_model
from ..core.model.files_apart import apart
from ..core.quantity.units import LengthUnit
from ..store import Database, ModelRow, Person, Project, Revision
from ..store.tables import now
from . import files, quotas
from .accounts import clean
from .modelling import change
from .rights import Lets, model_for, project_for, shown_to

NAMES = "$.parts[*].**.name"  # of parts and steps


def _checked_name(name: str, what: str) -> str:
    name = clean(name)
    if not 1 <= len(name) <= 120:
        raise BadInput(f"A {what}'s name needs 1 to 120 characters; this has {len(name)}.", where="name")
    return name


def projects(database: Database, person_id: str) -> list[tuple[Project, int]]:
    """A person's projects by name, with how many models each holds."""
    with database.transaction() as session:
        count = (
            select(func.count())
            .where(ModelRow.project_id == Project.id, ModelRow.binned.is_(None))
            .correlate(Project)
            .scalar_subquery()
        )
        query = select(Project, count).where(Project.owner_id == person_id, Project.binned.is_(None))
        return [(project, int(n)) for project, n in session.execute(query.order_by(Project.created))]


ORDERS: dict[str, tuple[str, Any]] = {
    "changed": ("last changed", ModelRow.changed.desc()),
    "name": ("by name", func.lower(ModelRow.name)),
    "made": ("last made", ModelRow.created.desc()),
}
"""In which order models lie on the Shelf: in words, and as a query."""


def shown(database: Database, person_id: str) -> list[tuple[ModelRow, str, Lets]]:
    """Models that others show to somebody, last changed first: with whose they are, and for how much."""
    with database.transaction() as session:
        lets = shown_to(session, person_id)
        query = select(ModelRow, Person.name).join(Person, Person.id == ModelRow.owner_id)
        query = query.where(ModelRow.id.in_(lets), ModelRow.binned.is_(None), ModelRow.owner_id != person_id)
        rows = session.execute(query.order_by(ModelRow.changed.desc()).limit(200))
        return [(row, name, lets[row.id]) for row, name in rows]


def models(database: Database, person_id: str, project_id: str, order: str = "changed") -> list[ModelRow]:
    """The models of a project in one of ``ORDERS``."""
    with database.transaction() as session:
        project_for(session, person_id, project_id)
        query = select(ModelRow).where(ModelRow.project_id == project_id, ModelRow.binned.is_(None))
        return list(session.scalars(query.order_by(ORDERS[order][1], ModelRow.id)))


def newest(database: Database, person_id: str, limit: int) -> list[tuple[ModelRow, str]]:
    """A person's models, last changed first, each with its project's name."""
    with database.transaction() as session:
        query = (
            select(ModelRow, Project.name)
            .join(Project, Project.id == ModelRow.project_id)
            .where(ModelRow.owner_id == person_id, ModelRow.binned.is_(None))
            .order_by(ModelRow.changed.desc())
            .limit(limit)
        )
        return [(row, project) for row, project in session.execute(query)]


def find(database: Database, person_id: str, text: str) -> list[ModelRow]:
    """A person's models whose name, parts or steps contain a text."""
    wanted = clean(text)[:100].lower().replace("\\", "").replace("%", "").replace("_", "\\_")
    if not wanted:
        return []
    words = f"%{wanted}%"
    with database.transaction() as session:
        names = func.jsonb_path_query_array(ModelRow.document, cast(NAMES, JSONPATH)).cast(Text)
        query = select(ModelRow).where(
            ModelRow.owner_id == person_id,
            ModelRow.binned.is_(None),
            or_(func.lower(ModelRow.name).like(words), func.lower(names).like(words)),
        )
        return list(session.scalars(query.order_by(ModelRow.changed.desc()).limit(100)))


def make_project(database: Database, person_id: str, name: str) -> Project:
    """A new project."""
    with database.transaction() as session:
        project = Project(owner_id=person_id, name=_checked_name(name, "project"))
        session.add(project)
    return project


def check_project(database: Database, person_id: str, project_id: str) -> None:
    """Raise ``NotFound`` where somebody cannot put a model into a project."""
    with database.transaction() as session:
        project_for(session, person_id, project_id)


def rename_project(database: Database, person_id: str, project_id: str, name: str) -> None:
    """Give a project another name."""
    with database.transaction() as session:
        project_for(session, person_id, project_id).name = _checked_name(name, "project")


def bin_project(database: Database, person_id: str, project_id: str) -> None:
    """Put a project and its models in the bin."""
    with database.transaction() as session:
        project = project_for(session, person_id, project_id)
        project.binned = now()
        for row in session.scalars(
            select(ModelRow).where(ModelRow.project_id == project_id, ModelRow.binned.is_(None))
        ):
            row.binned = project.binned


def make_model(
    database: Database,
    person_id: str,
    project_id: str,
    name: str,
    units: LengthUnit = "mm",
    model: Model | None = None,
) -> ModelRow:
    """A new model in a project: empty, or from a model that was brought in."""
    name = _checked_name(name, "model")
    model = (model or new_model(name, units)).changed(name=name)
    with database.transaction() as session:
        project_for(session, person_id, project_id)
        return add_model(
            session, person_id, project_id, model, "Model made" if not _steps(model) else "Model brought in"
        )


def _steps(model: Model) -> int:
    return sum(len(part.steps) for part in model.parts)


def add_model(session: Session, person_id: str, project_id: str, model: Model, summary: str) -> ModelRow:
    """Store a model as its revision 1. Raises ``TooFull``."""
    document, brought = apart(model.as_json())
    quotas.check_model(session, person_id, len(orjson.dumps(document)) + sum(map(len, brought.values())))
    row = ModelRow(
        owner_id=person_id, project_id=project_id, name=model.name, units=model.units, steps=_steps(model),
        document=document, revision=1,
    )  # fmt: skip
    session.add(row)
    session.flush()
    files.keep(session, row.id, brought)
    session.add(
        Revision(
            model_id=row.id,
            number=1,
            person_id=person_id,
            sort="made",
            summary=summary,
            forward=[],
            backward=[],
        )
    )
    return row


def rename_model(database: Database, person_id: str, model_id: str, name: str) -> None:
    """Give a model another name (a revision like any edit)."""
    change(database, person_id, model_id, None, {"kind": "rename_model", "name": _checked_name(name, "model")})


def move_model(database: Database, person_id: str, model_id: str, project_id: str) -> None:
    """Put a model into another project."""
    with database.transaction() as session:
        project_for(session, person_id, project_id)
        model_for(session, person_id, "manage", model_id).project_id = project_id


def beside(session: Session, person_id: str, row: ModelRow) -> str:
    """The project that a copy of a model goes to: the model's own, or somebody's first where it is not theirs."""
    if row.owner_id == person_id:
        return row.project_id
    query = select(Project.id).where(Project.owner_id == person_id, Project.binned.is_(None))
    first = session.scalar(query.order_by(Project.created).limit(1))
    if first is None:
        raise Refused("Make a project on your Shelf first: the copy goes there.")
    return first


def copy_model(database: Database, person_id: str, model_id: str) -> ModelRow:
    """A copy beside the model, with a history of its own."""
    with database.transaction() as session:
        row = model_for(session, person_id, "copy", model_id)
        model = files.read(session, row.document)
        name = f"{row.name[:110]}, copy"
        to = beside(session, person_id, row)
        copy = add_model(session, person_id, to, model.changed(name=name), f"Copied from {row.name}")
        copy.picture, copy.picture_revision = row.picture, 1 if row.picture else -1
        return copy


def bin_model(database: Database, person_id: str, model_id: str) -> None:
    """Put a model in the bin."""
    with database.transaction() as session:
        model_for(session, person_id, "manage", model_id).binned = now()


def bring_back(database: Database, person_id: str, model_id: str) -> ModelRow:
    """Take a model out of the bin, with its project if that is there too."""
    with database.transaction() as session:
        row = model_for(session, person_id, "manage", model_id)
        row.binned = None
        project_for(session, person_id, row.project_id).binned = None
        return row


def delete_for_good(database: Database, person_id: str, model_id: str) -> str:
    """Delete a model that lies in the bin, with all its revisions; its name. One that does not lie there is refused."""
    with database.transaction() as session:
        row = model_for(session, person_id, "manage", model_id)
        if row.binned is None:
            raise Refused(f"“{row.name}” is not in the bin; only what lies there can be deleted for good.")
        session.delete(row)
        session.flush()
        files.collect(session)
        return row.name


def bin_contents(database: Database, person_id: str) -> list[ModelRow]:
    """What is in a person's bin, last put there first."""
    with database.transaction() as session:
        query = select(ModelRow).where(ModelRow.owner_id == person_id, ModelRow.binned.is_not(None))
        return list(session.scalars(query.order_by(ModelRow.binned.desc())))


def keep_picture(database: Database, person_id: str, model_id: str, png: bytes, revision: int) -> None:
    """Store the picture of a revision, unless a newer one is kept."""
    with database.transaction() as session:
        row = model_for(session, person_id, "see", model_id)
        if row.picture_revision < revision:
            row.picture, row.picture_revision = png, revision
