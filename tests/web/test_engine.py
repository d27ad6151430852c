"""What every engine must do: the same tests for each of them."""

from __future__ import annotations

import json
import os
import signal
import threading
import time
from collections.abc import Iterator
from typing import Any

import pytest
from pydantic import TypeAdapter
from tests.hand import plate

from sketchlathe.core.errors import CannotBuild, NotFound, Stopped
from sketchlathe.workers import Blobs, Engine, LocalEngine, LocalWorkers
from sketchlathe.workers import requests as ask
from sketchlathe.workers.contract import Request
from sketchlathe.workers.jobs import HANDLERS


@pytest.fixture(scope="module")
def engine(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Engine]:
    made = LocalEngine(LocalWorkers(1), Blobs(tmp_path_factory.mktemp("blobs")))
    yield made
    made.close()


def _document(engine: Engine, hand: Any = None) -> str:
    return engine.blobs.keep_document(json.dumps((hand or plate("60", "40", "5")).model.as_json()))


def _all(of: type[Request[Any]]) -> set[type[Request[Any]]]:
    found = set()
    for kind in of.__subclasses__():
        found |= {kind} if getattr(kind, "kind", "") else set()
        found |= _all(kind)
    return found


def test_every_request_has_a_handler_and_travels_as_json() -> None:
    from sketchlathe.workers import preload

    assert preload
    kinds = {k for k in _all(Request) if k.__module__ == ask.__name__}
    assert kinds == set(HANDLERS)
    assert len({k.kind for k in kinds}) == len(kinds) > 20
    for kind in kinds:
        assert kind.__doc__
    sent = ask.TryEdits(document="d", part="p1", edits=({"kind": "set_units", "units": "in"},))
    assert ask.TryEdits.model_validate_json(sent.model_dump_json()) == sent


def test_an_answer_is_what_its_type_says(engine) -> None:
    built = engine.submit(ask.BuildPart(document=_document(engine), part="p1"), "m")
    TypeAdapter(ask.Built).validate_python(built)
    assert built["totals"]["volume"] == pytest.approx(12000)
    again = engine.submit(ask.BuildPart(document=_document(engine), part="p1", afresh=True), "m")
    assert again["totals"] == built["totals"]
    assert engine.submit(ask.WarmUp(), "m") is None


def test_what_a_handler_raises_comes_back(engine) -> None:
    with pytest.raises(NotFound):
        engine.submit(ask.BuildPart(document=_document(engine), part="p9"), "m")
    hand = plate()
    request = ask.HowItStands(document=_document(engine, hand), part="p1", together="p1", other="p1")
    with pytest.raises(CannotBuild, match="does not stand in"):
        engine.submit(request, "m")


def test_patient_requests_are_worked_at_beside_the_others(engine) -> None:
    request = ask.BuildPart(document=_document(engine, plate("20", "20", "3")), part="p1")
    assert engine.submit(request, "m", patient=True)["totals"]["volume"] == pytest.approx(1200)
    assert engine.lanes >= 1
    engine.rest()
    assert engine.submit(request, "m", patient=True)["totals"]["volume"] == pytest.approx(1200)


def _slow(engine: Engine) -> ask.ExplainAnswers:
    """A search that takes long: a mass that nothing explains."""
    hand = plate("60", "40", "5")
    for k in range(6):
        s = hand.sketch()
        hand.draw(s, "polygon", (8 + 9 * k, 20), (11 + 9 * k, 20), sides=12 + k, measured="corners")
        hand.step("extrude", regions=hand.regions(s), distance=f"{6 + k}")
    hand.do("set_answer", part="p1", what="volume", text="98765.4321 mm³")
    return ask.ExplainAnswers(document=_document(engine, hand), part="p1")


def test_what_runs_under_a_ticket_says_where_it_is_and_can_be_stopped(engine) -> None:
    ended: list[str] = []

    def run() -> None:
        try:
            engine.submit(_slow(engine), "m", ticket="t")
            ended.append("answered")
        except Stopped:
            ended.append("stopped")

    thread = threading.Thread(target=run)
    thread.start()
    until = time.monotonic() + 20
    while not engine.progress("t").get("title") and time.monotonic() < until:
        time.sleep(0.02)
    assert set(engine.progress("t")) >= {"title", "number", "count"}
    engine.stop("t")
    thread.join(20)
    assert ended == ["stopped"]
    assert engine.progress("t") == {}
    assert engine.submit(ask.WarmUp(), "m") is None


def test_a_worker_that_dies_is_replaced_and_its_work_done_once_more(engine) -> None:
    workers = engine._workers
    pid = workers.run("m", _pid)
    os.kill(pid, signal.SIGKILL)
    built = engine.submit(ask.BuildPart(document=_document(engine, plate("30", "30", "2")), part="p1"), "m")
    assert built["totals"]["volume"] == pytest.approx(1800)
    assert engine.board.bars == {}


def _pid(note: str) -> int:
    return os.getpid()


def test_the_second_fall_bars_a_step() -> None:
    from sketchlathe.workers.board import Board

    board = Board()
    board.fell("k", "crashed", "gave up")
    assert board.bars == {}
    for _ in range(3):
        board.fell("other", "killed", "killed too often")
    assert board.bars == {}
    board.fell("k", "crashed", "gave up")
    assert board.bars == {"k": "gave up"}
    assert board.is_bar("gave up")
    board.fell("t", "timeout", "too long")
    assert board.is_bar("too long")


def test_jobs_are_heard_of_with_how_they_ended(engine) -> None:
    heard: list[tuple[str, str, str]] = []
    engine.heard = lambda kind, lane, end, seconds: heard.append((kind, lane, end))
    engine.submit(ask.WarmUp(), "m")
    with pytest.raises(NotFound):
        engine.submit(ask.BuildPart(document=_document(engine), part="p9"), "m", patient=True)
    assert heard == [("warm_up", "ask", "ok"), ("build_part", "patient", "refused")]
