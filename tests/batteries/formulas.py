"""Parts over every kind of step, with random sizes, whose volumes closed formulas say."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from tests.hand import ORIGIN, Hand, box

from sketchlathe.core.bringing import read_file
from sketchlathe.core.exchange import FORMATS, Export
from sketchlathe.core.solid.digest import pick_of_face
from sketchlathe.core.solid.kernel import FACE, each
from sketchlathe.core.solid.measuring import measures, volume
from sketchlathe.core.steps.base import STEPS

from . import further
from .making import PI, Sizes, edge, face, plate


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


PARTS: tuple[Callable[[Sizes], tuple[Hand, float]], ...] = (
    extrude_two_ways, extrude_with_islands, extrude_tapered, extrude_wall, extrude_face, extrude_to_a_face, letters,
    revolve, revolved_groove, hole_counterbored, hole_blind, fillet_two_radii, fillet_whole_width, chamfer_uneven,
    chamfer_round_rim, shell_closed_ball, shell_two_thicknesses, mirrored_body, mirrored_steps, pattern_round,
    pattern_grid, combined("unite"), combined("subtract"), combined("intersect"), moved, split_by_plane, split_by_line,
    blocks("cylinder"), blocks("cone"), blocks("torus"), brought_in, placed_and_cut,
)  # fmt: skip


def errors(each_part: int) -> tuple[float, list[str]]:
    """Worst relative error over all parts, and what went wrong. Every kind of step must have been built."""
    worst, wrong = 0.0, []
    used: set[str] = set()
    for make in PARTS + further.PARTS:
        for seed in range(each_part):
            m, right = make(Sizes(f"{make.__name__}{seed}"))
            built = m.build()
            bad = [r.message for r in built.steps if r.status != "ok"]
            got = sum(volume(b.shape) for b in built.bodies)
            off = abs(got - right) / right * 1e-6 / further.ROUGHLY.get(make.__name__, 1e-6)
            worst = max(worst, off)
            if bad or off > 1e-6:
                wrong.append(f"{make.__name__} seed {seed}: {got} instead of {right} {bad}")
            used |= {s.kind for s in m.model.parts[0].steps}
    missing = {k.model_fields["kind"].default for k in STEPS if not k.on_sheet} - used
    return worst, wrong + [f"no part has a {kind}" for kind in sorted(missing)]
