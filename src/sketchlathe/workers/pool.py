"""Pools of worker processes on this machine: one worker a pool, a model always to the same one for its warm cache."""

from __future__ import annotations

import importlib
import json
import multiprocessing
import os
import resource
import signal
import tempfile
import threading
import uuid
import zlib
from collections.abc import Callable
from concurrent.futures import CancelledError, Future
from concurrent.futures import TimeoutError as FutureTimeout
from pathlib import Path
from typing import Any, Protocol

from pebble import ProcessExpired, ProcessPool

from . import allowance


class WorkerTrouble(Exception):
    """A job that did not come back. ``reason``: crashed, timeout, stopped. ``note`` says where the work was."""

    def __init__(self, reason: str, note: dict[str, Any]) -> None:
        super().__init__(reason)
        self.reason = reason
        self.note = note


class Workers(Protocol):
    """What the services need of any engine."""

    def run(
        self, model_id: str, job: Callable[..., Any], *args: Any, ticket: str = "", limit: float | None = None
    ) -> Any:
        """Run ``job(*args, note)`` for a model and wait for its answer. ``limit``: seconds of computing for each step."""

    def stop_ticket(self, ticket: str) -> None:
        """Stop what runs under a ticket."""

    def progress(self, ticket: str) -> dict[str, Any]:
        """Where the work under a ticket is."""

    def busy(self, model_id: str) -> bool:
        """Whether the worker of a model has something to do."""

    def close(self) -> None:
        """Stop all workers."""


def _start(memory_bytes: int, modules: tuple[str, ...]) -> None:
    """In a new worker: leave Ctrl-C to the parent, take only so much memory, load step kinds from elsewhere."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_AS, (memory_bytes, memory_bytes))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    for module in modules:
        importlib.import_module(module)


def _allowed(seconds: float, job: Callable[..., Any], *args: Any) -> Any:
    """In a worker: a job, with so many seconds of computing for each of its steps."""
    allowance.grant(seconds)
    return job(*args)


class LocalWorkers:
    """Processes on this machine, started from a forkserver that has the kernel loaded."""

    def __init__(
        self, count: int = 2, limit: float = 60.0, memory_bytes: int = 6 << 30, modules: tuple[str, ...] = ()
    ) -> None:
        context = multiprocessing.get_context("forkserver")
        context.set_forkserver_preload(["sketchlathe.workers.preload"])
        self._limit = limit
        self._pools = [
            ProcessPool(
                max_workers=1, max_tasks=0, context=context, initializer=_start, initargs=(memory_bytes, modules)
            )
            for _ in range(count)
        ]
        self._notes = Path(tempfile.mkdtemp(prefix="lathe-notes-"))
        self._running: dict[str, Future[Any]] = {}
        self._loads = [0] * count
        self._lock = threading.Lock()

    def _place(self, model_id: str) -> int:
        return zlib.crc32(model_id.encode()) % len(self._pools)

    def warm(self) -> None:
        """Start every worker now, in the background."""
        for pool in self._pools:
            pool.schedule(os.getpid)

    def run(
        self, model_id: str, job: Callable[..., Any], *args: Any, ticket: str = "", limit: float | None = None
    ) -> Any:
        """Run ``job(*args, note)``; raises ``WorkerTrouble`` if it does not come back, or what the job raised.

        A new job under a ticket replaces the one that runs under it: newest wins.
        """
        place = self._place(model_id)
        pool = self._pools[place]
        note = str(self._notes / uuid.uuid4().hex)
        with self._lock:
            older = self._running.get(ticket) if ticket else None
            if older is not None and not older.running():
                older.cancel()
            seconds = limit or self._limit
            future = pool.schedule(_allowed, args=(seconds, job, *args, note), timeout=seconds * allowance.PATIENCE)
            future.lathe_note = note  # type: ignore[attr-defined]
            if ticket:
                self._running[ticket] = future
            self._loads[place] += 1
        try:
            return future.result()
        except FutureTimeout:
            raise WorkerTrouble("timeout", _read(note)) from None
        except ProcessExpired as end:
            reason = "timeout" if end.exitcode == allowance.ENDED else "crashed"
            raise WorkerTrouble(reason, _read(note)) from None
        except CancelledError:
            raise WorkerTrouble("stopped", _read(note)) from None
        finally:
            with self._lock:
                self._loads[place] -= 1
                if ticket and self._running.get(ticket) is future:
                    del self._running[ticket]
            Path(note).unlink(missing_ok=True)

    def stop_ticket(self, ticket: str) -> None:
        """Stop what runs under a ticket; its worker is replaced."""
        with self._lock:
            future = self._running.get(ticket)
        if future is not None:
            future.cancel()

    def progress(self, ticket: str) -> dict[str, Any]:
        """The step the work under a ticket is in: {step, number, count}, empty if none runs."""
        with self._lock:
            future = self._running.get(ticket)
        return _read(getattr(future, "lathe_note", "")) if future is not None else {}

    def busy(self, model_id: str) -> bool:
        """Whether the worker of a model has something to do."""
        return self._loads[self._place(model_id)] > 0

    def close(self) -> None:
        """Stop all workers at once."""
        for pool in self._pools:
            pool.stop()
        for pool in self._pools:
            pool.join(5)


def _read(note: str) -> dict[str, Any]:
    try:
        return dict(json.loads(Path(note).read_text()))
    except (OSError, ValueError):
        return {}
