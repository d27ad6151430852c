"""A class at work: people who sketch, drag, change numbers, build and look, at the pace of hands."""

from __future__ import annotations

import json
import random
import statistics
import tempfile
import threading
import time
from collections import defaultdict
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import Any

import simple_websocket  # type: ignore[import-untyped]

from .people import Visitor
from .site import Site

_PAUSE = 1.5, 5.0  # s between two acts of one person
_FRAME = 1 / 30  # s between two places of a drag
_MOVES = 40  # in a drag
LINES = 40  # that a student draws before they are rubbed out again: work goes on, but what is there does not grow
ACTS = {"edit": 55, "drag": 20, "draw": 15, "page": 8, "export": 2}  # how often each, of a hundred


@dataclass
class Crowd:
    """What people waited for, s, by what it was; what went wrong."""

    waits: dict[str, list[float]] = field(default_factory=lambda: defaultdict(list))
    problems: list[str] = field(default_factory=list)

    def share(self, what: str, share: float) -> float:
        """The wait, ms, that so large a share of them stay within; nought where there was none."""
        waits = sorted(self.waits.get(what, [0.0]))
        return 1000 * waits[min(len(waits) - 1, int(share * len(waits)))]

    def rows(self) -> list[tuple[str, int, float, float]]:
        """What, how many, the middle wait and that of the slowest twentieth (ms)."""
        return [(k, len(v), 1000 * statistics.median(v), self.share(k, 0.95)) for k, v in sorted(self.waits.items())]


class Student(Visitor):
    """Somebody who works on a plate with a hole: its sketch is drawn first, then numbers and places change."""

    def __init__(self, port: int, number: int, crowd: Crowd, hurry: float = 1.0) -> None:
        super().__init__(port)
        self._port, self._rng, self._crowd = port, random.Random(number), crowd
        self._pause = _PAUSE[0] / hurry, _PAUSE[1] / hurry
        self._lines = 0
        self._edit({"kind": "add_parameter", "name": "wide", "formula": "60 mm"})
        self._edit({"kind": "add_step", "part": "p1", "step": "sketch", "fields": {"plane": {"plane": "top"}}})
        self.sketch = self.ask("")["parts"][0]["steps"][0]["id"]
        self._draw("rectangle", [(0, 0), (60, 40)], ["wide", "40 mm"])
        self._draw("circle", [(20, 20), (26, 20)], [])
        view = self.ask(f"/sketches/{self.sketch}")
        self.circle = next(c["id"] for c in view["curves"] if "round" in c["tags"])
        block = {
            "kind": "add_step",
            "part": "p1",
            "step": "block",
            "fields": {"width": "wide", "depth": "40", "height": "8"},
        }
        self._edit(block)
        self._build()

    def _timed(self, what: str, act: Callable[[], Any]) -> Any:
        began = time.monotonic()
        try:
            answer = act()
        except Exception as problem:  # whatever a person would have been shown
            self._crowd.problems.append(f"{what}: {type(problem).__name__} {problem}"[:200])
            return None
        self._crowd.waits[what].append(time.monotonic() - began)
        return answer

    def _edit(self, edit: dict[str, Any]) -> None:
        self.ask("/edit", {"edit": edit, "part": "p1"})

    def _build(self) -> None:
        self.ask("/build", {"part": "p1", "ticket": "t"})

    def _draw(self, tool: str, places: list[tuple[float, float]], sizes: list[str]) -> None:
        spots = [{"at": place} for place in places]
        self._edit(
            {"kind": "draw", "sketch": self.sketch, "tool": tool, "places": spots, "sizes": sizes, "options": {}}
        )

    def act(self, what: str) -> None:
        """One thing people do."""
        getattr(self, f"_act_{what}")()

    def _act_edit(self) -> None:
        size = {"kind": "set_parameter", "name": "wide", "formula": f"{self._rng.uniform(45, 90):.2f} mm"}
        self._timed("edit", lambda: self._edit(size))
        self._timed("build", self._build)

    def _act_draw(self) -> None:
        if self._lines == LINES:
            self._timed("edit", self._rub_out)
            self._lines = 0
        self._lines += 1
        x, y = self._rng.uniform(100, 300), self._rng.uniform(-100, 100)
        self._timed("edit", lambda: self._draw("line", [(x, y), (x + 20, y + 5)], []))

    def _rub_out(self) -> None:
        """What was drawn beside the plate."""
        view = self.ask(f"/sketches/{self.sketch}")
        beside = [c["id"] for c in view["curves"] if min(x for x, _ in (p["at"] for p in c["points"])) >= 100]
        self._edit({"kind": "delete_from_sketch", "sketch": self.sketch, "ids": beside})

    def _act_page(self) -> None:
        self._timed("page", lambda: self.page(f"/models/{self.model}"))

    def _act_export(self) -> None:
        self._timed("export", lambda: self.page(f"/models/{self.model}/parts/p1/take-out/stl"))

    def _act_drag(self) -> None:
        cookie = "; ".join(f"{c.name}={c.value}" for c in self.jar)
        address = f"ws://127.0.0.1:{self._port}/models/{self.model}/sketches/{self.sketch}/live"
        try:
            line = simple_websocket.Client(address, headers={"Cookie": cookie, "Origin": "http://127.0.0.1"})
        except Exception as problem:
            self._crowd.problems.append(f"drag: {problem}"[:200])
            return
        ref, numbers = f"{self.circle}.centre", iter(range(1, 1000))

        def told(do: str, at: tuple[float, float]) -> dict[str, Any]:
            line.send(json.dumps({"n": next(numbers), "do": do, "ref": ref, "at": at}))
            return dict(json.loads(line.receive(timeout=20)))

        at = (20.0, 20.0)
        self._timed("grab", partial(told, "grab", at))
        for _ in range(_MOVES):
            began = time.monotonic()
            at = (at[0] + self._rng.uniform(-1, 1), at[1] + self._rng.uniform(-1, 1))
            self._timed("drag", partial(told, "to", at))
            time.sleep(max(0.0, _FRAME - (time.monotonic() - began)))
        self._timed("drop", partial(told, "drop", at))
        line.close()

    def work(self, ended: threading.Event) -> None:
        """Until it is over."""
        ended.wait(self._rng.uniform(0, self._pause[1]))
        while not ended.is_set():
            self.act(self._rng.choices(list(ACTS), list(ACTS.values()))[0])
            ended.wait(self._rng.uniform(*self._pause))


def load(people: int, seconds: float, machines: int = 0, each: int = 1) -> Crowd:
    """So many people at work for so long. ``machines``, ``each``: see ``Site``."""
    crowd = Crowd()
    with tempfile.TemporaryDirectory(prefix="lathe-crowd-") as folder:
        site = Site(Path(folder), machines, each)
        try:
            students = [Student(site.port, n, crowd) for n in range(people)]
            ended = threading.Event()
            threads = [threading.Thread(target=s.work, args=(ended,), daemon=True) for s in students]
            for thread in threads:
                thread.start()
            time.sleep(seconds)
            ended.set()
            for thread in threads:
                thread.join(30)
        finally:
            site.close()
    return crowd
