"""Picks that survive change: generated changes over parts whose meant edges and faces are known by construction.

A case is a part with numbers A, a pick made on it, and the part with numbers B (or with steps inserted). Right:
exactly the edges or faces meant. Asked: the pick is refused with a reason. Wrong: anything else, silently.
"""

from __future__ import annotations

import math
import random
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from tests.batteries.making import edge
from tests.hand import XYZ, Hand, box

from sketchlathe.core.blanks import EdgePick, FacePick
from sketchlathe.core.errors import CannotBuild
from sketchlathe.core.making.edge_references import find_edges
from sketchlathe.core.making.references import describe, find_faces
from sketchlathe.core.solid.digest import digest
from sketchlathe.core.solid.edges import edge_shape, middle_of, named_edges, pick_of

Numbers = dict[str, float]
Meant = Callable[[XYZ, Numbers], bool]


@dataclass(frozen=True)
class Family:
    """A part by its numbers, and what may be picked of it: ("edge" or "face", what is meant)."""

    name: str
    make: Callable[[Hand, Numbers], None]
    numbers: dict[str, tuple[float, float]]
    meant: tuple[tuple[str, Meant], ...]


def on(axis: int, value: Callable[[Numbers], float]) -> Meant:
    """The middle has this coordinate."""
    return lambda p, n: abs(p[axis] - value(n)) < 1e-5


def both(*tests: Meant) -> Meant:
    """All of some conditions."""
    return lambda p, n: all(t(p, n) for t in tests)


def zero(_: Numbers) -> float:
    return 0.0


def number(name: str) -> Callable[[Numbers], float]:
    return lambda n: n[name]


W, D, H = number("w"), number("d"), number("h")
BLOCK = {"w": (20.0, 90.0), "d": (20.0, 70.0), "h": (8.0, 40.0)}
TOP_EDGES: tuple[tuple[str, Meant], ...] = (
    ("edge", both(on(1, zero), on(2, H))),
    ("edge", both(on(1, D), on(2, H))),
    ("edge", both(on(0, zero), on(2, H))),
    ("edge", both(on(0, W), on(1, zero))),
    ("face", on(0, W)),
    ("face", on(1, D)),
)


def block(m: Hand, n: Numbers) -> None:
    m.prism("top", box(0, 0, n["w"], n["d"]), distance=f"{n['h']} mm")


def drilled(m: Hand, n: Numbers) -> None:
    block(m, n)
    m.round("top", n["w"] * n["u"], n["d"] * 0.5, 4, reach="through", result="cut")


def slotted(m: Hand, n: Numbers) -> None:
    block(m, n)
    m.prism("top", box(n["w"] * 0.4, -5, n["w"] * 0.2, n["d"] + 10),
            start=f"{n['h'] / 2} mm", distance=f"{n['h']} mm", result="cut")  # fmt: skip


def bossed(m: Hand, n: Numbers) -> None:
    block(m, n)
    m.round("top", n["w"] / 2, n["d"] / 2, n["r"], distance=f"{n['h'] + 10} mm")


def angled(m: Hand, n: Numbers) -> None:
    w, d = n["w"], n["d"]
    m.prism("top", [(0, 0), (w, 0), (w, d * 0.4), (w * 0.4, d * 0.4), (w * 0.4, d), (0, d)], distance=f"{n['h']} mm")


def disc(m: Hand, n: Numbers) -> None:
    m.round("top", 0, 0, n["r"], distance=f"{n['h']} mm")
    m.round("top", 0, 0, n["r"] / 2, reach="through", result="cut")


def notched(m: Hand, n: Numbers) -> None:
    block(m, n)
    m.prism("top", box(n["w"] * n["u"], -1, 5, 6), reach="through", result="cut")


def shelled(m: Hand, n: Numbers) -> None:
    block(m, n)
    top = next(name for b in m.build().bodies for name in b.names if any(a.endswith(":end") for a in name))
    m.step("shell", thickness="2 mm", faces=[{"atoms": sorted(top)}])


def sieve(m: Hand, n: Numbers) -> None:
    block(m, n)
    hole = m.round("top", 6, n["d"] / 2, 2, reach="through", result="cut")
    m.step("pattern", steps=[hole], form="row", axis={"axis": "x"}, count="3", spacing=f"{n['w'] / 4} mm")


def mirrored(m: Hand, n: Numbers) -> None:
    block(m, n)
    m.step("mirror", plane={"plane": "right"})


def shaft(m: Hand, n: Numbers) -> None:
    s = m.sketch("front")
    r, h = n["r"], n["h"]
    m.polygon(s, (0, 0), (r, 0), (r, h), (r / 2, h), (r / 2, 2 * h), (0, 2 * h))
    m.step("revolve", regions=m.regions(s), axis={"axis": "z"})


def stepped(m: Hand, n: Numbers) -> None:
    block(m, n)
    m.prism("top", box(0, 0, n["w"] / 2, n["d"]), distance=f"{n['h'] * 2} mm")


def crossed(m: Hand, n: Numbers) -> None:
    block(m, n)
    m.prism(
        "front", box(n["w"] * 0.3, n["h"] * 0.3, n["w"] * 0.2, n["h"] * 0.3), reach="through", way="both", result="cut"
    )


def swept_l(m: Hand, n: Numbers) -> None:
    """A square bar up and over."""
    s = m.sketch("top")
    a = n["r"]
    m.polygon(s, *box(-a / 2, -a / 2, a, a))
    p = m.sketch("front")
    (line,) = m.draw(p, "line", (0, 0, "origin", "origin"), (0, n["h"]))[:1]
    m.draw(p, "line", (0, n["h"], "end", f"{line}.end"), (n["w"], n["h"]))
    m.step("sweep", regions=m.regions(s), path=[{"sketch": p, "curve": line}])


def lofted(m: Hand, n: Numbers) -> None:
    """A stump of a pyramid, half as wide at its top."""
    picks = []
    for z, k in ((0.0, 1.0), (n["h"], 0.5)):
        at = m.step("datum", form="offset", plane={"plane": "top"}, offset=f"{z}") if z else ""
        s = m.sketch({"datum": at} if at else "top")
        m.polygon(s, *box(-k * n["w"] / 2, -k * n["d"] / 2, k * n["w"], k * n["d"]))
        picks += m.regions(s)
    m.step("loft", regions=picks)


def drafted(m: Hand, n: Numbers) -> None:
    block(m, n)
    m.step("draft", faces=[m.face((1, 0, 0))], angle="4 deg")


def leaning(n: Numbers) -> float:
    return n["w"] - n["h"] * math.tan(math.radians(4))


def tilted(m: Hand, n: Numbers) -> None:
    """A side turned outwards about its lower edge."""
    block(m, n)
    lower = edge(m, (n["w"], n["d"] / 2, 0.0))
    m.step("tilt", face=[m.face((1, 0, 0))], axis={"edge": lower}, angle="4 deg")


def spreading(n: Numbers) -> float:
    return n["w"] + n["h"] * math.tan(math.radians(4))


def stretched(m: Hand, n: Numbers) -> None:
    """A drilled block drawn out to half its width and thrice its height."""
    drilled(m, n)
    m.step("move", how="scale", bodies=[m.build().bodies[0].id], factor="0.5", along_y="1", along_z="3")


def footed(m: Hand, n: Numbers) -> None:
    block(m, n)
    m.step("foot", size="0.5")


def dovetailed(m: Hand, n: Numbers) -> None:
    """A bar in two with tongues; its number moves both ends."""
    m.step("block", width=f"{n['w'] + 60}", depth=f"{n['d']}", height="20")
    at = m.step("datum", form="offset", plane={"plane": "right"}, offset=f"{(n['w'] + 60) / 2}")
    m.step("split", plane={"datum": at}, joint="dovetails", across="6", deep="3")


def pushed(m: Hand, n: Numbers) -> None:
    drilled(m, n)
    m.step("push", faces=[m.face((0, 1, 0))], by=f"{n['r']}")


def healed(m: Hand, n: Numbers) -> None:
    notched(m, n)
    m.round("top", n["w"] * 0.8, n["d"] * 0.7, 2, reach="through", result="cut")
    m.step("heal", faces=[m.face_where("", "cylindrical")])


def ribbed(m: Hand, n: Numbers) -> None:
    """A rib across the inner corner of an angle, from 3/4 of one leg to 3/4 of the other."""
    w, h = n["w"], n["h"]
    m.prism("front", [(0, 0), (w, 0), (w, 3), (3, 3), (3, h), (0, h)], distance="20 mm", way="both")
    s = m.sketch("front")
    a, b = 3 + 0.75 * (w - 3), 3 + 0.75 * (h - 3)
    (line,) = m.draw(s, "line", (3 + 0.2 * (a - 3), b - 0.2 * (b - 3)), (3 + 0.8 * (a - 3), b - 0.8 * (b - 3)))[:1]
    m.step("rib", curve={"sketch": s, "curve": line}, thickness="2 mm")


def across_rib(p: XYZ, n: Numbers) -> bool:
    """The middle of the rib's slope."""
    x, z = 3 + 0.375 * (n["w"] - 3), 3 + 0.375 * (n["h"] - 3)
    return abs(p[0] - x) < 1e-4 and abs(p[2] - z) < 1e-4


def nutted(m: Hand, n: Numbers) -> None:
    block(m, n)
    m.step("nut_pocket", at="face", face=[m.face((0, 0, 1))], size="M3", play="0.2 mm")


def bolted(m: Hand, n: Numbers) -> None:
    """A threaded rod on a block."""
    w, d, h = n["w"], n["d"], n["h"]
    m.step("block", width=f"{w}", depth=f"{d}", height=f"{h}")
    m.step("block", shape="cylinder", diameter="8", height="12", x=f"{w / 2}", y=f"{d / 2}", z=f"{h}")
    m.step("thread", face=[m.face_where("", "cylindrical")], size="M8")


def embossed(m: Hand, n: Numbers) -> None:
    """A bar raised round a rod."""
    m.step("block", shape="cylinder", diameter=f"{2 * n['r'] + 10}", height=f"{n['h'] + 10}")
    side = m.face_where("", "cylindrical")
    s = m.sketch("front")
    m.polygon(s, *box(-2, 2, 4, 3))
    m.step("emboss", regions=m.regions(s), face=[side], height="1 mm")


def split_pinned(m: Hand, n: Numbers) -> None:
    m.step("block", width=f"{n['w'] + 60}", depth=f"{n['d']}", height="20")
    at = m.step("datum", form="offset", plane={"plane": "right"}, offset=f"{n['w'] / 2 + 30}")
    m.step("split", plane={"datum": at}, joint="pegs")


U = {"u": (0.2, 0.7)}
R = {"r": (4.0, 9.0)}
FAMILIES: tuple[Family, ...] = (
    Family("block", block, BLOCK, TOP_EDGES),
    Family("drilled", drilled, BLOCK | U, (
        *TOP_EDGES,
        ("edge", both(on(2, H), lambda p, n: abs(math.dist(p[:2], (n["w"] * n["u"], n["d"] / 2)) - 4) < 1e-4)))),
    Family("slotted", slotted, BLOCK, (
        TOP_EDGES[3], TOP_EDGES[4], ("edge", both(on(0, lambda n: n["w"] * 0.4), on(2, H))),
        ("face", on(0, lambda n: n["w"] * 0.6)))),
    Family("bossed", bossed, BLOCK | R, (*TOP_EDGES, ("face", on(2, lambda n: n["h"] + 10)))),
    Family("angled", angled, BLOCK, (
        TOP_EDGES[0], TOP_EDGES[2], ("edge", both(on(1, lambda n: n["d"] * 0.4), on(2, H))),
        ("face", on(0, lambda n: n["w"] * 0.4)))),
    Family("disc", disc, {"r": (8.0, 60.0), "h": (4.0, 30.0)}, (
        ("edge", both(on(2, H), lambda p, n: abs(math.hypot(p[0], p[1]) - n["r"]) < 1e-4)),
        ("edge", both(on(2, zero), lambda p, n: abs(math.hypot(p[0], p[1]) - n["r"] / 2) < 1e-4)))),
    Family("notched", notched, BLOCK | U, (
        TOP_EDGES[1], TOP_EDGES[2], TOP_EDGES[0], ("edge", both(on(0, lambda n: n["w"] * n["u"]), on(2, H))))),
    Family("shelled", shelled, BLOCK, (
        TOP_EDGES[0], TOP_EDGES[3], ("face", on(0, lambda n: n["w"] - 2)),
        ("edge", both(on(1, lambda n: 2.0), on(2, H))))),
    Family("sieve", sieve, BLOCK, (*TOP_EDGES,)),
    Family("mirrored", mirrored, BLOCK, (
        TOP_EDGES[3], ("edge", both(on(0, lambda n: -n["w"]), on(1, zero))), ("face", on(0, lambda n: -n["w"])))),
    Family("shaft", shaft, {"r": (4.0, 30.0), "h": (5.0, 40.0)}, (
        ("edge", both(on(2, H), lambda p, n: abs(math.hypot(p[0], p[1]) - n["r"]) < 1e-4)),
        ("face", on(2, lambda n: 2 * n["h"])))),
    Family("stepped", stepped, BLOCK, (
        TOP_EDGES[3], ("edge", both(on(0, W), on(2, H))), ("face", both(on(2, H), lambda p, n: p[0] > n["w"] / 2)),
                                      ("edge", both(on(0, lambda n: n["w"] / 2), on(2, lambda n: 2 * n["h"]))))),
    Family("crossed", crossed, BLOCK, (
        TOP_EDGES[0], TOP_EDGES[1], ("edge", both(on(0, lambda n: n["w"] * 0.3), on(2, lambda n: n["h"] * 0.3))))),
)  # fmt: skip


NEWER: tuple[Family, ...] = (
    Family("swept", swept_l, {"r": (3.0, 7.0), "h": (15.0, 40.0), "w": (20.0, 60.0), "d": (20.0, 60.0)}, (
        ("face", on(0, W)), ("edge", both(on(0, W), on(1, lambda n: -n["r"] / 2))),
        ("edge", both(on(2, zero), on(0, lambda n: n["r"] / 2))), ("face", on(2, lambda n: n["h"] + n["r"] / 2)))),
    Family("lofted", lofted, BLOCK, (
        ("face", on(2, H)), ("edge", both(on(2, H), on(1, lambda n: -n["d"] / 4))),
        ("edge", both(on(2, zero), on(0, lambda n: n["w"] / 2))))),
    Family("drafted", drafted, BLOCK, (
        TOP_EDGES[2], TOP_EDGES[1], ("edge", both(on(0, leaning), on(2, H))), ("edge", both(on(0, W), on(2, zero))),
        ("face", on(1, D)))),
    Family("tilted", tilted, BLOCK, (
        TOP_EDGES[2], TOP_EDGES[1], ("edge", both(on(0, spreading), on(2, H))), ("edge", both(on(0, W), on(2, zero))),
        ("face", on(1, D)))),
    Family("stretched", stretched, BLOCK | U | R, (
        ("face", on(0, lambda n: n["w"] / 2)), ("face", on(1, D)),
        ("edge", both(on(0, zero), on(2, lambda n: 3 * n["h"]))))),
    Family("footed", footed, BLOCK, (
        *TOP_EDGES[:3], ("face", on(0, W)), ("edge", both(on(0, W), on(2, lambda n: 0.5))))),
    Family("dovetailed", dovetailed, {"w": (20.0, 90.0), "d": (20.0, 70.0)}, (
        ("face", on(0, lambda n: n["w"] + 60)), ("edge", both(on(0, zero), on(2, lambda n: 20.0))),
        ("edge", both(on(0, lambda n: n["w"] + 60), on(1, zero))))),
    Family("pushed", pushed, BLOCK | U | R, (
        TOP_EDGES[0], ("face", on(1, lambda n: n["d"] + n["r"])),
        ("edge", both(on(1, lambda n: n["d"] + n["r"]), on(2, H))))),
    Family("healed", healed, BLOCK | U, (
        TOP_EDGES[1], TOP_EDGES[2], ("edge", both(on(0, lambda n: n["w"] * n["u"]), on(2, H))))),
    Family("ribbed", ribbed, BLOCK, (("face", across_rib), ("face", on(0, W)), ("face", on(2, H)))),
    Family("nutted", nutted, BLOCK, (*TOP_EDGES, ("face", on(2, lambda n: n["h"] - 2.6)))),
    Family("bolted", bolted, BLOCK, (TOP_EDGES[4], TOP_EDGES[5], TOP_EDGES[0], ("face", on(2, lambda n: n["h"] + 12)),
                                     ("edge", both(on(2, lambda n: n["h"] + 12), lambda p, n: True)))),
    Family("embossed", embossed, {"h": (10.0, 30.0), **R}, (
        ("face", on(2, lambda n: n["h"] + 10)), ("face", on(2, zero)))),
    Family("split", split_pinned, {"w": (20.0, 90.0), "d": (20.0, 70.0)}, (
        ("face", on(0, lambda n: n["w"] + 60)), ("edge", both(on(0, zero), on(2, lambda n: 20.0))),
        ("face", on(1, D)))),
)  # fmt: skip
"""Parts of the kinds that came later: what they made, and what was there before them."""


def _added(m: Hand, n: Numbers, rng: random.Random) -> None:
    """A step that comes in before the pick is used: a hole or a notch somewhere, or a foot."""
    size = min(v for k, v in n.items() if k in ("w", "d", "r", "h"))
    x, y = rng.uniform(0.1, 0.9), rng.uniform(0.1, 0.9)
    at = (n["w"] * x, n["d"] * y) if "w" in n else (n["r"] * 0.75 * math.cos(6 * x), n["r"] * 0.75 * math.sin(6 * x))
    sort = rng.randrange(3)
    if sort == 0:
        m.round("top", *at, 0.08 * size, reach="through", result="cut")
    elif sort == 1:
        m.prism("top", box(at[0], -50, 0.1 * size, 50 + 0.05 * size), reach="through", result="cut")
    else:
        m.prism("top", box(at[0] - 1, at[1] - 1, 2, 2), distance="3 mm", way="backwards")


def _found(m: Hand, kind: str, meant: Meant, n: Numbers) -> tuple[set[Any], dict[Any, Any]]:
    """What is meant in a part: keys, and a pick for each."""
    keys: set[Any] = set()
    picks: dict[Any, Any] = {}
    for body in m.build().bodies:
        if kind == "edge":
            edges = named_edges(body)
            for e in edges:
                if e.first != e.second and meant(middle_of(edge_shape(e)), n):
                    keys.add((body.id, e.index))
                    picks[body.id, e.index] = EdgePick.model_validate(pick_of(e, edges))
        else:
            facts = digest(body)
            for i, face in enumerate(facts.faces):
                if face.form == "flat" and meant(face.centre, n):
                    keys.add((body.id, i))
                    (c,) = describe(body, [i])
                    siblings = [
                        sorted(f.neighbours) for j, f in enumerate(facts.faces) if f.name == face.name and j != i
                    ]
                    picks[body.id, i] = FacePick(
                        atoms=tuple(sorted(face.name)), neighbours=tuple(sorted(face.neighbours)),
                        siblings=tuple(map(tuple, siblings)), centre=c.centre,
                    )  # fmt: skip
    return keys, picks


@dataclass
class Tally:
    """Counts over a battery, and the cases that were not right."""

    right: int = 0
    asked: int = 0
    wrong: int = 0
    cases: list[str] | None = None


def cases(
    per_family: int, first_seed: int = 1, families: tuple[Family, ...] = FAMILIES
) -> Iterator[tuple[Family, int]]:
    """(family, seed) of every case."""
    for family in families:
        for k in range(per_family):
            yield family, first_seed + k


def judge(family: Family, seed: int, tally: Tally) -> None:
    """One change of one part; every pick of it is judged."""
    rng = random.Random(f"{family.name}{seed}")
    before = {k: round(rng.uniform(*span), 3) for k, span in family.numbers.items()}
    after = {k: round(rng.uniform(*span), 3) if rng.random() < 0.7 else before[k] for k, span in family.numbers.items()}
    one, two = Hand(), Hand()
    family.make(one, before)
    family.make(two, after)
    if rng.random() < 0.5:
        _added(two, after, rng)
    bodies = two.build().bodies
    for place, (kind, meant) in enumerate(family.meant):
        wanted, _ = _found(two, kind, meant, after)
        _, picks = _found(one, kind, meant, before)
        if not picks or not wanted:
            continue
        got: set[Any] = set()
        try:
            for pick in picks.values():
                if kind == "edge":
                    found = find_edges(pick, bodies)
                    got |= {(e.body.id, e.index) for e in found.edges}
                else:
                    faces = find_faces(pick, bodies)
                    got |= {(c.body.id, c.index) for c in faces.faces}
        except CannotBuild:
            tally.asked += 1
            note(tally, f"asked: {family.name} seed {seed} pick {place}")
            continue
        if got == wanted:
            tally.right += 1
        elif got <= wanted:
            tally.asked += 1  # part of what is meant: nothing else is touched
            note(tally, f"part: {family.name} seed {seed} pick {place}: {len(got)} of {len(wanted)}")
        else:
            tally.wrong += 1
            note(tally, f"wrong: {family.name} seed {seed} pick {place}")


def note(tally: Tally, text: str) -> None:
    """Keep what a case was."""
    if tally.cases is None:
        tally.cases = []
    tally.cases.append(text)
