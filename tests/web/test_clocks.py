"""Somebody sets the clock of the machine, ahead or back, while work is under way."""

from __future__ import annotations

import os
import secrets
import threading
import time

import pytest
import time_machine
from tests.web.test_guarded import site
from tests.web.test_pages import Visitor

from sketchlathe.store.queue_server import QueueServer
from sketchlathe.web import limits
from sketchlathe.workers import LocalWorkers, WorkerTrouble, exchange
from sketchlathe.workers.blobs import Blobs

DAY = 86_400.0


def _asleep(seconds: float, note: str) -> str:
    time.sleep(seconds)
    return "woke up"


def _off(days: float) -> time_machine.travel:
    return time_machine.travel(time.time() + days * DAY, tick=True)


def test_what_is_under_way_is_not_called_slow_when_the_clock_is_put_forward() -> None:
    workers, came = LocalWorkers(1, limit=60), []
    try:
        workers.run("m", _asleep, 0.0)  # the worker is there
        running = threading.Thread(target=lambda: came.append(workers.run("m", _asleep, 2.0)))
        running.start()
        time.sleep(0.7)
        with _off(days=1):
            running.join(30)
        assert came == ["woke up"]
    finally:
        workers.close()


def test_what_hangs_is_ended_though_the_clock_is_put_back() -> None:
    workers, ends = LocalWorkers(1, limit=0.3), []

    def run() -> None:
        with pytest.raises(WorkerTrouble) as problem:
            workers.run("m", _asleep, 120.0)
        ends.append(problem.value.reason)

    try:
        workers.run("m", _asleep, 0.0)
        running = threading.Thread(target=run)
        running.start()
        time.sleep(0.7)
        with _off(days=-1):
            running.join(60)
        assert ends == ["timeout"]
    finally:
        workers.close()


def test_what_was_used_before_the_clock_was_put_back_is_trimmed_first(tmp_path) -> None:
    blobs, future = Blobs(tmp_path, most=10_000, spared=60), time.time() + 100 * DAY
    for number in range(4):
        os.utime(blobs.path(f"{blobs.keep_document(str(number) * 5000)}.bin"), (future, future))
    new = {f"{blobs.keep_document(str(number) * 5000)}.bin" for number in range(4, 6)}
    blobs.trim()
    assert {path.name for path in tmp_path.rglob("*.bin")} == new


def test_wrong_passwords_do_not_count_for_as_long_as_the_clock_was_put_back(database, workers, tmp_path) -> None:
    app = site(database, workers, tmp_path / "meshes")
    person, mail = Visitor(app), f"{secrets.token_hex(5)}@weather-post.example"
    assert person.post("/sign-up", name="Ivo Marsh", email=mail, password="a good password").status_code == 302
    limits.limiter.reset()
    stranger = Visitor(app)

    def guess() -> int:
        return int(stranger.post("/sign-in", email=mail, password="not the password").status_code)

    try:
        assert [guess() for _ in range(12)].count(429) == 2
        with _off(days=-1):
            assert guess() == 422
        assert guess() == 422  # put right again: an hour later is later, too
    finally:
        limits.limiter.reset()


def test_a_machine_that_is_gone_is_gone_though_redis_keeps_its_beat() -> None:
    queue = QueueServer()
    try:
        client = exchange.connect(queue.url)
        presence = exchange.Presence(client)

        def beat(name: str) -> None:
            exchange.beat(client, name, ["ask"], name, 1, lambda: 0)
            client.persist(f"{exchange.HEAD}beat:{name}:ask")  # as where its clock was put back

        beat("hut")
        until = time.monotonic() + exchange.SILENT + 1
        while time.monotonic() < until:
            beat("post")
            there = {group.name for group in presence.groups("ask")}
            time.sleep(0.2)
        assert there == {"post"}
        beat("hut")
        assert {group.name for group in presence.groups("ask")} == {"hut", "post"}
    finally:
        queue.kill()
