"""A step that crashes or hangs costs itself only; a killed server loses nothing acknowledged."""

import json
import os
import signal
import subprocess
import sys
import time
import urllib.parse
import urllib.request
from pathlib import Path

import pytest
from tests.conftest import plate

from sketchlathe.ports import free_port
from sketchlathe.service import modelling, shelf
from sketchlathe.service.building import Builder
from sketchlathe.workers import Blobs, LocalEngine, LocalWorkers
from sketchlathe.workers.requests import BuildPart

ROOT = Path(__file__).parents[2]
TROUBLE = '''
"""Steps that take their worker down: for tests only."""
import ctypes, time
from typing import ClassVar, Literal
from sketchlathe.core.steps.base import Step

class Crash(Step):
    kind: Literal["crash_for_test"] = "crash_for_test"
    word: ClassVar[str] = "Crash"
    sentence: ClassVar[str] = "Crash"
    def build(self, context):
        ctypes.string_at(0)

class Hang(Step):
    kind: Literal["hang_for_test"] = "hang_for_test"
    word: ClassVar[str] = "Hang"
    sentence: ClassVar[str] = "Hang"
    def build(self, context):
        time.sleep(3600)

class Spin(Step):
    kind: Literal["spin_for_test"] = "spin_for_test"
    word: ClassVar[str] = "Spin"
    sentence: ClassVar[str] = "Spin"
    def build(self, context):
        sum(n % 7 for n in range(10**12))

class Wait(Step):
    kind: Literal["wait_for_test"] = "wait_for_test"
    word: ClassVar[str] = "Wait"
    sentence: ClassVar[str] = "Wait"
    def build(self, context):
        time.sleep(3)
        pass
'''


@pytest.fixture
def trouble(tmp_path, monkeypatch):
    """A module with bad step kinds, known here; workers are told to load it too."""
    (tmp_path / "trouble_steps.py").write_text(TROUBLE)
    monkeypatch.syspath_prepend(str(tmp_path))
    from sketchlathe.core.steps.base import STEPS

    __import__("trouble_steps")
    yield
    for kind in ("crash_for_test", "hang_for_test", "spin_for_test", "wait_for_test"):
        STEPS.forget(kind)
    sys.modules.pop("trouble_steps", None)


@pytest.mark.parametrize(
    ("kind", "says"),
    [
        ("crash_for_test", "could not be computed"),
        ("hang_for_test", "longer than 2 s"),
        ("spin_for_test", "longer than 2 s"),
    ],
)
def test_a_step_that_takes_its_worker_down(database, person, project, tmp_path, trouble, kind, says) -> None:
    hand = plate("60", "40", "5")
    hand.step(kind)
    disc = hand.sketch()
    hand.draw(disc, "circle", (30, 20), (35, 20), sizes=("10",))
    hand.step("extrude", regions=hand.regions(disc), distance="9")
    row = shelf.make_model(database, person.id, project.id, "Trouble", model=hand.model)
    workers = LocalWorkers(1, limit=60, modules=("trouble_steps",))
    try:
        blobs = Blobs(tmp_path / "blobs")
        _read_the_kernel_in(workers, blobs, database, person, project)
        builder = Builder(LocalEngine(workers, blobs, 30.0 if "crash" in kind else 2.0))
        opened = modelling.open_model(database, person.id, row.id)
        result = builder.build(opened, "p1")
        assert [s["status"] for s in result["steps"]] == ["ok", "ok", "failed", "ok", "ok"]
        assert says in result["steps"][2]["message"]
        assert result["totals"]["volume"] == pytest.approx(12000 + 25 * 3.141592653589793 * 4)
        assert modelling.change(database, person.id, row.id, None, {"kind": "set_units", "units": "in"}).revision == 2
    finally:
        workers.close()


def test_a_step_that_only_had_to_wait_is_not_called_too_slow(database, person, project, tmp_path, trouble) -> None:
    """On a loaded machine the clock runs on while a step hardly gets to compute."""
    hand = plate("60", "40", "5")
    hand.step("wait_for_test")
    row = shelf.make_model(database, person.id, project.id, "Patience", model=hand.model)
    workers = LocalWorkers(1, limit=60, modules=("trouble_steps",))
    try:
        blobs = Blobs(tmp_path / "blobs")
        _read_the_kernel_in(workers, blobs, database, person, project)
        builder = Builder(LocalEngine(workers, blobs, 2.0))
        opened = modelling.open_model(database, person.id, row.id)
        result = builder.build(opened, "p1")
        assert [s["status"] for s in result["steps"]] == ["ok", "ok", "ok"]
    finally:
        workers.close()


def _read_the_kernel_in(workers, blobs, database, person, project) -> None:
    """Before a short limit counts: on a slow machine that alone may compute for longer than a step is allowed."""
    first = shelf.make_model(database, person.id, project.id, "First", model=plate("60", "40", "5").model)
    Builder(LocalEngine(workers, blobs, 60.0)).build(modelling.open_model(database, person.id, first.id), "p1")


def _nothing(note: str) -> int:
    return os.getpid()


def test_a_worker_killed_by_somebody_condemns_no_step(database, person, project, tmp_path) -> None:
    """The same build goes on in a new worker, and nothing is barred."""
    import threading

    hand = plate("60", "40", "5")
    row = shelf.make_model(database, person.id, project.id, "Killed", model=hand.model)
    workers = LocalWorkers(1)
    try:
        builder = Builder(LocalEngine(workers, Blobs(tmp_path / "blobs")))
        opened = modelling.open_model(database, person.id, row.id)
        pid = workers.run(opened.id, _nothing)
        got: list[dict] = []
        build = threading.Thread(target=lambda: got.append(builder.build(opened, "p1")))
        os.kill(pid, signal.SIGKILL)
        build.start()
        build.join(60)
        assert [s["status"] for s in got[0]["steps"]] == ["ok", "ok"]
        assert builder.engine.board.bars_for(opened.id) == {}
    finally:
        workers.close()


def test_a_draft_that_takes_its_worker_down_is_told_of_and_can_be_kept(
    database, person, project, tmp_path, trouble
) -> None:
    row = shelf.make_model(database, person.id, project.id, "Draft", model=plate("60", "40", "5").model)
    workers = LocalWorkers(1, modules=("trouble_steps",))
    try:
        builder = Builder(LocalEngine(workers, Blobs(tmp_path / "blobs")))
        opened = modelling.open_model(database, person.id, row.id)
        started = time.monotonic()
        for _ in range(3):
            told = builder.preview(opened, "p1", {"kind": "crash_for_test", "fields": {}}, [], "t")["preview"]
            assert told["status"] == "failed"
            assert told["gave_up"]
        pid = workers.run(opened.id, _nothing)
        assert builder.preview(opened, "p1", {"kind": "crash_for_test", "fields": {}}, [], "t")["preview"]["gave_up"]
        assert workers.run(opened.id, _nothing) == pid, "the same draft took the worker down again"
        assert time.monotonic() - started < 60
    finally:
        workers.close()


def test_newest_wins_and_stop(workers) -> None:
    import threading

    from sketchlathe.workers import WorkerTrouble

    fates = []

    def run() -> None:
        try:
            workers.run("m", _sleep, 30, ticket="t")
            fates.append("done")
        except WorkerTrouble as trouble:
            fates.append(trouble.reason)

    thread = threading.Thread(target=run)
    thread.start()
    time.sleep(0.5)
    workers.stop_ticket("t")
    thread.join(10)
    assert fates == ["stopped"]
    assert workers.run("m", _nothing) > 0


def _sleep(seconds: float, note: str) -> None:
    time.sleep(seconds)


class Served:
    """A server process of its own, as ``./lathe serve`` starts it."""

    def __init__(self, url: str, folder: Path) -> None:
        self.port = free_port()
        self._command = [
            sys.executable,
            "-m",
            "sketchlathe",
            "serve",
            "--database",
            url,
            "--port",
            str(self.port),
            "--plain-http",
        ]
        self._environment = {**os.environ, "LATHE_DATA": str(folder), "LATHE_SECRET": "0123456789abcdef" * 4}
        self.start()

    def start(self) -> None:
        self.process = subprocess.Popen(
            self._command, env=self._environment, start_new_session=True, stdout=subprocess.DEVNULL
        )
        for _ in range(300):
            try:
                urllib.request.urlopen(f"http://127.0.0.1:{self.port}/sign-in", timeout=2)
                return
            except OSError:
                time.sleep(0.1)
        raise AssertionError("the server did not start")

    def kill(self) -> None:
        os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()


def test_a_killed_server_loses_nothing_acknowledged(database, database_url, tmp_path) -> None:
    import http.cookiejar
    import re
    import secrets
    import threading

    served = Served(database_url, tmp_path)
    jar = http.cookiejar.CookieJar()
    browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))
    at = f"http://127.0.0.1:{served.port}"

    def token(path: str) -> str:
        return re.search(r'name="csrf" content="([^"]+)"', browser.open(at + path).read().decode())[1]

    def post(path: str, form: dict[str, str], page: str) -> str:
        data = urllib.parse.urlencode({"csrf_token": token(page), **form}).encode()
        return browser.open(at + path, data).geturl()

    try:
        post(
            "/sign-up",
            {"name": "K", "email": f"{secrets.token_hex(5)}@k.example", "password": "a long password"},
            "/sign-up",
        )
        project = re.search(r"/projects/(\w+)/models", browser.open(at + "/").read().decode())[1]
        model = post(f"/projects/{project}/models", {"name": "Killed", "units": "mm"}, "/").rsplit("/", 1)[1]
        acknowledged = []
        header = token(f"/models/{model}")

        def write() -> None:
            for i in range(10_000):
                body = json.dumps({"edit": {"kind": "add_parameter", "name": f"n{i}", "formula": str(i)}}).encode()
                headers = {"Content-Type": "application/json", "X-CSRFToken": header}
                try:
                    answer = browser.open(
                        urllib.request.Request(f"{at}/api/models/{model}/edit", body, headers), timeout=10
                    )
                    acknowledged.append(json.loads(answer.read())["state"]["revision"])
                except (OSError, ValueError, http.client.HTTPException):
                    return

        writer = threading.Thread(target=write)
        writer.start()
        while len(acknowledged) < 15:
            time.sleep(0.02)
        served.kill()
        writer.join(20)
        served.start()
        state = json.loads(browser.open(f"{at}/api/models/{model}").read())
        assert state["revision"] >= acknowledged[-1]
        assert state["parameters"][: len(acknowledged)] == [f"n{i}" for i in range(len(acknowledged))]
        said = browser.open(f"{at}/models/{model}/panels/revisions").read().decode()
        assert "Parameter n0 = 0 mm" in said
    finally:
        served.kill()


def test_a_worker_answers_from_what_another_has_built(tmp_path) -> None:
    hand = plate("60", "40", "5")
    blobs = Blobs(tmp_path / "blobs")

    def built(workers: LocalWorkers) -> dict:
        request = BuildPart(document=blobs.keep_document(json.dumps(hand.model.as_json())), part="p1")
        return LocalEngine(workers, blobs).submit(request, "m")

    answers = []
    for _ in range(2):
        workers = LocalWorkers(1)
        try:
            answers.append(built(workers))
        finally:
            workers.close()
    first, second = answers
    assert (first.pop("cold"), second.pop("cold")) == (False, True)
    assert second == json.loads(json.dumps(first))
    # a mesh that is gone is made again
    mesh = blobs.path(first["bodies"][0]["key"] + ".gz")
    whole = mesh.read_bytes()
    mesh.unlink()
    kept = next(blobs.folder.rglob("*.json"))
    workers = LocalWorkers(1)
    try:
        assert built(workers)["cold"] is False
        assert mesh.read_bytes() == whole
        # and so is an answer that cannot be read
        kept.write_text('{"bodies": [')
        assert built(workers)["totals"] == first["totals"]
        # another number is another answer
        hand.do("set_fields", step=hand.steps[1].id, fields={"distance": "7 mm"})
        assert built(workers)["totals"]["volume"] == pytest.approx(60 * 40 * 7)
    finally:
        workers.close()


@pytest.mark.parametrize(("note", "words"), [({}, "keep ending"), ({"key": "k1", "title": "Extrude 1"}, "change the")])
def test_workers_that_cannot_live_are_not_laid_on_the_part(tmp_path, note, words) -> None:
    """A step is blamed only where one was being computed."""
    from sketchlathe.core.errors import Trouble
    from sketchlathe.workers.answering import Answering
    from sketchlathe.workers.board import Board
    from sketchlathe.workers.contract import WorkerTrouble

    class Ending(Answering):
        def once(self, asked, barred):
            raise WorkerTrouble("killed", note)

    with pytest.raises(Trouble, match=words):
        Ending(Blobs(tmp_path), Board(), 2.0).submit(BuildPart(document="d", part="p1"), "m")
