"""Running the application under gunicorn: one process with many threads, its geometry workers beside it."""

from __future__ import annotations

import contextlib
import threading
from typing import Any

from gunicorn.app.base import BaseApplication

from ..core.sketch.solver.warming import warm
from ..store import Database
from ..workers import LocalWorkers
from .app import Settings, create_app

HEAD_START = 0.8  # s


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
        workers = LocalWorkers(limit=self._settings.build_limit)
        self.workers = workers
        # the first page comes first; what the first drawing needs is made ready behind it
        for ready in (workers.warm, warm):
            threading.Timer(HEAD_START, ready).start()
        return create_app(self._settings, self._database, workers)


def serve(settings: Settings, database: Database, host: str, port: int) -> None:
    """Serve until stopped."""

    def leaving(_arbiter: Any, _worker: Any) -> None:
        if server.workers is not None:
            server.workers.close()

    options = {
        "bind": f"{host}:{port}",
        "workers": 1,
        "threads": 128,
        "worker_class": "gthread",
        "keepalive": 75,
        "timeout": 120,
        "graceful_timeout": 1,
        "worker_exit": leaving,
        "errorlog": "-",
        "loglevel": "warning",
        "control_socket_disable": True,
    }
    server = _Server(settings, database, options)
    with contextlib.suppress(SystemExit):
        server.run()
