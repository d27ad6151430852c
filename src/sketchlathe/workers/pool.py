"""Pools of worker processes on this machine: one worker a pool, a model always to the same one for its warm cache."""

from __future__ import annotations

import contextlib
import importlib
import json
import os
import resource
import shutil
import signal
import tempfile
import threading
import time
import uuid
import zlib
from collections.abc import Callable
from concurrent.futures import CancelledError, Future
from concurrent.futures import TimeoutError as FutureTimeout
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path
from typing import Any, get_args

from pebble import ProcessExpired, ProcessPool

from ..forking import FORKED_BY, end_with, forked
from . import cpu_limit
from .contract import Lane, WorkerTrouble
from .turns import Turn, Turns

LANES: tuple[Lane, ...] = get_args(Lane)
IDLE = 120.0  # s after which a worker for long work goes

ATTEMPTS = 3  # new pools that a job may be given to
# nobody's computation ends so; somebody (or the system) did it. 255: what it was forked from was killed, and nobody
# was left to tell how it ended
_BY_HAND = (-signal.SIGKILL, -signal.SIGTERM, 255)


def _start(
    owner: int, memory_bytes: int, modules: tuple[str, ...], settings: dict[str, str], nice: int, patient: bool
) -> None:
    """In a new worker: end with whom it works for, whatever else still holds its pipe (another worker, just forked),
    and with what it was forked from: without that nobody hears any longer how it ends, and another is at its place.
    Leave Ctrl-C to the parent, take only so much memory, load step kinds from elsewhere.
    ``settings``: what the environment says now (the forkserver knows what it said when that was started); ``nice``:
    how nice who asks for it is.
    """
    end_with(owner, int(os.environ[FORKED_BY]))
    os.environ.update(settings)
    os.nice(max(0, nice - os.getpriority(os.PRIO_PROCESS, 0)))
    if patient:
        with contextlib.suppress(OSError, AttributeError):
            os.sched_setscheduler(0, os.SCHED_IDLE, os.sched_param(0))
        os.nice(19)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_AS, (memory_bytes, memory_bytes))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    for module in modules:
        importlib.import_module(module)


def _allowed(seconds: float, job: Callable[..., Any], *args: Any) -> Any:
    """In a worker: a job, with so many seconds of computing for each of its steps."""
    cpu_limit.grant(seconds)
    return job(*args)


class _Job:
    """What is asked of a worker: waiting for its turn, then given to it."""

    def __init__(self, turn: Turn) -> None:
        self.turn, self.note = turn, ""
        self.future: Future[Any] | None = None
        self.stopped = False


class LocalWorkers:
    """Processes on this machine, started from a forkserver that has the kernel loaded."""

    def __init__(
        self,
        count: int = 2,
        limit: float = 60.0,
        memory_bytes: int = 6 << 30,
        modules: tuple[str, ...] = (),
        *,
        eager: bool = True,
    ) -> None:
        self._context = forked()
        self._limit = limit
        settings = {name: value for name, value in os.environ.items() if name.startswith(("LATHE_", "AWS_"))}
        self._given = (os.getpid(), memory_bytes, modules, settings, os.getpriority(os.PRIO_PROCESS, 0))
        self.lanes = count
        # as many for each lane, one lane after the other; those beyond the first are made when they are needed
        self._pools: list[ProcessPool | None] = [None] * len(LANES) * count
        if eager:
            self._pools[:count] = [self._new_pool(place) for place in range(count)]
        self._closed = False
        _forget_old_notes()
        self._notes = Path(tempfile.mkdtemp(prefix="lathe-notes-"))
        self._running: dict[str, _Job] = {}
        self._turns = [Turns() for _ in self._pools]
        self._loads = [0] * len(LANES) * count
        self._last = [0.0] * len(LANES) * count
        self._lock = threading.Lock()

    def _new_pool(self, place: int) -> ProcessPool:
        given = (*self._given, LANES[place // self.lanes] == "patient")
        return ProcessPool(max_workers=1, max_tasks=0, context=self._context, initializer=_start, initargs=given)

    def _pool(self, place: int) -> ProcessPool:
        """The pool of a place; one that has ended, whoever ended it, is made anew."""
        with self._lock:
            pool = self._pools[place]
            if pool is not None and (pool.active or self._closed):
                return pool
            self._pools[place] = fresh = self._new_pool(place)
        if pool is not None:
            threading.Thread(target=_bury, args=(pool,), daemon=True).start()
        return fresh

    def _place(self, model_id: str, lane: Lane = "ask") -> int:
        return zlib.crc32(model_id.encode()) % self.lanes + self.lanes * LANES.index(lane)

    def warm(self) -> list[Future[int]]:
        """Start every worker now, in the background; what is done when they are there."""
        return [self._pool(place).schedule(os.getpid) for place in range(self.lanes)]

    def run(
        self,
        model_id: str,
        job: Callable[..., Any],
        *args: Any,
        ticket: str = "",
        limit: float | None = None,
        lane: Lane = "ask",
        urgency: int = 1,
        who: str = "",
    ) -> Any:
        """Run ``job(*args, note)``; raises ``WorkerTrouble`` if it does not come back, or what the job raised. Turns go
        by ``who`` asks (by the model, where nobody is said).

        A new job under a ticket replaces the one that waits under it: newest wins.
        """
        place = self._place(model_id, lane)
        mine = _Job(self._turns[place].ask(who or model_id, urgency))
        with self._lock:
            older = self._running.get(ticket) if ticket else None
            if ticket:
                self._running[ticket] = mine
            self._loads[place] += 1
        if older is not None:
            self._turns[place].drop(older.turn)
        try:
            mine.turn.came.wait()
            if mine.turn.dropped:
                raise WorkerTrouble("stopped", {})
            try:
                return self._tried(mine, place, job, args, limit or self._limit)
            finally:
                self._turns[place].leave(mine.turn)
        finally:
            with self._lock:
                self._loads[place] -= 1
                self._last[place] = time.monotonic()
                if ticket and self._running.get(ticket) is mine:
                    del self._running[ticket]
            if lane != "ask":
                later = threading.Timer(IDLE, self._let_go, args=(place,))
                later.daemon = True
                later.start()

    def _tried(self, mine: _Job, place: int, job: Callable[..., Any], args: tuple[Any, ...], seconds: float) -> Any:
        for attempt in range(ATTEMPTS):
            try:
                return self._once(mine, place, job, args, seconds)
            except _Ended:
                # the pool itself came to an end, its worker or the forkserver killed while idle: a new one does it
                if attempt == ATTEMPTS - 1 or self._closed:
                    break
        raise WorkerTrouble("killed", {})

    def _let_go(self, place: int) -> None:
        """Let a worker go that has had nothing to do for long: each holds some hundred megabytes."""
        with self._lock:
            if self._loads[place] or time.monotonic() - self._last[place] < 0.9 * IDLE:
                return
            gone, self._pools[place] = self._pools[place], None
        if gone is not None:
            _bury(gone)

    def _once(self, mine: _Job, place: int, job: Callable[..., Any], args: tuple[Any, ...], seconds: float) -> Any:
        note = str(self._notes / uuid.uuid4().hex)
        try:
            pool = self._pool(place)
        except BrokenProcessPool:
            raise _Ended from None
        patience = cpu_limit.PATIENCE * {"ask": 1, "long": 4, "patient": 10}[LANES[place // self.lanes]]
        try:
            future = pool.schedule(_allowed, args=(seconds, job, *args, note))
        except RuntimeError:
            raise _Ended from None
        with self._lock:
            mine.future, mine.note = future, note
        if mine.stopped:
            future.cancel()
        try:
            return _awaited(future, pool, seconds * patience)
        except BrokenProcessPool:
            raise _Ended from None
        except FutureTimeout:
            raise WorkerTrouble("timeout", _read(note)) from None
        except ProcessExpired as end:
            reason = {cpu_limit.ENDED: "timeout", **dict.fromkeys(_BY_HAND, "killed")}.get(end.exitcode, "crashed")
            raise WorkerTrouble(reason, _read(note)) from None
        except CancelledError:
            raise WorkerTrouble("stopped", _read(note)) from None
        finally:
            Path(note).unlink(missing_ok=True)

    def stop_ticket(self, ticket: str) -> None:
        """Stop what runs, or waits, under a ticket; a worker that is at it is replaced."""
        with self._lock:
            mine = self._running.get(ticket)
            if mine is None:
                return
            mine.stopped = True
            future = mine.future
        if not any(turns.drop(mine.turn) for turns in self._turns) and future is not None:
            future.cancel()

    def progress(self, ticket: str) -> dict[str, Any]:
        """The step the work under a ticket is in: {step, number, count}, empty if none runs."""
        with self._lock:
            mine = self._running.get(ticket)
        return _read(mine.note) if mine is not None else {}

    @property
    def tickets(self) -> list[str]:
        """Under which tickets something is under way."""
        with self._lock:
            return list(self._running)

    @property
    def loads(self) -> int:
        """How much is under way, waiting included."""
        return sum(self._loads)

    def busy(self, model_id: str) -> bool:
        """Whether the worker of a model has something to do."""
        return self._loads[self._place(model_id)] > 0

    def rest(self) -> None:
        """Let patient workers go that have nothing to do: each holds some hundred megabytes."""
        with self._lock:
            first = self.lanes * LANES.index("patient")
            idle = [p for p in range(first, first + self.lanes) if not self._loads[p]]
            gone = [self._pools[p] for p in idle]
            for place in idle:
                self._pools[place] = None
        for pool in filter(None, gone):
            threading.Thread(target=_bury, args=(pool,), daemon=True).start()

    def close(self) -> None:
        """Stop all workers at once."""
        self._closed = True
        pools = [pool for pool in self._pools if pool is not None]
        for pool in pools:
            pool.stop()
        for pool in pools:
            with contextlib.suppress(Exception):
                pool.join(5)
        shutil.rmtree(self._notes, ignore_errors=True)


class _Ended(Exception):
    """A pool ended under a job."""


def _awaited(future: Future[Any], pool: ProcessPool, seconds: float) -> Any:
    """The answer of a job; a pool that ends meanwhile never answers, so it is looked after. So many seconds after it
    began it is ended; they are counted here, since the pool counts by a clock that somebody may set.
    """
    until: float | None = None
    while True:
        if until is None and future.running():
            until = time.monotonic() + seconds
        left = 1.0 if until is None else until - time.monotonic()
        if left <= 0 and not future.done():
            future.cancel()
            raise FutureTimeout
        try:
            return future.result(timeout=min(1.0, max(left, 0.01)))
        except FutureTimeout:
            if future.done():
                return future.result()
            if not pool.active:
                future.cancel()
                raise _Ended from None


def _bury(pool: ProcessPool) -> None:
    with contextlib.suppress(Exception):
        pool.stop()
        pool.join(5)


def _forget_old_notes() -> None:
    """Folders of notes that servers killed long ago left behind."""
    for old in Path(tempfile.gettempdir()).glob("lathe-notes-*"):
        with contextlib.suppress(OSError):
            if time.time() - old.stat().st_mtime > 24 * 3600:
                shutil.rmtree(old, ignore_errors=True)


def _read(note: str) -> dict[str, Any]:
    try:
        return dict(json.loads(Path(note).read_text()))
    except (OSError, ValueError):
        return {}
