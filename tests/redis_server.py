"""A Redis of the tests' own, on loopback, in memory only."""

from __future__ import annotations

import shutil
import socket
import subprocess
import time

import redis


class RedisServer:
    """Started at once; ``kill`` and ``start`` again on the same port."""

    def __init__(self) -> None:
        assert shutil.which("redis-server"), "run through ./lathe test, which installs Redis"
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
            stdout=subprocess.DEVNULL,
        )
        client = redis.Redis(port=self.port)
        for _ in range(200):
            try:
                client.ping()
                return
            except redis.ConnectionError:
                time.sleep(0.05)
        raise AssertionError("Redis did not start")

    def kill(self) -> None:
        """End it; what it knew is gone."""
        self._process.kill()
        self._process.wait()
