"""A private Redis on loopback, in memory only, for proofs and tests. Nothing in it has to last (see
``workers.exchange``).
"""

from __future__ import annotations

import contextlib
import shutil
import socket
import subprocess
import time

import redis

from ..core.errors import Trouble


class QueueServer:
    """Started at once; may be killed and started again on the same port."""

    def __init__(self) -> None:
        if shutil.which("redis-server") is None:
            raise Trouble("Redis is not installed: apt-get install -y redis-server")
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = int(probe.getsockname()[1])
        self.start()

    @property
    def url(self) -> str:
        """For clients."""
        return f"redis://127.0.0.1:{self.port}/0"

    def start(self) -> None:
        """Start it, and wait until it answers."""
        self._process = subprocess.Popen(
            ["redis-server", "--port", str(self.port), "--bind", "127.0.0.1", "--save", "", "--appendonly", "no"],
            stdout=subprocess.DEVNULL, start_new_session=True,
        )  # fmt: skip
        client = redis.Redis(port=self.port)
        for _ in range(200):
            with contextlib.suppress(redis.RedisError):
                client.ping()
                return
            time.sleep(0.05)
        raise Trouble("Redis did not start.")

    def alive(self) -> bool:
        """Whether it runs."""
        return self._process.poll() is None

    @property
    def pid(self) -> int:
        """Its process."""
        return self._process.pid

    def kill(self) -> None:
        """End it; what it knew is gone."""
        self._process.kill()
        self._process.wait()
