"""A service of its own to try things on: web processes, workers, database, and a queue where machines are several."""

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

from ..core.errors import Trouble
from ..ports import free_port
from ..standins import clock as clocks
from ..store.cluster import Cluster
from ..store.queue_server import QueueServer
from .processes import below

PATIENCE = 60.0  # s that the service may be away before that is a failure of its own


class Site:
    """Processes and a database, all started again when they were killed, as an init system does.

    ``machines``: none for one web process with workers of its own; else so many machines of workers, and two web
    processes. ``each``: processes that compute on each. ``clock``: its processes' clock can be set (``set_clock``).
    """

    def __init__(self, folder: Path, machines: int = 0, each: int = 1, clock: bool = False) -> None:
        self._clock = clocks.environment(folder / "clock") if clock else {}
        self.folder, self.port, self.scratch = folder, free_port(), folder / "scratch"
        self.scratch.mkdir(mode=0o777)
        self.cluster = Cluster(folder / "postgres")
        self.url = self.cluster.start()
        self.queue = QueueServer() if machines else None
        shared = ["--redis", self.queue.url] if self.queue else []
        serve = ["serve", "--database", self.url, "--port", str(self.port), "--plain-http", *shared]
        self._commands = {"serve": [*serve, "--web-processes", "2"] if machines else serve}
        for number in range(machines):
            self._commands[f"machine {number}"] = ["work", *shared, "--group", f"m{number}", "--processes", str(each)]
        self._at = {name: self._started(name) for name in self._commands}
        self.wait()

    def _started(self, name: str) -> subprocess.Popen[bytes]:
        return subprocess.Popen(
            [sys.executable, "-m", "sketchlathe", *self._commands[name]],
            env={
                **os.environ, "LATHE_DATA": str(self.folder), "LATHE_SECRET": "0123456789abcdef" * 4,
                "TMPDIR": str(self.scratch),
                **self._clock,
            },
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True,
        )  # fmt: skip

    def set_clock(self, off: float) -> None:
        """Set the clock of the service's processes: so many seconds ahead of what it is (or behind)."""
        clocks.set_off(self.folder / "clock", off)

    def wait(self) -> float:
        """Until the service is ready; how long that took, s."""
        began = time.monotonic()
        while time.monotonic() - began < PATIENCE:
            for name, process in self._at.items():
                if process.poll() is not None:
                    self._at[name] = self._started(name)
            with contextlib.suppress(OSError, http.client.HTTPException, ValueError):
                # what is asked of something that is killed just then waits: after a while it is asked anew
                told = urllib.request.urlopen(f"http://127.0.0.1:{self.port}/readyz", timeout=2).read()
                if json.loads(told)["ready"]:
                    return time.monotonic() - began
            time.sleep(0.05)
        raise Trouble(f"The service did not come back within {PATIENCE:.0f} s.")

    def processes(self) -> dict[str, list[int]]:
        """What can be killed, by sort."""
        found: dict[str, list[int]] = {}
        for process in self._at.values():
            for sort, pids in below(process.pid).items():
                found.setdefault(sort, []).extend(pids)
        with contextlib.suppress(OSError, ValueError, IndexError):
            found["postgres"] = [int((self.cluster.folder / "data" / "postmaster.pid").read_text().split()[0])]
        if self.queue:
            found["redis"] = [self.queue.pid]
        return found

    def kill_one(self, rng: random.Random) -> str:
        """Kill something at random; what it was."""
        there = self.processes()
        there.pop("other", None)
        sort = rng.choice(sorted(there))
        with contextlib.suppress(OSError):
            os.kill(rng.choice(there[sort]), signal.SIGKILL)
        if sort == "postgres":
            time.sleep(0.3)
            self.cluster.start(urllib.parse.urlsplit(self.url).port or 0)
        if sort == "redis" and self.queue:
            time.sleep(0.3)
            self.queue.kill()
            self.queue.start()
        return sort

    def stop(self, name: str) -> None:
        """Stop processes whose name begins so; ``wait`` starts them again."""
        for known, process in self._at.items():
            if known.startswith(name):
                with contextlib.suppress(OSError):
                    os.killpg(process.pid, signal.SIGKILL)
                process.wait()

    def left_behind(self) -> dict[int, str]:
        """Processes of ours that nobody looks after any longer: neither we nor what is below us."""
        mine = {pid for process in self._at.values() for pids in below(process.pid).values() for pid in pids}
        mine |= {process.pid for process in self._at.values()}
        mark, found = f"LATHE_DATA={self.folder}".encode(), {}
        for entry in Path("/proc").iterdir():
            with contextlib.suppress(OSError, ValueError):
                if mark in (entry / "environ").read_bytes().split(b"\0") and int(entry.name) not in mine:
                    found[int(entry.name)] = _doing(entry)
        return found

    def close(self) -> None:
        """Stop everything."""
        for process in self._at.values():
            with contextlib.suppress(OSError):
                os.killpg(process.pid, signal.SIGKILL)
            process.wait()
        for pid in self.left_behind():
            with contextlib.suppress(OSError):
                os.kill(pid, signal.SIGKILL)
        if self.queue:
            self.queue.kill()
        self.cluster.stop()


def _doing(process: Path) -> str:
    """What a process is, in which state, below what, on how much time of the processor and waiting where."""
    command = (process / "cmdline").read_bytes().replace(b"\0", b" ").decode(errors="replace")[:160]
    fields = (process / "stat").read_text().rpartition(") ")[2].split()
    seconds = (int(fields[11]) + int(fields[12])) / os.sysconf("SC_CLK_TCK")
    where = ""
    with contextlib.suppress(OSError):
        where = (process / "wchan").read_text()
    return f"{command} [{fields[0]}, below {fields[1]}, {seconds:.1f} s, {fields[17]} threads, {where}]"
