"""What one act of a person costs a server in processor time, at the web and at its workers: what docs/scale.md reckons
with.
"""

from __future__ import annotations

import contextlib
import json
import os
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from simple_websocket import Client  # type: ignore[import-untyped]
from tests.hand import plate

from sketchlathe.core.exchange.modelfile import dump_model
from sketchlathe.ports import free_port
from sketchlathe.proving.processes import below
from sketchlathe.store.cluster import Cluster

from .measuring import Figure
from .solids import twelve_steps
from .stack import Site, zigzag

_TICK = 1000 / os.sysconf("SC_CLK_TCK")  # ms
_MOVES = 40  # places of a drag


def _spent(root: int) -> dict[str, float]:
    """Processor time of web processes and workers so far, ms."""
    found = {"web": 0.0, "worker": 0.0}
    for sort, pids in below(root).items():
        for pid in pids if sort in found else ():
            with contextlib.suppress(OSError):
                stat = Path(f"/proc/{pid}/stat").read_text().rpartition(") ")[2].split()
                found[sort] += _TICK * (int(stat[11]) + int(stat[12]))
    return found


class _Person:
    """Somebody at a model."""

    def __init__(self, site: Site, data: bytes) -> None:
        self.site, self.model = site, site.bring_in(data)
        self._token = site.token(f"/models/{self.model}")

    def ask(self, path: str, body: Any = None) -> Any:
        headers = {"Content-Type": "application/json", "X-CSRFToken": self._token}
        data = None if body is None else json.dumps(body).encode()
        at = f"{self.site.at}/api/models/{self.model}{path}"
        return json.loads(self.site.browser.open(urllib.request.Request(at, data, headers)).read())

    def edit(self, edit: dict[str, Any], sketch: str | None = None) -> None:
        self.ask("/edit", {"part": "p1", "sketch": sketch, "edit": edit})

    def build(self) -> None:
        self.ask("/build", {"part": "p1", "ticket": "t"})

    def page(self) -> None:
        self.site.page(f"/models/{self.model}")

    def file(self, kind: str, chord: float) -> None:
        at = f"{self.site.at}/models/{self.model}/parts/p1/take-out/{kind}?chord={chord}&angle=0.2"
        self.site.browser.open(at).read()


def _drag(site: Site, lines: int) -> Callable[[], None]:
    data, sketch, _, point = zigzag(lines)
    model = site.bring_in(data)
    headers = {"Cookie": site.cookie, "Origin": "http://127.0.0.1"}

    def drag() -> None:
        socket = Client(f"ws://127.0.0.1:{site.port}/models/{model}/sketches/{sketch}/live", headers=headers)
        socket.send(json.dumps({"n": 1, "do": "grab", "ref": point, "at": [10.0 * lines, 0]}))
        socket.receive(20)
        for i in range(_MOVES):
            socket.send(json.dumps({"n": i + 2, "do": "to", "at": [10.0 * lines - 0.2 * i, 0.3 * i]}))
            socket.receive(20)
        socket.close()

    return drag


def _acts(site: Site) -> Iterator[tuple[str, Callable[[], None], tuple[float, float]]]:
    """Name, the act, and the most it may cost at the web and at a worker, ms: a third more than docs/scale.md says."""
    hand = plate("60", "40", "5")
    small, large = _Person(site, dump_model(hand.model)), _Person(site, dump_model(twelve_steps().model))
    thick = {"small": hand.steps[1].id, "large": twelve_steps().steps[1].id}
    count = {"n": 0}

    def edit(person: _Person, which: str) -> None:
        count["n"] += 1
        distance = f"{5 + 0.01 * count['n']:.2f} mm"
        person.edit({"kind": "set_fields", "step": thick[which], "fields": {"distance": distance}})

    def both(person: _Person, which: str) -> None:
        edit(person, which)
        person.build()

    data, sketch, dimension, _ = zigzag(10)
    drawn = _Person(site, data)

    def size() -> None:
        count["n"] += 1
        value = f"{11 + 0.01 * (count['n'] % 400):.2f} mm"
        drawn.edit({"kind": "set_dimension", "sketch": sketch, "id": dimension, "value": value}, sketch)

    yield "size_in_sketch", size, (30, 1)
    yield "edit_and_build", lambda: both(small, "small"), (36, 22)
    yield "edit_and_build_large", lambda: both(large, "large"), (60, 630)
    yield "drag", _drag(site, 5), (60, 1)
    yield "drag_large", _drag(site, 150), (80, 1)
    yield "page", large.page, (54, 1)
    yield "file", lambda: small.file("stl", 0.1), (11, 8)


def figures(quick: bool) -> Iterator[Figure]:
    """cost.web_ms.* and cost.worker_ms.*"""
    rounds = 12 if quick else 60
    with tempfile.TemporaryDirectory(prefix="lathe-bench-", ignore_cleanup_errors=True) as name:
        folder = Path(name)
        folder.chmod(0o711)
        cluster = Cluster(folder / "postgres")
        try:
            port = free_port()
            serve = [sys.executable, "-m", "sketchlathe", "serve", "--plain-http"]
            site = Site([*serve, "--database", cluster.start(), "--port", str(port)], {"LATHE_DATA": name}, port)
            try:
                site.sign_up()
                for what, act, reckoned in _acts(site):
                    act()
                    time.sleep(4.0 if what == "size_in_sketch" else 0.5)  # what was begun before ends
                    before = _spent(site.process.pid)
                    for _ in range(rounds):
                        act()
                    time.sleep(0.3)
                    after = _spent(site.process.pid)
                    for sort, goal in zip(("web", "worker"), reckoned):
                        yield Figure(f"cost.{sort}_ms.{what}", (after[sort] - before[sort]) / rounds, goal)
            finally:
                site.stop()
        finally:
            cluster.stop()
