"""A service of its own to try things on: web process, workers and database."""

from __future__ import annotations

import contextlib
import http.client
import json
import os
import random
import signal
import subprocess
import sys
import time
import urllib.parse
import urllib.request
from pathlib import Path

from ..commands.demo import free_port
from ..core.errors import Trouble
from ..store.cluster import Cluster

PATIENCE = 60.0  # s that the service may be away before that is a failure of its own


class Site:
    """A server process and a database, both started again when they were killed, as an init system does."""

    def __init__(self, folder: Path) -> None:
        self._folder, self.port = folder, free_port()
        self.cluster = Cluster(folder / "postgres")
        self.url = self.cluster.start()
        self.process = self._started()
        self.wait()

    def _started(self) -> subprocess.Popen[bytes]:
        return subprocess.Popen(
            [sys.executable, "-m", "sketchlathe", "serve", "--database", self.url, "--port", str(self.port),
             "--plain-http"],
            env={**os.environ, "LATHE_DATA": str(self._folder), "LATHE_SECRET": "proof " * 8},
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True,
        )  # fmt: skip

    def wait(self) -> float:
        """Until the service is ready; how long that took, s."""
        began = time.monotonic()
        while time.monotonic() - began < PATIENCE:
            with contextlib.suppress(OSError, http.client.HTTPException, ValueError):
                told = urllib.request.urlopen(f"http://127.0.0.1:{self.port}/readyz", timeout=5).read()
                if json.loads(told)["ready"]:
                    return time.monotonic() - began
            if self.process.poll() is not None:
                self.process = self._started()
            time.sleep(0.05)
        raise Trouble(f"The service did not come back within {PATIENCE:.0f} s.")

    def processes(self) -> dict[str, list[int]]:
        """What can be killed, by sort: the web process, its geometry workers, their forkserver, the database."""
        tree: dict[int, list[int]] = {}
        names: dict[int, str] = {}
        for entry in Path("/proc").iterdir():
            with contextlib.suppress(OSError, ValueError, IndexError):
                pid = int(entry.name)
                stat = (entry / "stat").read_text().rpartition(") ")[2].split()
                tree.setdefault(int(stat[1]), []).append(pid)
                names[pid] = (entry / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")
        found: dict[str, list[int]] = {"web": [], "worker": [], "forkserver": [], "postgres": []}

        def walk(pid: int) -> None:
            for child in tree.get(pid, ()):
                if "forkserver" in names.get(child, ""):
                    sort = "worker" if "forkserver" in names.get(pid, "") else "forkserver"
                    found[sort].append(child)
                elif "sketchlathe" in names.get(child, ""):
                    found["web"].append(child)
                walk(child)

        walk(self.process.pid)
        with contextlib.suppress(OSError, ValueError, IndexError):
            found["postgres"] = [int((self.cluster.folder / "data" / "postmaster.pid").read_text().split()[0])]
        return {sort: pids for sort, pids in found.items() if pids}

    def kill_one(self, rng: random.Random) -> str:
        """Kill something at random; what it was."""
        there = self.processes()
        sort = rng.choice(sorted(there))
        with contextlib.suppress(OSError):
            os.kill(rng.choice(there[sort]), signal.SIGKILL)
        if sort == "postgres":
            time.sleep(0.3)
            self.cluster.start(urllib.parse.urlsplit(self.url).port or 0)
        return sort

    def close(self) -> None:
        """Stop both."""
        with contextlib.suppress(OSError):
            os.killpg(self.process.pid, signal.SIGKILL)
        self.process.wait()
        self.cluster.stop()
