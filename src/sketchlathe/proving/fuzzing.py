"""Nonsense at every door: formulas, model files, edits, files of every format, every address, every socket message.

Nothing of it may be answered with a fault of ours (5xx, an exception that is no ``Trouble``), take longer than its
limit, or leave a process behind.
"""

from __future__ import annotations

import http.client
import json
import random
import re
import resource
import secrets
import signal
import tempfile
import time
import urllib.error
import urllib.parse
import urllib.request
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import Any

import simple_websocket  # type: ignore[import-untyped]
from flask import Flask

from ..core.errors import Trouble
from ..core.exchange import FORMATS
from ..core.exchange.modelfile import load_model
from ..core.model.document import Model, read_model
from ..core.model.edits import apply_edit, parse_edit
from ..core.quantity import LENGTH, Quantity, evaluate
from ..core.registry import kind_of
from ..demo import examples_folder
from .nonsense import JUNK, a_formula, an_edit, broken, mutated, nudged
from .people import Visitor
from .site import Site

SHARES = {"formulas": 0.62, "models": 0.2, "edits": 0.08, "routes": 0.06, "messages": 0.02, "files": 0.02}
LIMITS = {"formulas": 1.0, "models": 10.0, "edits": 20.0, "routes": 30.0, "messages": 20.0, "files": 40.0}  # s
MEMORY = 3 << 30  # bytes that one process of ours may hold at the end


@dataclass
class Fuzzed:
    """What came of it: how many of each sort, how many of those were understood, what was found, the slowest."""

    inputs: Counter[str] = field(default_factory=Counter)
    taken: Counter[str] = field(default_factory=Counter)
    findings: list[str] = field(default_factory=list)
    slowest: dict[str, tuple[float, str]] = field(default_factory=dict)

    def found(self, sort: str, what: str, told: Any) -> None:
        """Something that must not be."""
        self.findings.append(f"{sort}: {what}: {str(told)[:400]!r}")


class _Late(BaseException):
    pass


@contextmanager
def _within(seconds: float) -> Iterator[None]:
    def late(*_: Any) -> None:
        raise _Late

    before = signal.signal(signal.SIGALRM, late)
    signal.setitimer(signal.ITIMER_REAL, seconds)
    try:
        yield
    finally:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, before)


def _try(fuzzed: Fuzzed, sort: str, told: Any, work: Callable[[], bool]) -> None:
    """One input. ``work`` says whether it was understood; a ``Trouble`` is an answer, anything else is a finding."""
    began = time.monotonic()
    fuzzed.inputs[sort] += 1
    try:
        with _within(LIMITS[sort]):
            fuzzed.taken[sort] += work()
    except Trouble:
        pass
    except _Late:
        fuzzed.found(sort, f"longer than {LIMITS[sort]:.0f} s", told)
    except Exception as problem:
        fuzzed.found(sort, f"{type(problem).__name__} {problem}"[:200], told)
    took = time.monotonic() - began
    if took > fuzzed.slowest.get(sort, (0.0, ""))[0]:
        fuzzed.slowest[sort] = took, str(told)[:120]


def _in_process(fuzzed: Fuzzed, rng: random.Random, counts: dict[str, int]) -> None:
    names = {"wall": Quantity(4.0, LENGTH), "depth": Quantity(12.5, LENGTH)}

    def understood(text: str) -> bool:
        evaluate(text, names, wanted=rng.choice([None, LENGTH]))
        return True

    for _ in range(counts["formulas"]):
        text = a_formula(rng)
        _try(fuzzed, "formulas", text, partial(understood, text))
    files = [path.read_bytes() for path in sorted(examples_folder().glob("*.json"))]
    models, plain = [load_model(data) for data in files], [json.loads(data) for data in files]

    def read(data: bytes) -> bool:
        load_model(data)
        return True

    for _ in range(counts["models"]):
        if rng.random() < 0.25:
            data = broken(rng, rng.choice(files))
        else:
            told = rng.choice(plain)
            for _ in range(rng.randint(1, 3)):
                told = rng.choice([mutated, nudged, nudged])(rng, told)
            data = json.dumps(told).encode()
        _try(fuzzed, "models", data, partial(read, data))

    _edits(fuzzed, rng, counts["edits"], models)


def _edits(fuzzed: Fuzzed, rng: random.Random, count: int, models: list[Model]) -> None:
    """Edits of what earlier edits left; what an edit has made must be readable."""
    now = list(models)

    def edited(at: int, raw: Any) -> bool:
        now[at] = apply_edit(now[at], parse_edit(raw))
        try:
            again = read_model(now[at].as_json())
        except Trouble as problem:
            fuzzed.found("edits", f"made what cannot be read: {problem.message}", raw)
            now[at] = models[at]
            return True
        if again.as_json() != now[at].as_json():
            fuzzed.found("edits", "read again it is another model", raw)
        return True

    for number in range(count):
        at = rng.randrange(len(models))
        if number % 40 == 39 or sum(len(p.steps) for p in now[at].parts) > 60:
            now[at] = models[at]
        raw = an_edit(rng, now[at].as_json())
        _try(fuzzed, "edits", raw, partial(edited, at, raw))


def _rules() -> list[tuple[str, str]]:
    """(method, address) of everything that is answered."""
    from ..web.app import AREAS

    bare = Flask("addresses")
    for area in AREAS:
        bare.register_blueprint(area.blueprint)
    quiet = ("/sign-out", "/static", "/account/end", "/printer/events")
    return [
        (method, rule.rule)
        for rule in bare.url_map.iter_rules()
        for method in sorted((rule.methods or set()) & {"GET", "POST"})
        if not rule.rule.startswith(quiet)
    ]


class Nuisance(Visitor):
    """Somebody who sends nonsense to a service."""

    def __init__(self, port: int, rng: random.Random) -> None:
        super().__init__(port)
        self._rng, self._port = rng, port
        self.begin()

    def begin(self) -> None:
        """A model to send nonsense at: what came before does not matter to the rest."""
        self.model = self.new_model()
        for edit in (
            {"kind": "add_step", "part": "p1", "step": "sketch", "fields": {"plane": {"plane": "top"}}},
            {
                "kind": "add_step",
                "part": "p1",
                "step": "block",
                "fields": {"width": "20", "depth": "10", "height": "5"},
            },
        ):
            self.ask("/edit", {"edit": edit, "part": "p1"})
        self.sketch = self.ask("")["parts"][0]["steps"][0]["id"]
        self.ask("/edit", {"edit": {
            "kind": "draw", "sketch": self.sketch, "tool": "rectangle", "places": [{"at": [0, 0]}, {"at": [20, 10]}],
            "sizes": [], "options": {},
        }})  # fmt: skip
        self.document = self.ask("")

    def _filled(self, rule: str) -> str:
        def one(found: re.Match[str]) -> str:
            kind, name = (found[1] or "").rstrip(":"), found[2]
            if kind.startswith("any("):
                return str(self._rng.choice(re.findall(r"\w+", kind[4:])))
            known = {
                "model_id": self.model, "step_id": self.sketch, "part_id": "p1", "number": str(self._rng.randint(0, 9)),
                "format_kind": self._rng.choice([kind_of(f) for f in FORMATS]), "key": secrets.token_hex(16),
            }  # fmt: skip
            likely = self._rng.random() < 0.85
            return (
                str(known.get(name, "x"))
                if likely or kind == "int"
                else urllib.parse.quote(str(self._rng.choice(JUNK)), "")
            )

        return re.sub(r"<([a-z]+(?:\([^)]*\))?:)?(\w+)>", one, rule)

    def send(self, method: str, rule: str) -> tuple[int, str]:
        """Something to an address; the status, and what was sent."""
        rng, path, body = self._rng, self._filled(rule), None
        headers = {"Accept": rng.choice(["application/json", "text/html"])}
        if method == "POST":
            headers["X-CSRFToken"] = self._token
            likely = {
                "part": "p1", "ticket": "t", "base": None, "edit": an_edit(rng, self.document), "draw": {},
                "on": ["c1", "c2"], "at": [1, 2], "refs": ["c1"], "things": [], "frame": {}, "parameter": "w",
                "touched": [], "draft": {"kind": "extrude", "fields": {}}, "chord": 0.1, "angle": 0.3, "name": "x",
            }  # fmt: skip
            raw = mutated(rng, {k: v for k, v in likely.items() if rng.random() < 0.7})
            if "api/" in rule and not rule.endswith(("/bring", "/file")):
                headers["Content-Type"] = "application/json"
                body = json.dumps(raw).encode()
                body = broken(rng, body) if rng.random() < 0.1 else body
            else:
                body = urllib.parse.urlencode(
                    {k: str(v)[:500] for k, v in raw.items()} if isinstance(raw, dict) else {}
                ).encode()
        elif rng.random() < 0.5:
            path += "?" + urllib.parse.urlencode(
                {k: str(rng.choice(JUNK))[:200] for k in ("part", "how", "ticket", "base")}
            )
        request = urllib.request.Request(self.at + path, body, headers, method=method)
        told = f"{method} {path} {body!r}"
        try:
            with self._browser.open(request, timeout=LIMITS["routes"]) as answer:
                return int(answer.status), told
        except urllib.error.HTTPError as answer:
            return answer.code, told

    def upload(self, name: str, data: bytes) -> int:
        """A file to be brought in; the status."""
        mark = secrets.token_hex(8)
        body = b"".join((
            f'--{mark}\r\nContent-Disposition: form-data; name="part"\r\n\r\np1\r\n'.encode(),
            f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'.encode(), data,
            f"\r\n--{mark}--\r\n".encode(),
        ))  # fmt: skip
        headers = {"X-CSRFToken": self._token, "Accept": "application/json",
                   "Content-Type": f"multipart/form-data; boundary={mark}"}  # fmt: skip
        request = urllib.request.Request(f"{self.at}/api/models/{self.model}/bring", body, headers)
        try:
            return int(self._browser.open(request, timeout=LIMITS["files"]).status)
        except urllib.error.HTTPError as answer:
            return answer.code

    def take_out(self, kind: str) -> bytes:
        """A sample of a format."""
        address = f"{self.at}/models/{self.model}/parts/p1/take-out/{kind}"
        try:
            return bytes(self._browser.open(address, timeout=30).read())
        except urllib.error.HTTPError:
            return b""

    def line(self) -> Any:
        """The socket of the open sketch."""
        cookie = "; ".join(f"{c.name}={c.value}" for c in self.jar)
        address = f"ws://127.0.0.1:{self._port}/models/{self.model}/sketches/{self.sketch}/live"
        return simple_websocket.Client(address, headers={"Cookie": cookie, "Origin": "http://127.0.0.1"})


def _served(fuzzed: Fuzzed, rng: random.Random, counts: dict[str, int], folder: Path) -> None:
    site = Site(folder)
    try:
        who, rules = Nuisance(site.port, rng), _rules()

        def asked(number: int) -> bool:
            status, told = who.send(*rules[number % len(rules)])
            if status >= 500:
                fuzzed.found("routes", f"status {status}", told)
            return status < 400

        for number in range(counts["routes"]):
            if number % 200 == 199:
                who.begin()
            _try(fuzzed, "routes", rules[number % len(rules)], partial(asked, number))
        who.begin()
        samples = {kind_of(f): (f.ending, who.take_out(kind_of(f))) for f in FORMATS}
        kinds = [kind for kind, (_, data) in samples.items() if data]

        def brought(name: str, data: bytes) -> bool:
            status = who.upload(name, data)
            if status >= 500:
                fuzzed.found("files", f"status {status} for {name}", data[:200])
            return status < 400

        for _ in range(counts["files"]):
            kind = rng.choice(kinds)
            ending, data = samples[kind]
            _try(fuzzed, "files", kind, partial(brought, f"x.{ending.lstrip('.')}", broken(rng, data)))
        who.begin()
        _messages(fuzzed, rng, counts["messages"], who)
        for sort, pids in site.processes().items():
            for pid in pids:
                held = int(Path(f"/proc/{pid}/statm").read_text().split()[1]) * resource.getpagesize()
                if held > MEMORY and sort != "postgres":
                    fuzzed.found("routes", f"a {sort} process holds {held >> 20} MB", pid)
        for pid, command in site.left_behind().items():
            fuzzed.found("routes", "a process was left behind", f"{pid} {command}")
    finally:
        site.close()


def _messages(fuzzed: Fuzzed, rng: random.Random, count: int, who: Nuisance) -> None:
    line, curves = who.line(), [c["id"] for c in who.ask(f"/sketches/{who.sketch}")["curves"]]
    refs = [*curves, *(f"{c}.{end}" for c in curves for end in ("start", "end"))]

    def said(text: str, number: int) -> bool:
        line.send(text)
        told = json.loads(line.receive(timeout=LIMITS["messages"]) or "null")
        if not isinstance(told, dict) or ("n" in told and told["n"] not in (number, None)):
            fuzzed.found("messages", "no answer of its own", text)
        return isinstance(told, dict) and "message" not in told

    for number in range(1, count + 1):
        do = rng.choice(["grab", "to", "drop", "dimension", "preview", "stretch", "nothing"])
        at = [rng.uniform(-50, 50), rng.uniform(-50, 50)]
        draw = {"tool": rng.choice(["line", "circle", "rectangle", "arc"]), "places": [{"at": at}, {"at": [3, 4]}]}
        likely = {"do": do, "ref": rng.choice(refs), "at": at, "on": rng.sample(refs, 2), "rim": "", "draw": draw}
        raw = rng.choice([nudged(rng, likely), mutated(rng, likely), rng.choice(JUNK)])
        if isinstance(raw, dict) and rng.random() < 0.9:
            raw = {**raw, "n": number}
        text = json.dumps(raw)
        try:
            _try(fuzzed, "messages", text, partial(said, text, number))
        except (simple_websocket.ConnectionClosed, OSError, http.client.HTTPException):
            line = who.line()


def fuzz(inputs: int, seed: int) -> Fuzzed:
    """So many inputs of all sorts."""
    rng, fuzzed = random.Random(seed), Fuzzed()
    counts = {sort: max(1, round(inputs * share)) for sort, share in SHARES.items()}
    _in_process(fuzzed, rng, counts)
    with tempfile.TemporaryDirectory(prefix="lathe-fuzz-") as folder:
        _served(fuzzed, rng, counts, Path(folder))
    return fuzzed
