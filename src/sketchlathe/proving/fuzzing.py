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
from ..core.model.edits import EDITS, apply_edit, parse_edit
from ..core.quantity import LENGTH, Quantity, evaluate
from ..core.registry import kind_of
from ..demo import examples_folder
from .people import Visitor
from .site import Site

SHARES = {"formulas": 0.62, "models": 0.2, "edits": 0.08, "routes": 0.06, "messages": 0.02, "files": 0.02}
LIMITS = {"formulas": 1.0, "models": 10.0, "edits": 20.0, "routes": 30.0, "messages": 20.0, "files": 40.0}  # s
MEMORY = 3 << 30  # bytes that one process of ours may hold at the end

_WORDS = ["wall", "depth", "sin", "sqrt", "max", "min", "round", "mm", "in", "deg", "rad", "pi", "π", "e", "cm", "x"]
_SIGNS = [*"+-*/^(),.%#=<>!&|[]{}\"'\\;:? \t\n°′″½µ\u202e\0", "**", "//", "1e308", "0x", "--", "9" * 40]
JUNK: list[Any] = [
    None, True, -1, 0, 3, 0.5, 1e308, -1e-308, 2**70, "", "x" * 2000, "\u202e", "NaN", "p1", "s1", "c1.centre", [], {},
    [[]], {"kind": "line"}, "1/0", "10 mm", "\0", "é", ["p1", "p1"], {"at": [0, 0]}, [1, 2], [0.0, 0.0, 1.0], "top",
]  # fmt: skip


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


def a_formula(rng: random.Random) -> str:
    """A formula, or something that looks like one."""
    text = _sum(rng, rng.randint(0, 4))
    for _ in range(rng.choice([0, 0, 1, 2, 6])):
        at = rng.randrange(len(text) + 1)
        text = text[:at] + rng.choice(["", *_WORDS, *_SIGNS]) + text[at + rng.randint(0, 2) :]
    return text * 40 if rng.random() < 0.01 else text


def _sum(rng: random.Random, depth: int) -> str:
    unit = rng.choice(["", "", " mm", " in", " deg", "cm"])
    leaf = rng.choice([str(rng.randint(0, 99)), f"{rng.uniform(0, 500):.3f}", "1/2", "3 1/4", "wall", "depth", "pi"])
    if depth == 0:
        return leaf + (unit if leaf[0].isdigit() else "")
    one, other = _sum(rng, depth - 1), _sum(rng, rng.randint(0, depth - 1))
    return rng.choice([
        f"{one} + {other}", f"{one} - {other}", f"({one}) * {rng.randint(1, 9)}", f"({one}) / ({other})", f"-({one})",
        f"max({one}, {other})", f"min({one}, {other})", f"sqrt(({one}) * ({other}))", f"({one}) ^ {rng.randint(-3, 3)}",
    ])  # fmt: skip


def nudged(rng: random.Random, value: Any) -> Any:
    """Plain data with one number in it changed, or one name taken from elsewhere in it."""
    if isinstance(value, dict) and value:
        key = rng.choice(list(value))
        return {**value, key: nudged(rng, value[key])}
    if isinstance(value, list) and value:
        at = rng.randrange(len(value))
        return [*value[:at], nudged(rng, value[at]), *value[at + 1 :]]
    if isinstance(value, int | float) and not isinstance(value, bool):
        return rng.choice([0, -value, value * 10, value * 0.1, value + 1, value * 1e6, value * 1e-6])
    if isinstance(value, str) and (found := re.search(r"\d+(\.\d+)?", value)):
        new = rng.choice(["0", "1", "2", str(float(found[0]) * rng.choice([0.1, 0.9, 1.1, 3, 1e4])), f"-{found[0]}"])
        return value[: found.start()] + new + value[found.end() :]
    return value


def mutated(rng: random.Random, value: Any, depth: int = 0) -> Any:
    """Plain data with one thing in it that should not be there, or is not there any more."""
    if depth > 9 or rng.random() < 0.12:
        return rng.choice(JUNK)
    if isinstance(value, dict) and value:
        key = rng.choice(list(value))
        match rng.randint(0, 5):
            case 0:
                return {k: v for k, v in value.items() if k != key}
            case 1:
                return {**value, rng.choice(["kind", "id", "x", "", "formula"]): rng.choice(JUNK)}
        return {**value, key: mutated(rng, value[key], depth + 1)}
    if isinstance(value, list) and value:
        at = rng.randrange(len(value))
        match rng.randint(0, 4):
            case 0:
                return value[:at] + value[at + 1 :]
            case 1:
                return [*value, value[at]]
        return [*value[:at], mutated(rng, value[at], depth + 1), *value[at + 1 :]]
    if isinstance(value, str) and value and rng.random() < 0.5:
        at = rng.randrange(len(value))
        return value[:at] + rng.choice(["", "0", "s1", ":", "é", " ", "-"]) + value[at + 1 :]
    return rng.choice(JUNK)


def broken(rng: random.Random, data: bytes) -> bytes:
    """A file with some of it changed, cut, doubled or put elsewhere."""
    out = bytearray(data)
    for _ in range(rng.randint(1, 6)):
        if not out:
            break
        at, length = rng.randrange(len(out)), rng.randint(1, 40)
        match rng.randint(0, 5):
            case 0:
                out[at : at + length] = rng.randbytes(length)
            case 1:
                del out[at : at + length * rng.choice([1, 20])]
            case 2:
                out[at:at] = out[at : at + length] * rng.choice([1, 50])
            case 3:
                out[at:at] = str(rng.choice([10**12, -1, "1e400", "nan", 0])).encode()
            case 4:
                del out[at:]
            case 5:
                out[at] ^= 1 << rng.randrange(8)
    return bytes(out)


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

    def edited(model: Any, raw: Any) -> bool:
        apply_edit(model, parse_edit(raw))
        return True

    for _ in range(counts["edits"]):
        at = rng.randrange(len(models))
        raw = an_edit(rng, plain[at])
        _try(fuzzed, "edits", raw, partial(edited, models[at], raw))


def an_edit(rng: random.Random, model: dict[str, Any]) -> dict[str, Any]:
    """An edit of some kind, its fields filled from what there is in a model, or with nonsense."""
    kind = rng.choice(list(EDITS))
    parts = model.get("parts") or [{}]
    steps = [s.get("id") for p in parts for s in p.get("steps", ())] or ["s1"]
    likely: dict[str, list[Any]] = {
        "part": [p.get("id", "p1") for p in parts], "sketch": steps, "step": [*steps, "extrude", "fillet", "sketch"],
        "formula": ["3 mm", "1/0", "wall*2"], "name": ["wall", "n", "é x"], "index": [0, 1, 99],
        "fields": [{}, {"distance": "3 mm"}, {"radius": "0"}], "tool": ["line", "circle", "rectangle"],
        "places": [[{"at": [0, 0]}, {"at": [20, 10]}], [{"at": [1, 1]}]],
        "curves": [["c1"], ["c1", "c2"]], "on": [["c1", "c2"], ["c1.start", "c2.end"]],
    }  # fmt: skip
    raw: dict[str, Any] = {"kind": kind_of(kind)}
    for name in kind.model_fields:
        if name != "kind" and rng.random() < 0.85:
            raw[name] = rng.choice(likely[name]) if name in likely and rng.random() < 0.8 else rng.choice(JUNK)
    return raw


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
