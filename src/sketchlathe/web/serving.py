"""Running the application under gunicorn: one process with many threads, its geometry workers beside it."""

from __future__ import annotations

import contextlib
import socket
from typing import Any

from gunicorn.app.base import BaseApplication

from ..core.errors import Trouble
from ..store import Database
from ..workers import LocalWorkers
from .app import Settings, create_app


def check_port(host: str, port: int) -> None:
    """Refuse early, with a sentence, when the port is taken."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            raise Trouble(f"Port {port} is in use: stop what runs there, or give another with --port.") from error


class _Server(BaseApplication):  # type: ignore[misc]
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
        workers.warm()
        self.workers = workers
        from ..core.sketch.solver.warming import warm

        warm()
        return create_app(self._settings, self._database, workers)


def serve(settings: Settings, database: Database, host: str, port: int) -> None:
    """Serve until stopped."""

    def leaving(_arbiter: Any, _worker: Any) -> None:
        if server.workers is not None:
            server.workers.close()

    options = {
        "bind": f"{host}:{port}",
        "workers": 1,
        "threads": 64,
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
