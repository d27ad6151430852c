"""Picks of relations that survive change: parts placed by what touches what, their numbers changed, where they then
stand known by construction. Right: it stands there. Asked: the step says why not. Wrong: it stands elsewhere, silently.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from typing import Any

from tests.batteries.references import Numbers, Tally, note
from tests.hand import XYZ, Hand

from sketchlathe.core.solid.digest import digest, pick_of_face
from sketchlathe.core.solid.edges import edge_shape, middle_of, named_edges, pick_of
from sketchlathe.core.solid.measuring import box_of

Fields = dict[str, Any]


def _mm(**numbers: float) -> dict[str, str]:
    return {k: f"{v} mm" for k, v in numbers.items()}


def _base(n: Numbers) -> list[Fields]:
    """A block with a round hole through it and a notch in its rim."""
    return [
        {"kind": "block", **_mm(width=n["w"], depth=n["d"], height=n["h"])},
        {"kind": "block", "shape": "cylinder", "result": "cut",
         **_mm(diameter=n["r"], height=3 * n["h"], x=n["w"] * n["u"], y=n["d"] / 2, z=-n["h"])},
        {"kind": "block", "result": "cut", **_mm(width=2, depth=3, height=3 * n["h"], x=n["w"] * 0.1, z=-1)},
    ]  # fmt: skip


def _lid(n: Numbers) -> list[Fields]:
    far = {"x": 300.0, "y": 40.0, "z": 20.0}
    return [{"kind": "block", "result": "separate", **_mm(width=n["a"], depth=n["b"], height=n["c"], **far)}]


def _pin(n: Numbers) -> list[Fields]:
    far = {"x": 300.0, "y": 40.0, "z": 20.0}
    return [{"kind": "block", "shape": "cylinder", "result": "separate", **_mm(diameter=n["r"], height=n["c"], **far)}]


def _face(hand: Hand, step: str, way: XYZ | None = None) -> Fields:
    """The largest flat face of a body that looks a way, or its largest round one; as a browser stores it."""
    body = next(b for b in hand.build().bodies if b.id.split(".")[0] == step)
    fit = [
        (face.area, i)
        for i, face in enumerate(digest(body).faces)
        if (face.frame is not None and math.dist(face.frame.normal, way or (0, 0, 0)) < 1e-9)
        or (way is None and face.form == "cylindrical")
    ]
    return {"face": pick_of_face(body, max(fit)[1])}


def _rim(hand: Hand, step: str, at: XYZ) -> Fields:
    """The edge of a body whose middle lies there."""
    body = next(b for b in hand.build().bodies if b.id.split(".")[0] == step)
    edges = named_edges(body)
    return {"edge": pick_of(min(edges, key=lambda e: math.dist(middle_of(edge_shape(e)), at)), edges)}


DOWN, UP, RIGHT, BACK = (0, 0, -1), (0, 0, 1), (1, 0, 0), (0, 1, 0)


def _seated(hand: Hand, base: str, other: str, n: Numbers) -> Fields:
    return {
        "a": _face(hand, other, DOWN), "how": "against", "b": _face(hand, base, UP),
        "a2": _face(hand, other, RIGHT), "how2": "flush", "b2": _face(hand, base, RIGHT),
        "a3": _face(hand, other, BACK), "how3": "flush", "b3": _face(hand, base, BACK), "gap3": "1 mm",
    }  # fmt: skip


def _pinned(hand: Hand, base: str, other: str, n: Numbers) -> Fields:
    return {
        "a": _face(hand, other), "how": "on", "b": _face(hand, base),
        "a2": _face(hand, other, UP), "how2": "flush", "b2": _face(hand, base, UP),
    }  # fmt: skip


def _by_edges(hand: Hand, base: str, other: str, n: Numbers) -> Fields:
    low, _ = box_of(next(b for b in hand.build().bodies if b.id.split(".")[0] == other).shape)
    return {
        "a": _rim(hand, other, (low[0] + n["a"], low[1] + n["b"] / 2, low[2])), "how": "on",
        "b": _rim(hand, base, (n["w"], n["d"] / 2, n["h"])),
        "a2": _face(hand, other, DOWN), "how2": "against", "b2": _face(hand, base, UP),
        "a3": _face(hand, other, BACK), "how3": "flush", "b3": _face(hand, base, BACK),
    }  # fmt: skip


Where = Callable[[Numbers], XYZ]
FAMILIES: dict[str, tuple[Callable[[Numbers], list[Fields]], Callable[..., Fields], Where]] = {
    "seated": (_lid, _seated, lambda n: (n["w"] - n["a"], n["d"] - n["b"] + 1, n["h"])),
    "pinned": (_pin, _pinned, lambda n: (n["w"] * n["u"] - n["r"] / 2, n["d"] / 2 - n["r"] / 2, n["h"] - n["c"])),
    "by edges": (_lid, _by_edges, lambda n: (n["w"] - n["a"], n["d"] - n["b"], n["h"])),
}
SPANS = {
    "w": (30.0, 90.0), "d": (30.0, 70.0), "h": (8.0, 40.0), "r": (4.0, 9.0), "u": (0.3, 0.7),
    "a": (5.0, 60.0), "b": (5.0, 60.0), "c": (2.0, 30.0),
}  # fmt: skip


def judge(name: str, seed: int, tally: Tally) -> None:
    """One part placed with numbers A, then given numbers B, perhaps with a chamfer or a hole that comes in between."""
    rng = random.Random(f"{name}{seed}")
    before = {k: round(rng.uniform(*span), 3) for k, span in SPANS.items()}
    after = {k: round(rng.uniform(*span), 3) if rng.random() < 0.7 else before[k] for k, span in SPANS.items()}
    make, relate, where = FAMILIES[name]
    hand = Hand()
    steps = [hand.step(**fields) for fields in (*_base(before), *make(before))]
    base, other = steps[0], steps[-1]
    if rng.random() < 0.5:  # something else is cut away first
        spot = _mm(diameter=1.5, height=200, x=after["w"] * 0.9, y=after["d"] * 0.15, z=-50)
        hand.step("block", shape="cylinder", result="cut", **spot)
    place = hand.step("place", **relate(hand, base, other, before))
    for step, fields in zip(steps, (*_base(after), *make(after))):
        changed = {k: v for k, v in fields.items() if k not in ("kind", "shape", "result")}
        hand.do("set_fields", step=step, fields=changed)
    built = hand.build()
    (result,) = (r for r in built.steps if r.step == place)
    if result.status == "failed":
        tally.asked += 1
        note(tally, f"asked: {name} seed {seed}: {result.message}")
        return
    low, _ = box_of(next(b for b in built.bodies if b.id.split(".")[0] == other).shape)
    if math.dist(low, where(after)) < 1e-5:
        tally.right += 1
    else:
        tally.wrong += 1
        note(tally, f"wrong: {name} seed {seed}: {low} for {where(after)}")
