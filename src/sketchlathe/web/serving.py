"""Running the application under gunicorn: processes with many threads; one alone has its geometry workers beside it."""

from __future__ import annotations

import contextlib
import socket
import threading
import time
from collections.abc import Callable
from typing import Any

from gunicorn.app.base import BaseApplication
from gunicorn.workers.gthread import ThreadWorker
from prometheus_client import multiprocess

from .. import rubbish
from ..core.sketch.solver.warming import warm
from ..store import Database
from ..workers import LocalWorkers
from .app import create_app
from .settings import Settings

HEAD_START = 0.8  # s
HEAD, STALL = 10.0, 20.0  # s
CROWD = 64  # heads that are read at once, and bodies
BODY, RATE = 10.0, 50_000.0  # s, and bytes a second beyond them, in which all of a body must have come
UNSAID = 1_000_000  # bytes that a body is taken to have that does not say how many
THREADS = 192  # of which sockets hold at most ``socket.SOCKETS``


class Queue:
    """What is being read from whom, and until when."""

    def __init__(self) -> None:
        self._until: dict[Any, float] = {}
        self._lock = threading.Lock()

    def come(self, conn: Any, seconds: float) -> list[Any]:
        """One more, for so long at most; those who came first of a crowd, for reading takes others a moment."""
        with self._lock:
            self._until[conn] = time.monotonic() + seconds
            return list(self._until)[: max(0, len(self._until) - CROWD)]

    def go(self, conn: Any) -> None:
        """It is there."""
        with self._lock:
            self._until.pop(conn, None)

    def late(self) -> list[Any]:
        """Those whose time is up."""
        with self._lock:
            now = time.monotonic()
            return [conn for conn, until in self._until.items() if until < now]


class _Body:
    """What a body is read from; ``begin`` and ``end`` hear of when somebody waits for it, and no longer."""

    def __init__(self, reader: Any, begin: Callable[[float], None], end: Callable[[], None]) -> None:
        self._reader, self._begin, self._end = reader, begin, end
        self._left = getattr(reader, "length", None)
        self._begun = self._over = False

    def read(self, size: int) -> Any:
        """See gunicorn's readers."""
        if not self._begun and self._left != 0:
            self._begun = True
            self._begin(BODY + (UNSAID if self._left is None else self._left) / RATE)
        data = self._reader.read(size)
        if self._left is not None:
            self._left -= len(data)
        if self._begun and not self._over and (not data or self._left == 0):
            self._over = True
            self._end()
        return data

    def __getattr__(self, name: str) -> Any:
        return getattr(self._reader, name)


class Threads(ThreadWorker):
    """The threads that answer requests; none waits for a client that does not go on.

    Once bytes of a request have come, its head must be there after ``HEAD`` seconds, however slowly it drips; its body,
    once it is asked for, after ``BODY`` seconds and what it takes at ``RATE``; while an answer is written no single
    wait lasts more than ``STALL`` seconds.
    """

    def init_process(self) -> None:
        self._heads, self._bodies = Queue(), Queue()
        threading.Thread(target=self._hurry, daemon=True).start()
        super().init_process()

    def handle(self, conn: Any) -> Any:
        self._shut(self._heads.come(conn, HEAD))
        try:
            return super().handle(conn)
        finally:
            self._heads.go(conn)
            self._bodies.go(conn)

    def handle_request(self, req: Any, conn: Any) -> Any:
        self._heads.go(conn)
        conn.sock.settimeout(STALL)
        req.body.reader = _Body(req.body.reader, lambda most: self._shut(self._bodies.come(conn, most)),
                                lambda: self._bodies.go(conn))  # fmt: skip
        return super().handle_request(req, conn)

    def _hurry(self) -> None:
        """Shut what takes too long to come; the thread that reads it then comes back."""
        while True:
            time.sleep(1.0)
            self._shut([*self._heads.late(), *self._bodies.late()])

    @staticmethod
    def _shut(conns: list[Any]) -> None:
        for conn in conns:
            with contextlib.suppress(OSError):
                conn.sock.shutdown(socket.SHUT_RDWR)


class _Server(BaseApplication):
    def __init__(self, settings: Settings, database: Database, options: dict[str, Any]) -> None:
        self._settings, self._database, self._options = settings, database, options
        self.workers: LocalWorkers | None = None
        super().__init__()

    def load_config(self) -> None:
        for key, value in self._options.items():
            self.cfg.set(key, value)

    def load(self) -> Any:
        # in the serving process, after its fork: connections and workers must not be shared
        self._database.engine.dispose(close=False)
        workers = None if self._settings.redis else LocalWorkers(limit=self._settings.build_limit)
        self.workers = workers
        # the first page comes first; what the first drawing needs is made ready behind it
        for ready in (workers.warm, warm) if workers else (warm,):
            threading.Timer(HEAD_START, ready).start()
        app = create_app(self._settings, self._database, workers)
        rubbish.loaded()
        return app


def serve(settings: Settings, database: Database, host: str, port: int, processes: int = 1) -> None:
    """Serve until stopped. ``processes``: how many answer requests (several need ``settings.redis``)."""

    def leaving(_arbiter: Any, _worker: Any) -> None:
        if server.workers is not None:
            server.workers.close()

    def ended(_arbiter: Any, worker: Any) -> None:
        if processes > 1:
            multiprocess.mark_process_dead(worker.pid)  # type: ignore[no-untyped-call]

    options = {
        "bind": f"{host}:{port}",
        "workers": processes,
        "threads": THREADS,
        "worker_class": Threads,
        "keepalive": 75,
        "timeout": 120,
        "graceful_timeout": 1,
        "worker_exit": leaving,
        "child_exit": ended,
        "errorlog": "-",
        "loglevel": "warning",
        "control_socket_disable": True,
    }
    server = _Server(settings, database, options)
    with contextlib.suppress(SystemExit):
        server.run()
