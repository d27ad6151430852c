"""How much one request may bring, and one person may hold."""

from __future__ import annotations

import io
import threading

import pytest
from tests.web.test_guarded import bench, member, site  # noqa: F401
from tests.web.test_pages import Visitor

from sketchlathe.printer.http import serve
from sketchlathe.service import modelling, quotas, shelf
from sketchlathe.service.commons import MOST
from sketchlathe.service.quotas import TooFull
from sketchlathe.web.app import JSON, LETTER
from sketchlathe.web.printing import STREAMS


def test_what_a_script_says_is_not_endless(member, bench) -> None:  # noqa: F811
    headers = {"X-CSRFToken": member.token(), "Accept": "application/json"}
    told = member.client.post(
        f"/api/models/{bench}/edit", data=b'{"a": "' + b"x" * JSON + b'"}', content_type="application/json",
        headers=headers,
    )  # fmt: skip
    assert told.status_code == 413
    assert "at most 4 MB" in told.json["message"]
    file = {"file": (io.BytesIO(b"x" * (JSON + 1)), "large.stl"), "base": "1", "part": "p1"}
    brought = member.client.post(f"/api/models/{bench}/bring", data=file, headers=headers)
    assert brought.status_code == 422, "a file may be larger; this one is refused for what it is"


def test_a_stranger_brings_little(app) -> None:
    visitor = Visitor(app)
    form = {"csrf_token": visitor.token(), "email": "x@w.example", "password": "x" * LETTER}
    assert visitor.client.post("/sign-in", data=form).status_code == 413


@pytest.fixture
def at_printer(database, workers, tmp_path):
    printer = serve(0, 40.0)
    threading.Thread(target=printer.serve_forever, daemon=True).start()
    yield site(database, workers, tmp_path, printer_port=printer.server_port)
    printer.shutdown()


def test_one_person_looks_at_the_printer_from_so_many_pages(at_printer) -> None:
    visitor = Visitor(at_printer)
    visitor.post("/sign-up", name="P", email="stream@w.example", password="a good password")
    looking = [visitor.client.get("/printer/events", buffered=False) for _ in range(STREAMS)]
    assert [r.status_code for r in looking] == [200] * STREAMS
    refused = visitor.client.get("/printer/events")
    assert refused.status_code == 429
    looking[0].close()
    assert visitor.client.get("/printer/events", buffered=False).status_code == 200
    told = visitor.ask("/printer/faults/lost", {})
    assert told.status_code == 404, "here the printer is everybody's"


def test_pictures_beside_ones_work_are_so_many_at_a_time(app, member, bench) -> None:  # noqa: F811
    commons = app.extensions["builder"].commons
    with member.client.session_transaction() as kept:
        person = kept["_user_id"].partition(":")[0]
    held = [commons.take(person, "aside", MOST["aside"]) for _ in range(MOST["aside"])]
    assert member.client.get(f"/models/{bench}/parts/p1/as.png").status_code == 429
    for one in held:
        commons.leave(person, "aside", one)
    assert member.client.get(f"/models/{bench}/parts/p1/as.png").status_code == 200


@pytest.mark.parametrize("way", ["edits", "undo"])
def test_small_changes_add_up_and_taking_back_counts_too(database, person, project, monkeypatch, way: str) -> None:
    row = shelf.make_model(database, person.id, project.id, "Vane")

    def once(number: int) -> int:
        if way == "undo" and number:
            step = modelling.undo if number % 2 else modelling.redo
            return step(database, person.id, row.id, None).revision
        raw = {"kind": "add_parameter", "name": f"a{number}", "formula": "3 mm", "note": "n" * 200}
        return modelling.change(database, person.id, row.id, None, raw).revision

    once(0)
    monkeypatch.setattr(quotas, "LARGE", 5000)
    monkeypatch.setenv("LATHE_QUOTA_MB", "0")
    with pytest.raises(TooFull, match="MB"):
        for number in range(1, 100):
            last = once(number)
    assert 3 < last < 60
    assert modelling.open_model(database, person.id, row.id).revision == last, "what was kept is there"


def test_no_document_grows_beyond_what_can_be_opened(database, person, project, monkeypatch) -> None:
    row = shelf.make_model(database, person.id, project.id, "Vane")
    monkeypatch.setattr(quotas, "DOCUMENT", 3000)
    with pytest.raises(TooFull, match="another model"):
        for number in range(100):
            raw = {"kind": "add_parameter", "name": f"a{number}", "formula": "3 mm", "note": "n" * 200}
            modelling.change(database, person.id, row.id, None, raw)
    assert len(modelling.open_model(database, person.id, row.id).text) <= 3000
