"""The whole stack: edits with commit, drags through the socket, what the Bench loads, how soon the demo answers."""

from __future__ import annotations

import base64
import http.client
import http.cookiejar
import json
import os
import re
import secrets
import signal
import statistics
import subprocess
import sys
import tempfile
import threading
import time
import urllib.parse
import urllib.request
from pathlib import Path
from typing import Any

from simple_websocket import Client

from sketchlathe.core.exchange.modelfile import dump_model
from sketchlathe.core.model.document import new_model
from sketchlathe.core.model.edits import apply_edit, parse_edit
from sketchlathe.ports import free_port
from sketchlathe.service.modelling import written
from sketchlathe.store.cluster import Cluster

from .measuring import Figure, percentile, seconds

ROOT = Path(__file__).parents[1]


class Site:
    """A server process and a person signed in on it."""

    def __init__(self, command: list[str], environment: dict[str, str], port: int) -> None:
        self.port = port
        self.process = subprocess.Popen(
            command,
            env={**os.environ, **environment},
            stdout=subprocess.DEVNULL,
            stderr=subprocess.DEVNULL,
            start_new_session=True,
        )
        self.jar = http.cookiejar.CookieJar()
        self.browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        self.at = f"http://127.0.0.1:{port}"
        self.wait()

    def somebody_else(self) -> Site:
        """Another browser at the same server, signed up."""
        other = object.__new__(Site)
        other.port, other.at, other.process = self.port, self.at, self.process
        other.jar = http.cookiejar.CookieJar()
        other.browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(other.jar))
        other.sign_up()
        return other

    def wait(self) -> None:
        """Until the first page is there."""
        for _ in range(600):
            try:
                self.browser.open(self.at + "/", timeout=5).read()
                return
            except OSError:
                time.sleep(0.03)
        raise RuntimeError("the server did not start")

    def page(self, path: str) -> str:
        """A page's text."""
        return str(self.browser.open(self.at + path).read().decode())

    def token(self, path: str = "/sign-up") -> str:
        """The page's protection against forged requests."""
        return str(re.findall(r'name="csrf" content="([^"]+)"', self.page(path))[0])

    def sign_up(self) -> None:
        """A new person."""
        form = {
            "csrf_token": self.token(),
            "name": "Bench",
            "email": f"{secrets.token_hex(6)}@b.example",
            "password": "a long password",
        }
        self.browser.open(self.at + "/sign-up", urllib.parse.urlencode(form).encode())

    def bring_in(self, data: bytes) -> str:
        """A model from its file; its id."""
        project = re.findall(r"/projects/(\w+)/models", self.page("/"))[0]
        border = "sketchlathebench"
        body = (
            (
                f'--{border}\r\nContent-Disposition: form-data; name="csrf_token"\r\n\r\n{self.token("/")}\r\n'
                f'--{border}\r\nContent-Disposition: form-data; name="file"; filename="m.json"\r\n\r\n'
            ).encode()
            + data
            + f"\r\n--{border}--\r\n".encode()
        )
        headers = {"Content-Type": f"multipart/form-data; boundary={border}"}
        answer = self.browser.open(urllib.request.Request(f"{self.at}/projects/{project}/bring-in", body, headers))
        return str(answer.geturl().rsplit("/", 1)[1])

    @property
    def cookie(self) -> str:
        """The cookies as a header."""
        return "; ".join(f"{c.name}={c.value}" for c in self.jar)

    def stop(self) -> None:
        """As Ctrl-C does."""
        os.killpg(self.process.pid, signal.SIGINT)
        try:
            self.process.wait(20)
        except subprocess.TimeoutExpired:
            os.killpg(self.process.pid, signal.SIGKILL)


def zigzag(lines: int) -> tuple[bytes, str, str, str]:
    """A model with a chain of lines, two constraints a line: its file, the ids of sketch, dimension and free point."""
    model = new_model("Bench")
    model = apply_edit(
        model, parse_edit({"kind": "add_step", "part": "p1", "step": "sketch", "fields": {"plane": {"plane": "top"}}})
    )
    sketch = model.parts[0].steps[0].id
    curves: list[dict[str, Any]] = []
    constraints: list[dict[str, Any]] = []
    number = 100
    for i in range(lines):
        id, before = f"c{number}", f"c{number - 10}"
        start, end = [10.0 * i, 6.0 * (i % 2)], [10.0 * i + 10, 6.0 * ((i + 1) % 2)]
        curves.append({"kind": "line", "id": id, "start": start, "end": end})
        if i:
            constraints.append({"kind": "coincident", "id": f"k{number + 1}", "on": [f"{before}.end", f"{id}.start"]})
        size = {"kind": "distance", "id": f"k{number + 2}", "on": [id], "value": f"{136**0.5} mm", "label": [0, 0]}
        constraints.append(size)
        number += 10
    raw = model.as_json()
    raw["next_id"] = number + 10
    raw["parts"][0]["steps"][0]["sketch"] = {"curves": curves, "constraints": constraints}
    from sketchlathe.core.model.document import read_model

    return dump_model(read_model(raw)), sketch, "k102", f"c{number - 10}.end"


def edit_times(site: Site, count: int) -> list[float]:
    """Seconds of dimension edits over a kept-alive connection, each acknowledged after its commit."""
    data, sketch, dimension, _ = zigzag(10)
    model = site.bring_in(data)
    token = site.token(f"/models/{model}")
    connection = http.client.HTTPConnection("127.0.0.1", site.port)
    headers = {"Content-Type": "application/json", "X-CSRFToken": token, "Cookie": site.cookie}
    times = []
    for i in range(count):
        change = {"kind": "set_dimension", "sketch": sketch, "id": dimension, "value": f"{11 + i % 7} mm"}
        body = json.dumps({"base": i + 1, "sketch": sketch, "edit": change})

        def send(body: str = body) -> None:
            connection.request("POST", f"/api/models/{model}/edit", body, headers)
            answer = connection.getresponse()
            answer.read()
            assert answer.status == 200, answer.status

        times.append(seconds(send))
    return times[3:]


def drag_times(site: Site, count: int, lines: int = 150) -> list[float]:
    """Seconds of drag steps through the socket, sketch of two constraints a line."""
    data, sketch, _, point = zigzag(lines)
    model = site.bring_in(data)
    headers = {"Cookie": site.cookie, "Origin": "http://127.0.0.1"}  # this client sends Host without the port
    ws = Client(f"ws://127.0.0.1:{site.port}/models/{model}/sketches/{sketch}/live", headers=headers)
    ws.send(json.dumps({"n": 1, "do": "grab", "ref": point, "at": [10.0 * lines, 0]}))
    ws.receive(10)
    times = []
    for i in range(count):

        def step(i: int = i) -> None:
            ws.send(json.dumps({"n": i + 2, "do": "to", "at": [10.0 * lines - 0.2 * i, 0.3 * i]}))
            assert "view" in json.loads(ws.receive(10))

        times.append(seconds(step))
    ws.close()
    return times[3:]


def crowd(site: Site, people: int, for_seconds: float) -> float:
    """Edits a second of people who each change a part of their own, with all that the page asks for after an edit."""
    ready, stop = threading.Barrier(people + 1), threading.Event()
    counts = [0] * people

    def person(number: int) -> None:
        own = site.somebody_else()
        model = own.bring_in(_parametric_plate())
        connection = http.client.HTTPConnection("127.0.0.1", site.port)
        headers = {
            "Content-Type": "application/json",
            "X-CSRFToken": own.token(f"/models/{model}"),
            "Cookie": own.cookie,
        }

        def ask(path: str, body: dict[str, Any] | None = None) -> Any:
            connection.request("GET" if body is None else "POST", path, body and json.dumps(body), headers)
            answer = connection.getresponse()
            data = answer.read()
            assert answer.status == 200, (answer.status, data[:200])
            return json.loads(data) if body is not None else data

        api = f"/api/models/{model}"
        ask(f"{api}/build", {"part": "p1", "ticket": "b"})
        ready.wait()
        while not stop.is_set():
            formula = f"{20 + (counts[number] * 7 + number) % 30} mm"
            change = {"kind": "set_parameter", "name": "wide", "formula": formula}
            answer = ask(f"{api}/edit", {"base": counts[number] + 1, "part": "p1", "edit": change})
            assert "panels" in answer
            assert "panels" in ask(f"{api}/build", {"part": "p1", "ticket": "b"})
            counts[number] += 1

    threads = [threading.Thread(target=person, args=(n,), daemon=True) for n in range(people)]
    for thread in threads:
        thread.start()
    ready.wait()
    before, start = sum(counts), time.perf_counter()
    time.sleep(for_seconds)
    rate = (sum(counts) - before) / (time.perf_counter() - start)
    stop.set()
    for thread in threads:
        thread.join(60)
    return rate


def _parametric_plate() -> bytes:
    """A plate whose width is a parameter."""
    model = new_model("Plate")
    for edit in (
        {"kind": "add_parameter", "name": "wide", "formula": "40 mm"},
        {"kind": "add_step", "part": "p1", "step": "block", "fields": {"width": "wide", "depth": "30", "height": "5"}},
    ):
        model = apply_edit(model, parse_edit(edit))
    return dump_model(model)


class Bare(Site):
    """The yardstick: the same server software over the same database, doing next to nothing."""

    def __init__(self, url: str) -> None:
        port = free_port()
        command = [
            sys.executable,
            "-m",
            "gunicorn",
            "bench.bare:app()",
            "--bind",
            f"127.0.0.1:{port}",
            "--threads",
            "8",
        ]
        super().__init__(command, {"BARE_DATABASE": url, "PYTHONPATH": str(ROOT)}, port)

    def row_times(self, count: int) -> list[float]:
        """Seconds of requests that commit one row, over a kept-alive connection."""
        connection, body = http.client.HTTPConnection("127.0.0.1", self.port), json.dumps({"value": 200 * "1"})

        def send() -> None:
            connection.request("POST", "/row", body, {"Content-Type": "application/json"})
            connection.getresponse().read()

        return [seconds(send) for _ in range(count)][3:]

    def echo_times(self, count: int) -> list[float]:
        """Seconds of messages of a drag's size that are sent back as they are."""
        line = Client(f"ws://127.0.0.1:{self.port}/echo")

        def send(i: int) -> None:
            line.send(json.dumps({"n": i, "do": "to", "at": [1500.0, 0.3 * i]}))
            line.receive(10)

        times = [seconds(lambda i=i: send(i)) for i in range(count)]  # type: ignore[misc]
        line.close()
        return times[3:]


def message_kilobytes(site: Site, megabytes: int = 10) -> float:
    """The larger of what travels at an edit of a model with a large file in it: the answer, and what a worker gets."""
    model = new_model("Reference")
    noise = base64.b85encode(os.urandom(megabytes * 800_000)).decode()
    step = {"kind": "bring_file", "part": "p1", "step": "reference", "file": "large.stl", "data": noise}
    model = apply_edit(apply_edit(model, parse_edit({"kind": "add_parameter", "name": "wide", "formula": "3"})),
                       parse_edit(step))  # fmt: skip
    id = site.bring_in(dump_model(model))
    edit = {"kind": "set_parameter", "name": "wide", "formula": "4 mm"}
    headers = {"Content-Type": "application/json", "X-CSRFToken": site.token(f"/models/{id}")}
    body = json.dumps({"base": 1, "part": "p1", "edit": edit}).encode()
    answer = site.browser.open(urllib.request.Request(f"{site.at}/api/models/{id}/edit", body, headers)).read()
    return max(len(answer), len(written(model).text)) / 1024


def bench_kilobytes(site: Site) -> float:
    """Scripts, styles and fonts of the Bench as they travel."""
    data, *_ = zigzag(2)
    page = site.page(f"/models/{site.bring_in(data)}")
    wanted = set(re.findall(r'"(/s/[^"]+\.(?:js|css))"', page))
    total = 0
    for path in list(wanted):
        request = urllib.request.Request(site.at + path, headers={"Accept-Encoding": "gzip"})
        answer = site.browser.open(request)
        content = answer.read()
        total += len(content)
        if path.endswith("base.css"):
            import gzip

            text = gzip.decompress(content).decode()
            folder = path.rsplit("/", 2)[0]
            wanted_fonts = {f"{folder}/{u.removeprefix('../')}" for u in re.findall(r"url\(([^)]+woff2)\)", text)}
            total += sum(len(site.browser.open(site.at + f).read()) for f in wanted_fonts)
    return total / 1024


def demo_start(folder: Path) -> float:
    """Seconds from the second ``./lathe demo`` to its first page."""
    port = free_port()
    command = [str(ROOT / "lathe"), "demo", "--port", str(port)]
    environment = {"LATHE_DATA": str(folder), "NUMBA_CACHE_DIR": os.environ.get("NUMBA_CACHE_DIR", "")}
    Site(command, environment, port).stop()
    holder: list[Site] = []
    took = seconds(lambda: holder.append(Site(command, environment, port)))
    holder[0].stop()
    return took


def figures(quick: bool) -> list[Figure]:
    """edit.roundtrip_p95_ms, edit.roundtrip_ratio, wire.drag_p95_ms, wire.drag_ratio, wire.message_kb,
    serve.edits_per_s, page.bench_kb, start.demo_s.
    """
    count = 60 if quick else 400
    with tempfile.TemporaryDirectory(prefix="lathe-bench-", ignore_cleanup_errors=True) as name:
        folder = Path(name)
        folder.chmod(0o711)
        cluster = Cluster(folder / "postgres")
        url = cluster.start()
        try:
            port = free_port()
            command = [
                sys.executable,
                "-m",
                "sketchlathe",
                "serve",
                "--database",
                url,
                "--port",
                str(port),
                "--plain-http",
            ]
            site = Site(command, {"LATHE_DATA": name}, port)
            try:
                site.sign_up()
                time.sleep(
                    4 if quick else 8
                )  # the workers are starting: they would share the two cores with what is measured
                bare = Bare(url)
                try:
                    edits, rows = edit_times(site, count), bare.row_times(count)
                    drags, echoes = drag_times(site, count), bare.echo_times(count)
                finally:
                    bare.stop()
                size, message = bench_kilobytes(site), message_kilobytes(site)
                rate = crowd(site, 30, 3 if quick else 12)
            finally:
                site.stop()
        finally:
            cluster.stop()
        demo = folder / "demo"
        demo.mkdir()
        start = None if quick else demo_start(demo)  # its first start builds the demo
    return [
        Figure("edit.roundtrip_p95_ms", 1e3 * percentile(edits, 0.95), 40),
        Figure("edit.roundtrip_ratio", statistics.median(edits) / statistics.median(rows), 3),
        Figure("wire.drag_p95_ms", 1e3 * percentile(drags, 0.95), 16),
        Figure("wire.drag_ratio", statistics.median(drags) / statistics.median(echoes), 8),
        Figure("wire.message_kb", message, 60),
        Figure("serve.edits_per_s", rate, 25, at_least=True),
        Figure("page.bench_kb", size, 600),
        *([] if start is None else [Figure("start.demo_s", start, 6)]),
    ]
