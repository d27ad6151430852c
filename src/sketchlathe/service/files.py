"""Files that were brought into models: each stored once, apart from the documents, for as long as a model that has or
had it is there with its revisions.
"""

from __future__ import annotations

import threading
from collections.abc import Mapping
from datetime import timedelta
from functools import partial
from typing import Any

from cachetools import LRUCache
from sqlalchemy import delete, exists, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from ..core.errors import BadInput
from ..core.model.document import Model, read_model
from ..core.model.files_apart import whole
from ..store.tables import BroughtFile, ModelFile, ModelRow, now

SPARED = timedelta(hours=1)  # a file that somebody is just about to refer to is not collected
RECENT_BYTES = 64 << 20

_recent: LRUCache[str, str] = LRUCache(RECENT_BYTES, getsizeof=len)
_lock = threading.Lock()


def read(session: Session, document: dict[str, Any]) -> Model:
    """The model of a stored document. Raises ``BadInput``."""
    return read_model(whole(document, partial(_text, session)))


def _text(session: Session, digest: str) -> str:
    with _lock:
        if digest in _recent:
            return _recent[digest]
    text = session.scalar(select(BroughtFile.text).where(BroughtFile.digest == digest))
    if text is None:
        raise BadInput("A file that was brought into this model is not kept any more.")
    with _lock:
        if len(text) < RECENT_BYTES:
            _recent[digest] = text
    return text


def keep(session: Session, model_id: str, files: Mapping[str, str]) -> None:
    """Store what of a model's files is not there yet."""
    for digest in fresh(session, model_id, files):
        text = files[digest]
        new = insert(BroughtFile).values(digest=digest, text=text, size=len(text), used=now())
        session.execute(new.on_conflict_do_update(index_elements=["digest"], set_={"used": now()}))
        session.execute(insert(ModelFile).values(model_id=model_id, digest=digest).on_conflict_do_nothing())


def fresh(session: Session, model_id: str, files: Mapping[str, str]) -> set[str]:
    """Which of a model's files are not stored with it yet."""
    if not files:
        return set()
    query = select(ModelFile.digest).where(ModelFile.model_id == model_id, ModelFile.digest.in_(files))
    return files.keys() - set(session.scalars(query))


def bytes_of(session: Session, person_id: str) -> int:
    """What the files of somebody's models take, each counted once."""
    mine = (
        select(ModelFile.digest).join(ModelRow, ModelRow.id == ModelFile.model_id).where(ModelRow.owner_id == person_id)
    )
    return int(
        session.scalar(select(func.coalesce(func.sum(BroughtFile.size), 0)).where(BroughtFile.digest.in_(mine))) or 0
    )


def collect(session: Session) -> int:
    """Delete files that no model has or had; how many."""
    wanted = exists().where(ModelFile.digest == BroughtFile.digest)
    done = session.execute(delete(BroughtFile).where(~wanted, BroughtFile.used < now() - SPARED))
    return int(getattr(done, "rowcount", 0))
