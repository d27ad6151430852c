"""What an edit of a long part costs, against the bare kernel calls of the steps that it touches."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from typing import Any

from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from tests.hand import ORIGIN, Hand

from sketchlathe.core.making.results import BuildCache, StepResult
from sketchlathe.core.model.building import build

from .measuring import Figure, seconds
from .solids import bare_boolean

PITCH = 10


def long_part(count: int) -> Hand:
    """A plate on which so many steps in all drill holes and set pegs, in turns."""
    hand, rows = Hand(), int(count**0.5) + 1
    base = hand.sketch("top")
    side = PITCH * rows
    hand.draw(base, "rectangle", ORIGIN, (side, side), sizes=(f"{side}", f"{side}"))
    hand.step("extrude", regions=hand.regions(base), distance="8")
    for i in range(count - 2):
        place = {"x": f"{PITCH * (i % rows) + 5}", "y": f"{PITCH * (i // rows) + 5}"}
        deed = {"z": "-1", "result": "cut"} if i % 2 else {"z": "1", "result": "add"}
        hand.step("block", shape="cylinder", diameter="6", height="20", **place, **deed)
    return hand


def _bare(results: list[StepResult], first: int) -> Callable[[], Any]:
    """The booleans of all steps from one on."""
    shape = results[first].before[0].shape
    tools = [
        (BRepAlgoAPI_Cut if r.tool_result == "cut" else BRepAlgoAPI_Fuse, r.tools[0].shape) for r in results[first:]
    ]

    def run() -> None:
        there = shape
        for kind, tool in tools:
            there = bare_boolean(kind, there, tool)

    return run


def figures(quick: bool) -> list[Figure]:
    """A part of 120 steps (quick: 40) built again, and changed at its end and in its middle."""
    count = 40 if quick else 120
    hand, cache = long_part(count), BuildCache()
    part = hand.model.parts[0].id

    def built() -> None:
        build(hand.model, hand.model.part(part), cache)

    sizes = itertools.count(1)

    def edited(number: int) -> float:
        size = 5 + next(sizes) / 100  # one that nobody has built yet
        hand.do("set_fields", step=hand.steps[number].id, fields={"diameter": f"{size}"})
        return seconds(built)

    cold = seconds(built)
    again = min(seconds(built) for _ in range(3))
    results = list(build(hand.model, hand.model.part(part), cache).steps)
    ends, middles = _bare(results, count - 1), _bare(results, count // 2)
    last = min(edited(count - 1) for _ in range(3)) / min(seconds(ends) for _ in range(3))
    middle = edited(count // 2) / seconds(middles)
    return [
        Figure(f"scale.again_ratio.k{count}", again / cold, 0.01),
        Figure(f"scale.last_ratio.k{count}", last, 2.0),
        Figure(f"scale.middle_ratio.k{count}", middle, 1.4),
    ]
