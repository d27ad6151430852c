"""A machine of workers: takes what is asked from the queues and has its pools of processes work at it (``./lathe
work``).

Short work and long work have consumers of their own, so a queue full of exports never holds up a build. Limits, notes
and what happens when a process dies are those of the local pools.
"""

from __future__ import annotations

import contextlib
import json
import logging
import os
import signal
import threading
import time
import uuid
import warnings
from concurrent.futures import Future
from typing import Any, cast

import redis
from celery.exceptions import SecurityWarning  # type: ignore[import-untyped]

from ..beats import HEAD, SERVES
from . import exchange, jobs, wire
from .blob_places import blobs_at
from .contract import Lane
from .exchange import BEAT, STOP, Ask
from .pool import LocalWorkers

AT_ONCE = 64  # taken from the queues at once; whose turn it is at a worker is said by ``Turns``
LOADING = 60.0  # s that workers may take to load the kernel before it is asked of them all the same
LOOK = 0.2  # s between two looks at how far things are
_log = logging.getLogger("lathe.machine")


class Machine:
    """One consumer: its pools, its beats, what it tells of how far things are."""

    def __init__(self, url: str, group: str, sort: str, workers: LocalWorkers) -> None:
        self.group, self.lanes, self.workers = group, cast(list[Lane], [*SERVES[sort]]), workers
        self._url = url
        self._redis = exchange.connect(url)
        self._instance = uuid.uuid4().hex
        self._over = threading.Event()
        self._told: dict[str, str] = {}

    def run(self) -> None:
        """Work until stopped (SIGTERM: what is under way is ended first)."""
        for life in (self._beats, self._stops, self._looks):
            threading.Thread(target=life, daemon=True).start()
        warnings.filterwarnings("ignore", category=SecurityWarning)  # it is about pickles, which we do not send
        app = exchange.celery_app(self._url)
        app.task(name=exchange.TASK, ignore_result=True)(self.work)
        worker = app.Worker(
            pool="threads", concurrency=AT_ONCE, queues=[exchange.queue_of(self.group, lane) for lane in self.lanes],
            without_gossip=True, without_mingle=True, without_heartbeat=True, loglevel="WARNING",
            hostname=f"{self.group}-{self.lanes[0]}@lathe", task_events=False, quiet=True,
        )  # fmt: skip
        try:
            worker.start()
        finally:
            self.close()

    def close(self) -> None:
        """Say good-bye and stop the pools."""
        self._over.set()
        with contextlib.suppress(redis.RedisError):
            exchange.leave(self._redis, self.group, self.lanes)
        self.workers.close()

    def work(self, message: dict[str, Any]) -> None:
        """One thing that is asked."""
        ask = Ask(self._redis, message["job"])
        if not ask.take():
            return
        # a machine may see the shared folder at a path of its own
        blobs = blobs_at(os.environ.get("LATHE_MESHES") or message["blobs"])
        try:
            request = wire.read_request(message["ask"])
            answer = self.workers.run(
                message["model"], jobs.call, request, blobs.place, message["bars"], message["for"],
                ticket=message["ticket"], limit=message["limit"], lane=message["lane"], urgency=request.urgency,
                who=message.get("who", ""),
            )  # fmt: skip
            packed = wire.pack_answer(answer, blobs)
        except BaseException as problem:
            packed = wire.pack_problem(problem)
            if "broken" in packed:
                _log.exception("%s was not answered", message["ask"].get("kind"))
        blobs.came()
        for attempt in range(20):  # Redis may be away for a moment
            try:
                ask.answer(packed)
                return
            except redis.RedisError:
                time.sleep(0.1 * attempt)

    def _beats(self) -> None:
        while not self._over.wait(BEAT):
            self.beat()

    def join(self, ready: list[Future[int]]) -> None:
        """Come to those who are there, once the workers can begin; at once where nobody else would do the work. What
        was asked of one who had our name before is asked of somebody else meanwhile.
        """
        with contextlib.suppress(redis.RedisError):
            exchange.leave(self._redis, self.group, self.lanes)
        until = time.monotonic() + LOADING
        while time.monotonic() < until and not all(future.done() for future in ready):
            with contextlib.suppress(redis.RedisError):
                if not exchange.groups(self._redis, self.lanes[0]):
                    break
            time.sleep(0.1)
        self.beat()

    def beat(self) -> None:
        """Say that we are there; Redis may be away, then the next one says it."""
        with contextlib.suppress(redis.RedisError):
            exchange.beat(
                self._redis, self.group, self.lanes, self._instance, self.workers.lanes, lambda: self.workers.loads
            )

    def _stops(self) -> None:
        """Stop what is told to be stopped."""
        while not self._over.is_set():
            try:
                with self._redis.pubsub(ignore_subscribe_messages=True) as heard:  # type: ignore[no-untyped-call]
                    heard.subscribe(STOP)
                    while not self._over.is_set():
                        told = heard.get_message(timeout=5)
                        if told:
                            self.workers.stop_ticket(str(told["data"]))
            except redis.RedisError:
                time.sleep(0.5)

    def _looks(self) -> None:
        """Tell how far things are, where somebody may look."""
        last = 0.0
        while not self._over.wait(LOOK):
            found = {ticket: self.workers.progress(ticket) for ticket in self.workers.tickets}
            at = {ticket: json.dumps(told) for ticket, told in found.items() if told}
            if time.monotonic() - last > 2:
                news, last = at, time.monotonic()
            else:
                news = {ticket: told for ticket, told in at.items() if self._told.get(ticket) != told}
            self._told = at
            if not news:
                continue
            with contextlib.suppress(redis.RedisError), self._redis.pipeline(transaction=False) as pipe:
                for ticket, told in news.items():
                    pipe.set(f"{HEAD}at:{ticket}", told, ex=5)
                pipe.execute()


def work(url: str, group: str, sort: str, count: int, limit: float) -> None:
    """Be a consumer until stopped. ``sort``: short or long; ``count``: processes that compute."""
    workers = LocalWorkers(count, limit, eager=sort == "short")
    machine = Machine(url, group, sort, workers)
    machine.join(workers.warm() if sort == "short" else [])
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    machine.run()
