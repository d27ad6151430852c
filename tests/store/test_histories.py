"""Random walks through edits, undo, redo and restoring, held against a list kept beside; many people at once."""

import json
import random
import threading

import pytest
from tests.conftest import Hand

from sketchlathe.core.errors import NotFound, Trouble
from sketchlathe.service import accounts, modelling, shelf
from sketchlathe.service.modelling import Stale


def plain(model) -> str:
    """A document as text; the counter of ids only ever grows."""
    return json.dumps({**model.as_json(), "next_id": 0}, sort_keys=True)


def some_edit(rng: random.Random, hand: Hand) -> dict | None:
    """An edit a person might do next, or None when it cannot be done on this model."""
    steps = hand.steps
    sketches = [s for s in steps if hasattr(s, "sketch")]
    way = rng.randrange(7)
    if way == 0 or not sketches:
        return {
            "kind": "add_step",
            "part": "p1",
            "step": "sketch",
            "fields": {"plane": {"plane": rng.choice(["top", "front"])}},
        }
    sketch = rng.choice(sketches)
    x, y = rng.uniform(-40, 40), rng.uniform(-40, 40)
    if way == 1:
        places = [{"at": [x, y]}, {"at": [x + rng.uniform(5, 20), y + rng.uniform(5, 20)]}]
        tool = rng.choice(["line", "rectangle", "circle"])
        return {"kind": "draw", "sketch": sketch.id, "tool": tool, "places": places, "sizes": [], "options": {}}
    if way == 2:
        return {"kind": "add_parameter", "name": f"n{rng.randrange(1000)}", "formula": f"{rng.randint(1, 90)} mm"}
    if way == 3 and hand.model.parameters:
        return {
            "kind": "set_parameter",
            "name": rng.choice(hand.model.parameters).name,
            "formula": f"{rng.randint(1, 90)}",
        }
    if way == 4:
        return {"kind": "rename_step", "step": sketch.id, "name": f"Outline {rng.randrange(99)}"}
    if way == 5:
        return {"kind": "skip_step", "step": sketch.id, "skipped": rng.random() < 0.5}
    if way == 6 and len(steps) > 2:
        return {"kind": "delete_step", "step": rng.choice(steps).id}
    return None


@pytest.mark.parametrize("seed", range(4))
def test_any_walk_through_the_history_leads_where_it_should(database, person, project, seed) -> None:
    """Undo and redo as a person knows them: back along what was done, forward until something new is done."""
    rng = random.Random(seed)
    row = shelf.make_model(database, person.id, project.id, f"Walk {seed}")
    opened = modelling.open_model(database, person.id, row.id)
    past, future = [plain(opened.model)], []
    by_number = {opened.revision: past[0]}
    for _ in range(60):
        roll = rng.random()
        if roll < 0.55:
            edit = some_edit(rng, Hand(opened.model))
            if edit is None:
                continue
            try:
                opened = modelling.change(database, person.id, row.id, opened.revision, edit)
            except Trouble:
                assert plain(modelling.open_model(database, person.id, row.id).model) == past[-1]
                continue
            past.append(plain(opened.model))
            future.clear()
        elif roll < 0.75:
            if len(past) == 1:
                with pytest.raises(NotFound):
                    modelling.undo(database, person.id, row.id, None)
                continue
            opened = modelling.undo(database, person.id, row.id, None)
            future.append(past.pop())
        elif roll < 0.9:
            if not future:
                with pytest.raises(NotFound):
                    modelling.redo(database, person.id, row.id, None)
                continue
            opened = modelling.redo(database, person.id, row.id, None)
            past.append(future.pop())
        else:
            number = rng.choice(sorted(by_number))
            opened = modelling.restore(database, person.id, row.id, number)
            past.append(by_number[number])
            future.clear()
        assert plain(opened.model) == past[-1]
        assert opened.can_undo == (len(past) > 1)
        assert opened.can_redo == bool(future)
        by_number[opened.revision] = past[-1]
    for number, text in by_number.items():
        assert plain(modelling.at_revision(database, person.id, row.id, number)) == text


def test_two_windows_on_one_model_never_lose_or_double_an_edit(database, person, project) -> None:
    """Each window sees a revision and edits on it; who was too late is told, looks again and does it again."""
    row = shelf.make_model(database, person.id, project.id, "Two windows")
    done: list[str] = []
    refused = 0
    lock = threading.Lock()

    def window(name: str) -> None:
        nonlocal refused
        for i in range(15):
            while True:
                seen = modelling.open_model(database, person.id, row.id).revision
                edit = {"kind": "add_parameter", "name": f"{name}{i}", "formula": f"{i + 1} mm"}
                try:
                    modelling.change(database, person.id, row.id, seen, edit)
                except Stale as stale:
                    assert stale.changes
                    with lock:
                        refused += 1
                    continue
                with lock:
                    done.append(f"{name}{i}")
                break

    threads = [threading.Thread(target=window, args=(name,)) for name in ("left", "right", "third")]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    opened = modelling.open_model(database, person.id, row.id)
    assert sorted(p.name for p in opened.model.parameters) == sorted(done)
    assert len(done) == 45
    assert opened.revision == 46
    assert [r.number for r, _ in modelling.revisions(database, person.id, row.id)] == list(range(46, 0, -1))


def test_a_class_of_thirty_edits_at_once(database) -> None:
    """Thirty people, each at a model of their own: everything that was acknowledged is there, in order."""
    people = [
        accounts.sign_up(database, f"Pupil {i}", f"pupil-{i}-{id(database)}@weather-post.example", "a long password")
        for i in range(30)
    ]
    rows = [
        shelf.make_model(database, p.id, shelf.projects(database, p.id)[0][0].id, f"Plate of {p.name}") for p in people
    ]
    troubles: list[BaseException] = []

    def work(person, row) -> None:
        try:
            for i in range(8):
                modelling.change(
                    database, person.id, row.id, i + 1, {"kind": "add_parameter", "name": f"n{i}", "formula": f"{i} mm"}
                )
            modelling.undo(database, person.id, row.id, None)
        except BaseException as problem:
            troubles.append(problem)

    threads = [threading.Thread(target=work, args=pair) for pair in zip(people, rows)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert troubles == []
    for person, row in zip(people, rows):
        opened = modelling.open_model(database, person.id, row.id)
        assert [p.name for p in opened.model.parameters] == [f"n{i}" for i in range(7)]
        assert opened.revision == 10
        assert len(shelf.models(database, person.id, row.project_id)) == 1


def test_what_is_in_the_bin_goes_on_in_an_open_window_and_comes_back_whole(database, person, project) -> None:
    """Somebody puts it away while another window works on it: nothing that is done there is lost."""
    row = shelf.make_model(database, person.id, project.id, "Gone for a while")
    modelling.change(database, person.id, row.id, 1, {"kind": "add_parameter", "name": "rim", "formula": "12 mm"})
    shelf.bin_model(database, person.id, row.id)
    assert shelf.models(database, person.id, project.id) == []
    modelling.change(database, person.id, row.id, 2, {"kind": "add_parameter", "name": "lip", "formula": "2 mm"})
    shelf.bring_back(database, person.id, row.id)
    opened = modelling.open_model(database, person.id, row.id)
    assert [p.formula for p in opened.model.parameters] == ["12 mm", "2 mm"]
    assert [m.id for m in shelf.models(database, person.id, project.id)] == [row.id]


def test_a_copy_has_a_history_of_its_own(database, person, project) -> None:
    row = shelf.make_model(database, person.id, project.id, "First")
    modelling.change(database, person.id, row.id, 1, {"kind": "add_parameter", "name": "rim", "formula": "12 mm"})
    copy = shelf.copy_model(database, person.id, row.id)
    modelling.change(database, person.id, copy.id, None, {"kind": "set_parameter", "name": "rim", "formula": "30 mm"})
    assert modelling.open_model(database, person.id, row.id).model.parameters[0].formula == "12 mm"
    with pytest.raises(NotFound):
        for _ in range(3):
            modelling.undo(database, person.id, copy.id, None)
    assert modelling.open_model(database, person.id, row.id).model.parameters[0].formula == "12 mm"


@pytest.mark.parametrize("email", ["", "nobody", "a@", "@b", "a b@c.d", "x" * 300 + "@y.example"])
def test_addresses_that_cannot_be(database, email) -> None:
    with pytest.raises(Trouble):
        accounts.sign_up(database, "Pia Holm", email, "a long password")


def test_signing_in(database, person) -> None:
    assert accounts.sign_in(database, person.email, "a long password").id == person.id
    assert accounts.sign_in(database, person.email.upper(), "a long password").id == person.id
    for email, password in [
        (person.email, "wrong password"),
        ("nobody@weather-post.example", "a long password"),
        ("", ""),
    ]:
        with pytest.raises(Trouble):
            accounts.sign_in(database, email, password)
    with pytest.raises(Trouble):
        accounts.sign_up(database, "Again", person.email, "a long password")
    with pytest.raises(Trouble):
        accounts.sign_up(database, "Short", "short@weather-post.example", "short")


def test_a_model_is_opened_with_the_document_of_its_revision(database, person, project, monkeypatch) -> None:
    """Though another edit comes between reading the one and the other."""
    id = shelf.make_model(database, person.id, project.id, "Between").id
    found = modelling.model_for

    def model_for(session, person_id, right, model_id, *, lock=False):
        row = found(session, person_id, right, model_id, lock=lock)
        monkeypatch.undo()
        edit = {"kind": "add_parameter", "name": "between", "formula": "3 mm"}
        modelling.change(database, person.id, id, None, edit)
        modelling._RECENT._kept.clear()
        return row

    modelling._RECENT._kept.clear()
    monkeypatch.setattr(modelling, "model_for", model_for)
    opened = modelling.open_model(database, person.id, id)
    assert (opened.revision, [p.name for p in opened.model.parameters]) == (2, ["between"])
    assert opened.can_undo
    assert modelling.open_model(database, person.id, id).model == opened.model
