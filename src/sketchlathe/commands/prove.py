"""Proof under fire: processes are killed at random while people edit; nothing acknowledged may be lost."""

from __future__ import annotations

import argparse
import contextlib
import http.client
import http.cookiejar
import json
import os
import random
import re
import secrets
import signal
import subprocess
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.parse
import urllib.request
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from ..core.errors import Trouble
from ..store.cluster import Cluster
from .demo import free_port, say

WRITERS = 3
PAUSE = 0.4, 2.5  # s between two kills
PATIENCE = 60.0  # s that the service may be away before that is a failure of its own


@dataclass
class Findings:
    """What came of it."""

    kills: dict[str, int] = field(default_factory=dict)
    acknowledged: int = 0
    lost: list[str] = field(default_factory=list)
    doubled: list[str] = field(default_factory=list)
    unreadable: list[str] = field(default_factory=list)
    longest_away: float = 0.0

    @property
    def sound(self) -> bool:
        """Nothing was lost, doubled or damaged, and the service was back in time."""
        return not (self.lost or self.doubled or self.unreadable) and self.longest_away < 10


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


class Writer:
    """A person who edits one model all the time and remembers what was acknowledged."""

    def __init__(self, port: int) -> None:
        self.at = f"http://127.0.0.1:{port}"
        self._browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))
        email = f"{secrets.token_hex(6)}@proof.example"
        self._post("/sign-up", "/sign-up", name="Proof", email=email, password="a long password")
        page = self._page("/")
        project = (re.search(r"/projects/(\w+)/models", page) or [""] * 2)[1]
        self.model = self._post(f"/projects/{project}/models", "/", name="Under fire", units="mm").rsplit("/", 1)[1]
        self._token = self._token_of("/")
        self.acknowledged: list[str] = []

    def _page(self, path: str) -> str:
        return str(self._browser.open(self.at + path, timeout=20).read().decode())

    def _token_of(self, path: str) -> str:
        return (re.search(r'name="csrf" content="([^"]+)"', self._page(path)) or [""] * 2)[1]

    def _post(self, path: str, page: str, **form: str) -> str:
        data = urllib.parse.urlencode({"csrf_token": self._token_of(page), **form}).encode()
        return str(self._browser.open(self.at + path, data, timeout=20).geturl())

    def ask(self, path: str, body: Any = None) -> Any:
        """A script's question; raises ``OSError`` and the like where there is no answer."""
        headers = {"Content-Type": "application/json", "X-CSRFToken": self._token, "Accept": "application/json"}
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(f"{self.at}/api/models/{self.model}{path}", data, headers)
        return json.loads(self._browser.open(request, timeout=20).read())

    def write(self, ended: threading.Event) -> None:
        """Add one parameter after the other; one that was not acknowledged is tried again under the same name."""
        number = 0
        while not ended.is_set() and number < 480:
            name = f"n{number}"
            try:
                self.ask("/edit", {"edit": {"kind": "add_parameter", "name": name, "formula": str(number + 1)}})
                self.acknowledged.append(name)
                number += 1
                if number % 7 == 0:
                    self.ask("/build", {"part": "p1", "ticket": "t"})
            except urllib.error.HTTPError as answer:
                told = answer.read().decode(errors="replace")
                if answer.code == 422 and "already" in told:  # it was kept, only its answer did not arrive
                    number += 1
                time.sleep(0.05)
            except (OSError, ValueError, http.client.HTTPException):
                time.sleep(0.05)


def kills(count: int, seed: int) -> Findings:
    """Kill so many processes while people edit."""
    rng, found = random.Random(seed), Findings()
    with tempfile.TemporaryDirectory(prefix="lathe-proof-") as folder:
        site = Site(Path(folder))
        try:
            writers = [Writer(site.port) for _ in range(WRITERS)]
            ended = threading.Event()
            threads = [threading.Thread(target=w.write, args=(ended,), daemon=True) for w in writers]
            for thread in threads:
                thread.start()
            for _ in range(count):
                time.sleep(rng.uniform(*PAUSE))
                sort = site.kill_one(rng)
                found.kills[sort] = found.kills.get(sort, 0) + 1
                found.longest_away = max(found.longest_away, site.wait())
            ended.set()
            for thread in threads:
                thread.join(30)
            site.wait()
            for writer in writers:
                _judge(writer, found)
        finally:
            site.close()
    return found


def _judge(writer: Writer, found: Findings) -> None:
    """Whether everything that one person was told is there, once."""
    found.acknowledged += len(writer.acknowledged)
    try:
        state = writer.ask("")
        there = state["parameters"]
        found.lost += [n for n in writer.acknowledged if n not in there]
        found.doubled += [n for n in set(there) if there.count(n) > 1]
        if state["revision"] != len(there) + 1:
            found.doubled.append(f"{state['revision']} revisions of {len(there)} edits")
        for _ in range(min(3, len(there))):
            writer.ask("/undo", {})
    except (OSError, ValueError, KeyError) as problem:
        found.unreadable.append(f"{writer.model}: {problem}")


def run(argv: list[str]) -> int:
    """``./lathe prove kills [--kills N] [--seed S]``"""
    parser = argparse.ArgumentParser(prog="lathe prove", description=__doc__)
    parser.add_argument("what", choices=["kills"])
    parser.add_argument("--kills", type=int, default=30, help="how many (default 30: about two minutes)")
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args(argv)
    found = kills(options.kills, options.seed)
    told = ", ".join(f"{n} {sort}" for sort, n in sorted(found.kills.items()))
    say(f"killed: {told}; {found.acknowledged} edits acknowledged; longest away {found.longest_away:.1f} s")
    for word in ("lost", "doubled", "unreadable"):
        if getattr(found, word):
            say(f"{word}: {', '.join(getattr(found, word)[:20])}")
    say("sound" if found.sound else "NOT sound")
    return 0 if found.sound else 1
