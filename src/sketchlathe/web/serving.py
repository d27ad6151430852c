"""Running the application under gunicorn: processes with many threads; one alone has its geometry workers beside it."""

from __future__ import annotations

import contextlib
import socket
import threading
import time
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
CROWD = 64  # heads that are read at once
THREADS = 192  # of which sockets hold at most ``socket.SOCKETS``


class Threads(ThreadWorker):
    """The threads that answer requests; none waits for a client that does not go on.

    Once bytes of a request have come, its head must be there after ``HEAD`` seconds, however slowly it drips; while its
    body is read, or its answer is written, no single wait lasts more than ``STALL`` seconds.
    """

    def init_process(self) -> None:
        self._heads: dict[Any, float] = {}
        self._heads_lock = threading.Lock()
        threading.Thread(target=self._hurry, daemon=True).start()
        super().init_process()

    def handle(self, conn: Any) -> Any:
        crowd: list[Any] = []
        with self._heads_lock:
            self._heads[conn] = time.monotonic()
            if len(self._heads) > CROWD:  # reading a head takes a moment: so many at once do not go on
                crowd = list(self._heads)[: len(self._heads) - CROWD]
        self._shut(crowd)
        try:
            return super().handle(conn)
        finally:
            self._here(conn)

    def handle_request(self, req: Any, conn: Any) -> Any:
        self._here(conn)
        conn.sock.settimeout(STALL)
        return super().handle_request(req, conn)

    def _here(self, conn: Any) -> None:
        with self._heads_lock:
            self._heads.pop(conn, None)

    def _hurry(self) -> None:
        """Shut what has been at its head for too long; the thread that reads it then comes back."""
        while True:
            time.sleep(1.0)
            late = time.monotonic() - HEAD
            with self._heads_lock:
                slow = [conn for conn, since in self._heads.items() if since < late]
            self._shut(slow)

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
