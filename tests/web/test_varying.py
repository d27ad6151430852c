"""Flex tests that outlive their process, variants, comparing, copies on which something is tried."""

import io
import json
import time
import zipfile
from datetime import timedelta

import pytest
import trimesh
from sqlalchemy import update
from tests.hand import clamp
from tests.web.test_pages import bench, edit, member  # noqa: F401

from sketchlathe.core.exchange.modelfile import dump_model
from sketchlathe.service import modelling
from sketchlathe.service.building import Builder
from sketchlathe.service.flexing import asked_of, flex
from sketchlathe.service.studies import Studies
from sketchlathe.store import Study
from sketchlathe.store.tables import now
from sketchlathe.workers import Blobs, LocalEngine


@pytest.fixture
def brought(member) -> str:  # noqa: F811
    """The clamp, on somebody's Shelf."""
    import re

    page = member.client.get("/").get_data(as_text=True)
    project = re.search(r"/projects/(\w+)/models", page)[1]
    file = (io.BytesIO(dump_model(clamp().model.changed(name="Mast clamp"))), "clamp.lathe")
    return member.post(f"/projects/{project}/bring-in", file=file).headers["Location"].rsplit("/", 1)[1]


def rested(ask, path: str, seconds: float = 60) -> dict:
    """A study once it has ended."""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        told = ask(path).json
        if told["state"] not in ("waiting", "running"):
            return told
        time.sleep(0.1)
    raise AssertionError(told)


def test_a_flex_test_finds_the_width_at_which_the_hole_runs_out(member, brought) -> None:  # noqa: F811
    begun = member.ask(f"/api/models/{brought}/flex", {"part": "p1"})
    assert begun.json["state"] == "waiting"
    told = rested(member.ask, f"/api/models/{brought}/flex/p1")
    assert told["state"] == "done", told
    width = told["numbers"]["p:w"]
    assert width["low"]["breaks"] == pytest.approx(15, rel=0.01)
    assert width["low"]["where"] == "Extrude 2"
    assert "runs out of the side" in width["low"]["why"]
    assert "breaks" not in width["high"]
    assert set(told["numbers"]) == set(told["order"])
    limits = {"kind": "set_limits", "part": "p1", "knob": "p:w", "low": "16 mm", "high": "300 mm"}
    assert edit(member, brought, 1, **limits).status_code == 200
    picture = member.client.get(
        f"/models/{brought}/parts/p1/as.png", query_string={"edits": json.dumps([width["low"]["edit"]])}
    )
    assert picture.data.startswith(b"\x89PNG")
    again = member.ask(
        f"/api/models/{brought}/flex", {"part": "p1", "numbers": ["p:w"], "spans": {"p:w": ["20", "60"]}}
    )
    assert again.status_code == 200
    told = rested(member.ask, f"/api/models/{brought}/flex/p1")
    assert list(told["numbers"]) == ["p:w"]
    assert told["numbers"]["p:w"]["low"]["at"] == pytest.approx(20)
    assert "breaks" not in told["numbers"]["p:w"]["low"]


def test_what_cannot_be_tried_is_said(member, brought, bench) -> None:  # noqa: F811
    for body, says in (
        ({"part": "p1", "numbers": ["p:no"]}, "not in this part"),
        ({"part": "p1", "spans": {"p:w": ["9", "3"]}}, "empty"),
        ({"part": "p1", "spans": {"p:w": 3}}, "begins and where it ends"),
        ({"part": "p1", "numbers": "all"}, "could not be understood"),
    ):
        answer = member.ask(f"/api/models/{brought}/flex", body)
        assert answer.status_code == 422, body
        assert says in answer.json["message"]
    assert "no number" in member.ask(f"/api/models/{bench}/flex", {"part": "p1"}).json["message"]


def test_numbers_in_pairs(member, brought) -> None:  # noqa: F811
    member.ask(f"/api/models/{brought}/flex", {"part": "p1", "numbers": ["p:w"], "pairs": ["p:w"]})
    assert rested(member.ask, f"/api/models/{brought}/flex/p1")["pairs"] == []
    told = member.ask(f"/api/models/{brought}/flex", {"part": "p1"}).json
    told = rested(member.ask, f"/api/models/{brought}/flex/p1")
    far = next(id for id, n in told["numbers"].items() if n["value"] == 12)
    chosen = {"part": "p1", "numbers": ["p:w", far], "pairs": ["p:w", far]}
    chosen["spans"] = {"p:w": ["30", "60"], far: ["8", "32"]}
    member.ask(f"/api/models/{brought}/flex", chosen)
    told = rested(member.ask, f"/api/models/{brought}/flex/p1")
    holds = {tuple(p["values"]): p["holds"] for p in told["pairs"]}
    assert holds == {(30, 8): True, (30, 32): False, (60, 8): True, (60, 32): True}


@pytest.mark.parametrize("off", [-5, 90], ids=["some minutes ago", "then the clock was put back"])
def test_a_study_whose_process_died_is_taken_over_where_it_was(
    off, database, person, project, workers, tmp_path
) -> None:
    from sketchlathe.service import shelf

    row = shelf.make_model(database, person.id, project.id, "Left alone", model=clamp().model)
    opened = modelling.open_model(database, person.id, row.id)
    asleep = Studies(database, Builder(LocalEngine(workers, Blobs(tmp_path))), {})
    asleep.wake = lambda: None  # its process is about to die
    asleep.begin(opened, person.id, "p1", "flex", asked_of(opened, "p1", {}))
    known = {"p:w": {"id": "p:w", "title": "w", "same": True, "marked": "found before"}}
    with database.transaction() as session:
        session.execute(
            update(Study)
            .where(Study.model_id == row.id)
            .values(state="running", beat=now() + timedelta(minutes=off), found={"numbers": known, "builds": 7})
        )
    awake = Studies(database, Builder(LocalEngine(workers, Blobs(tmp_path))), {"flex": flex})
    until = time.monotonic() + 60
    while (told := awake.find(row.id, "p1", "flex"))["state"] != "done" and time.monotonic() < until:
        time.sleep(0.1)
    assert told["state"] == "done"
    assert told["numbers"]["p:w"]["marked"] == "found before"
    assert len(told["numbers"]) == len(told["order"]) > 3
    assert told["builds"] > 7


def test_a_stopped_study_keeps_what_it_found(database, person, project, workers, tmp_path) -> None:
    from sketchlathe.service import shelf

    row = shelf.make_model(database, person.id, project.id, "Stopped", model=clamp().model)
    opened = modelling.open_model(database, person.id, row.id)
    studies = Studies(database, Builder(LocalEngine(workers, Blobs(tmp_path))), {"flex": flex})
    studies.begin(opened, person.id, "p1", "flex", asked_of(opened, "p1", {}))
    until = time.monotonic() + 60
    while not studies.find(row.id, "p1", "flex").get("numbers") and time.monotonic() < until:
        time.sleep(0.02)
    studies.stop(row.id, "p1", "flex")
    time.sleep(0.5)
    told = studies.find(row.id, "p1", "flex")
    assert told["state"] == "stopped"
    assert told["numbers"]


# variants


TABLE = "variant,w\nmast 40,40\nmast 50,50\nmast 60,60\nmast 71,71\ntoo small,6\n"


def test_five_sizes_from_a_table_taken_out_and_read_back(member, brought) -> None:  # noqa: F811
    assert edit(member, brought, 1, kind="bring_variants", part="p1", table=TABLE).status_code == 200
    listed = member.ask(f"/api/models/{brought}/variants/p1").json
    assert [r["name"] for r in listed["rows"]][:2] == ["mast 40", "mast 50"]
    assert [r["taken"] for r in listed["rows"]] == [True, False, False, False, False]
    for row, width in zip(listed["rows"][:4], (40, 50, 60, 71)):
        facts = member.ask(f"/api/models/{brought}/variants/p1/{row['id']}", {}).json
        assert facts["holds"], facts
        assert facts["facts"]["box"].startswith(f"{width} × 20 × 5")
    timed = member.ask(f"/api/models/{brought}/variants/p1/{listed['rows'][0]['id']}", {"process": {}}).json
    assert timed["seconds"] > 60
    packed = member.client.get(f"/models/{brought}/variants/p1/take-out/stl")
    with zipfile.ZipFile(io.BytesIO(packed.data)) as archive:
        names = archive.namelist()
        assert "mast-clamp-mast-71.stl" in names
        for width in (40, 50, 60, 71):
            mesh = trimesh.load(io.BytesIO(archive.read(f"mast-clamp-mast-{width}.stl")), file_type="stl")
            assert mesh.is_watertight
            assert mesh.volume == pytest.approx(width * 100 - 45 * 3.14159265, rel=2e-3)
    table = member.client.get(f"/models/{brought}/variants/p1/table.csv").get_data(as_text=True)
    assert table.splitlines()[1] == "mast 40,40 mm"
    state = edit(member, brought, 2, kind="take_variant", variant=listed["rows"][2]["id"]).json["state"]
    assert state["revision"] == 3
    assert [r["taken"] for r in member.ask(f"/api/models/{brought}/variants/p1").json["rows"]][2]


# comparing


def test_revision_against_now_with_one_hole_moved(member, brought) -> None:  # noqa: F811
    sketch = clamp().steps[2].id
    far = next(k.id for k in clamp().model.sketch_step(sketch).sketch.constraints if getattr(k, "value", "") == "12 mm")
    edit(member, brought, 1, kind="set_dimension", sketch=sketch, id=far, value="22")
    found = member.ask(f"/api/models/{brought}/compare", {"part": "p1", "from": {"revision": 1}}).json
    assert found["differences"][0]["text"] == "Sketch 2: 12 mm became 22 mm"
    assert found["exact"]
    assert found["volumes"][0] == found["volumes"][1]
    assert len(found["gone"]) == len(found["come"]) == 1
    assert found["gone"][0]["volume"] == pytest.approx(45 * 3.14159265358979, rel=1e-6)
    masses = next(f for f in found["figures"] if f[0] == "mass")
    assert masses[1] == masses[2]
    back = found["differences"][0]["edits"][0]
    assert edit(member, brought, 2, **back).status_code == 200
    same = member.ask(f"/api/models/{brought}/compare", {"part": "p1", "from": {"revision": 1}}).json
    assert same["differences"] == []
    assert same["gone"] == same["come"] == []


def test_a_part_against_a_file_a_variant_and_nothing(member, brought, bench) -> None:  # noqa: F811
    stl = member.client.get(f"/models/{brought}/parts/p1/take-out/stl").data
    edit(member, brought, 1, kind="set_parameter", name="w", formula="50")
    token = {"X-CSRFToken": member.token(), "Accept": "application/json"}
    sent = member.client.post(
        f"/api/models/{brought}/compare/file", data={"file": (io.BytesIO(stl), "clamp.stl")}, headers=token
    )
    found = member.ask(f"/api/models/{brought}/compare", {"part": "p1", "from": {"file": sent.json["file"]}}).json
    assert not found["exact"]
    assert found["come"][0]["volume"] == pytest.approx(1000, rel=1e-2)
    assert not found["gone"] or found["gone"][0]["volume"] < 2
    edit(member, brought, 2, kind="bring_variants", part="p1", table=TABLE)
    variant = member.ask(f"/api/models/{brought}/variants/p1").json["rows"][2]["id"]
    found = member.ask(f"/api/models/{brought}/compare", {"part": "p1", "from": {"variant": variant}}).json
    assert found["gone"][0]["volume"] == pytest.approx(1000, rel=1e-6)
    empty = member.ask(f"/api/models/{brought}/compare", {"part": "p1", "from": {"model": bench}}).json
    assert empty["come"][0]["volume"] == pytest.approx(5000 - 45 * 3.14159265358979, rel=1e-6)
    for bad in ({"revision": 99}, {"revision": "x"}, {"variant": "v99"}, {"model": "no"}, {"file": "../../etc"}):
        assert member.ask(f"/api/models/{brought}/compare", {"part": "p1", "from": bad}).status_code in (404, 422)


# trying on a copy


def test_what_was_tried_on_a_copy_is_taken_back_one_by_one(member, brought) -> None:  # noqa: F811
    copy = member.post(f"/models/{brought}/try").headers["Location"].rsplit("/", 1)[1]
    assert member.ask(f"/api/models/{brought}/tried").json["origin"] is None
    steps = [s["id"] for s in member.ask(f"/api/models/{copy}").json["parts"][0]["steps"]]
    edit(member, copy, 1, kind="set_parameter", name="w", formula="44")
    edit(member, copy, 2, kind="set_fields", step=steps[1], fields={"distance": "8"})
    edit(member, copy, 3, kind="add_step", part="p1", step="sketch", fields={"plane": {"plane": "front"}})
    edit(member, brought, 1, kind="set_fields", step=steps[1], fields={"distance": "6"})
    edit(member, brought, 2, kind="add_step", part="p1", step="sketch", fields={"plane": {"plane": "right"}})
    told = member.ask(f"/api/models/{copy}/tried").json
    assert told["origin"]["name"] == "Mast clamp"
    changes = {c["key"]: c for c in told["changes"]}
    assert changes["p:w"]["conflict"] == ""
    assert "5 mm became 6 mm" in changes[f"s:{steps[1]}"]["conflict"]
    new = next(k for k, c in changes.items() if "is new" in c["text"])
    taken = member.ask(f"/api/models/{copy}/tried/take-back", {"keys": ["p:w", new]})
    assert taken.json["revision"] == 4
    state = member.ask(f"/api/models/{brought}").json
    assert len(state["parts"][0]["steps"]) == 6
    assert len({s["id"] for s in state["parts"][0]["steps"]}) == 6
    left = [c["key"] for c in member.ask(f"/api/models/{copy}/tried").json["changes"]]
    assert left == [f"s:{steps[1]}"]
    assert member.ask(f"/api/models/{copy}/tried/take-back", {"keys": []}).status_code == 422
