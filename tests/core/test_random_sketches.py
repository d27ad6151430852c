"""Sketches made by chance: anything drawn, cut, rounded, copied and constrained in any order; then what always holds.

An edit is taken or refused with a sentence. After each that is taken the sketch satisfies all it says, its regions do
not overlap, it is the same after being written and read, and nothing in it is not a number.
"""

from __future__ import annotations

import json
import math
import random
from typing import Any

import pytest
from tests.hand import Hand

from sketchlathe.core.errors import Trouble
from sketchlathe.core.model.document import read_model
from sketchlathe.core.registry import kind_of
from sketchlathe.core.sketch.constraints import CONSTRAINTS
from sketchlathe.core.sketch.document import Sketch
from sketchlathe.core.sketch.regions import arrange
from sketchlathe.core.sketch.solver.compiling import compile_sketch
from sketchlathe.core.sketch.solver.freedom import freedom
from sketchlathe.core.sketch.tools import describe_tools

SEEDS = range(12)
TOOLS = [t for t in describe_tools() if not t["kind"].startswith("text")]
KINDS = sorted(kind_of(c) for c in CONSTRAINTS)


class Chance:
    """One random edit after the other on one sketch."""

    def __init__(self, seed: int) -> None:
        self.rng = random.Random(seed)
        self.hand = Hand()
        self.id = self.hand.sketch(self.rng.choice(["top", "front", "right"]))
        self.taken: list[str] = []
        self.refused: list[str] = []

    def place(self) -> tuple[float, float]:
        return round(self.rng.uniform(-40, 40), 2), round(self.rng.uniform(-40, 40), 2)

    def points(self) -> list[str]:
        return [f"{c.id}.{n}" for c in self.hand.curves(self.id) for n in c.points]

    def curves(self, count: int = 1) -> list[str]:
        ids = [c.id for c in self.hand.curves(self.id)]
        return self.rng.sample(ids, min(count, len(ids)))

    def thing(self) -> str:
        return self.rng.choice([*self.points(), *self.curves(50), "origin", "x_axis", "y_axis"])

    def pointed(self) -> dict[str, Any]:
        (id,) = self.curves()
        return {"id": id, "at": self.hand.evaluated(self.id).curve(id).anchor()[0]}

    def draw(self) -> None:
        tool = self.rng.choice(TOOLS)
        places = []
        for _ in tool["steps"]:
            known = [p for p in self.points() if self.hand.evaluated(self.id).tags_of(p)]
            if known and self.rng.random() < 0.35:
                ref = self.rng.choice(known)
                places.append({"at": self.hand.evaluated(self.id).point(ref), "snap": "end", "ref": ref})
            else:
                places.append({"at": self.place()})
        sizes = [f"{self.rng.randint(3, 30)}" if self.rng.random() < 0.3 else "" for _ in tool["sizes"]]
        self.do("draw", tool=tool["kind"], places=places, sizes=sizes, options={})

    def constrain(self) -> None:
        self.do(
            "add_constraint",
            constraint=self.rng.choice(KINDS),
            on=[self.thing() for _ in range(self.rng.randint(1, 3))],
        )

    def dimension(self) -> None:
        on = [self.thing() for _ in range(self.rng.randint(1, 2))]
        self.do("add_dimension", on=on, at=self.place(), value=self.rng.choice(["8", "15 mm", "1 in", "30", "22.5"]))

    def change(self) -> None:
        sizes = [k for k in self.hand.model.sketch_step(self.id).sketch.constraints if getattr(k, "value", "")]
        if sizes:
            self.do("set_dimension", id=self.rng.choice(sizes).id, value=f"{self.rng.randint(2, 40)}")

    def corner(self) -> None:
        self.do(
            self.rng.choice(["fillet_corner", "chamfer_corner"]),
            on=self.curves(2),
            **self.rng.choice([{"radius": "2"}, {"size": "2"}]),
        )

    def offset(self) -> None:
        self.do(
            "offset",
            ids=self.curves(self.rng.randint(1, 3)),
            side=self.place(),
            distance="2",
            both=self.rng.random() < 0.2,
        )

    def mirror(self) -> None:
        lines = [c.id for c in self.hand.curves(self.id) if "line" in c.tags]
        self.do("mirror_curves", ids=self.curves(2), axis=self.rng.choice(["x_axis", "y_axis", *lines]))

    def pattern(self) -> None:
        about = self.rng.choice(["origin", "x_axis"])
        self.do("pattern_curves", ids=self.curves(1), about=about, count=self.rng.randint(2, 4), step="12")

    def cut(self) -> None:
        kind = self.rng.choice(["trim", "split", "extend"])
        self.do(kind, **({"stretches": [self.pointed()]} if kind == "trim" else {"curve": self.pointed()}))

    def turn(self) -> None:
        places = {name: self.place() for name in ("start", "to", "about")}
        turn, factor = self.rng.choice(["0", "30", "90"]), self.rng.choice([1.0, 0.5, 2.0])
        copied = self.rng.random() < 0.5
        self.do("transform_curves", ids=self.curves(3), **places, turn=turn, factor=factor, copied=copied)

    def erase(self) -> None:
        self.do("delete_from_sketch", ids=self.curves(1))

    def construction(self) -> None:
        self.do("set_construction", ids=self.curves(1), construction=self.rng.random() < 0.5)

    def do(self, kind: str, **fields: Any) -> None:
        before = json.dumps(self.hand.model.as_json())
        try:
            self.hand.do(kind, sketch=self.id, **fields)
        except Trouble as problem:
            assert len(problem.message) > 10, (kind, problem.message)
            assert "None" not in problem.message, (kind, problem.message)
            assert json.dumps(self.hand.model.as_json()) == before
            self.refused.append(f"{kind}: {problem.message}")
            return
        self.taken.append(kind)
        self.check(kind)

    def check(self, kind: str) -> None:
        sketch, stored = self.hand.evaluated(self.id), self.hand.model.sketch_step(self.id).sketch
        assert type(stored) is Sketch and stored == sketch.plain(), f"values are stored after {kind}"
        numbers = [v for c in sketch.curves for n in c.points for v in c.place(n)]
        assert all(math.isfinite(v) and abs(v) < 1e6 for v in numbers), f"a place that is none after {kind}"
        system = compile_sketch(sketch)
        assert system.solved(system.start(system.rows.layout.values)), f"not satisfied after {kind}: {self.taken}"
        assert 0 <= freedom(sketch).count <= 2 * len(numbers)
        found = arrange(sketch.curves, sketch.size)
        assert all(r.area > 0 for r in found.regions)
        if numbers:
            high = [max(numbers[0::2]) - min(numbers[0::2]), max(numbers[1::2]) - min(numbers[1::2])]
            reach = 3 * (max(high) + sketch.size) + 1
            assert sum(r.area for r in found.regions) <= reach**2, "regions overlap"

    def go(self, count: int) -> Chance:
        self.draw()
        acts = [self.draw] * 5 + [self.constrain] * 4 + [self.dimension] * 3 + [self.cut] * 2
        acts += [
            self.change,
            self.corner,
            self.offset,
            self.mirror,
            self.pattern,
            self.turn,
            self.erase,
            self.construction,
        ]
        for _ in range(count):
            if self.hand.curves(self.id):
                self.rng.choice(acts)()
            else:
                self.draw()
        return self


@pytest.mark.parametrize("seed", SEEDS)
def test_a_random_session_keeps_its_word(seed) -> None:
    chance = Chance(seed).go(45)
    assert len(chance.taken) >= 10, chance.refused
    model = chance.hand.model
    again = read_model(json.loads(json.dumps(model.as_json())))
    assert again.as_json() == model.as_json()
    assert again.parts == model.parts
    # written and read it is solved as it stands: nothing moves
    there = Hand(again).evaluated(chance.id)
    system = compile_sketch(there)
    assert system.solved(system.start(system.rows.layout.values))
