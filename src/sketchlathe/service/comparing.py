"""Two states side by side: revisions, variants, other models, files; and copies on which something is tried."""

from __future__ import annotations

import random
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any, cast

from typing_extensions import TypedDict

from ..core.errors import BadInput, NotFound
from ..core.forms import DifferenceTold
from ..core.model.comparing import Difference, conflicts, differences, unchanged
from ..core.model.document import Model, Part, read_model
from ..core.model.variants import variant_of
from ..store import Database, ModelRow
from ..workers import Blobs
from ..workers.answers import Compared
from . import files, looking, modelling, shelf
from .building import Builder, BuiltAt
from .modelling import Opened
from .rights import model_for, rights_to

_BLOCK = 1_000_000
"""What is new on a copy is numbered from a block of its own, so that a step means the same there and in the original.
"""


@dataclass(frozen=True)
class Side:
    """One of two states that are compared. ``kin``: a state of the same model, or of a copy of it."""

    opened: Opened
    part: Part
    title: str
    kin: bool


def side_of(database: Database, builder: Builder, person_id: str, opened: Opened, part_id: str, asked: Any) -> Side:
    """A state that somebody chose: {} (now), {revision}, {variant}, {model, part} or {file}. Raises ``Trouble``."""
    asked = asked if isinstance(asked, dict) else {}
    if "revision" in asked:
        number = asked["revision"]
        if not isinstance(number, int) or isinstance(number, bool):
            raise BadInput("A revision is a number.")
        if number != opened.revision:
            then = modelling.look_at(database, person_id, opened.id, number)
            return Side(then, _same_part(then.model, opened.model, part_id), f"revision {number}", kin=True)
    elif "variant" in asked:
        variant = variant_of(opened.model, str(asked["variant"]))
        then = builder.as_edited(opened, [{"kind": "take_variant", "variant": variant.id}])
        return Side(then, then.model.part(part_id), variant.name, kin=True)
    elif "model" in asked:
        other = modelling.open_model(database, person_id, str(asked["model"]))
        part = _same_part(other.model, opened.model, str(asked.get("part") or part_id))
        title = other.model.name if len(other.model.there) == 1 else f"{other.model.name}, {part.name}"
        return Side(other, part, title, kin=_related(database, person_id, opened.id, other.id))
    elif "file" in asked:
        brought = _kept_file(builder.blobs, str(asked["file"]))
        # what looks like a digest in a stranger's file is no way to somebody's file: it goes with files of its own
        document = modelling.written(brought)
        then = replace(opened, model=brought, text=document.text, files=document.files)
        return Side(then, brought.there[0], brought.name, kin=False)
    return Side(opened, opened.model.part(part_id), f"now, revision {opened.revision}", kin=True)


def _same_part(model: Model, like: Model, part_id: str) -> Part:
    """The part with this id, else with its name, else the first."""
    name = next((p.name for p in like.parts if p.id == part_id), "")
    found = [*(p for p in model.there if p.id == part_id), *(p for p in model.there if p.name == name), *model.there]
    return found[0]


def _related(database: Database, person_id: str, one: str, other: str) -> bool:
    """Whether one model is a copy of the other for trying something on."""
    with database.transaction() as session:
        rows = [model_for(session, person_id, "see", id) for id in (one, other)]
        origins = [row.origin["model"] if row.origin else "" for row in rows]
    return origins[0] == other or origins[1] == one


class SideShown(BuiltAt):
    """One of two states that are compared, as built."""

    title: str


class Apart(Compared):
    """What differs between two states of a part, in words and in material."""

    sides: list[SideShown]
    differences: list[DifferenceTold]
    unchanged: int


def compare(builder: Builder, before: Side, after: Side, ticket: str) -> Apart:
    """What differs, in words and in material; both parts as built."""
    kin = before.kin and after.kin
    built = [builder.as_it_is(s.opened, s.part.id, ticket) for s in (before, after)]
    found = differences(before.opened.model, before.part, after.opened.model, after.part, kin)
    told = looking.compare(builder, before.opened, before.part.id, after.opened, after.part.id, ticket)
    return {
        **told,
        "sides": [cast(SideShown, {"title": s.title, **b}) for s, b in zip((before, after), built)],
        "differences": [d.as_json() for d in found],
        "unchanged": unchanged(before.part, after.part, kin),
    }


def keep_file(blobs: Blobs, model: Model) -> str:
    """Keep what was read from a file for a while, to be compared with; the key it is found by."""
    return blobs.keep(model.as_json())


def _kept_file(blobs: Blobs, key: str) -> Model:
    found = blobs.kept(key)
    if found is None:
        raise NotFound("That file is not at hand any more: choose it again.")
    return read_model(found)


# copies on which something is tried


def try_copy(database: Database, person_id: str, model_id: str) -> ModelRow:
    """A copy that knows its origin."""
    with database.transaction() as session:
        row = model_for(session, person_id, "copy", model_id)
        model = files.read(session, row.document)
        first = (model.next_id // _BLOCK + random.randint(1, 900)) * _BLOCK
        name = f"{row.name[:110]}, tried"
        copy = shelf.add_model(
            session, person_id, shelf.beside(session, person_id, row), model.changed(name=name, next_id=first),
            f"Copied from {row.name}, revision {row.revision}, to try something",
        )  # fmt: skip
        copy.origin = {"model": row.id, "revision": row.revision, "name": row.name}
        copy.picture, copy.picture_revision = row.picture, 1 if row.picture else -1
        return copy


class Origin(TypedDict):
    """What a model is a copy of: a model at a revision, what it is called, and its newest revision."""

    model: str
    revision: int
    name: str
    newest: int


def origin_of(database: Database, person_id: str, model_id: str) -> Origin | None:
    """What a model is a copy of; None where it is none, or that one is gone."""
    with database.transaction() as session:
        origin = model_for(session, person_id, "see", model_id).origin
        row = session.get(ModelRow, origin["model"]) if origin else None
        if origin is None or row is None or not rights_to(session, person_id, row) or row.binned is not None:
            return None
        return {
            "model": origin["model"], "revision": origin["revision"], "name": row.name, "newest": row.revision
        }  # fmt: skip


@dataclass(frozen=True)
class Tried:
    """A change made on a copy: what it is, what was changed in the original too (empty: nothing), and the edits that
    make the original so.
    """

    part: str
    change: Difference
    conflict: str
    edits: tuple[Any, ...]


def tried(database: Database, person_id: str, model_id: str) -> list[Tried]:
    """What was changed on a copy and is not in the original."""
    origin = origin_of(database, person_id, model_id)
    if origin is None:
        raise NotFound("This model is not a copy, or what it was copied from is gone.")
    mine = modelling.open_model(database, person_id, model_id).model
    base = modelling.look_at(database, person_id, origin["model"], origin["revision"]).model
    theirs = modelling.open_model(database, person_id, origin["model"]).model
    found: list[Tried] = []
    seen: set[str] = set()
    for part in mine.there:
        if not all(any(p.id == part.id for p in m.parts) for m in (base, theirs)):
            continue  # a part that is new here, or gone there, is brought with "from elsewhere"
        changes = differences(base, base.part(part.id), mine, part, kin=True)
        clash = conflicts(base, theirs, part.id, changes)
        ways = {d.key: d.edits for d in differences(mine, part, theirs, theirs.part(part.id), kin=True)}
        for change in changes:
            if change.key in ways and ways[change.key] and change.key not in seen:
                seen.add(change.key)
                found.append(Tried(part.id, change, clash.get(change.key, ""), ways[change.key]))
    return found


def take_back(database: Database, person_id: str, model_id: str, keys: Sequence[str]) -> Opened:
    """Some of the changes made on a copy, made in its original as one edit."""
    origin = origin_of(database, person_id, model_id)
    chosen = [t for t in tried(database, person_id, model_id) if t.change.key in keys]
    if origin is None or not chosen:
        raise BadInput("Choose what is to be taken back.")
    edits = [dict(e) for t in chosen for e in t.edits]
    word = "; ".join(t.change.text for t in chosen)[:150]
    edit = {"kind": "together", "edits": edits, "word": f"From the copy: {word}"}
    return modelling.change(database, person_id, origin["model"], None, edit)
