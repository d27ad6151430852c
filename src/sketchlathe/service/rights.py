"""Who may do what: the one place that is asked. Projects and models are their owner's alone; what is somebody else's is
as good as not there, so that nobody learns of it.
"""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.errors import NotFound
from ..store.tables import ModelRow, Project

GONE_PROJECT = "There is no such project on your Shelf."
GONE_MODEL = "There is no such model on your Shelf."


def own_project(session: Session, person_id: str, project_id: str) -> Project:
    """A project of this person's; somebody else's is as good as none."""
    project = session.get(Project, project_id)
    if project is None or project.owner_id != person_id:
        raise NotFound(GONE_PROJECT)
    return project


def own_model(session: Session, person_id: str, model_id: str, *, lock: bool = False) -> ModelRow:
    """A model of this person's; somebody else's is as good as none."""
    query = select(ModelRow).where(ModelRow.id == model_id, ModelRow.owner_id == person_id)
    row = session.scalar(query.with_for_update() if lock else query)
    if row is None:
        raise NotFound(GONE_MODEL)
    return row
