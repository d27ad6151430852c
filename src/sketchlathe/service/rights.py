"""Who may do what: the one place that is asked. Projects and models are their owner's alone; what is somebody else's is
as good as not there, so that nobody learns of it.
"""

from __future__ import annotations

from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import NotFound
from ..store.tables import ModelRow, Project

Right = Literal["see", "change", "manage"]
"""To look at it and take copies; to edit what is in it; to name it, move it, put it in the bin, delete it."""
Role = Literal["owner", "stranger"]
_RIGHTS: dict[Role, frozenset[Right]] = {"owner": frozenset({"see", "change", "manage"}), "stranger": frozenset()}

GONE_PROJECT = "There is no such project on your Shelf."
GONE_MODEL = "There is no such model on your Shelf."


def role_of(person_id: str, thing: Project | ModelRow) -> Role:
    """What somebody is to a project or model."""
    return "owner" if thing.owner_id == person_id else "stranger"


def may(person_id: str, right: Right, thing: Project | ModelRow) -> bool:
    """Whether somebody has a right to a project or model."""
    return right in _RIGHTS[role_of(person_id, thing)]


def project_for(session: Session, person_id: str, right: Right, project_id: str) -> Project:
    """A project that somebody has this right to. Raises ``NotFound``."""
    project = session.get(Project, project_id)
    if project is None or not may(person_id, right, project):
        raise NotFound(GONE_PROJECT)
    return project


def model_for(session: Session, person_id: str, right: Right, model_id: str, *, lock: bool = False) -> ModelRow:
    """A model that somebody has this right to. Raises ``NotFound``."""
    query = select(ModelRow).where(ModelRow.id == model_id)
    row = session.scalar(query.with_for_update() if lock else query)
    if row is None or not may(person_id, right, row):
        raise NotFound(GONE_MODEL)
    return row
