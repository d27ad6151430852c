"""What every engine must do: the same tests for each of them."""

from __future__ import annotations

import contextlib
import json
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from typing import Any

import pytest
from pydantic import TypeAdapter
from tests.hand import plate

from sketchlathe.beats import gone
from sketchlathe.core.errors import CannotBuild, NotFound, Refused, Stopped
from sketchlathe.proving.processes import below
from sketchlathe.store.queue_server import QueueServer
from sketchlathe.workers import Blobs, Engine, LocalEngine, LocalWorkers
from sketchlathe.workers import requests as ask
from sketchlathe.workers.answers import Built
from sketchlathe.workers.contract import Lane, Request
from sketchlathe.workers.distributed import DistributedEngine
from sketchlathe.workers.exchange import Ask, Group, beat, group_for, groups
from sketchlathe.workers.jobs import HANDLERS
from sketchlathe.workers.wire import Broken, pack_problem, unpack


class Machine:
    """What ``./lathe work`` is to an engine: a process of its own, here or elsewhere."""

    def __init__(self, url: str, group: str, folder: Any) -> None:
        self._command = [sys.executable, "-m", "sketchlathe", "work", "--redis", url, "--group", group]
        self._env = {**os.environ, "LATHE_DATA": str(folder)}
        self.start()

    def start(self) -> None:
        self.process = subprocess.Popen(
            [*self._command, "--processes", "1"], env=self._env, stderr=subprocess.DEVNULL, start_new_session=True
        )

    def kill(self) -> None:
        """All of it at once, as a machine that loses its power."""
        with contextlib.suppress(ProcessLookupError):
            os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()


@pytest.fixture(scope="module", params=["local", "distributed"])
def engine(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Engine]:
    blobs = Blobs(tmp_path_factory.mktemp("blobs"))
    if request.param == "local":
        made: Engine = LocalEngine(LocalWorkers(1), blobs)
        yield made
        made.close()
        return
    server = QueueServer()
    machine = Machine(server.url, "post", tmp_path_factory.mktemp("machine"))
    made = DistributedEngine(server.url, blobs)
    made.machine, made.server = machine, server  # type: ignore[attr-defined]
    until = time.monotonic() + 90  # beside other tests a machine takes its time to come up
    while not all(groups(made._redis, lane) for lane in ("ask", "long")) and time.monotonic() < until:
        time.sleep(0.1)
    yield made
    made.close()
    machine.kill()
    server.kill()


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
    TypeAdapter(Built).validate_python(built)
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


def _computing(engine: Engine) -> list[int]:
    """The processes that compute for an engine."""
    above = engine.machine.process.pid if hasattr(engine, "machine") else os.getpid()  # type: ignore[attr-defined]
    return below(above).get("worker", [])


def test_a_worker_that_dies_is_replaced_and_its_work_done_once_more(engine) -> None:
    assert engine.submit(ask.WarmUp(), "m") is None
    computing = _computing(engine)
    assert computing
    for pid in computing:
        os.kill(pid, signal.SIGKILL)
    built = engine.submit(ask.BuildPart(document=_document(engine, plate("30", "30", "2")), part="p1"), "m")
    assert built["totals"]["volume"] == pytest.approx(1800)
    assert engine.board.bars_for("m") == {}


@pytest.mark.parametrize("engine", ["local", "distributed"], indirect=True, ids=["alone", "shared"])
def test_the_second_fall_bars_a_step_and_two_models_bar_it_for_everybody(engine) -> None:
    board = engine.board
    board.fell("k", "crashed", "gave up", "m")
    assert board.bars_for("m") == {}
    for _ in range(3):
        board.fell("other", "killed", "killed too often", "m")
    assert board.bars_for("m") == {}
    for _ in range(3):  # one person's model, however often, is that model's affair
        board.fell("k", "crashed", "gave up", "m")
    assert board.bars_for("m") == {"k": "gave up"}
    assert board.bars_for("n") == {}
    assert board.is_bar("gave up")
    board.fell("t", "timeout", "too long", "m")
    assert board.bars_for("m") == {"k": "gave up"}
    board.fell("t", "timeout", "too long", "n")
    assert board.bars_for("o") == {"t": "too long"}


def test_jobs_are_heard_of_with_how_they_ended(engine) -> None:
    heard: list[tuple[str, str, str]] = []
    engine.heard = lambda kind, lane, end, seconds: heard.append((kind, lane, end))
    engine.submit(ask.WarmUp(), "m")
    with pytest.raises(NotFound):
        engine.submit(ask.BuildPart(document=_document(engine), part="p9"), "m", patient=True)
    assert heard == [("warm_up", "ask", "ok"), ("build_part", "patient", "refused")]


# what only several machines can do

distributed = pytest.mark.parametrize("engine", ["distributed"], indirect=True, ids=["distributed"])


@distributed
def test_a_lost_machines_work_is_taken_over_once(engine, tmp_path) -> None:
    """Two machines; the one that works for the model loses its power in the middle."""
    other = Machine(engine.server.url, "hut", tmp_path)
    try:
        until = time.monotonic() + 90
        while len(groups(engine._redis, "long")) < 2 and time.monotonic() < until:
            time.sleep(0.1)
        there = {g.name: engine.machine if g.name == "post" else other for g in groups(engine._redis, "long")}
        model = next(m for m in map(str, range(100)) if group_for(groups(engine._redis, "long"), m).name == "hut")
        answers: list[Any] = []
        request = ask.CountTriangles(
            document=_document(engine, plate("60", "40", "5")), part="p1", chord=0.05, angle=0.2
        )
        os.kill(below(other.process.pid)["consumer"][1], signal.SIGSTOP)  # it has what is asked, and does nothing
        thread = threading.Thread(target=lambda: answers.append(engine.submit(request, model)))
        thread.start()
        time.sleep(0.5)
        assert len(there) == 2 and not answers
        other.kill()
        thread.join(30)
        assert answers and answers[0]["triangles"] >= 12
        assert group_for(groups(engine._redis, "ask"), model).name == "post"
    finally:
        other.kill()


@distributed
def test_who_takes_a_killed_consumers_place_finds_the_kernel_loaded(engine) -> None:
    assert engine.submit(ask.WarmUp(), "m") is None
    machine = engine.machine.process.pid
    before = below(machine)
    (there,) = groups(engine._redis, "ask")
    for pid in before["consumer"]:
        os.kill(pid, signal.SIGKILL)
    until = time.monotonic() + 60
    while {g.instance for g in groups(engine._redis, "ask")} <= {there.instance} and time.monotonic() < until:
        time.sleep(0.1)
    assert engine.submit(ask.WarmUp(), "m") is None
    after = below(machine)
    assert after["forkserver"] == before["forkserver"] and not set(after["consumer"]) & set(before["consumer"])


@distributed
def test_of_a_consumer_that_has_ended_it_can_be_said_that_it_is_gone(engine) -> None:
    url = engine.server.url
    beat(engine._redis, "barn", ["ask"], "i", 1, lambda: 0)
    beat(engine._redis, "barn", ["long", "patient"], "j", 1, lambda: 0)

    def there(lane: Lane) -> list[str]:
        return [g.name for g in groups(engine._redis, lane) if g.name == "barn"]

    gone(url, "barn", "short")
    assert (there("ask"), there("long"), there("patient")) == ([], ["barn"], ["barn"])
    gone(url, "barn", "long")
    assert (there("long"), there("patient")) == ([], [])
    gone("redis://127.0.0.1:1/0", "barn", "short")  # where Redis is away it is found out by silence


@distributed
def test_what_waits_survives_redis_itself(engine) -> None:
    engine.server.kill()
    request = ask.BuildPart(document=_document(engine, plate("31", "30", "2")), part="p1")
    answers: list[Any] = []
    thread = threading.Thread(target=lambda: answers.append(engine.submit(request, "m")))
    thread.start()
    time.sleep(1.5)
    assert not answers
    engine.server.start()
    thread.join(30)
    assert answers[0]["totals"]["volume"] == pytest.approx(1860)


def test_models_stay_where_they_are_when_a_group_comes_or_goes() -> None:
    told = {"instance": "i", "places": 1, "load": 0}
    three = [Group(name, told) for name in ("a", "b", "c")]
    models = [f"model {k}" for k in range(900)]
    before = {m: group_for(three, m).name for m in models}
    assert all(200 < list(before.values()).count(name) < 400 for name in "abc")
    after = {m: group_for(three[:2], m).name for m in models}
    assert all(after[m] == before[m] for m in models if before[m] != "c")


@distributed
def test_a_thing_is_done_once_however_often_it_is_delivered(engine) -> None:
    job = Ask(engine._redis)
    job.register("")
    assert job.take() and not Ask(engine._redis, job.job).take()
    other = Ask(engine._redis)
    other.register("")
    other.give_up()
    assert not other.take() and other.wait(1) == {"lost": "stopped", "note": {}}


@distributed
def test_bytes_and_what_is_large_travel_among_the_blobs(engine) -> None:
    request = ask.ExportPart(document=_document(engine), part="p1", format="stl", how={"chord": 0.1, "angle": 0.3})
    data = engine.submit(request, "m")
    assert isinstance(data, bytes) and len(data) > 600
    with pytest.raises(Broken):
        unpack({"broken": "a trace"}, engine.blobs)
    refused = Refused("no", fights=("a",), words=("line a",))
    with pytest.raises(Refused) as caught:
        unpack(json.loads(json.dumps(pack_problem(refused))), engine.blobs)
    assert caught.value.fights == ("a",) and caught.value.message == "no"
