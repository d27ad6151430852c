"""How much of this server one person may take: models, and megabytes of them with all their revisions."""

from __future__ import annotations

import os
import threading
from dataclasses import dataclass
from typing import Any

from cachetools import LRUCache
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from ..core.errors import Refused
from ..store import ModelRow, Person, Revision
from ..store.tables import Snapshot
from . import files

MODELS, MEGABYTES = 1000, 1000
LARGE = 100_000  # bytes that somebody may write, in one change or many, before their room is looked at again
SLACK = 1.05  # taking back and bringing back goes on a little beyond the end: nobody is shut in
DOCUMENT = 12_000_000  # bytes that one model's document may have, without what was brought into it
_written: LRUCache[str, int] = LRUCache(10_000)  # bytes by person since their room was looked at
_lock = threading.Lock()
_ASK = "delete some for good (they are in the bin first), or ask whoever runs this server for more."


class TooFull(Refused):
    """A person has as much as one may have."""


@dataclass(frozen=True)
class Holding:
    """What a person has, and may have."""

    models: int
    megabytes: float
    most_models: int
    most_megabytes: int


def holding(session: Session, person_id: str) -> Holding:
    """What somebody has; what is in the bin counts too, as it can be brought back."""
    mine = select(ModelRow.id).where(ModelRow.owner_id == person_id)
    models, documents = session.execute(
        select(func.count(), func.coalesce(func.sum(func.pg_column_size(ModelRow.document)), 0)).where(
            ModelRow.owner_id == person_id
        )
    ).one()
    snapshots = select(func.coalesce(func.sum(func.pg_column_size(Snapshot.document)), 0))
    documents += session.scalar(snapshots.where(Snapshot.model_id.in_(mine))) or 0
    patches: Any = func.pg_column_size(Revision.forward) + func.pg_column_size(Revision.backward)
    changes = session.scalar(select(func.coalesce(func.sum(patches), 0)).where(Revision.model_id.in_(mine))) or 0
    person = session.get_one(Person, person_id)
    return Holding(
        int(models), (int(documents) + int(changes) + files.bytes_of(session, person_id)) / 1e6,
        person.quota_models or int(os.environ.get("LATHE_QUOTA_MODELS", MODELS)),
        person.quota_mb or int(os.environ.get("LATHE_QUOTA_MB", MEGABYTES)),
    )  # fmt: skip


def check_model(session: Session, person_id: str, size: int = 0) -> None:
    """Raises ``TooFull`` where one more model (of ``size`` bytes) is more than a person may have."""
    has = holding(session, person_id)
    if has.models >= has.most_models:
        raise TooFull(f"You have {has.models} models, which is as many as one person may have here: {_ASK}")
    _check_room(has, size)


def check_room(session: Session, person_id: str, size: int, slack: float = 1.0) -> None:
    """Raises ``TooFull`` where so many bytes are more than a person may keep. What is small is added up, and looked at
    when it has become something: by each process for itself, so that no change waits for a sum over all revisions.
    """
    with _lock:
        _written[person_id] = written = _written.get(person_id, 0) + size
    if written < LARGE:
        return
    _check_room(holding(session, person_id), size, slack)
    with _lock:
        _written.pop(person_id, None)


def check_document(size: int) -> None:
    """Raises ``TooFull`` where a model's document has become too large to be opened by anybody."""
    if size > DOCUMENT:
        raise TooFull(
            f"This model would take {size / 1e6:.0f} MB, and {DOCUMENT / 1e6:.0f} MB are what one may take: make "
            "another model of a part of it, and bring that here."
        )


def _check_room(has: Holding, size: int, slack: float = 1.0) -> None:
    if has.megabytes + size / 1e6 > has.most_megabytes * slack:
        raise TooFull(
            f"Your models take {has.megabytes:.0f} MB of the {has.most_megabytes} MB that one person may have here, "
            f"and this would take more: {_ASK}"
        )
