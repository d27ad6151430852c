"""What the simulated printer does: jobs, a queue, printing layer by layer against a clock; running out, losing touch.

No network in here. Time is given from outside, so that a test can let hours pass.
"""

from __future__ import annotations

import math
import re
import threading
import uuid
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

MOST_JOBS = 50
MOST_BYTES = 60_000_000
SPOOL = 330.0  # m of filament on a new spool
_WORD = re.compile(r"([XYZEFP])(-?[\d.]+)")


class PrinterProblem(Exception):
    """A request that the printer cannot follow, in words."""


@dataclass
class Job:
    """A program in the queue. ``seconds`` and ``metres`` by layer."""

    id: str
    name: str
    seconds: list[float]
    metres: list[float]
    state: str = "waiting"  # waiting, printing, paused, done, cancelled
    layer: int = 0
    into: float = 0.0  # seconds into the layer
    why: str = ""
    owner: str = ""  # whoever sent it, in whatever words they gave

    @property
    def left(self) -> float:
        """Seconds that are left."""
        return max(sum(self.seconds[self.layer :]) - self.into, 0.0)

    def as_json(self) -> dict[str, Any]:
        """Plain data."""
        total = sum(self.seconds)
        return {
            "id": self.id, "name": self.name, "state": self.state, "layer": min(self.layer + 1, len(self.seconds)),
            "layers": len(self.seconds), "seconds_left": round(self.left), "seconds": round(total), "why": self.why,
            "owner": self.owner,
            "percent": round(100 * (1 - self.left / total)) if total else 100,
        }  # fmt: skip


def read_program(text: str) -> tuple[str, list[float], list[float]]:
    """Name, seconds and metres of filament by layer of a program. Raises ``PrinterProblem`` for what is none."""
    if ";LAYERS" not in text[:2000] or not text.rstrip().endswith(";END"):
        raise PrinterProblem("The program is not whole: its begin or its end is missing.")
    name = text.partition("\n")[0].partition(":")[2].strip() or "job"
    seconds: list[float] = []
    metres: list[float] = []
    x = y = z = pushed = 0.0
    feed = 3000.0
    for line in text.splitlines():
        if line.startswith(";LAYER "):
            seconds.append(0.0)
            metres.append(0.0)
        if not seconds or line[:2] not in ("G0", "G1", "G4"):
            continue
        try:
            words = {k: float(v) for k, v in _WORD.findall(line)}
        except ValueError:
            raise PrinterProblem(f"The program has a line that cannot be read: {line[:40]}") from None
        if line.startswith("G4"):
            seconds[-1] += words.get("P", 0.0) / 1000
            continue
        feed = max(words.get("F", feed), 1.0)
        nx, ny, nz = words.get("X", x), words.get("Y", y), words.get("Z", z)
        seconds[-1] += math.dist((x, y, z), (nx, ny, nz)) / feed * 60
        if "E" in words:
            metres[-1] += max(words["E"] - pushed, 0.0) / 1000
            pushed = words["E"]
        x, y, z = nx, ny, nz
    if not seconds:
        raise PrinterProblem("The program has no layers.")
    return name, seconds, metres


@dataclass
class Machine:
    """One printer. ``speed``: how many seconds it prints in one second of the clock."""

    clock: Callable[[], float]
    speed: float = 60.0
    filament: float = SPOOL  # m left on the spool
    jobs: list[Job] = field(default_factory=list)
    gone: bool = False  # it does not answer
    _last: float = 0.0
    _lock: threading.RLock = field(default_factory=threading.RLock)

    def __post_init__(self) -> None:
        self._last = self.clock()

    def upload(self, data: bytes, owner: str = "") -> Job:
        """A program into the queue."""
        with self._lock:
            self._pass()
            if len(data) > MOST_BYTES:
                raise PrinterProblem(f"The program is too large: at most {MOST_BYTES // 1_000_000} MB.")
            try:
                name, seconds, metres = read_program(data.decode("ascii"))
            except UnicodeDecodeError:
                raise PrinterProblem("The program is not plain text.") from None
            waiting = [j for j in self.jobs if j.state in ("waiting", "printing", "paused")]
            if len(waiting) >= MOST_JOBS:
                raise PrinterProblem(f"The queue is full: {MOST_JOBS} jobs.")
            job = Job(uuid.uuid4().hex[:12], name, seconds, metres, owner=owner)
            self.jobs = [*waiting, *[j for j in self.jobs if j not in waiting][-20:], job]
            self._next()
            return job

    def act(self, job_id: str, deed: str) -> Job:
        """Pause, resume or cancel a job."""
        with self._lock:
            self._pass()
            job = next((j for j in self.jobs if j.id == job_id), None)
            if job is None:
                raise PrinterProblem("There is no such job.")
            allowed = {"pause": ("printing",), "resume": ("paused",), "cancel": ("waiting", "printing", "paused")}.get(
                deed
            )
            if allowed is None or job.state not in allowed:
                raise PrinterProblem(f"A job that is {job.state} cannot be told to {deed}.")
            if deed == "resume" and self.filament <= 0:
                raise PrinterProblem("There is no filament: put a new spool on first.")
            job.state = {"pause": "paused", "resume": "printing", "cancel": "cancelled"}[deed]
            job.why = ""
            self._next()
            return job

    def load(self) -> None:
        """A new spool."""
        with self._lock:
            self._pass()
            self.filament = SPOOL

    def fault(self, kind: str) -> None:
        """Play a fault: the spool ends, or the printer does not answer any more (and comes back)."""
        with self._lock:
            self._pass()
            if kind == "filament":
                self.filament = 0.0
            elif kind in ("lost", "back"):
                self.gone = kind == "lost"
            else:
                raise PrinterProblem("Faults are filament, lost and back.")
            self._pass()

    def state(self) -> dict[str, Any]:
        """What it is doing."""
        with self._lock:
            self._pass()
            now = next((j for j in self.jobs if j.state in ("printing", "paused")), None)
            return {
                "name": "Practice printer",
                "state": now.state if now else "idle",
                "job": now.as_json() if now else None,
                "waiting": [j.as_json() for j in self.jobs if j.state == "waiting"],
                "ended": [j.as_json() for j in self.jobs if j.state in ("done", "cancelled")][-5:],
                "filament": round(self.filament, 1),
                "speed": self.speed,
            }

    def _next(self) -> None:
        if not any(j.state in ("printing", "paused") for j in self.jobs):
            job = next((j for j in self.jobs if j.state == "waiting"), None)
            if job is not None:
                job.state = "printing"

    def _pass(self) -> None:
        """Let the time since the last look pass."""
        now = self.clock()
        time = max(now - self._last, 0.0) * self.speed
        self._last = now
        while True:
            job = next((j for j in self.jobs if j.state == "printing"), None)
            if job is None:
                return
            if self.filament <= 0:
                job.state, job.why = "paused", "The filament has run out. Put a new spool on, then resume."
                return
            if time <= 0:
                return
            need = max(job.seconds[job.layer] - job.into, 1e-9)
            share = min(time, need)
            self.filament = max(self.filament - job.metres[job.layer] * share / max(job.seconds[job.layer], 1e-9), 0.0)
            job.into += share
            time -= share
            if job.into >= job.seconds[job.layer] - 1e-9:
                job.layer, job.into = job.layer + 1, 0.0
            if job.layer >= len(job.seconds):
                job.state = "done"
                self._next()
