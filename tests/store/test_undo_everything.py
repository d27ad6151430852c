"""Undo and redo lead over every kind of step and edit and end where they began, following the solid included."""

from __future__ import annotations

import json
from typing import Any

import pytest
from sqlalchemy import update
from tests.batteries import formulas
from tests.hand import Hand, plate

from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.model.building import build
from sketchlathe.service import modelling, shelf
from sketchlathe.store import ModelRow


def plain(model: Any) -> str:
    """A document as text; the counter of ids only ever grows."""
    return json.dumps({**model.as_json(), "next_id": 0, "name": ""}, sort_keys=True)


class Recorder:
    """Everything hands do, model by model."""

    def __init__(self, monkeypatch: pytest.MonkeyPatch) -> None:
        self.made: dict[int, tuple[Hand, list[dict[str, Any]]]] = {}
        done = Hand.do

        def do(hand: Hand, kind: str, **fields: Any) -> Any:
            model = done(hand, kind, **fields)
            self.made.setdefault(id(hand), (hand, []))[1].append({"kind": kind, **fields})
            return model

        monkeypatch.setattr(Hand, "do", do)


class Bench:
    """A model in the store, edited as the screen edits it: what is taken from the solid follows after each build."""

    def __init__(self, database: Any, person: Any, project: Any) -> None:
        self.database, self.person = database, person
        self.row = shelf.make_model(database, person.id, project.id, "Walked")
        self.opened = modelling.open_model(database, person.id, self.row.id)
        self.cache = BuildCache()

    def _edit(self, edit: dict[str, Any]) -> None:
        self.opened = modelling.change(self.database, self.person.id, self.row.id, self.opened.revision, edit)

    def do(self, edit: dict[str, Any]) -> None:
        self._edit(edit)
        self.follow()

    def follow(self) -> None:
        for _ in range(10):
            steps = build(self.opened.model, self.opened.model.parts[0], self.cache).steps
            moved = next((r for r in steps if r.moved), None)
            if moved is None:
                return
            curves = json.loads(json.dumps(dict(moved.moved)))
            self._edit({"kind": "follow_solid", "sketch": moved.step, "curves": curves})
        raise AssertionError("a sketch follows the solid for ever")

    def back(self) -> None:
        self.opened = modelling.undo(self.database, self.person.id, self.row.id, self.opened.revision)
        self.follow()

    def forth(self) -> None:
        self.opened = modelling.redo(self.database, self.person.id, self.row.id, self.opened.revision)
        self.follow()


def walked(bench: Bench, edits: list[dict[str, Any]]) -> None:
    """Do all, undo all, redo all; every state on the way is the one it was."""
    states = [plain(bench.opened.model)]
    for edit in json.loads(json.dumps(edits)):
        bench.do(edit)
        states.append(plain(bench.opened.model))
    for number in range(len(states) - 2, -1, -1):
        bench.back()
        assert plain(bench.opened.model) == states[number], f"after undoing {edits[number]['kind']}"
    assert not bench.opened.can_undo
    for number in range(1, len(states)):
        bench.forth()
        assert plain(bench.opened.model) == states[number], f"after redoing {edits[number - 1]['kind']}"
    assert not bench.opened.can_redo


def test_every_kind_of_step_is_undone_and_redone(database, person, project, monkeypatch) -> None:
    recorder = Recorder(monkeypatch)
    assert formulas.errors(1)[1] == []
    kinds = set()
    for _, edits in recorder.made.values():
        if any(e["kind"] == "bring_file" for e in edits):
            continue
        kinds |= {e["step"] for e in edits if e["kind"] == "add_step"}
        walked(Bench(database, person, project), edits)
    assert len(kinds) >= 13


def taking_part() -> Hand:
    """A boss on a plate, and a sketch on it that takes the boss's rim and hangs a hole on its centre."""
    from sketchlathe.core.solid.projecting import takeable

    hand = plate()
    hand.do("add_parameter", name="high", formula="6 mm")
    hand.round(hand.face((0, 0, 1)), 20, 20, 6, distance="high")
    s = hand.sketch(hand.face((0, 0, 1)))
    built = hand.build()
    state = built.steps[-1].sketch
    assert state is not None
    offers = [o for o in takeable(built.bodies, state.frame) if "edge" in o]
    rim = next(o for o in offers if o["curve"]["kind"] == "circle")
    take = {"curve": rim["curve"], "edge": rim["edge"]}
    at = rim["curve"]["centre"]
    places = [{"at": at, "snap": "centre", "ref": "take.centre", "take": take}, {"at": (at[0] + 2, at[1])}]
    hand.do("draw", sketch=s, tool="circle", places=places, sizes=["3"])
    hand.step("extrude", regions=hand.regions(s), reach="through", result="cut", way="backwards")
    return hand


def test_a_change_that_a_sketch_follows_is_undone_in_one_step(database, person, project, monkeypatch) -> None:
    recorder = Recorder(monkeypatch)
    hand = taking_part()
    (sketch,) = [s.id for s in hand.steps if getattr(s, "taken", ())]
    base = hand.steps[hand.model.parts[0].index(sketch) - 2].id
    circle = hand.curves(base)[0].id
    hand.do("add_dimension", sketch=base, on=["origin", f"{circle}.centre"], at=(10, -5), value="20", way="across")
    size = hand.model.sketch_step(base).sketch.constraints[-1].id
    bench = Bench(database, person, project)
    for edit in json.loads(json.dumps(recorder.made[id(hand)][1])):
        bench.do(edit)
    before = plain(bench.opened.model)
    for value in ("26", "31"):
        bench.do({"kind": "set_dimension", "sketch": base, "id": size, "value": value})
    after = plain(bench.opened.model)
    bench.back(), bench.back()
    assert plain(bench.opened.model) == before
    bench.forth(), bench.forth()
    assert plain(bench.opened.model) == after
    walked(Bench(database, person, project), recorder.made[id(hand)][1])


def test_a_document_that_cannot_be_read_has_a_way_back(database, person, project) -> None:
    bench = Bench(database, person, project)
    bench.do({"kind": "add_parameter", "name": "w", "formula": "4"})
    with database.transaction() as session:
        document = {**bench.opened.model.as_json(), "units": "furlong"}
        session.execute(
            update(ModelRow)
            .where(ModelRow.id == bench.row.id)
            .values(document=document, revision=ModelRow.revision + 1)
        )
        from sketchlathe.core.model.patches import difference
        from sketchlathe.store import Revision

        backward = difference(document, bench.opened.model.as_json())
        session.add(
            Revision(model_id=bench.row.id, number=bench.opened.revision + 1, person_id=person.id, sort="edit",
                     summary="Broken by an older program", forward=[], backward=backward)
        )  # fmt: skip
    with pytest.raises(modelling.Unreadable, match="Its revisions are kept"):
        modelling.open_model(database, person.id, bench.row.id)
    last = modelling.last_readable(database, person.id, bench.row.id)
    assert last == bench.opened.revision
    again = modelling.restore(database, person.id, bench.row.id, last)
    assert plain(again.model) == plain(bench.opened.model)
