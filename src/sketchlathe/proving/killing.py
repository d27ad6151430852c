"""Processes are killed at random while people edit; nothing acknowledged may be lost."""

from __future__ import annotations

import http.client
import random
import tempfile
import threading
import time
import urllib.error
from dataclasses import dataclass, field
from pathlib import Path

from .people import Visitor
from .site import Site

WRITERS = 3
FULL = 480  # parameters; then another model
PAUSE = 0.4, 2.5  # s between two kills


@dataclass
class Findings:
    """What came of it."""

    kills: dict[str, int] = field(default_factory=dict)
    acknowledged: int = 0
    lost: list[str] = field(default_factory=list)
    doubled: list[str] = field(default_factory=list)
    unreadable: list[str] = field(default_factory=list)
    left_behind: list[str] = field(default_factory=list)
    away: dict[str, float] = field(default_factory=dict)

    @property
    def longest_away(self) -> float:
        """s that the service was away at most."""
        return max(self.away.values(), default=0.0)

    @property
    def sound(self) -> bool:
        """Nothing was lost, doubled or damaged, and the service was back in time."""
        return not (self.lost or self.doubled or self.unreadable or self.left_behind) and self.longest_away < 10


class Writer(Visitor):
    """Somebody who edits all the time, one model after the other, and remembers what was acknowledged."""

    def __init__(self, port: int) -> None:
        super().__init__(port)
        self.acknowledged: dict[str, list[str]] = {self.model: []}

    def write(self, ended: threading.Event) -> None:
        """Add one parameter after the other; one that was not acknowledged is tried again under the same name."""
        number = 0
        while not ended.is_set():
            name = f"n{number}"
            try:
                if number == FULL:
                    self.model, number = self.new_model(), 0
                    self.acknowledged[self.model] = []
                    continue
                self.ask("/edit", {"edit": {"kind": "add_parameter", "name": name, "formula": str(number + 1)}})
                self.acknowledged[self.model].append(name)
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


def kills(count: int, seed: int, machines: int = 0) -> Findings:
    """Kill so many processes while people edit. ``machines``: see ``Site``."""
    rng, found = random.Random(seed), Findings()
    with tempfile.TemporaryDirectory(prefix="lathe-proof-") as folder:
        site = Site(Path(folder), machines)
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
                away = site.wait()
                found.away[sort] = max(found.away.get(sort, 0.0), away)
            ended.set()
            for thread in threads:
                thread.join(30)
            site.wait()
            for writer in writers:
                for model in writer.acknowledged:
                    _judge(writer, model, found)
            # what a killed process leaves sees it soon, not at once
            until = time.monotonic() + 30
            while (left := site.left_behind()) and time.monotonic() < until:
                time.sleep(0.5)
            found.left_behind = [f"{pid} {command}" for pid, command in left.items()]
        finally:
            site.close()
    return found


def _judge(writer: Writer, model: str, found: Findings) -> None:
    """Whether everything that one person was told is there, once."""
    writer.model, told = model, writer.acknowledged[model]
    found.acknowledged += len(told)
    try:
        state = writer.ask("")
        there = state["parameters"]
        found.lost += [n for n in told if n not in there]
        found.doubled += [n for n in set(there) if there.count(n) > 1]
        if state["revision"] != len(there) + 1:
            found.doubled.append(f"{state['revision']} revisions of {len(there)} edits")
        for _ in range(min(3, len(there))):
            writer.ask("/undo", {})
    except (OSError, ValueError, KeyError) as problem:
        found.unreadable.append(f"{writer.model}: {problem}")
