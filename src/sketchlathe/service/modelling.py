"""Opening and changing models: every change is a revision, answered only after it is committed."""

from __future__ import annotations

import contextlib
import copy
import threading
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import jsonpatch
import jsonpointer
import orjson
from cachetools import LRUCache
from sqlalchemy import bindparam, insert, inspect, select, update
from sqlalchemy.orm import Session
from typing_extensions import TypedDict

from ..core.errors import BadInput, NotFound, Trouble
from ..core.model.document import PARSED, Model
from ..core.model.edits import apply_edit, parse_edit
from ..core.model.files_apart import apart
from ..core.model.linking import standalone
from ..core.model.patches import difference
from ..core.plain_json import dumped
from ..store import Database, ModelRow, Person, Revision
from ..store.tables import Snapshot, now
from . import files, quotas
from .rights import EVERYTHING, Right, model_for, rights_to

UNDO_LIMIT = 500
SNAPSHOT_EVERY = 100  # revisions from one whole document to the next
FOLLOWING = "follow"  # the sort of a revision that came of another one, not of a person


class Stale(Trouble):
    """The client was looking at an older revision; ``changes`` says what came since, the last first, ``revision`` is
    the newest.
    """

    def __init__(self, revision: int, changes: list[str]) -> None:
        what = "; ".join(changes[:5]) or "another change"
        super().__init__(
            f"This model was changed elsewhere meanwhile ({what}). You now see it as it is; do yours again."
        )
        self.revision = revision
        self.changes = changes


class Unreadable(BadInput):
    """A stored document that this program cannot read (any more). Its revisions are there, and a way back."""

    def __init__(self, problem: BadInput, model_id: str, name: str, project_id: str) -> None:
        super().__init__(f"“{name}” cannot be read: {problem.message} Its revisions are kept; bring one of them back.")
        self.model_id, self.name, self.project_id = model_id, name, project_id


@dataclass(frozen=True)
class Opened:
    """A model at a revision, with its document as text for the workers."""

    id: str
    project_id: str
    revision: int
    model: Model
    text: str
    can_undo: bool
    can_redo: bool
    files: Mapping[str, str] = field(default_factory=dict)  # that the document refers to, by digest
    notice: str = ""  # what else the last edit did, for the person
    who: str = ""  # has opened it
    rights: frozenset[Right] = EVERYTHING  # that they have to it


@dataclass(frozen=True)
class Written:
    """A model, its document as text with digests in place of files, and these."""

    model: Model
    text: str
    files: Mapping[str, str]

    @property
    def size(self) -> int:
        """What it takes in memory."""
        return (PARSED + 1) * len(self.text) + sum(map(len, self.files.values()))


def written(model: Model) -> Written:
    """A model as it is stored and sent to workers."""
    return _written(model, *apart(model.as_json()))


def _written(model: Model, document: dict[str, Any], brought: Mapping[str, str]) -> Written:
    return Written(model, dumped(document), brought)


RECENT_BYTES = 256 << 20  # that the models which were open last may take in one web process


class _Recent:
    """The last models that were open, parsed: the same revision is never read twice."""

    def __init__(self, most: int = RECENT_BYTES) -> None:
        self._kept: LRUCache[str, tuple[int, Written]] = LRUCache(most, getsizeof=lambda kept: kept[1].size)
        self._lock = threading.Lock()

    def get(self, session: Session, row: ModelRow) -> Written:
        with self._lock:
            found = self._kept.get(row.id)
            if found is not None and found[0] == row.revision:
                return found[1]
        if "document" in inspect(row).unloaded:
            # in one statement: by itself the document might be that of a revision that came in between
            session.refresh(row, ["revision", "document", "history"])
        try:
            model = files.read(session, row.document)
        except BadInput as problem:
            raise Unreadable(problem, row.id, row.name, row.project_id) from problem
        return self.put(row.id, row.revision, written(model))

    def put(self, model_id: str, revision: int, new: Written) -> Written:
        """Only what is committed: another revision may come under the same number."""
        with self._lock:
            self._kept.pop(model_id, None)
            with contextlib.suppress(ValueError):  # larger than all that is kept
                self._kept[model_id] = (revision, new)
        return new


_RECENT = _Recent()


def _opened(session: Session, row: ModelRow, person_id: str) -> Opened:
    rights = rights_to(session, person_id, row)
    return _at_hand(row, _RECENT.get(session, row), row.revision, row.history, person_id, rights)


def _at_hand(
    row: ModelRow, found: Written, revision: int, history: dict[str, list[int]], who: str, rights: frozenset[Right]
) -> Opened:
    return Opened(
        row.id, row.project_id, revision, found.model, found.text, bool(history["undo"]), bool(history["redo"]),
        found.files, who=who, rights=rights,
    )  # fmt: skip


def open_model(database: Database, person_id: str, model_id: str, right: Right = "see") -> Opened:
    """A model as it is now, for somebody who has a right to it."""
    with database.glance() as session:
        return _opened(session, model_for(session, person_id, right, model_id), person_id)


def change(database: Database, person_id: str, model_id: str, base: int | None, raw_edit: Any) -> Opened:
    """Apply one edit. ``base`` is the revision it was made on (None: whatever is newest). Raises ``Stale``.

    An edit that only follows an earlier one (``Edit.follows``) is taken back and brought back together with it.
    """
    edit = parse_edit(raw_edit)
    with database.transaction() as session:
        row = model_for(session, person_id, "change", model_id, lock=True)
        _check_base(session, row, base)
        known = _RECENT.get(session, row)
        before = known.model
        after = apply_edit(before, edit)
        if edit.follows and after == before:
            return _opened(session, row, person_id)
        sort = FOLLOWING if edit.follows else "edit"
        undo, redo, number = row.history["undo"], row.history["redo"], row.revision + 1
        if edit.follows:
            # with nothing before it to be taken back, it stands by itself for good
            history = {"undo": [*undo, number] if undo else [], "redo": redo}
        else:
            history = {"undo": [*undo, number][-UNDO_LIMIT:], "redo": []}
        was, said = orjson.loads(known.text), edit.summary(before, after)
        opened, new = _record(session, row, person_id, was, after, sort, said, history)
    _RECENT.put(model_id, opened.revision, new)
    return replace(opened, notice=edit.notice(before, after))


def link_part(
    database: Database, person_id: str, model_id: str, base: int | None, source_id: str, part_id: str, into: str = ""
) -> Opened:
    """Bring a part of another model that the same person may copy, as it is there now; ``into``: a part that came from
    there before.
    """
    if source_id == model_id:
        raise BadInput("This is a part of this model already: bring it with Bring part.")
    other = open_model(database, person_id, source_id, "copy")
    part = standalone(other.model, other.model.part(part_id))
    source = {"model": source_id, "name": other.model.name, "revision": other.revision, "part": part_id}
    edit = {"kind": "link_part", "source": source, "data": part.model_dump(mode="json"), "part": into}
    return change(database, person_id, model_id, base, edit)


_MOST_TOLD = 30  # changes of another model


class LinkedPart(TypedDict):
    """A part (``part``) that comes from another model: from which part there (``at``) and which revision, the newest
    revision there (None: that model is gone), and what has changed there since, newest first.
    """

    model: str
    name: str
    part: str
    at: str
    revision: int
    newest: int | None
    since: list[str]


def linked_parts(database: Database, person_id: str, opened: Opened) -> list[LinkedPart]:
    """Parts that come from other models."""
    linked = [p for p in opened.model.there if p.linked is not None]
    with database.transaction() as session:
        query = select(ModelRow.id, ModelRow.revision).where(
            ModelRow.id.in_([p.linked.model for p in linked if p.linked]), ModelRow.owner_id == person_id
        )
        newest = {row.id: row.revision for row in session.execute(query)}
        since = {
            (p.linked.model, p.linked.revision): session.scalars(
                select(Revision.summary)
                .where(Revision.model_id == p.linked.model, Revision.number > p.linked.revision)
                .order_by(Revision.number.desc())
                .limit(_MOST_TOLD)
            ).all()
            for p in linked
            if p.linked and p.linked.model in newest
        }
    return [
        {"model": link.model, "name": link.name, "part": p.id, "at": link.part, "revision": link.revision,
         "newest": newest.get(link.model), "since": list(since.get((link.model, link.revision), ()))}
        for p in linked
        if (link := p.linked) is not None
    ]  # fmt: skip


def _check_base(session: Session, row: ModelRow, base: int | None) -> None:
    if base is not None and base != row.revision:
        query = select(Revision.summary).where(Revision.model_id == row.id, Revision.number > base)
        raise Stale(row.revision, list(session.scalars(query.order_by(Revision.number.desc()).limit(_MOST_TOLD))))


def _next_revision() -> Any:
    """The statement that writes a revision and the model as it then is, in one way to the database. It is by far the
    most frequent one, and so neither put together nor looked for among changed rows each time.
    """
    models: Any = ModelRow.__table__
    revisions: Any = Revision.__table__

    def put(table: Any, *names: str) -> dict[str, Any]:
        return {name: bindparam(f"new_{name}", type_=table.c[name].type) for name in names}

    revision = insert(revisions).values(
        model_id=bindparam("model"), number=bindparam("new_revision"), at=bindparam("new_changed"),
        **put(revisions, "person_id", "sort", "summary", "forward", "backward"),
    )  # fmt: skip
    model = update(models).where(models.c.id == bindparam("model"))
    model = model.values(**put(models, "document", "revision", "history", "changed", "name", "units", "steps"))
    return model.add_cte(revision.cte("revision"))


_NEXT_REVISION = _next_revision()


def _record(
    session: Session, row: ModelRow, person_id: str, before: Any, after: Model, sort: str, summary: str,
    history: dict[str, list[int]],
) -> tuple[Opened, Written]:  # fmt: skip
    """Write the next revision of a model and the model itself; ``before``: the document as it was, files apart. The
    model as it then is, and what to keep at hand once it is committed.
    """
    document, brought = apart(after.as_json())
    forward, backward = difference(before, document), difference(document, before)
    new = _written(after, document, brought)
    quotas.check_document(len(new.text))
    size = sum(len(dumped(patch)) for patch in (forward, backward))
    size += sum(len(brought[digest]) for digest in files.fresh(session, row.id, brought))
    quotas.check_room(session, row.owner_id, size, 1.0 if sort in ("edit", FOLLOWING) else quotas.SLACK)
    files.keep(session, row.id, brought)
    number = row.revision + 1
    if number % SNAPSHOT_EVERY == 0:
        session.add(Snapshot(model_id=row.id, number=number, document=document))
    session.execute(
        _NEXT_REVISION,
        {
            "model": row.id, "new_revision": number, "new_changed": now(), "new_person_id": person_id,
            "new_sort": sort, "new_summary": summary[:2000], "new_forward": forward,
            "new_backward": backward, "new_document": document, "new_history": history,
            "new_name": after.name, "new_units": after.units, "new_steps": sum(len(p.steps) for p in after.parts),
        },
    )  # fmt: skip
    return _at_hand(row, new, number, history, person_id, rights_to(session, person_id, row)), new


def undo(database: Database, person_id: str, model_id: str, base: int | None) -> Opened:
    """Take the last change back (as a revision of its own)."""
    return _step_through(database, person_id, model_id, base, "undo")


def redo(database: Database, person_id: str, model_id: str, base: int | None) -> Opened:
    """Bring back what was last undone."""
    return _step_through(database, person_id, model_id, base, "redo")


def _step_through(database: Database, person_id: str, model_id: str, base: int | None, way: str) -> Opened:
    back = "redo" if way == "undo" else "undo"
    with database.transaction() as session:
        row = model_for(session, person_id, "change", model_id, lock=True)
        _check_base(session, row, base)
        if not row.history[way]:
            raise NotFound(f"There is nothing to {way}.")
        group = _group(session, row, way)
        document = row.document
        for revision in group:
            document = _patched(session, row, document, revision, way)
        after = _keeping_ids(files.read(session, document), row)
        numbers = [r.number for r in group]
        history = {way: row.history[way][: -len(numbers)], back: [*row.history[back], *numbers]}
        named = next((r for r in group if r.sort != FOLLOWING), group[0])
        said = f"{way.capitalize()}: {named.summary}"
        opened, new = _record(session, row, person_id, row.document, after, way, said, history)
        # a model that several change has one history: whose change that was is told
        other = session.get_one(Person, named.person_id).name if named.person_id != person_id else ""
    _RECENT.put(model_id, opened.revision, new)
    return replace(opened, notice=f"{said} (by {other})" if other else "")


def _group(session: Session, row: ModelRow, way: str) -> list[Revision]:
    """The revisions that one undo or redo steps over: an edit and what followed from it, in the order to apply them."""
    group: list[Revision] = []
    for number in reversed(row.history[way]):
        revision = session.get_one(Revision, (row.id, number))
        if way == "redo" and group and revision.sort != FOLLOWING:
            break
        group.append(revision)
        if way == "undo" and revision.sort != FOLLOWING:
            break
    return group


def _patched(session: Session, row: ModelRow, document: Any, revision: Revision, way: str) -> Any:
    """A document with one revision taken back or brought back."""
    try:
        return jsonpatch.apply_patch(document, revision.backward if way == "undo" else revision.forward)
    except (jsonpatch.JsonPatchException, jsonpointer.JsonPointerException):
        # something followed the solid in between, so that the patch does not fit: the whole state from then does
        return _document_at(session, row, revision.number - 1 if way == "undo" else revision.number)


def _keeping_ids(model: Model, row: ModelRow) -> Model:
    """Ids are never used again, not even after an undo: the counter stays where it was."""
    return model.changed(next_id=max(model.next_id, int(row.document["next_id"])))


def restore(database: Database, person_id: str, model_id: str, number: int) -> Opened:
    """Bring an older revision back, as a new one."""
    with database.transaction() as session:
        row = model_for(session, person_id, "change", model_id, lock=True)
        after = _keeping_ids(_at(session, row, number), row)
        said = f"Revision {number} brought back"
        history = {"undo": [*row.history["undo"], row.revision + 1][-UNDO_LIMIT:], "redo": []}
        opened, new = _record(session, row, person_id, row.document, after, "restore", said, history)
    _RECENT.put(model_id, opened.revision, new)
    return opened


def look_at(database: Database, person_id: str, model_id: str, number: int) -> Opened:
    """A model opened as it was at some revision, to be looked at; nothing is stored."""
    with database.transaction() as session:
        row = model_for(session, person_id, "see", model_id)
        model, rights = _at(session, row, number), rights_to(session, person_id, row)
    as_text = written(model)
    return Opened(
        row.id, row.project_id, number, model, as_text.text, can_undo=False, can_redo=False, files=as_text.files,
        who=person_id, rights=rights,
    )  # fmt: skip


def at_revision(database: Database, person_id: str, model_id: str, number: int) -> Model:
    """A model as it was at some revision."""
    with database.transaction() as session:
        return _at(session, model_for(session, person_id, "see", model_id), number)


def _at(session: Session, row: ModelRow, number: int) -> Model:
    if not 1 <= number <= row.revision:
        raise NotFound(f"There is no revision {number}; there are 1 to {row.revision}.")
    return files.read(session, _document_at(session, row, number))


def _document_at(session: Session, row: ModelRow, number: int) -> Any:
    """The document after some revision: from the nearest whole one behind it, by patches backwards."""
    near = session.scalar(
        select(Snapshot)
        .where(Snapshot.model_id == row.id, Snapshot.number >= number)
        .order_by(Snapshot.number)
        .limit(1)
    )
    at, document = (near.number, near.document) if near is not None else (row.revision, row.document)
    document = copy.deepcopy(document)  # once; patches then change it where it is
    query = select(Revision.backward).where(
        Revision.model_id == row.id, Revision.number > number, Revision.number <= at
    )
    for patch in session.scalars(query.order_by(Revision.number.desc())):
        document = jsonpatch.apply_patch(document, patch, in_place=True)
    return document


def last_readable(database: Database, person_id: str, model_id: str, tries: int = 200) -> int | None:
    """The newest revision that can be read, looking back from the present one; None if none of the last ones can."""
    with database.transaction() as session:
        row = model_for(session, person_id, "see", model_id)
        document = row.document
        for number in range(row.revision, max(row.revision - tries, 0), -1):
            try:
                files.read(session, document)
                return number
            except BadInput:
                document = jsonpatch.apply_patch(document, session.get_one(Revision, (model_id, number)).backward)
    return None


def summaries(database: Database, model_id: str, numbers: Sequence[int]) -> dict[int, str]:
    """What was done in some revisions, in words, by their numbers."""
    with database.transaction() as session:
        query = select(Revision.number, Revision.summary).where(
            Revision.model_id == model_id, Revision.number.in_(numbers)
        )
        return {row.number: row.summary for row in session.execute(query)}


def revisions(database: Database, person_id: str, model_id: str, limit: int = 200) -> list[tuple[Revision, str]]:
    """The newest revisions with who made them, newest first."""
    with database.transaction() as session:
        model_for(session, person_id, "see", model_id)
        query = (
            select(Revision, Person.name)
            .join(Person, Person.id == Revision.person_id)
            .where(Revision.model_id == model_id)
            .order_by(Revision.number.desc())
            .limit(limit)
        )
        return [(revision, name) for revision, name in session.execute(query)]
