"""Warm is cold: whatever a worker has done before, it answers as a fresh process does.

A walk makes a part by chance in one warm cache: previews of steps that are not kept, other values and back, undo,
moves of the Now line, sketches that take edges, sections, meshes, print checks. Every answer on the way, and the same
document built by a process that has done nothing else, must agree: volume, area, centre, box, moments, names of faces
and edges, statuses.
"""

from __future__ import annotations

import contextlib
import itertools
import json
import math
import multiprocessing
import random
from collections.abc import Sequence
from typing import Any

from tests.hand import Hand, box

from sketchlathe.core.errors import Trouble
from sketchlathe.core.making.results import BuildCache, PartBuild
from sketchlathe.core.model.building import build
from sketchlathe.core.model.document import Model, read_model
from sketchlathe.forking import PRELOAD

CLOSE = 1e-9


def answer(built: PartBuild) -> dict[str, Any]:
    """Everything that is told of a built part."""
    from sketchlathe.core.solid.digest import name_text
    from sketchlathe.core.solid.edges import named_edges
    from sketchlathe.core.solid.measuring import measures

    bodies = []
    for body in built.bodies:
        m = measures(body.shape)
        edges = [[name_text(e.first), name_text(e.second), [sorted(end) for end in e.ends]] for e in named_edges(body)]
        bodies.append(
            {
                "id": body.id,
                "numbers": [m.volume, m.area, *m.centre, *m.box[0], *m.box[1], *m.moments],
                "size": math.dist(*m.box),
                "faces": [name_text(n) for n in body.names],
                "edges": edges,
            }
        )
    return {"bodies": bodies, "steps": [[r.step, r.status, r.message] for r in built.steps]}


def differences(one: dict[str, Any], other: dict[str, Any]) -> list[str]:
    """Where two answers differ, in words."""
    if one["steps"] != other["steps"]:
        return [f"statuses {one['steps']} {other['steps']}"]
    found = []
    if [b["id"] for b in one["bodies"]] != [b["id"] for b in other["bodies"]]:
        return ["other bodies"]
    for a, b in zip(one["bodies"], other["bodies"]):
        if a["faces"] != b["faces"] or a["edges"] != b["edges"]:
            found.append(f"{a['id']}: other names")
        size = max(a["size"], 1.0)
        scales = [a["numbers"][0], a["numbers"][1], *([size] * 9), *([a["numbers"][0] * size**2] * 6)]
        off = max(abs(x - y) / max(s, 1e-9) for x, y, s in zip(a["numbers"], b["numbers"], scales))
        if off > CLOSE:
            found.append(f"{a['id']}: numbers off by {off:.1e}")
    return found


def cold(documents: Sequence[str]) -> list[dict[str, Any]]:
    """Each document built with nothing kept (run in a process of its own)."""
    from sketchlathe.core.solid import kernel

    kernel.silence()
    found = []
    for text in documents:
        model = read_model(json.loads(text))
        found.append(answer(build(model, model.parts[0], BuildCache())))
    return found


class Walk:
    """One part, one warm cache, and what was answered on the way."""

    def __init__(self, seed: int) -> None:
        self.rng = random.Random(seed)
        self.hand = Hand()
        self.past: list[Model] = []
        self.asked: list[tuple[str, str, dict[str, Any]]] = []  # what was done, document, answer
        self._begin()

    def _begin(self) -> None:
        rng, hand = self.rng, self.hand
        hand.do("add_parameter", name="h", formula=f"{rng.randint(8, 20)} mm")
        corners = box(0, 0, rng.randint(30, 60), rng.randint(24, 40))
        hand.prism("top", corners, distance="h", **({"taper": "3 deg"} if rng.random() < 0.3 else {}))
        if rng.random() < 0.7:
            top = hand.face((0, 0, 1))
            hand.step("shell", faces=[top], thickness=str(rng.choice([1.5, 2, 3])))
        self.look("begun")

    def look(self, what: str) -> None:
        """Ask for everything, and remember the answer."""
        document = json.dumps(self.hand.model.as_json())
        self.asked.append((what, document, answer(self.hand.build())))

    def go(self, count: int) -> Walk:
        acts = (
            self.peg, self.peg, self.trim, self.ball, self.fillet, self.value_and_back, self.value_and_back,
            self.preview,
            self.undo, self.now_line, self.take, self.section, self.mesh, self.print, self.skip, self.mirror,
        )  # fmt: skip
        for _ in range(count):
            act = self.rng.choice(acts)
            self.past.append(self.hand.model)
            with contextlib.suppress(Trouble):
                act()
            self.look(act.__name__)
        return self

    def _place(self) -> tuple[float, float]:
        return self.rng.uniform(6, 24), self.rng.uniform(6, 18)

    def peg(self) -> None:
        """Pegs, round or with sides, that stand on the ground of what is there: they share faces with it."""
        x, y = self._place()
        tall, radius = f"{self.rng.randint(4, 24)} mm", self.rng.choice([2.0, 3.0, 5.0])
        if self.rng.random() < 0.4:
            self.hand.round("top", x, y, radius, distance=tall)
            return
        s = self.hand.sketch("top")
        sides = self.rng.randint(5, 11)
        self.hand.draw(s, "polygon", (x, y), (x + radius, y + 0.7), sides=sides, measured="corners")
        self.hand.step("extrude", regions=self.hand.regions(s), distance=tall)

    def trim(self) -> None:
        """A piece taken off by a slant or a curve, through walls and pegs."""
        s = self.hand.sketch("front")
        high = [self.rng.uniform(4, 12) for _ in range(4)]
        if self.rng.random() < 0.4:
            self.hand.polygon(s, (-70, high[0]), (90, high[1]), (90, 60), (-70, 60))
        else:
            at = [(-70.0, high[0]), (0.0, high[1]), (40.0, high[2]), (90.0, high[3])]
            self.hand.draw(s, "spline", *at)
            over = [at[-1], (90.0, 60.0), (-70.0, 60.0), at[0]]
            for a, b in itertools.pairwise(over):
                self.hand.draw(s, "line", a, b)
        self.hand.step("extrude", regions=self.hand.regions(s), reach="through", way="both", result="cut")

    def ball(self) -> None:
        """A ball, a ring or a turned cylinder taken off or put on."""
        x, y = self._place()
        shape = self.rng.choice(["sphere", "torus", "cylinder"])
        fields = (
            {"tube": "3"} if shape == "torus" else {"height": "30", "tilt": "37 deg"} if shape == "cylinder" else {}
        )
        result = self.rng.choice(["cut", "add"])
        self.hand.step("block", shape=shape, diameter="14", x=f"{x}", y=f"{y}", z="6", result=result, **fields)

    def fillet(self) -> None:
        from sketchlathe.core.solid.measuring import measures

        low, high = measures(self.hand.build().bodies[0].shape).box
        place = tuple(self.rng.uniform(l, h) for l, h in zip(low, high))
        kind = self.rng.choice(["fillet", "chamfer"])
        size = {"fillet": {"radius": "0.8 mm"}, "chamfer": {"size": "0.8 mm"}}[kind]
        self.hand.step(kind, edges=self.hand.edges(place), **size)

    def value_and_back(self) -> None:
        """The parameter taken to other values, looked at, and brought back."""
        was = self.hand.model.parameters[0].formula
        for _ in range(self.rng.randint(1, 3)):
            self.hand.do("set_parameter", name="h", formula=f"{self.rng.randint(6, 24)} mm")
            self.look("another value")
        if self.rng.random() < 0.7:
            self.hand.do("set_parameter", name="h", formula=was)

    def preview(self) -> None:
        """A step tried at several sizes, as while typing, and dropped."""
        kept = self.hand.model
        try:
            for distance in (3, 3.5, 35):
                self.hand.model = kept
                x, y = self._place()
                self.hand.round("top", x, y, 4.0, distance=f"{distance} mm", result=self.rng.choice(["add", "cut"]))
                answer(self.hand.build())
        finally:
            self.hand.model = kept

    def undo(self) -> None:
        self.hand.model = self.past[-self.rng.randint(1, min(4, len(self.past)))]

    def now_line(self) -> None:
        count = len(self.hand.steps)
        self.hand.do("set_now", part="p1", now=self.rng.randint(2, count))
        self.look("Now line")
        self.hand.do("set_now", part="p1", now=None)

    def take(self) -> None:
        """A sketch on a face that takes edges and a section."""
        from sketchlathe.core.solid.projecting import takeable

        s = self.hand.sketch(self.hand.face((0, 0, 1)))
        built = self.hand.build()
        state = built.steps[-1].sketch
        assert state is not None
        offers = [o for o in takeable(built.bodies, state.frame) if "edge" in o]
        if offers:
            chosen = self.rng.sample(offers, min(3, len(offers)))
            self.hand.do("take_curves", sketch=s, offers=[{"curve": o["curve"], "edge": o["edge"]} for o in chosen])

    def section(self) -> None:
        from sketchlathe.core.frames import Frame
        from sketchlathe.core.solid.sectioning import section

        plane = Frame((0.0, 0.0, self.rng.uniform(1, 10)), (1.0, 0.0, 0.0), (0.0, 0.0, 1.0))
        for body in self.hand.build().bodies:
            section(body, plane)

    def mesh(self) -> None:
        from sketchlathe.core.solid.meshing import for_export

        for body in self.hand.build().bodies:
            for_export(body.shape, self.rng.choice([0.01, 0.1]), 0.3)

    def print(self) -> None:
        from sketchlathe.core.printing import printable

        bodies = self.hand.build().bodies
        if bodies:
            printable.printable(bodies)

    def skip(self) -> None:
        step = self.rng.choice([s for s in self.hand.steps if s.makes_solid]).id
        self.hand.do("skip_step", step=step, skipped=True)
        self.look("skipped")
        self.hand.do("skip_step", step=step, skipped=False)

    def mirror(self) -> None:
        self.hand.step("mirror", plane={"plane": self.rng.choice(["front", "right"])})


def judged(seeds: Sequence[int], acts: int = 6) -> list[str]:
    """Walks whose answers differ from those of a fresh process, in words; each walk has a process of its own."""
    found = []
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(["tests.batteries.warm", PRELOAD])
    with context.Pool(1, maxtasksperchild=1) as pool:
        for seed in seeds:
            walk = Walk(seed).go(acts)
            fresh = pool.apply(cold, ([document for _, document, _ in walk.asked],))
            for number, ((what, _, told), again) in enumerate(zip(walk.asked, fresh)):
                off = differences(told, again)
                if off:
                    found.append(f"walk {seed}, {number} ({what}): {'; '.join(off)}")
                    break
    return found
