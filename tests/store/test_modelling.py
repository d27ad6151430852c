"""Revisions, undo, staleness, the Shelf: everything that is acknowledged is there."""

import pytest

from sketchlathe.core.errors import BadInput, NotFound
from sketchlathe.service import accounts, modelling, shelf
from sketchlathe.service.modelling import Stale
from sketchlathe.store.tables import Snapshot


@pytest.fixture
def model(database, person, project):
    return shelf.make_model(database, person.id, project.id, "Rain funnel")


def edit(database, person, model, base=None, **raw):
    return modelling.change(database, person.id, model.id, base, raw)


def test_edits_are_revisions_with_summaries(database, person, model) -> None:
    edit(database, person, model, kind="add_parameter", name="rim", formula="120")
    edit(database, person, model, kind="set_parameter", name="rim", formula="130")
    found = modelling.revisions(database, person.id, model.id)
    assert [(r.number, r.summary) for r, _ in found] == [
        (3, "Parameter rim = 130 mm"),
        (2, "Parameter rim = 120 mm"),
        (1, "Model made"),
    ]
    assert modelling.at_revision(database, person.id, model.id, 2).parameters[0].formula == "120 mm"
    assert modelling.at_revision(database, person.id, model.id, 1).parameters == ()


def test_undo_redo_and_restore_lead_back_exactly(database, person, model) -> None:
    documents = [modelling.open_model(database, person.id, model.id).model.as_json()]
    for i in range(4):
        documents.append(
            edit(database, person, model, kind="add_parameter", name=f"p{i}", formula=str(i)).model.as_json()
        )

    def same(opened, wanted) -> bool:
        got = opened.model.as_json()
        return {**got, "next_id": 0} == {**wanted, "next_id": 0}

    for i in (3, 2, 1):
        assert same(modelling.undo(database, person.id, model.id, None), documents[i])
    assert same(modelling.redo(database, person.id, model.id, None), documents[2])
    opened = edit(database, person, model, kind="set_units", units="in")
    assert not opened.can_redo
    with pytest.raises(NotFound, match="nothing to redo"):
        modelling.redo(database, person.id, model.id, None)
    assert same(modelling.restore(database, person.id, model.id, 5), documents[4])
    assert modelling.undo(database, person.id, model.id, None).model.units == "in"


def test_a_stale_edit_is_refused_with_what_changed(database, person, model) -> None:
    edit(database, person, model, base=1, kind="set_units", units="in")
    with pytest.raises(Stale) as stale:
        edit(database, person, model, base=1, kind="set_units", units="cm")
    assert stale.value.changes == ["Units in"]
    assert stale.value.revision == 2


def test_a_refused_edit_leaves_no_revision(database, person, model) -> None:
    with pytest.raises(BadInput):
        edit(database, person, model, kind="add_parameter", name="sin", formula="1")
    assert modelling.open_model(database, person.id, model.id).revision == 1


def test_shelf_make_rename_move_copy_bin_and_back(database, person, project, model) -> None:
    other = shelf.make_project(database, person.id, "Greenhouse frame")
    shelf.rename_model(database, person.id, model.id, "Rain funnel, wide")
    shelf.move_model(database, person.id, model.id, other.id)
    copy = shelf.copy_model(database, person.id, model.id)
    assert {m.name for m in shelf.models(database, person.id, other.id)} == {
        "Rain funnel, wide",
        "Rain funnel, wide, copy",
    }
    shelf.bin_model(database, person.id, model.id)
    assert [m.id for m in shelf.models(database, person.id, other.id)] == [copy.id]
    shelf.bin_project(database, person.id, other.id)
    assert {m.id for m in shelf.bin_contents(database, person.id)} == {model.id, copy.id}
    shelf.bring_back(database, person.id, model.id)
    assert [p.name for p, n in shelf.projects(database, person.id) if n] == ["Greenhouse frame"]
    assert [m.id for m in shelf.find(database, person.id, "WIDE")] == [model.id]


def test_search_looks_into_parts_and_steps(database, person, model) -> None:
    opened = edit(
        database, person, model, kind="add_step", part="p1", step="sketch", fields={"plane": {"plane": "top"}}
    )
    step = opened.model.parts[0].steps[0].id
    edit(database, person, model, kind="rename_step", step=step, name="Spout outline")
    assert [m.id for m in shelf.find(database, person.id, "spout")] == [model.id]
    assert shelf.find(database, person.id, "zebra") == []
    assert shelf.find(database, person.id, "%") == []


def test_nobody_sees_what_is_not_theirs(database, person, model, project) -> None:
    stranger = accounts.sign_up(database, "Someone Else", f"other-{model.id}@weather-post.example", "another password")
    for attempt in (
        lambda: modelling.open_model(database, stranger.id, model.id),
        lambda: modelling.change(database, stranger.id, model.id, None, {"kind": "set_units", "units": "in"}),
        lambda: modelling.undo(database, stranger.id, model.id, None),
        lambda: modelling.revisions(database, stranger.id, model.id),
        lambda: shelf.copy_model(database, stranger.id, model.id),
        lambda: shelf.bin_model(database, stranger.id, model.id),
        lambda: shelf.models(database, stranger.id, project.id),
        lambda: shelf.make_model(database, stranger.id, project.id, "Mine now"),
        lambda: shelf.move_model(database, person.id, model.id, shelf.projects(database, stranger.id)[0][0].id),
    ):
        with pytest.raises(NotFound):
            attempt()


@pytest.mark.parametrize("name", ["", "   ", "x" * 121, "y" * 1_000_000])
def test_names_have_limits(database, person, project, name) -> None:
    with pytest.raises(BadInput, match="1 to 120"):
        shelf.make_model(database, person.id, project.id, name)


def test_old_revisions_come_back_exactly_with_and_without_whole_documents_among_them(
    database, person, model, monkeypatch
) -> None:
    monkeypatch.setattr(modelling, "SNAPSHOT_EVERY", 4)
    edit(database, person, model, kind="add_parameter", name="rim", formula="1")
    there = [{}, {}, modelling.open_model(database, person.id, model.id).model.as_json()]
    for i in range(3, 22):
        there.append(edit(database, person, model, kind="set_parameter", name="rim", formula=str(i)).model.as_json())
        if i % 5 == 0:
            modelling.undo(database, person.id, model.id, None)
            there.append(modelling.open_model(database, person.id, model.id).model.as_json())
    for whole in (True, False):
        if not whole:
            with database.transaction() as session:
                assert session.query(Snapshot).filter_by(model_id=model.id).count() == (len(there) - 1) // 4
                session.query(Snapshot).filter_by(model_id=model.id).delete()
        for number in range(2, len(there)):
            got = modelling.at_revision(database, person.id, model.id, number).as_json()
            assert {**got, "next_id": 0} == {**there[number], "next_id": 0}
    assert modelling.open_model(database, person.id, model.id).model.as_json() == there[-1]


def test_whoever_fell_far_behind_is_told_in_few_words(database, person, model) -> None:
    edit(database, person, model, kind="add_parameter", name="rim", formula="1")
    for i in range(60):
        edit(database, person, model, kind="set_parameter", name="rim", formula=str(i))
    with pytest.raises(Stale) as behind:
        edit(database, person, model, base=1, kind="set_parameter", name="rim", formula="7")
    assert behind.value.changes[0] == "Parameter rim = 59 mm"
    assert len("".join(behind.value.changes)) < 10_000 and len(behind.value.changes) == 30
