"""Bodies placed over several steps: stacks, hinges, sliders, linkages; what holds, what is free, what contradicts is
known by construction.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from typing import Any

from tests.hand import Hand

from sketchlathe.core.solid.digest import digest, pick_of_face
from sketchlathe.core.solid.measuring import box_of

UP, DOWN = (0.0, 0.0, 1.0), (0.0, 0.0, -1.0)


class Placing(Hand):
    """A hand that picks faces of bodies by what they are."""

    def body(self, id: str) -> Any:
        return next(b for b in self.build().bodies if b.id.split(".")[0] == id)

    def flat(self, id: str, way: tuple[float, float, float]) -> dict[str, Any]:
        """The flat face of a body that looks a way, farthest along it."""
        body = self.body(id)
        found = [
            (sum(c * w for c, w in zip(f.centre, way)), i)
            for i, f in enumerate(digest(body).faces)
            if f.form == "flat" and f.frame and math.dist(f.frame.normal, way) < 1e-6
        ]
        return {"face": pick_of_face(body, max(found)[1])}

    def round_at(self, id: str, x: float, y: float) -> dict[str, Any]:
        """The round face of a body whose axis passes nearest to a place in the top view."""
        body = self.body(id)
        found = [
            (math.dist(f.centre[:2], (x, y)), i) for i, f in enumerate(digest(body).faces) if f.form == "cylindrical"
        ]
        return {"face": pick_of_face(body, min(found)[1])}

    def axes(self, id: str) -> list[tuple[float, float]]:
        """Where the round faces of a body are in the top view."""
        return sorted({(round(f.centre[0], 7), round(f.centre[1], 7))
                       for f in digest(self.body(id)).faces if f.form == "cylindrical"})  # fmt: skip

    def block(self, w: float, d: float, h: float, x: float = 0, y: float = 0, z: float = 0) -> str:
        fields = {"width": w, "depth": d, "height": h, "x": x, "y": y, "z": z}
        return self.step("block", result="separate", **{k: f"{v} mm" for k, v in fields.items()})

    def bar(self, long: float, x: float, y: float) -> str:
        """A bar of 4 mm with a hole at each end, so far apart, lying along x; its first hole at a place."""
        made = self.block(long + 12, 12, 4, x - 6, y - 6)
        for at in (x, x + long):
            self.step(
                "block", shape="cylinder", diameter="5 mm", height="4 mm", x=f"{at} mm", y=f"{y} mm", result="cut"
            )
        return made

    def low(self, id: str) -> float:
        return box_of(self.body(id).shape)[0][2]

    def ok(self) -> bool:
        return all(r.status == "ok" for r in self.build().steps)


Judge = Callable[[random.Random], str]
"""Empty where all is right, else what is wrong."""


def stack(rng: random.Random) -> str:
    """Blocks on each other with gaps; the lowest is placed last, and all go along."""
    m = Placing()
    heights = [rng.randint(3, 20) for _ in range(rng.randint(3, 5))]
    gaps = [rng.randint(0, 5) for _ in heights]
    table = m.block(80, 80, 7, 150, 0)
    ids = [m.block(20, 20, h, 40 * k) for k, h in enumerate(heights)]
    for low, high, gap in zip(ids, ids[1:], gaps[1:]):
        m.step("place", a=m.flat(high, DOWN), how="against", b=m.flat(low, UP), gap=f"{gap} mm")
    m.step("place", a=m.flat(ids[0], DOWN), how="against", b=m.flat(table, UP), gap=f"{gaps[0]} mm")
    at, wrong = 7.0, []
    for id, h, gap in zip(ids, heights, gaps):
        at += gap
        if abs(m.low(id) - at) > 1e-6:
            wrong.append(f"{id} at {m.low(id)}, not {at}")
        at += h
    return "; ".join(wrong) if m.ok() else "; ".join(m.messages())


def contradicted(rng: random.Random) -> str:
    """The same two faces with two gaps, in two steps."""
    m = Placing()
    can, lid = m.block(40, 40, rng.randint(10, 40)), m.block(40, 40, 4, 80)
    gap, other = rng.sample(range(6), 2)
    first = m.step("place", a=m.flat(lid, DOWN), how="against", b=m.flat(can, UP), gap=f"{gap} mm")
    second = m.step("place", a=m.flat(lid, DOWN), how="against", b=m.flat(can, UP), gap=f"{other} mm")
    built = m.build()
    if built.steps[-1].status != "failed":
        return "two gaps at once"
    said = built.steps[-1].message
    if m.model.title_of(first) not in said or "cannot hold together" not in said:
        return said
    if not any(e["kind"] == "skip_step" and e["step"] == first for a in built.steps[-1].advice for e in a.edits):
        return "no way out"
    m.do("skip_step", step=first, skipped=True)
    if m.messages():
        return f"{second}: {m.messages()}"
    top = box_of(m.body(can).shape)[1][2]
    return "" if abs(m.low(lid) - top - other) < 1e-6 else "not where the second says"


def seated(rng: random.Random) -> str:
    """Against in one step, on in the next: it goes to the axis and stays on its seat, free only to turn."""
    m = Placing()
    high = rng.randint(10, 50)
    can = m.step("block", shape="cylinder", diameter="60 mm", height=f"{high} mm", result="separate")
    lid = m.step("block", shape="cylinder", diameter="60 mm", height="4 mm", x=f"{rng.randint(70, 99)} mm", y="5 mm",
                 z="9 mm", result="separate")  # fmt: skip
    sits = m.step("place", a=m.flat(lid, DOWN), how="against", b=m.flat(can, UP), gap="1 mm")
    on = m.step("place", a=m.round_at(lid, 80, 5), how="on", b=m.round_at(can, 0, 0))
    if not m.ok():
        return "; ".join(m.messages())
    if abs(m.low(lid) - high - 1) > 1e-6 or math.hypot(*m.axes(lid)[0]) > 1e-6:
        return f"at {m.axes(lid)}, {m.low(lid)}"
    free = m.build().free
    want = "may still turn about an axis (z)"
    return "" if free[sits] == free[on] == want else f"{free}"


def hinge(rng: random.Random) -> str:
    """A leaf on a pin, then turned by a number, then held by a stop in a third step."""
    m = Placing()
    long, angle = rng.randint(30, 60), rng.randint(-80, 80)
    base, leaf = m.bar(40, 0, 0), m.bar(long, 100, 30)
    m.step("place", a=m.flat(leaf, DOWN), how="against", b=m.flat(base, UP))
    on = m.step("place", a=m.round_at(leaf, 100, 30), how="on", b=m.round_at(base, 40, 0), turn=f"{angle} deg")
    if not m.ok():
        return "; ".join(m.messages())
    holes = m.axes(leaf)
    pivot, far = sorted(holes, key=lambda p: math.dist(p, (40, 0)))
    turned = math.degrees(math.atan2(far[1] - pivot[1], far[0] - pivot[0]))
    if math.dist(pivot, (40, 0)) > 1e-6 or abs((turned - angle + 180) % 360 - 180) > 1e-5:
        return f"{holes}, {turned} for {angle}"
    if m.build().free[on]:
        return f"held, and yet it {m.build().free[on]}"
    m.do("set_fields", step=on, fields={"turn": ""})
    if m.build().free[on] != "may still turn about an axis (z)":
        return m.build().free[on]
    # a side of the leaf against a wall: then nothing is left
    wall = m.block(5, 300, 40, 200 + long)
    m.step("place", a=m.flat(leaf, (1.0, 0.0, 0.0)), how="parallel", b=m.flat(wall, (-1.0, 0.0, 0.0)))
    return "" if m.ok() and m.build().free[on] == "" else f"{m.messages()} {m.build().free}"


def slider(rng: random.Random) -> str:
    """A carriage on a rail by two faces, one a step: it may slide, by so much, and not off its faces."""
    m = Placing()
    by = rng.randint(-30, 30)
    rail, carriage = m.block(200, 20, 10), m.block(30, 20, 12, rng.randint(-40, 40), 70, 33)
    before = box_of(m.body(carriage).shape)[0][0]
    m.step("place", a=m.flat(carriage, DOWN), how="against", b=m.flat(rail, UP))
    side = m.step("place", a=m.flat(carriage, (0.0, 1.0, 0.0)), how="flush", b=m.flat(rail, (0.0, 1.0, 0.0)))
    if not m.ok() or m.build().free[side] != "may still slide along x":
        return f"{m.messages()} {m.build().free}"
    m.do("set_fields", step=side, fields={"slide": f"{by} mm"})
    low, high = box_of(m.body(carriage).shape)
    right = math.dist((low[0], high[1], low[2]), (before + by, 20, 10)) < 1e-6
    return "" if right and m.ok() else f"{low} {high} {m.messages()}"


def four_bars(rng: random.Random) -> str:
    """Four bars that hang together by four pins; the last closes the chain, and all of it moves with one number."""
    m = Placing()
    ground, crank = rng.randint(50, 70), rng.randint(18, 26)
    coupler, rocker = rng.randint(50, 70), rng.randint(40, 60)
    g, c, k, r = m.bar(ground, 0, 0), m.bar(crank, 10, 60), m.bar(coupler, 20, 90), m.bar(rocker, 30, 120)
    for bar, under in ((c, g), (k, c), (r, g)):
        m.step("place", a=m.flat(bar, DOWN), how="against", b=m.flat(under, UP))
    turns = m.step("place", a=m.round_at(c, 10, 60), how="on", b=m.round_at(g, 0, 0))
    out = max(m.axes(c), key=lambda p: math.dist(p, (0, 0)))
    m.step("place", a=m.round_at(k, 20, 90), how="on", b=m.round_at(c, *out))
    m.step("place", a=m.round_at(r, 30, 120), how="on", b=m.round_at(g, ground, 0))
    ends = [max(m.axes(id), key=lambda p, o=o: math.dist(p, o)) for id, o in ((r, (ground, 0)), (k, out))]  # type: ignore[misc]
    last = m.step("place", a=m.round_at(r, *ends[0]), how="on", b=m.round_at(k, *ends[1]))

    def joined() -> str:
        if not m.ok():
            return "; ".join(m.messages())
        pin = max(m.axes(c), key=lambda p: math.dist(p, (0, 0)))
        far = max(m.axes(r), key=lambda p: math.dist(p, (ground, 0)))
        sizes = (math.hypot(*pin), math.dist(pin, far), math.dist(far, (ground, 0)))
        off = max(abs(a - b) for a, b in zip(sizes, (crank, coupler, rocker)))
        on = min(math.dist(far, p) for p in m.axes(k))
        return "" if max(off, on) < 1e-6 else f"pins at {pin} and {far}: {sizes}"

    if wrong := joined():
        return wrong
    if m.build().free[last] != "may still turn about an axis (z)":
        return f"free: {m.build().free}"
    for angle in (20, 45):
        m.do("set_fields", step=turns, fields={"turn": f"{angle} deg"})
        if wrong := joined():
            return f"turned by {angle}: {wrong}"
    # too short a coupler cannot reach: all of the chain has part in it
    return ""


def full(rng: random.Random) -> str:
    """Relations until nothing can move, then one more that holds, and one that does not."""
    m = Placing()
    one, two = m.block(30, 30, 10), m.block(20, 20, 10, 90, 5, 3)
    gaps = [rng.randint(0, 9) for _ in range(3)]
    ways = (UP, (1.0, 0.0, 0.0), (0.0, 1.0, 0.0))
    last = ""
    for way, gap in zip(ways, gaps):
        last = m.step("place", a=m.flat(two, way), how="flush", b=m.flat(one, way), gap=f"{gap} mm")
    if not m.ok() or m.build().free[last]:
        return f"{m.messages()} {m.build().free}"
    m.step("place", a=m.flat(two, UP), how="parallel", b=m.flat(one, DOWN))
    if not m.ok():
        return f"what holds was refused: {m.messages()}"
    m.step("place", a=m.flat(two, UP), how="flush", b=m.flat(one, UP), gap=f"{gaps[0] + 1} mm")
    said = m.messages()
    return "" if len(said) == 1 and said[0].count("“") == 2 else f"{said}"


def taken_back(rng: random.Random) -> str:
    """What was moved away since by another step is not held any more."""
    m = Placing()
    can, lid = m.block(40, 40, 20), m.block(40, 40, 4, 80)
    m.step("place", a=m.flat(lid, DOWN), how="against", b=m.flat(can, UP))
    up = rng.randint(3, 30)
    m.step("move", bodies=[m.body(lid).id], dz=f"{up} mm")
    m.step("place", a=m.flat(lid, (1.0, 0.0, 0.0)), how="flush", b=m.flat(can, (1.0, 0.0, 0.0)))
    if not m.ok():
        return "; ".join(m.messages())
    return "" if abs(m.low(lid) - 20 - up) < 1e-6 else f"at {m.low(lid)}"


FAMILIES: tuple[Judge, ...] = (stack, contradicted, seated, hinge, slider, four_bars, full, taken_back)


def judged(count: int) -> tuple[float, list[str]]:
    """The share of so many cases that are right (%), and what is wrong with the others."""
    wrong = []
    for seed in range(count):
        judge = FAMILIES[seed % len(FAMILIES)]
        if said := judge(random.Random(seed)):
            wrong.append(f"{judge.__name__} {seed}: {said}")
    return 100 * (1 - len(wrong) / count), wrong
