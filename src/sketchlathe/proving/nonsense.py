"""What is sent to the doors: things that are nearly right, and things that are not at all."""

from __future__ import annotations

import random
import re
from typing import Any

from ..core.model.edits import EDITS
from ..core.registry import kind_of
from ..core.sketch.constraints import CONSTRAINTS
from ..core.sketch.tools import TOOLS

_WORDS = ["wall", "depth", "sin", "sqrt", "max", "min", "round", "mm", "in", "deg", "rad", "pi", "π", "e", "cm", "x"]
_SIGNS = [*"+-*/^(),.%#=<>!&|[]{}\"'\\;:? \t\n°′″½µ\u202e\0", "**", "//", "1e308", "0x", "--", "9" * 40]
JUNK: list[Any] = [
    None, True, -1, 0, 3, 0.5, 1e308, -1e-308, 2**70, "", "x" * 2000, "\u202e", "NaN", "p1", "s1", "c1.centre", [], {},
    [[]], {"kind": "line"}, "1/0", "10 mm", "\0", "é", ["p1", "p1"], {"at": [0, 0]}, [1, 2], [0.0, 0.0, 1.0], "top",
]  # fmt: skip


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


_KINDS: dict[str, list[Any]] = {
    "formula": ["3 mm", "12.5", "1/0", "wall*2", "30 deg", "0"], "value": ["3 mm", "20", "0", "-4", "45 deg", "7"],
    "name": ["wall", "n", "rim", "é x", ""], "to": [0, 1, 2, 99, "rim"],
    "now": [0, 1, None, 99], "count": [2, 3, 0, 500],
    "radius": ["2 mm", "0.5", "400", "0"], "size": ["1 mm", "300"], "distance": ["2 mm", "-2 mm", "90"],
    "factor": [2.0, 0.5, -1.0, 0.0], "turn": ["30 deg", "0", ""], "units": ["mm", "in", "cm", "m"],
    "sizes": [[], ["20 mm"]],
    "sort": ["length", "angle", "number", "part", "together", "sheet"], "about": [[0, 0], [10, 5], "origin", "x_axis"],
    "axis": ["x_axis", "y_axis", "c1"], "side": [[0, 0], [100, 100]], "by": [[5, 5]], "at": [[3, 4], [0, 0]],
    "construction": [True, False], "driving": [True, False], "way": ["", "aligned", "across", "along"],
    "with_users": [True, False], "leave_users": [True, False], "skipped": [True, False], "copied": [True, False],
    "what": ["volume", "area", "mass", "box", "centre"], "text": ["20 cm³", "60 x 40 x 20", "1,2,3", "x"],
    "tolerance": ["", "1 %"], "material": ["pla", "steel", "none"], "colour": ["#aabbcc", "red"], "density": [1.2, 0.0],
    "start": ["0", "1", [0, 0]], "end": ["6", "0"], "x": ["t", "10*cos(t)", "1/t"], "y": ["t^2", "10*sin(t)"],
    "form": ["spline", "lines", "points"], "low": ["", "2 mm"], "high": ["", "9 mm"], "finding": ["gap", "double"],
    "options": [{}], "fields": [{}],
}  # fmt: skip


_OF_ALL_STEPS = {"id", "kind", "name", "skipped", "sketch", "taken", "underlay", "plots"}


def an_edit(rng: random.Random, model: dict[str, Any]) -> dict[str, Any]:
    """An edit of some kind, its fields filled from what there is in a model, or now and then with nonsense."""
    kind = rng.choice(list(EDITS))
    known = {**_KINDS, **_there(rng, model)}
    raw: dict[str, Any] = {"kind": kind_of(kind)}
    for name, one in kind.model_fields.items():
        if name == "kind" or (not one.is_required() and rng.random() < 0.5):
            continue
        raw[name] = rng.choice(known[name]) if name in known and rng.random() < 0.94 else rng.choice(JUNK)
    return raw


def _there(rng: random.Random, model: dict[str, Any]) -> dict[str, list[Any]]:
    """What the fields of edits can mean in a model."""
    parts = model.get("parts") or [{}]
    steps = [s for p in parts for s in p.get("steps", ())] or [{"id": "s1", "kind": "sketch"}]
    drawn = rng.choice([s for s in steps if s.get("sketch")] or steps)
    sketch = drawn.get("sketch") if isinstance(drawn.get("sketch"), dict) else {}
    drawn_curves = sketch.get("curves", ()) if sketch else ()
    curves = [c["id"] for c in drawn_curves] or ["c1", "c2"]
    points = [f"{c['id']}.{name}" for c in drawn_curves for name, at in c.items() if _is_place(at)] or ["c1.end"]
    marks = [k["id"] for k in sketch.get("constraints", ())] if sketch else []

    def some(ids: list[str]) -> list[str]:
        return rng.sample(ids, rng.randint(1, min(3, len(ids)))) if ids else ["k1"]

    def spot() -> list[float]:
        return [rng.uniform(-40, 40), rng.uniform(-40, 40)]

    like = rng.choice(steps)
    own = {name: value for name, value in like.items() if name not in _OF_ALL_STEPS}
    stretch = {"id": rng.choice(curves), "at": spot()}
    return {
        "part": [p.get("id", "p1") for p in parts],
        "sketch": [drawn.get("id", "s1")],
        "ids": [some(curves), some(marks)],
        "step": [like.get("id"), like.get("kind"), "extrude", "fillet", "sketch"],
        "id": [*some(marks), "v1", "m1"],
        "on": [some(curves), some(points), [rng.choice(points), rng.choice(curves)]],
        "tool": [kind_of(tool) for tool in TOOLS],
        "constraint": [kind_of(constraint) for constraint in CONSTRAINTS],
        "places": [[{"at": spot()} for _ in range(rng.randint(1, 4))]],
        "curve": [stretch],
        "stretches": [[stretch]],
        "fields": [own, nudged(rng, own), {}],
        "curves": [{rng.choice(curves): {"start": spot()}}],
        "variant": ["v1"],
        "knob": ["p:wall", "s1.distance"],
        "body": [like.get("id")],
        "others": [[]],
    }


def _is_place(value: Any) -> bool:
    return isinstance(value, list | tuple) and len(value) == 2 and all(isinstance(v, int | float) for v in value)
