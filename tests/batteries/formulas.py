"""Parts over every kind of step, with random sizes, whose volumes closed formulas say."""

from __future__ import annotations

import math
import random
from collections.abc import Callable
from typing import Any

from tests.hand import ORIGIN, XYZ, Hand, box

from sketchlathe.core.bringing import read_file
from sketchlathe.core.exchange import FORMATS, Export
from sketchlathe.core.solid.digest import digest, pick_of_face
from sketchlathe.core.solid.edges import edge_shape, middle_of, named_edges, pick_of
from sketchlathe.core.solid.kernel import FACE, each
from sketchlathe.core.solid.measuring import measures, volume
from sketchlathe.core.steps.base import STEPS

PI = math.pi


class Sizes:
    """Random sizes to the tenth of a millimetre, from a seed."""

    def __init__(self, seed: str) -> None:
        self._rng = random.Random(seed)

    def __call__(self, low: float, high: float) -> float:
        return round(self._rng.uniform(low, high), 1)


def face(m: Hand, way: XYZ) -> dict[str, Any]:
    """A pick of the face whose middle lies farthest along a direction."""
    body = m.build().bodies[0]

    def reach(index: int) -> float:
        low, high = measures(faces[index]).box
        return sum((l + h) * w for l, h, w in zip(low, high, way))

    faces = list(each(body.shape, FACE))
    return pick_of_face(body, max(range(len(faces)), key=reach))


def edge(m: Hand, place: XYZ) -> dict[str, Any]:
    """A pick of the edge whose middle is nearest to a place."""
    edges = named_edges(m.build().bodies[0])
    return pick_of(min(edges, key=lambda e: math.dist(middle_of(edge_shape(e)), place)), edges)


def plate(n: Sizes) -> tuple[Hand, float, float, float]:
    """A block of 30 to 60 by 20 to 30 by 10 to 20."""
    w, d, h = n(30, 60), n(20, 30), n(10, 20)
    m = Hand()
    s = m.sketch("top")
    m.draw(s, "rectangle", ORIGIN, (w, d), sizes=(f"{w}", f"{d}"))
    m.step("extrude", regions=m.regions(s), distance=f"{h}")
    return m, w, d, h


def extrude_two_ways(n: Sizes) -> tuple[Hand, float]:
    m, a, b, r = Hand(), n(5, 20), n(5, 20), n(3, 12)
    m.round("front", 0, 0, r, distance=f"{a}", other=f"{b}")
    return m, PI * r * r * (a + b)


def extrude_with_islands(n: Sizes) -> tuple[Hand, float]:
    m, w, r, h = Hand(), n(40, 60), n(3, 9), n(4, 9)
    s = m.sketch("right")
    m.draw(s, "rectangle", ORIGIN, (w, 40), sizes=(f"{w}", "40"))
    for x in (10, 28):
        m.draw(s, "circle", (x, 20), (x + r, 20), sizes=(f"{2 * min(r, 8)}",))
    m.step("extrude", regions=m.regions(s), distance=f"{h}", start=f"{n(1, 5)}")
    return m, h * (w * 40 - 2 * PI * min(r, 8) ** 2)


def extrude_tapered(n: Sizes) -> tuple[Hand, float]:
    m, r, h, angle = Hand(), n(10, 20), n(5, 12), n(2, 20)
    m.round("top", 0, 0, r, distance=f"{h}", taper=f"{angle} deg")
    q = r - h * math.tan(math.radians(angle))
    return m, PI * h / 3 * (r * r + r * q + q * q)


def extrude_wall(n: Sizes) -> tuple[Hand, float]:
    m, r, h, t = Hand(), n(10, 20), n(5, 12), n(1, 3)
    m.round("top", 0, 0, r, distance=f"{h}", wall=f"{t}")
    return m, PI * h * (r * r - (r - t) ** 2)


def extrude_face(n: Sizes) -> tuple[Hand, float]:
    m, w, d, h = plate(n)
    more = n(3, 9)
    m.step("extrude", regions=[face(m, (1, 0, 0))], distance=f"{more}")
    return m, (w + more) * d * h


def extrude_to_a_face(n: Sizes) -> tuple[Hand, float]:
    m, w, d, h = plate(n)
    wall = n(3, 6)
    m.prism("top", box(-20, 0, wall, d), distance=f"{h + 15}", result="separate")
    s = m.sketch("right")
    m.draw(s, "circle", (d / 2, h / 2), (d / 2 + 4, h / 2), sizes=("8",))
    m.step(
        "extrude", regions=m.regions(s), reach="face", target=[_far(m, -20 + wall)], way="backwards", result="separate"
    )
    return m, w * d * h + wall * d * (h + 15) + PI * 16 * (20 - wall)


def _far(m: Hand, x: float) -> dict[str, Any]:
    """A pick of the flat face at some x."""
    for body in m.build().bodies:
        for i, shape in enumerate(each(body.shape, FACE)):
            low, high = measures(shape).box
            if abs(low[0] - x) < 1e-6 and abs(high[0] - x) < 1e-6:
                return pick_of_face(body, i)
    raise ValueError(f"no face at {x}")


def letters(n: Sizes) -> tuple[Hand, float]:
    """Letters raised on a face as much as others like them are engraved in it."""
    m, w, d, h = plate(n)
    deep = n(0.4, 2)
    top = face(m, (0, 0, 1))
    for y, result in ((2, "add"), (12, "cut")):
        s = m.sketch({"face": top})
        m.draw(s, "text", (3, y), (25, y), text="NW", height="6 mm")
        m.step(
            "extrude",
            regions=m.regions(s),
            distance=f"{deep}",
            way="backwards" if result == "cut" else "forwards",
            result=result,
        )
    return m, w * d * h


def revolve(n: Sizes) -> tuple[Hand, float]:
    m, a, b, h, angle = Hand(), n(5, 10), n(12, 20), n(4, 12), n(40, 350)
    s = m.sketch("front")
    m.polygon(s, *box(a, 0, b - a, h))
    m.step("revolve", regions=m.regions(s), axis={"axis": "z"}, reach="angle", angle=f"{angle} deg")
    return m, math.radians(angle) / 2 * (b * b - a * a) * h


def revolved_groove(n: Sizes) -> tuple[Hand, float]:
    m, r, h, t = Hand(), n(10, 20), n(12, 20), n(1, 3)
    m.step("block", shape="cylinder", diameter=f"{2 * r}", height=f"{h}")
    s = m.sketch("front")
    m.draw(s, "circle", (r, h / 2), (r + t, h / 2), sizes=(f"{2 * t}",))
    m.step("revolve", regions=m.regions(s), axis={"axis": "z"}, result="cut")
    # half a circle inside radius r: its centroid lies 4t/3π further in
    return m, PI * r * r * h - PI * t * t / 2 * 2 * PI * (r - 4 * t / (3 * PI))


def hole_counterbored(n: Sizes) -> tuple[Hand, float]:
    m, w, d, h = plate(n)
    a, b, deep = n(2, 4), n(5, 8), n(1, 5)
    top = face(m, (0, 0, 1))
    m.step(
        "hole", at="face", face=[top], form="counterbored", diameter=f"{a}", seat_diameter=f"{b}",
        seat_depth=f"{deep}", first="11", first_edge=[edge(m, (0, d / 2, h))], second="9",
        second_edge=[edge(m, (w / 2, 0, h))],
    )  # fmt: skip
    return m, w * d * h - PI / 4 * (a * a * h + (b * b - a * a) * deep)


def hole_blind(n: Sizes) -> tuple[Hand, float]:
    m, w, d, h = plate(n)
    s = m.sketch({"face": face(m, (0, 0, 1))})
    m.draw(s, "point", (12, 9))
    a, deep = n(2, 6), n(3, 6)
    ref = m.model.sketch_step(s).sketch.curves[0].id
    m.step("hole", points=[{"sketch": s, "ref": f"{ref}.at"}], diameter=f"{a}", reach="depth", depth=f"{deep}")
    tip = a / 2 / math.tan(math.radians(59))
    return m, w * d * h - PI * a * a / 4 * (deep + tip / 3)


def fillet_two_radii(n: Sizes) -> tuple[Hand, float]:
    m, w, d, h = plate(n)
    a, b = n(1, 8), n(1, 8)
    m.step("fillet", edges=[edge(m, (0, 0, h / 2))], radius=f"{a}", more=[edge(m, (w, d, h / 2))], more_radius=f"{b}")
    return m, w * d * h - (a * a + b * b) * (1 - PI / 4) * h


def fillet_whole_width(n: Sizes) -> tuple[Hand, float]:
    m, w, d, h = plate(n)
    m.step("fillet", form="width", middle=[face(m, (1, 0, 0))], sides=[face(m, (0, 1, 0)), face(m, (0, -1, 0))])
    return m, w * d * h - h * d * d / 2 * (1 - PI / 4)


def chamfer_uneven(n: Sizes) -> tuple[Hand, float]:
    m, w, d, h = plate(n)
    a, b = n(1, 8), n(1, 8)
    m.step("chamfer", edges=[edge(m, (w / 2, 0, h))], size=f"{a}", form="two", second=f"{b}")
    return m, w * d * h - w * a * b / 2


def chamfer_round_rim(n: Sizes) -> tuple[Hand, float]:
    m, r, h, c = Hand(), n(8, 20), n(8, 12), n(1, 3)
    m.step("block", shape="cylinder", diameter=f"{2 * r}", height=f"{h}")
    m.step("chamfer", edges=[face(m, (0, 0, 1))], size=f"{c}")
    return m, PI * r * r * h - PI * c * c * (r - c / 3)


def shell_closed_ball(n: Sizes) -> tuple[Hand, float]:
    m, r, t = Hand(), n(8, 20), n(1, 3)
    m.step("block", shape="sphere", diameter=f"{2 * r}")
    m.step("shell", thickness=f"{t}")
    return m, 4 / 3 * PI * (r**3 - (r - t) ** 3)


def shell_two_thicknesses(n: Sizes) -> tuple[Hand, float]:
    m, w, d, h = plate(n)
    t, floor = n(1, 3), n(3, 6)
    m.step("shell", thickness=f"{t}", faces=[face(m, (0, 0, 1))], other=f"{floor}", others=[face(m, (0, 0, -1))])
    return m, w * d * h - (w - 2 * t) * (d - 2 * t) * (h - floor)


def mirrored_body(n: Sizes) -> tuple[Hand, float]:
    m, w, d, h = plate(n)
    m.step("fillet", edges=[edge(m, (w, d, h / 2))], radius="5")
    m.step("mirror", plane={"face": face(m, (-1, 0, 0))})
    return m, 2 * (w * d * h - 25 * (1 - PI / 4) * h)


def mirrored_steps(n: Sizes) -> tuple[Hand, float]:
    m, w, d, h = plate(n)
    r = n(2, 4)
    hole = m.round("top", 8, d / 2, r, reach="through", result="cut")
    middle = m.step("datum", form="offset", plane={"plane": "right"}, offset=f"{w / 2}")
    m.step("mirror", what="steps", steps=[hole], plane={"datum": middle})
    return m, h * (w * d - 2 * PI * r * r)


def pattern_round(n: Sizes) -> tuple[Hand, float]:
    m, r, h, count = Hand(), n(20, 30), n(4, 9), int(n(3, 9))
    m.step("block", shape="cylinder", diameter=f"{2 * r}", height=f"{h}")
    hole = m.round("top", r - 6, 0, 2, reach="through", result="cut")
    m.step("pattern", steps=[hole], axis={"axis": "z"}, count=str(count))
    return m, PI * h * (r * r - 4 * count)


def pattern_grid(n: Sizes) -> tuple[Hand, float]:
    m, w, columns, rows = Hand(), n(2, 6), int(n(2, 6)), int(n(2, 4))
    m.step("block", width=f"{w}", depth=f"{w}", height=f"{w}")
    m.step(
        "pattern", what="bodies", form="row", axis={"axis": "x"}, count=str(columns), spacing=f"{w + 2}",
        second={"axis": "y"}, second_count=str(rows), second_spacing=f"{w + 1}", unite="separate", leave_out="2",
    )  # fmt: skip
    return m, w**3 * (columns * rows - 1)


def combined(how: str) -> Callable[[Sizes], tuple[Hand, float]]:
    """Two crossing bars."""

    def make(n: Sizes) -> tuple[Hand, float]:
        m, a, b, c = Hand(), n(4, 8), n(20, 30), n(9, 14)
        m.step("block", width=f"{a}", depth=f"{b}", height=f"{a}")
        m.step("block", width=f"{c}", depth=f"{a}", height=f"{a}", y=f"{b / 2}", x=f"{-a}", result="separate")
        one, two = (x.id for x in m.build().bodies)
        m.step("combine", how=how, target=[one], tools=[two])
        overlap = min(a, c - a) * a * a
        first, second = a * b * a, c * a * a
        return m, {"unite": first + second - overlap, "subtract": first - overlap, "intersect": overlap}[how]

    make.__name__ = f"combined_{how}"
    return make


def moved(n: Sizes) -> tuple[Hand, float]:
    m, w, d, h = plate(n)
    m.step("move", how="scale", bodies=[m.build().bodies[0].id], factor="1.5")
    m.step("move", how="turn", bodies=[m.build().bodies[0].id], axis={"axis": "x"}, angle="33 deg", keep="copy")
    built = m.build()
    m.step("move", how="shift", bodies=[built.bodies[-1].id], dx=f"{3 * w}")
    return m, 2 * 1.5**3 * w * d * h


def split_by_plane(n: Sizes) -> tuple[Hand, float]:
    m, _, d, h = plate(n)
    x = n(10, 20)
    at = m.step("datum", form="offset", plane={"plane": "right"}, offset=f"{x}")
    m.step("split", by="plane", plane={"datum": at}, keep="back")
    return m, x * d * h


def split_by_line(n: Sizes) -> tuple[Hand, float]:
    m, w, d, _ = plate(n)
    a, b = n(3, 8), n(3, 8)
    s = m.sketch("front")
    (line,) = m.draw(s, "line", (-1.0, a), (w + 1.0, b))[:1]
    m.step("split", by="curve", curve={"sketch": s, "curve": line}, keep="back")
    slope = (b - a) / (w + 2)
    return m, w * d * (a + slope * (w / 2 + 1))


def blocks(shape: str) -> Callable[[Sizes], tuple[Hand, float]]:
    """A plain solid, tilted and turned."""

    def make(n: Sizes) -> tuple[Hand, float]:
        m, r, q, h = Hand(), n(6, 12), n(1, 5), n(8, 20)
        sizes = {"diameter": f"{2 * r}", "top": f"{2 * q}", "tube": f"{q}", "height": f"{h}"}
        wanted = {
            "cylinder": ("diameter", "height"),
            "cone": ("diameter", "top", "height"),
            "torus": ("diameter", "tube"),
        }
        m.step(
            "block", shape=shape, tilt=f"{n(5, 80)} deg", turn=f"{n(5, 80)} deg", x=f"{n(1, 9)}",
            **{k: sizes[k] for k in wanted[shape]},
        )  # fmt: skip
        return m, {
            "cylinder": PI * r * r * h,
            "cone": PI * h / 3 * (r * r + r * q + q * q),
            "torus": 2 * PI * PI * r * (q / 2) ** 2,
        }[shape]

    make.__name__ = f"block_{shape}"
    return make


def brought_in(n: Sizes) -> tuple[Hand, float]:
    """A file of one part cut out of another, a mesh of it beside for reference."""
    tool, r, h = Hand(), n(3, 6), n(30, 50)
    tool.step("block", shape="cylinder", diameter=f"{2 * r}", height=f"{h}")
    what = Export(tool.model, tool.model.parts[0], tool.build().bodies)
    m, w, d, thick = plate(n)
    for kind, ending in (("step", "step"), ("stl", "stl")):
        found = read_file(FORMATS[kind]().write(what), f"tool.{ending}")
        fields = {"x": f"{w / 2}", "y": f"{d / 2}", "z": "-1", **({"result": "cut"} if kind == "step" else {})}
        m.do("bring_file", part="p1", step=found.step, file="tool", data=found.fields["data"], fields=fields)
    return m, w * d * thick - PI * r * r * thick


def placed_and_cut(n: Sizes) -> tuple[Hand, float]:
    """Two rods of another part; one is placed into a plate and cut out of it, the other is left out."""
    m, w, d, h = plate(n)
    r, deep = n(3, 6), n(2, 8)
    m.do("add_part", name="Rod")
    rod = m.model.parts[1].id
    m.do("add_step", part=rod, step="block", fields={"shape": "cylinder", "diameter": f"{2 * r}", "height": "30"})
    here = {"x": f"{w / 2}", "y": f"{d / 2}", "z": "50", "count": "2", "apart": "100"}
    brought = m.step("bring_part", part=rod, **here)
    (first, second) = (b for b in m.build().bodies if b.id.startswith(f"{brought}."))
    lowest = min(range(len(first.names)), key=lambda i: measures(list(each(first.shape, FACE))[i]).box[1][2])
    m.step(
        "place", a={"face": pick_of_face(first, lowest)}, how="against", b={"face": face(m, (0, 0, 1))}, gap=f"{-deep}"
    )
    m.step("combine", how="subtract", target=[m.build().bodies[0].id], tools=[first.id])
    m.step("leave_out", bodies=[second.id])
    return m, w * d * h - PI * r * r * deep


def swept_round_a_bend(n: Sizes) -> tuple[Hand, float]:
    """A tube up, round a quarter and on: area times the length of its middle (Pappus)."""
    m, r, q, up, on = Hand(), n(3, 5), n(1, 2.5), n(5, 20), n(5, 20)
    s = m.sketch("top")
    for radius in (r, q):
        m.draw(s, "circle", ORIGIN, (radius, 0), sizes=(f"{2 * radius}",))
    path, bend = m.sketch("front"), n(8, 15)
    (a,) = m.draw(path, "line", ORIGIN, (0, up))[:1]
    m.draw(path, "arc", (0, up), (bend, up + bend), (bend * (1 - 0.5**0.5), up + bend * 0.5**0.5))
    m.draw(path, "line", (bend, up + bend), (bend + on, up + bend))
    m.step("sweep", regions=m.regions(s), path=[{"sketch": path, "curve": a}])
    return m, PI * (r * r - q * q) * (up + PI / 2 * bend + on)


def swept_mitred(n: Sizes) -> tuple[Hand, float]:
    """A square bar along a path with a corner, off its middle: each leg as long as the middle's mitred way."""
    m, side, off, up, on = Hand(), n(2, 4), n(0, 3), n(10, 20), n(10, 20)
    m_sketch = m.sketch("top")
    m.polygon(m_sketch, *box(off - side / 2, -side / 2, side, side))
    path = m.sketch("front")
    (a,) = m.draw(path, "line", ORIGIN, (0, up))[:1]
    m.draw(path, "line", (0, up, "end", f"{a}.end"), (on, up))
    m.step("sweep", regions=m.regions(m_sketch), path=[{"sketch": path, "curve": a}])
    return m, side * side * (up + on - 2 * off)


def swept_narrowing(n: Sizes) -> tuple[Hand, float]:
    m, w, d, h, k = Hand(), n(4, 9), n(4, 9), n(10, 30), n(0.3, 0.9)
    m_sketch = m.sketch("top")
    m.polygon(m_sketch, *box(-w / 2, -d / 2, w, d))
    path = m.sketch("front")
    (a,) = m.draw(path, "line", ORIGIN, (0, h))[:1]
    m.step("sweep", regions=m.regions(m_sketch), path=[{"sketch": path, "curve": a}], scale=f"{k}")
    return m, w * d * h * (1 + k + k * k) / 3


def swept_twisted(n: Sizes) -> tuple[Hand, float]:
    """Turning does not change what a level cut shows."""
    m, w, d, h = Hand(), n(4, 9), n(4, 9), n(20, 40)
    m_sketch = m.sketch("top")
    m.polygon(m_sketch, *box(-w / 2, -d / 2, w, d))
    path = m.sketch("front")
    (a,) = m.draw(path, "line", ORIGIN, (0, h))[:1]
    m.step("sweep", regions=m.regions(m_sketch), path=[{"sketch": path, "curve": a}], twist=f"{n(30, 200)} deg")
    return m, w * d * h


def swept_along_edges(n: Sizes) -> tuple[Hand, float]:
    """A round bead along the upper front edge of a block, half outside, a quarter inside."""
    m, w, d, h = plate(n)
    r = n(1, 3)
    s = m.sketch("right")
    m.draw(s, "circle", (0, h), (r, h), sizes=(f"{2 * r}",))
    m.step("sweep", regions=m.regions(s), path=[edge(m, (w / 2, 0, h))])
    return m, w * d * h + 3 / 4 * PI * r * r * w


def level(m: Hand, z: float) -> Any:
    """A plane at a height, for sketches."""
    return {"datum": m.step("datum", form="offset", plane={"plane": "top"}, offset=f"{z}")} if z else "top"


def lofted_frustum(n: Sizes) -> tuple[Hand, float]:
    """Between rectangles: the prismoidal formula."""
    m, h = Hand(), n(10, 30)
    (a, b), (c, d) = (n(10, 20), n(10, 20)), (n(3, 9), n(3, 9))
    picks = []
    for z, w, e in ((0.0, a, b), (h, c, d)):
        s = m.sketch(level(m, z))
        m.polygon(s, *box(-w / 2, -e / 2, w, e))
        picks += m.regions(s)
    m.step("loft", regions=picks)
    return m, h / 6 * (a * b + (a + c) * (b + d) + c * d)


def lofted_rings(n: Sizes) -> tuple[Hand, float]:
    """Rings that narrow, with their hole: one cone's stump less another."""
    m, h = Hand(), n(10, 30)
    sizes = [(n(10, 15), n(4, 8)), (n(8, 10), n(2, 4)), (n(10, 15), n(4, 8))]
    picks = []
    for z, pair in zip((0.0, h, 2 * h), sizes):
        s = m.sketch(level(m, z))
        for r in pair:
            m.draw(s, "circle", ORIGIN if not z else (0, 0), (r, 0), sizes=(f"{2 * r}",))
        picks += m.regions(s)
    m.step("loft", regions=picks)
    (a, b), (c, d), (e, f) = sizes

    def stump(p: float, q: float) -> float:
        return PI * h / 3 * (p * p + p * q + q * q)

    return m, stump(a, c) - stump(b, d) + stump(c, e) - stump(d, f)


def lofted_to_a_point(n: Sizes) -> tuple[Hand, float]:
    m, w, d, h = Hand(), n(10, 20), n(10, 20), n(10, 30)
    s = m.sketch("top")
    m.polygon(s, *box(0, 0, w, d))
    p = m.sketch(level(m, h))
    m.draw(p, "point", (n(0, 9), n(0, 9)))
    ref = m.model.sketch_step(p).sketch.curves[0].id
    m.step("loft", regions=m.regions(s), tip=[{"sketch": p, "ref": f"{ref}.at"}])
    return m, w * d * h / 3


def coiled(section: str) -> Callable[[Sizes], tuple[Hand, float]]:
    """A spring: the section times the length of the helix."""

    def make(n: Sizes) -> tuple[Hand, float]:
        m, wire, wide, turns = Hand(), n(1, 2), n(12, 30), n(1, 6)
        pitch = wire + n(1, 4)
        hand = "left" if wide > 20 else "right"
        m.step(
            "coil", section=section, wire=f"{wire}", diameter=f"{wide}", turns=f"{turns}", pitch=f"{pitch}", hand=hand
        )
        area = wire * wire * (1 if section == "square" else PI / 4)
        return m, area * turns * math.hypot(PI * wide, pitch)

    make.__name__ = f"coiled_{section}"
    return make


def leaned(n: Sizes) -> tuple[Hand, float]:
    """All four sides of a block: a stump of a pyramid."""
    m, w, d, h = plate(n)
    angle = n(1, 8)
    m.step(
        "draft", faces=[face(m, way) for way in ((1, 0, 0), (-1, 0, 0), (0, 1, 0), (0, -1, 0))], angle=f"{angle} deg"
    )
    k = 2 * h * math.tan(math.radians(angle))
    return m, h / 6 * (w * d + (2 * w - k) * (2 * d - k) + (w - k) * (d - k))


def healed(n: Sizes) -> tuple[Hand, float]:
    """A block with a hole and a rounded edge, both taken away again."""
    m, w, d, h = plate(n)
    m.round("top", 12, d / 2, n(2, 5), reach="through", result="cut")
    m.step("fillet", edges=[edge(m, (w, 0, h / 2))], radius=f"{n(1, 5)}")
    body = m.build().bodies[0]
    round_ = [pick_of_face(body, i) for i, f in enumerate(digest(body).faces) if f.form == "cylindrical"]
    m.step("heal", faces=round_)
    return m, w * d * h


def pushed_wall_and_hole(n: Sizes) -> tuple[Hand, float]:
    m, w, d, h = plate(n)
    r, a, b = n(2, 4), n(1, 9), n(0.5, 3)
    m.round("top", 12, d / 2, r, reach="through", result="cut")
    m.step("push", faces=[face(m, (0, 1, 0))], by=f"{a}")
    m.step("push", faces=[m.face_where("", "cylindrical")], way="in", by=f"{b}")
    return m, w * (d + a) * h - PI * (r + b) ** 2 * h


def thread_section(diameter: float, pitch: float) -> float:
    """The area of a cut square to the axis of an ISO 68-1 thread, by integrating its profile numerically: half the mean
    of the radius squared times the full turn.
    """
    import numpy as np

    z = (np.arange(400_000) + 0.5) / 400_000  # shares of a pitch from the middle of the root
    s = np.minimum(z, 1 - z)
    sharp = math.sqrt(3) / 2 * pitch
    root, crest = diameter / 2 - 5 / 8 * sharp, diameter / 2
    # a flank of 60 degrees rises by the sharp triangle's height in half a pitch
    r = np.clip(root + (s - 1 / 8) * 2 * sharp, root, crest)
    return float(PI * np.mean(r * r))


def threaded_bolt(n: Sizes) -> tuple[Hand, float]:
    m, h = Hand(), n(10, 20)
    m.step("block", shape="cylinder", diameter="12", height=f"{h}")
    m.step("block", width="20", depth="20", height="8", x="-10", y="-10", z="-8")
    m.step("thread", face=[m.face_where("", "cylindrical")], size="M12", play="0.3", lead="full")
    return m, 3200 + thread_section(11.7, 1.75) * h


def threaded_nut(n: Sizes) -> tuple[Hand, float]:
    m, h, x = Hand(), n(6, 14), n(0, 30)
    m.step("block", width="24", depth="24", height=f"{h}", x=f"{x - 12}", y="-12")
    m.step("block", shape="cylinder", diameter="8.376", height="60", x=f"{x}", z="-20", result="cut")
    m.step("thread", face=[m.face_where("", "cylindrical")], size="M10", play="0.2", hand="left")
    return m, 576 * h - thread_section(10.2, 1.5) * h


def nuts_and_roofs(n: Sizes) -> tuple[Hand, float]:
    """A nut's room from the end, one slid in from the side under the face, a lying hole with a pointed roof."""
    m, w, d, h = plate(n)
    play = n(0.1, 0.5)
    s, high = 5.5 + play, 2.4 + play
    top = face(m, (0, 0, 1))
    p = m.sketch({"face": top})
    ids = [m.draw(p, "point", at)[0] for at in ((7.0, 7.0), (20.0, 7.0))]
    first, second = ({"sketch": p, "ref": f"{i}.at"} for i in ids)
    m.step("nut_pocket", points=[first], size="M3", play=f"{play}")
    m.step("nut_pocket", points=[second], size="M3", play=f"{play}", way="side", side={"axis": "y"}, deep="1")
    slot = s * (d - 7) + s * s / math.sqrt(3) * 3 / 4
    r = n(1, 1.4)
    front = face(m, (1, 0, 0))
    m.step("hole", at="face", face=[front], diameter=f"{2 * r}", reach="depth", depth="4", roof="teardrop")
    return m, w * d * h - s * s * math.sqrt(3) / 2 * high - slot * high - 4 * r * r * (3 / 4 * PI + 1)


def hole_with_a_layer(n: Sizes) -> tuple[Hand, float]:
    m, w, d, h = plate(n)
    a, b, deep, layer = n(2, 4), n(5, 8), n(1, 5), n(0.2, 0.6)
    m.step(
        "hole", at="face", face=[face(m, (0, 0, 1))], form="counterbored", diameter=f"{a}", seat_diameter=f"{b}",
        seat_depth=f"{deep}", layer=f"{layer}",
    )  # fmt: skip
    return m, w * d * h - PI / 4 * (b * b * deep + a * a * (h - deep - layer))


def hooked(n: Sizes) -> tuple[Hand, float]:
    """The hook's side by the shoelace formula."""
    m, w, d, h = plate(n)
    long, wide, t, y = n(10, 20), n(4, 8), n(1, 2), n(0.5, 1.5)
    m.step(
        "snap_hook",
        at="face",
        face=[face(m, (0, 0, 1))],
        length=f"{long}",
        width=f"{wide}",
        thickness=f"{t}",
        catch=f"{y}",
    )
    top = long + 0.3 * y + (y + t / 2) / math.tan(math.radians(60))
    side = [
        (-t / 2, 0),
        (t / 2, 0),
        (t / 2, long),
        (t / 2 + y, long),
        (t / 2 + y, long + 0.3 * y),
        (0, top),
        (-t / 2, top),
    ]
    area = sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(side, [*side[1:], side[0]])) / 2
    return m, w * d * h + area * wide


def ribbed(n: Sizes) -> tuple[Hand, float]:
    """A straight rib across the inner corner of an angle: a triangle."""
    m, a, t = Hand(), n(3, 6), n(1, 4)
    m.prism("front", [(0, 0), (40, 0), (40, a), (a, a), (a, 30), (0, 30)], distance="20", way="both")
    s = m.sketch("front")
    x, y = n(20, 35), n(15, 28)
    # from one leg towards the other, ending short of both
    p, q = (a + 0.2 * (x - a), y - 0.2 * (y - a)), (a + 0.8 * (x - a), y - 0.8 * (y - a))
    (line,) = m.draw(s, "line", p, q)[:1]
    m.step("rib", curve={"sketch": s, "curve": line}, thickness=f"{t}")
    return m, 20 * (40 * a + a * (30 - a)) + t * (x - a) * (y - a) / 2


def split_with(joint: str) -> Callable[[Sizes], tuple[Hand, float]]:
    """A long bar in two, with holes and loose dowels, or with pegs."""

    def make(n: Sizes) -> tuple[Hand, float]:
        m, across, deep, play = Hand(), n(3, 6), n(4, 9), n(0.1, 0.4)
        m.step("block", width="150", depth="30", height="20")
        at = m.step("datum", form="offset", plane={"plane": "right"}, offset=f"{n(40, 100)}")
        m.step("split", plane={"datum": at}, joint=joint, across=f"{across}", deep=f"{deep}", play=f"{play}")
        hole, thin = PI / 4 * across**2 * deep, PI / 4 * (across - play) ** 2
        if joint == "pegs":
            return m, 90_000 - 2 * hole + 2 * thin * (deep - play)
        return m, 90_000 - 4 * hole + 2 * thin * (2 * deep - play)

    make.__name__ = f"split_with_{joint}"
    return make


def pattern_along_a_curve(n: Sizes) -> tuple[Hand, float]:
    m, side, count = Hand(), n(2, 4), int(n(3, 8))
    m.step("block", width=f"{side}", depth=f"{side}", height=f"{side}")
    s = m.sketch("top")
    (line,) = m.draw(s, "line", ORIGIN, (50, 0))[:1]
    m.draw(s, "arc", (50, 0), (80, 30), (50 + 30 * 0.5**0.5, 30 - 30 * 0.5**0.5))
    path = [{"sketch": s, "curve": line}]
    m.step("pattern", what="bodies", form="path", path=path, count=str(count), unite="separate")
    points = [m.draw(s, "point", at)[0] for at in ((0.0, 100.0), (0.0, 120.0), (20.0, 130.0))]
    picks = [{"sketch": s, "ref": f"{p}.at"} for p in points]
    m.step("pattern", what="some", bodies=[m.build().bodies[0].id], form="points", points=picks, unite="separate")
    return m, (count + 2) * side**3


def vented(n: Sizes) -> tuple[Hand, float]:
    """Rows of slots in a plate: as many as fit between the rims, each as long as there is room."""
    m, w, d, h = plate(n)
    size, gap, rim = n(2, 3), n(1, 2), n(2, 4)
    m.step("vents", face=[face(m, (0, 0, 1))], size=f"{size}", gap=f"{gap}", rim=f"{rim}")
    rows = math.floor((d - 2 * rim - size) / (size + gap) + 1e-9) + 1
    slot = (w - 2 * rim - size) * size + PI / 4 * size * size
    return m, h * (w * d - rows * slot)


def fillet_that_grows(n: Sizes) -> tuple[Hand, float]:
    """What is taken off a square edge by a radius r is (1 - π/4) r² a millimetre; r grows evenly."""
    m, w, d, h = plate(n)
    a, b = n(1, 3), n(4, 7)
    m.step("fillet", edges=[edge(m, (0, d / 2, h)), edge(m, (w, d / 2, h))], radius=f"{a}", grows=f"{b}")
    return m, w * d * h - 2 * (1 - PI / 4) * d * (a * a + a * b + b * b) / 3


def wrapped(way: str) -> Callable[[Sizes], tuple[Hand, float]]:
    """A ring and a slanting bar round a rod: areas stay as they are at the rod's radius, and grow with the distance."""

    def make(n: Sizes) -> tuple[Hand, float]:
        m, r, h, deep = Hand(), n(10, 20), 30.0, n(0.4, 1.5)
        m.step("block", shape="cylinder", diameter=f"{2 * r}", height=f"{h}", x="5", y="3")
        side = m.face_where(m.build().bodies[0].id, "cylindrical")
        s = m.sketch("front")
        a, b = n(4, 6), n(1, 3)
        m.draw(s, "circle", (5.0, 20.0), (5.0 + a, 20.0), sizes=(f"{2 * a}",))
        m.draw(s, "circle", (5.0, 20.0), (5.0 + b, 20.0), sizes=(f"{2 * b}",))
        m.step("emboss", way=way, regions=m.regions(s), face=[side], height=f"{deep}")
        t = m.sketch("front")
        m.polygon(t, (0.0, 2.0), (9.0, 4.0), (8.0, 8.0), (-1.0, 6.0))
        m.step("emboss", way=way, regions=m.regions(t), face=[side], height=f"{deep}")
        corners = [(0.0, 2.0), (9.0, 4.0), (8.0, 8.0), (-1.0, 6.0)]
        bar = sum(p[0] * q[1] - q[0] * p[1] for p, q in zip(corners, [*corners[1:], corners[0]])) / 2
        area = PI * (a * a - b * b) + bar
        far = r + deep if way == "raise" else r - deep
        return m, PI * r * r * h + area * (far * far - r * r) / (2 * r)

    make.__name__ = f"wrapped_{way}"
    return make


PARTS: tuple[Callable[[Sizes], tuple[Hand, float]], ...] = (
    extrude_two_ways, extrude_with_islands, extrude_tapered, extrude_wall, extrude_face, extrude_to_a_face, letters,
    revolve, revolved_groove, hole_counterbored, hole_blind, fillet_two_radii, fillet_whole_width, chamfer_uneven,
    chamfer_round_rim, shell_closed_ball, shell_two_thicknesses, mirrored_body, mirrored_steps, pattern_round,
    pattern_grid, combined("unite"), combined("subtract"), combined("intersect"), moved, split_by_plane, split_by_line,
    blocks("cylinder"), blocks("cone"), blocks("torus"), brought_in, placed_and_cut,
    swept_round_a_bend, swept_mitred, swept_narrowing, swept_twisted, swept_along_edges, lofted_frustum, lofted_rings,
    lofted_to_a_point, coiled("round"), coiled("square"), leaned, healed, pushed_wall_and_hole,
    threaded_bolt, threaded_nut, nuts_and_roofs, hole_with_a_layer, hooked, ribbed, split_with("dowels"), split_with("pegs"),
    pattern_along_a_curve, vented, fillet_that_grows, wrapped("raise"), wrapped("engrave"),
)  # fmt: skip
ROUGHLY = {"threaded_bolt": 1e-3, "threaded_nut": 1e-3, "fillet_that_grows": 2e-5}
"""How near a volume must come where the kernel's faces only approach what is meant; all others to a millionth."""


def errors(each_part: int) -> tuple[float, list[str]]:
    """Worst relative error over all parts, and what went wrong. Every kind of step must have been built."""
    worst, wrong = 0.0, []
    used: set[str] = set()
    for make in PARTS:
        for seed in range(each_part):
            m, right = make(Sizes(f"{make.__name__}{seed}"))
            built = m.build()
            bad = [r.message for r in built.steps if r.status != "ok"]
            got = sum(volume(b.shape) for b in built.bodies)
            off = abs(got - right) / right * 1e-6 / ROUGHLY.get(make.__name__, 1e-6)
            worst = max(worst, off)
            if bad or off > 1e-6:
                wrong.append(f"{make.__name__} seed {seed}: {got} instead of {right} {bad}")
            used |= {s.kind for s in m.model.parts[0].steps}
    missing = {k.model_fields["kind"].default for k in STEPS} - used
    return worst, wrong + [f"no part has a {kind}" for kind in sorted(missing)]
