"""Files that were brought in are stored once, beside the documents, for as long as somebody's revisions need them."""

import json
import random
from datetime import timedelta

import pytest
from sqlalchemy import select, text, update

from sketchlathe.core.bringing.base import packed
from sketchlathe.core.model.files_apart import MARK, apart, whole
from sketchlathe.service import accounts, files, modelling, shelf
from sketchlathe.store.tables import BroughtFile, ModelFile, ModelRow, Revision, now


def file_of(seed: int, size: int = 30_000) -> str:
    return packed(random.Random(seed).randbytes(size))


@pytest.fixture
def model(database, person, project):
    return shelf.make_model(database, person.id, project.id, "Gauge")


def bring(database, person, model, data: str, name: str = "vane.stl"):
    edit = {"kind": "bring_file", "part": "p1", "step": "reference", "file": name, "data": data}
    return modelling.change(database, person.id, model.id, None, edit)


def stored(database, model) -> dict:
    with database.transaction() as session:
        return dict(session.scalar(select(ModelRow.document).where(ModelRow.id == model.id)))


def kept(database) -> set[str]:
    with database.transaction() as session:
        return set(session.scalars(select(BroughtFile.digest)))


def age(database) -> None:
    with database.transaction() as session:
        session.execute(update(BroughtFile).values(used=now() - timedelta(hours=2)))


def test_a_document_holds_digests_and_every_way_back_the_file(database, person, model) -> None:
    first, second = file_of(1), file_of(2)
    before = kept(database)
    bring(database, person, model, first)
    step = modelling.open_model(database, person.id, model.id).model.parts[0].steps[0]
    assert step.data == first
    # another file in its place, undone and made again, an older state looked at and brought back
    change = {"kind": "set_fields", "step": step.id, "fields": {"file": "other.stl"}}
    modelling.change(database, person.id, model.id, None, change)
    bring(database, person, model, second)
    document = json.dumps(stored(database, model))
    assert len(document) < 6000 and document.count(MARK) == 2
    assert len(kept(database) - before) == 2
    modelling._RECENT._kept.clear()
    opened = modelling.open_model(database, person.id, model.id)
    assert [s.data for s in opened.model.parts[0].steps] == [first, second]
    assert set(opened.files.values()) == {first, second} and first not in opened.text
    undone = modelling.undo(database, person.id, model.id, None)
    assert [s.data for s in undone.model.parts[0].steps] == [first]
    redone = modelling.redo(database, person.id, model.id, None)
    assert [s.data for s in redone.model.parts[0].steps] == [first, second]
    assert modelling.at_revision(database, person.id, model.id, 2).parts[0].steps[0].data == first
    back = modelling.restore(database, person.id, model.id, 2)
    assert [s.data for s in back.model.parts[0].steps] == [first]
    with database.transaction() as session:
        patches = session.execute(select(Revision.forward, Revision.backward).where(Revision.model_id == model.id))
        assert all(len(json.dumps([*row])) < 3000 for row in patches)


def test_a_file_is_shared_counted_once_and_goes_with_the_last_that_had_it(database, person, project, model) -> None:
    data = file_of(3)
    bring(database, person, model, data)
    bring(database, person, model, data, "again.stl")
    copy = shelf.copy_model(database, person.id, model.id)
    assert modelling.open_model(database, person.id, copy.id).model.parts[0].steps[0].data == data
    with database.transaction() as session:
        digests = list(session.scalars(select(ModelFile.digest).where(ModelFile.model_id == model.id)))
        assert len(digests) == 1
        assert files.bytes_of(session, person.id) == len(data)
    age(database)
    for row, left in ((model, True), (copy, False)):
        # taken out of the model it is still there for its revisions
        step = modelling.open_model(database, person.id, row.id).model.parts[0].steps[0].id
        modelling.change(database, person.id, row.id, None, {"kind": "delete_step", "step": step})
        assert digests[0] in kept(database)
        shelf.bin_model(database, person.id, row.id)
        shelf.delete_for_good(database, person.id, row.id)
        assert (digests[0] in kept(database)) == left


def test_one_that_somebody_is_about_to_refer_to_is_spared(database) -> None:
    with database.transaction() as session:
        session.add(BroughtFile(digest="d" * 32, text="x", size=1))
        session.add(BroughtFile(digest="e" * 32, text="x", size=1, used=now() - timedelta(days=1)))
    with database.transaction() as session:
        assert files.collect(session) >= 1
    assert "d" * 32 in kept(database) and "e" * 32 not in kept(database)


def test_documents_of_before_are_read_and_put_apart_when_they_change(database, person, model) -> None:
    data = file_of(4)
    bring(database, person, model, data)
    inline = modelling.open_model(database, person.id, model.id).model.as_json()
    with database.transaction() as session:
        session.execute(text("delete from model_files where model_id = :id"), {"id": model.id})
        session.execute(update(ModelRow).where(ModelRow.id == model.id).values(document=inline))
    modelling._RECENT._kept.clear()
    opened = modelling.open_model(database, person.id, model.id)
    assert opened.model.parts[0].steps[0].data == data
    modelling.change(database, person.id, model.id, None, {"kind": "add_parameter", "name": "rim", "formula": "3"})
    assert data not in json.dumps(stored(database, model))
    modelling._RECENT._kept.clear()
    assert modelling.undo(database, person.id, model.id, None).model.parts[0].steps[0].data == data


def test_nobody_gets_at_anothers_file_by_naming_it(database, person, project, model) -> None:
    bring(database, person, model, file_of(5))
    mark = stored(database, model)["parts"][0]["steps"][0]["data"]
    assert mark.startswith(MARK)
    other = accounts.sign_up(database, "Rook Hale", "rook@weather-post.example", "a long password")
    theirs = shelf.make_model(database, other.id, shelf.projects(database, other.id)[0][0].id, "Thief")
    bring(database, other, theirs, mark)
    modelling._RECENT._kept.clear()
    assert modelling.open_model(database, other.id, theirs.id).model.parts[0].steps[0].data == mark


def test_apart_and_whole_are_each_others_way_back(database, person, model) -> None:
    bring(database, person, model, file_of(6))
    document = modelling.open_model(database, person.id, model.id).model.as_json()
    before = json.dumps(document)
    small, found = apart(document)
    assert json.dumps(document) == before, "the original stays as it was"
    assert len(json.dumps(small)) < 3000
    assert whole(small, found.__getitem__) == document


@pytest.mark.parametrize(
    "damaged",
    [
        [], {"parts": "x"}, {"parts": [1]}, {"parts": [{"steps": 3}]}, {"parts": [{"steps": [None]}]},
        {"parts": [{"steps": [{"data": 5, "underlay": {"data": 3}}]}]},
        {"parts": [{"steps": [{"id": "s1", "kind": "reference", "data": MARK + "f" * 32}]}]},
    ],
)  # fmt: skip
def test_a_damaged_document_is_told_of_and_its_revisions_lead_back(database, person, model, damaged) -> None:
    bring(database, person, model, file_of(7))
    with database.transaction() as session:
        session.execute(update(ModelRow).where(ModelRow.id == model.id).values(document=damaged))
    modelling._RECENT._kept.clear()
    with pytest.raises(modelling.Unreadable, match="revisions are kept"):
        modelling.open_model(database, person.id, model.id)
