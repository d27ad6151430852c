"""What is around the service fails while somebody works: the disk, the clock, the database, Redis, the network.

Each fault says what must hold meanwhile: edits that were acknowledged stay, what cannot be done is told in a sentence,
and all goes on by itself when the fault is over.
"""

from __future__ import annotations

import contextlib
import json
import shutil
import socket
import subprocess
import tempfile
import threading
import time
import urllib.error
import urllib.parse
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from .people import Visitor
from .site import Site

AGAIN = 30.0  # s within which everything goes on after a fault


@dataclass
class Told:
    """What one fault came to: what was wrong, and what people were told."""

    wrong: list[str] = field(default_factory=list)
    said: list[str] = field(default_factory=list)


class Worker(Visitor):
    """Somebody who goes on working, and remembers what was acknowledged."""

    def __init__(self, port: int) -> None:
        super().__init__(port)
        self.kept: list[str] = []
        block = {
            "kind": "add_step",
            "part": "p1",
            "step": "block",
            "fields": {"width": "20", "depth": "10", "height": "5"},
        }
        self.ask("/edit", {"edit": block, "part": "p1"})
        self._block = self.ask("")["parts"][0]["steps"][0]["id"]

    def edited(self, told: Told) -> bool:
        """One edit; whether it was acknowledged. Anything but an answer or a sentence is wrong."""
        name = f"n{len(self.kept)}"
        answer = self._said(
            told, "/edit", {"edit": {"kind": "add_parameter", "name": name, "formula": "3"}, "part": "p1"}
        )
        if answer is not None:
            self.kept.append(name)
        return answer is not None

    def built(self, told: Told) -> bool:
        """A build of what nobody has built before; whether it came."""
        width = f"{20 + (time.monotonic() * 7) % 30:.3f}"
        edit = {"kind": "set_fields", "step": self._block, "fields": {"width": width}}
        if self._said(told, "/edit", {"edit": edit, "part": "p1"}) is None:
            return False
        answer = self._said(told, "/build", {"part": "p1", "ticket": "t"})
        return answer is not None and abs(answer["totals"]["volume"] - float(width) * 50) < 1e-6

    def _said(self, told: Told, path: str, body: Any) -> Any:
        try:
            return self.ask(path, body)
        except urllib.error.HTTPError as answer:
            text = answer.read().decode(errors="replace")
            try:
                message = str(json.loads(text)["message"])
            except (ValueError, KeyError, TypeError):
                told.wrong.append(f"{path}: {answer.code} without a sentence: {text[:80]}")
            else:
                told.said.append(message)
                if answer.code == 500:
                    told.wrong.append(f"{path}: a fault of ours: {message}")
        except (OSError, ValueError) as problem:
            told.wrong.append(f"{path}: {type(problem).__name__} {problem}")
        return None

    def back(self, told: Told) -> None:
        """All goes on, and everything acknowledged is there, once."""
        until = time.monotonic() + AGAIN
        last = Told()
        while not (self.edited(last) and self.built(last)):
            if time.monotonic() > until:
                told.wrong.append(f"not back within {AGAIN:.0f} s: {(last.wrong or last.said)[-1:]}")
                return
            last = Told()
            time.sleep(0.3)
        there = self.ask("")["parameters"]
        told.wrong += [f"lost {name}" for name in self.kept if there.count(name) != 1]


def database_restarts(site: Site, who: Worker, told: Told) -> None:
    """The database goes, and comes back five seconds later."""
    site.cluster.stop()
    if who.edited(told):
        told.wrong.append("an edit was acknowledged without a database")
    time.sleep(3)
    who.edited(told)
    site.cluster.start(urllib.parse.urlsplit(site.url).port or 0)


def redis_is_gone(site: Site, who: Worker, told: Told) -> None:
    """The queue goes for a while: edits do not need it."""
    assert site.queue is not None
    site.queue.kill()
    for _ in range(5):
        if not who.edited(told):
            told.wrong.append("an edit was not taken without Redis")
    waiting = threading.Thread(target=who.built, args=(told,))
    waiting.start()
    time.sleep(4)
    site.queue.start()
    waiting.join(40)


def machines_are_gone(site: Site, who: Worker, told: Told) -> None:
    """All machines of workers stop: edits go on, builds are told."""
    site.stop("machine")
    for _ in range(3):
        if not who.edited(told):
            told.wrong.append("an edit was not taken without workers")
    if who.built(told):
        told.wrong.append("something was built by nobody")
    if not any("worker" in said for said in told.said):
        told.wrong.append(f"nobody said that there are no workers: {told.said}")


def meshes_vanish(site: Site, who: Worker, told: Told) -> None:
    """Somebody deletes the whole folder of meshes while people work."""
    shutil.rmtree(site.folder / "meshes", ignore_errors=True)
    if not (who.edited(told) and who.built(told)):
        told.wrong.append("what can be made again was not")


def disk_is_full(site: Site, who: Worker, told: Told) -> None:
    """There is no room for meshes: edits are kept all the same, and a build says what is the matter."""
    with _no_room(site.folder / "meshes"):
        for _ in range(3):
            if not who.edited(told):
                told.wrong.append("an edit was not taken though only the meshes have no room")
        who.built(told)
    if told.said and not any("full" in said for said in told.said):
        told.wrong.append(f"nobody said that the disk is full: {told.said}")


@contextmanager
def _no_room(folder: Path) -> Iterator[None]:
    """A file system of 4 kB in place of a folder; where none can be mounted, a file, which takes no files either."""
    aside = folder.with_name("meshes-aside")
    folder.rename(aside)
    folder.mkdir()
    mounted = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", "size=4k", "tmpfs", str(folder)], capture_output=True
    ).returncode == 0  # fmt: skip
    if mounted:
        with contextlib.suppress(OSError):
            (folder / "filler").write_bytes(bytes(8192))
    else:
        folder.rmdir()
        folder.write_text("")
    try:
        yield
    finally:
        if mounted:
            subprocess.run(["umount", "-l", str(folder)], capture_output=True)
            folder.rmdir()
        else:
            folder.unlink()
        aside.rename(folder)


def slow_network(site: Site, who: Worker, told: Told) -> None:
    """Every answer comes half a second late, and 20 kB a second."""
    with _slow_road(site.port, 0.5, 20_000) as port:
        at, who.at = who.at, f"http://127.0.0.1:{port}"
        try:
            for _ in range(3):
                if not who.edited(told):
                    told.wrong.append("an edit was not taken over a slow network")
        finally:
            who.at = at


@contextmanager
def _slow_road(port: int, late: float, a_second: int) -> Iterator[int]:
    """A port that leads to another one, slowly."""
    door = socket.create_server(("127.0.0.1", 0))

    def carry(source: socket.socket, target: socket.socket) -> None:
        with contextlib.suppress(OSError):
            while data := source.recv(2000):
                time.sleep(late / 10 + len(data) / a_second)
                target.sendall(data)
            target.shutdown(socket.SHUT_WR)

    def serve() -> None:
        with contextlib.suppress(OSError):
            while True:
                one, _ = door.accept()
                other = socket.create_connection(("127.0.0.1", port))
                time.sleep(late)
                for pair in ((one, other), (other, one)):
                    threading.Thread(target=carry, args=pair, daemon=True).start()

    threading.Thread(target=serve, daemon=True).start()
    try:
        yield int(door.getsockname()[1])
    finally:
        door.close()


def clock_is_set(site: Site, who: Worker, told: Told) -> None:
    """The clock of the service jumps ahead by three weeks, then back by years, then to what it was, under way."""
    for days in (21.0, -1000.0, 0.0):
        working = threading.Thread(target=who.built, args=(told,))
        working.start()
        time.sleep(0.02)
        site.set_clock(days * 86_400)
        working.join(40)
        time.sleep(1)
        for _ in range(3):
            if not (who.edited(told) and who.built(told)):
                told.wrong.append(f"work did not go on with a clock that is {days:.0f} days off")
    told.wrong += [f"people were told: {said}" for said in told.said]


FAULTS: list[Callable[[Site, Worker, Told], None]] = [
    meshes_vanish, slow_network, clock_is_set, database_restarts, redis_is_gone, disk_is_full, machines_are_gone,
]  # fmt: skip


def faults(*only: str) -> dict[str, Told]:
    """Each fault by itself (or only some), one after the other, at one service with two machines of workers."""
    found: dict[str, Told] = {}
    with tempfile.TemporaryDirectory(prefix="lathe-faults-") as folder:
        site = Site(Path(folder), machines=2, clock=True)
        try:
            who = Worker(site.port)
            for fault in FAULTS:
                if only and fault.__name__ not in only:
                    continue
                told = found[fault.__name__] = Told()
                fault(site, who, told)
                site.wait()
                who.back(told)
        finally:
            site.close()
    return found
