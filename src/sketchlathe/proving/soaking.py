"""Work for a long time: what every process holds, open files, the database and the folders stay level."""

from __future__ import annotations

import contextlib
import resource
import statistics
import tempfile
import threading
import time
from dataclasses import dataclass, field
from pathlib import Path

import psycopg

from .crowding import Crowd, Student
from .page import Onlooker
from .site import Site

LOOK = 5.0  # s
GROWN = 1.10  # of what was held when it had warmed up
SLACK = 60 << 20  # bytes that a process may grow besides: caches that were not full then
SORTS = ("web", "worker", "forkserver", "consumer", "supervisor", "page")


@dataclass
class Soaked:
    """Looks at it: seconds since the beginning, and what was held by sort (bytes, files), the database, folders."""

    looks: list[tuple[float, dict[str, float]]] = field(default_factory=list)
    problems: list[str] = field(default_factory=list)
    acts: int = 0
    rounds: int = 0  # of whoever works at a page of a browser

    def series(self, what: str) -> tuple[float, float]:
        """A figure in the second tenth of the time, when all is warm, and in the last one."""
        count = max(1, len(self.looks) // 10)
        values = [look.get(what, 0.0) for _, look in self.looks]
        return statistics.median(values[count : 2 * count] or values), statistics.median(values[-count:])

    @property
    def grown(self) -> list[str]:
        """What grew."""
        found = []
        for what in sorted({key for _, look in self.looks for key in look}):
            early, late = self.series(what)
            slack = _slack(what)
            if what.split()[0] in SORTS and late > GROWN * early + slack:
                found.append(f"{what}: {early:.0f} → {late:.0f}")
        return found


def _slack(what: str) -> float:
    if what.startswith("page"):
        return {"page bytes": 2 << 20, "page nodes": 200}.get(what, 12)
    return SLACK if what.endswith("bytes") else 12


def _look(site: Site) -> dict[str, float]:
    found: dict[str, float] = {}
    for sort, pids in site.processes().items():
        for pid in pids:
            with contextlib.suppress(OSError, ValueError, IndexError):
                held = int(Path(f"/proc/{pid}/statm").read_text().split()[1]) * resource.getpagesize()
                files = sum(1 for _ in Path(f"/proc/{pid}/fd").iterdir())
                found[f"{sort} bytes"] = max(found.get(f"{sort} bytes", 0.0), held)
                found[f"{sort} files"] = max(found.get(f"{sort} files", 0.0), files)
    found["left behind"] = len(site.left_behind())
    found["meshes bytes"] = sum(p.stat().st_size for p in (site.folder / "meshes").rglob("*") if p.is_file())
    found["notes"] = sum(1 for d in site.scratch.glob("lathe-notes-*") for _ in d.iterdir())
    with psycopg.connect(site.url.replace("+psycopg", "")) as connection:
        row = connection.execute("select pg_database_size(current_database())").fetchone()
        found["database bytes"] = float(row[0]) if row else 0.0
    return found


def soak(seconds: float, people: int = 4, machines: int = 0, browser: bool = False) -> Soaked:
    """So many people at work for so long, without pauses to speak of; one more at a page of a real browser."""
    soaked, crowd = Soaked(), Crowd()
    with tempfile.TemporaryDirectory(prefix="lathe-soak-") as folder:
        site = Site(Path(folder), machines)
        try:
            students = [Student(site.port, n, crowd, hurry=5.0) for n in range(people)]
            ended = threading.Event()
            threads = [threading.Thread(target=s.work, args=(ended,), daemon=True) for s in students]
            onlooker = Onlooker(site.port, crowd, ended)
            if browser:
                threads.append(onlooker)
            for thread in threads:
                thread.start()
            began = time.monotonic()
            while time.monotonic() - began < seconds:
                time.sleep(LOOK)
                soaked.looks.append((time.monotonic() - began, {**_look(site), **onlooker.held}))
            ended.set()
            for thread in threads:
                thread.join(60)
            soaked.rounds = onlooker.rounds
            time.sleep(2.0)
            last = _look(site)
            if last["left behind"]:
                soaked.problems.append(f"left behind: {site.left_behind()}")
            if last["notes"] > 8:
                soaked.problems.append(f"{last['notes']:.0f} notes of work that is over")
        finally:
            site.close()
    soaked.acts = sum(len(waits) for waits in crowd.waits.values())
    soaked.problems += crowd.problems
    return soaked
