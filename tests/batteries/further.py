"""Parts over what goes along, between and round, what changes what is there, and what printing asks for."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from tests.hand import ORIGIN, Hand, box

from sketchlathe.core.solid.digest import digest, pick_of_face

from .making import PI, Sizes, edge, face, level, plate


def swept_round_a_bend(n: Sizes) -> tuple[Hand, float]:
    """A tube up, round a quarter and on: area times the length of its middle (Pappus)."""
    m, r, q, up, on = Hand(), n(3, 5), n(1, 2), n(5, 20), n(5, 20)
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


def screwed(n: Sizes) -> tuple[Hand, float]:
    """A cap screw that sinks to its seat, pointing down through a plate; nut, washer and bearing beside it."""
    m, w, d, h = plate(n)
    m.step("hole", at="face", face=[face(m, (0, 0, 1))], form="counterbored", screw="M4")
    m.step("standard_part", at="round", rounds=[edge(m, (w / 2, d / 2, h))], size="M4", length="8")
    m.step("standard_part", what="nut", at="face", face=[face(m, (1, 0, 0))], size="M5")
    m.step("standard_part", what="washer", at="face", face=[face(m, (-1, 0, 0))], size="M3")
    m.step("standard_part", what="bearing", at="face", face=[face(m, (0, 1, 0))], bearing="623", lies="on")
    bored = PI / 4 * (64 * 4.4 + 4.5**2 * (h - 4.4))
    screw = PI / 4 * (49 * 4 + 16 * 8) - 2 * 9 * math.sqrt(3) / 2
    nut = (64 * math.sqrt(3) / 2 - PI / 4 * 25) * 4.7
    return m, w * d * h - bored + screw + nut + PI / 4 * ((49 - 3.2**2) * 0.5 + (100 - 9) * 4)


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


def stretched(n: Sizes) -> tuple[Hand, float]:
    """A block with a hole drawn out unevenly, then rounded: a stretch by a, b, c makes a volume a·b·c times as
    large.
    """
    m, w, d, h = plate(n)
    r, a, b, c, q = n(2, 5), n(0.5, 2), n(0.5, 2), n(0.5, 2), n(0.5, 2)
    m.round("top", w / 2, d / 2, r, reach="through", result="cut")
    body = m.build().bodies[0].id
    m.step("move", how="scale", bodies=[body], factor=f"{a}", along_y=f"{b}", along_z=f"{c}")
    m.step("fillet", edges=[edge(m, (w * a, d * b, h * c / 2))], radius=f"{q}")
    return m, a * b * c * h * (w * d - PI * r * r) - q * q * (1 - PI / 4) * h * c


def on_a_foot(n: Sizes) -> tuple[Hand, float]:
    """A bevel round a plate's lowest face and round its hole: stumps of a pyramid and of a cone."""
    m, w, d, h = plate(n)
    r, c = n(2, 5), n(0.2, 1)
    m.round("top", w / 2, d / 2, r, reach="through", result="cut")
    m.step("foot", size=f"{c}")
    return m, h * (w * d - PI * r * r) - (c * c * (w + d) - 4 / 3 * c**3) - PI * (r * c * c + c**3 / 3)


def _segment(chord: float, high: float) -> float:
    """The area of a circle's segment from its chord and height."""
    r = (high * high + chord * chord / 4) / (2 * high)
    angle = 2 * math.acos((r - high) / r)
    return r * r / 2 * (angle - math.sin(angle))


def gripped(form: str) -> Callable[[Sizes], tuple[Hand, float]]:
    """A knob with grooves or ridges between its rims: what two segments of circles on one chord hold."""

    def make(n: Sizes) -> tuple[Hand, float]:
        m, r, h = Hand(), n(10, 20), n(10, 20)
        size, deep, gap, rim = n(1.5, 3), n(0.5, 0.9), n(1, 2), n(0.5, 2)
        m.step("block", shape="cylinder", diameter=f"{2 * r}", height=f"{h}")
        side = m.face_where(m.build().bodies[0].id, "cylindrical")
        m.step("grip", face=[side], form=form, size=f"{size}", depth=f"{deep}", gap=f"{gap}", rim=f"{rim}")
        drop = r - math.sqrt(r * r - size * size / 4)
        under = _segment(size, drop)
        each_ = under + _segment(size, deep - drop) if form == "grooves" else under - _segment(size, deep + drop)
        return m, PI * r * r * h - math.floor(2 * PI * r / (size + gap)) * each_ * (h - 2 * rim)

    make.__name__ = f"gripped_{form}"
    return make


def gripped_flat(n: Sizes) -> tuple[Hand, float]:
    """Ridges in rows over a plate, with round ends."""
    m, w, d, h = plate(n)
    size, gap, rim, deep = n(2, 3), n(1, 2), n(2, 4), n(0.5, 1)
    m.step(
        "grip", face=[face(m, (0, 0, 1))], form="ridges", size=f"{size}", gap=f"{gap}", rim=f"{rim}", depth=f"{deep}"
    )
    rows = math.floor((d - 2 * rim - size) / (size + gap) + 1e-9) + 1
    return m, h * w * d + deep * rows * ((w - 2 * rim - size) * size + PI / 4 * size * size)


def tilted(n: Sizes) -> tuple[Hand, float]:
    """A side turned outwards about its lower edge, another inwards about its upper one: two wedges."""
    m, w, d, h = plate(n)
    a, b = n(2, 20), n(2, 20)
    m.step("tilt", face=[face(m, (1, 0, 0))], axis={"edge": edge(m, (w, d / 2, 0))}, angle=f"{a} deg")
    m.step("tilt", face=[face(m, (-1, 0, 0))], axis={"edge": edge(m, (0, d / 2, h))}, angle=f"{-b} deg")
    return m, d * (w * h + h * h / 2 * (math.tan(math.radians(a)) - math.tan(math.radians(b))))


def split_with_dovetails(n: Sizes) -> tuple[Hand, float]:
    """A bar in two with tongues: what is missing is the room between tongues and what they slide into."""
    m, across, deep, play = Hand(), n(6, 10), n(3, 5), n(0.1, 0.4)
    m.step("block", width="150", depth="30", height="20")
    at = m.step("datum", form="offset", plane={"plane": "right"}, offset=f"{n(40, 100)}")
    m.step("split", plane={"datum": at}, joint="dovetails", across=f"{across}", deep=f"{deep}", play=f"{play}")
    middle = across - deep * math.tan(math.radians(15))
    return m, 90_000 - 2 * 20 * (middle * deep - (middle - play) * (deep - play))


def _round_z(m: Hand, count: int) -> list[Any]:
    """Sketches on planes through the z axis, evenly turned."""
    turned = [
        m.step("datum", form="turned", plane={"plane": "front"}, axis={"axis": "z"}, angle=f"{360 * k / count} deg")
        for k in range(count)
    ]
    return [m.sketch({"datum": at}) for at in turned]


def loft_ring_straight(n: Sizes) -> tuple[Hand, float]:
    """Squares round an axis, joined straight: a many-cornered ring."""
    m, count, r, a = Hand(), int(n(3, 8)), n(20, 40), n(4, 12)
    picks = []
    for s in _round_z(m, count):
        m.polygon(s, *box(r - a / 2, -a / 2, a, a))
        picks += m.regions(s)
    m.step("loft", form="ruled", regions=picks, ends="closed")
    return m, count / 2 * math.sin(2 * PI / count) * 2 * r * a * a


def loft_ring_smooth(n: Sizes) -> tuple[Hand, float]:
    """Circles round an axis, joined by a periodic cubic spline: by Pappus, with the area within the spline from
    SciPy.
    """
    import numpy as np
    from scipy.interpolate import CubicSpline

    m, count, r, q = Hand(), int(n(4, 9)), n(20, 40), n(2, 6)
    picks = []
    for s in _round_z(m, count):
        m.draw(s, "circle", (r, 0.0), (r + q, 0.0), sizes=(f"{2 * q}",))
        picks += m.regions(s)
    m.step("loft", form="smooth", regions=picks, ends="closed")
    t = 2 * PI * np.arange(count + 1) / count
    corners = np.column_stack([np.cos(t), np.sin(t)])
    corners[-1] = corners[0]
    ring = CubicSpline(t, corners, bc_type="periodic")
    u, weight = np.polynomial.legendre.leggauss(8)
    at = (t[:-1, None] + (u + 1) * PI / count).ravel()
    (x, y), (dx, dy) = ring(at).T, ring(at, 1).T
    area = float(((x * dy - y * dx) * np.tile(weight, count)).sum()) * PI / count / 2
    return m, 2 * area * r * PI * q * q


def wound_from_a_drawing(n: Sizes) -> tuple[Hand, float]:
    """An auger's blade: a trapezium and a tube beside the axis, turned and risen; by Pappus as if it did not rise."""
    m, turns, pitch, r = Hand(), n(0.3, 12), n(9, 14), n(10, 20)
    hand = "left" if turns > 6 else "right"
    corners = [(r, -2.0), (r + 8, -1.0), (r + 8, 1.0), (r, 2.0)]
    s = m.sketch("front")
    m.polygon(s, *corners)
    m.step("coil", section="drawn", regions=m.regions(s), turns=f"{turns}", pitch=f"{pitch}", hand=hand)
    moment = sum((a[0] * b[1] - b[0] * a[1]) * (a[0] + b[0]) / 6 for a, b in zip(corners, [*corners[1:], corners[0]]))
    q = n(1, 2)
    t = m.sketch("right")
    for radius in (q, q / 2):
        m.draw(t, "circle", (r + 40, 0.0), (r + 40 + radius, 0.0), sizes=(f"{2 * radius}",))
    m.step("coil", section="drawn", regions=m.regions(t), turns=f"{turns}", pitch=f"{pitch}", result="separate")
    return m, 2 * PI * turns * (moment + PI * q * q * 3 / 4 * (r + 40))


def flat_spiral(n: Sizes) -> tuple[Hand, float]:
    """A clock's spring: the wire's section times the length of the spiral of Archimedes, in its closed form."""
    m, wire, turns, a = Hand(), n(0.5, 1.5), n(2, 6), n(8, 12)
    b = a + turns * (wire + n(1, 3))
    m.step(
        "coil", section="square", wire=f"{wire}", height="4", diameter=f"{2 * a}", end=f"{2 * b}", turns=f"{turns}",
        pitch="0",
    )  # fmt: skip
    k = (b - a) / (2 * PI * turns)  # mm a radian

    def long(r: float) -> float:
        t = r / k
        return k / 2 * (t * math.hypot(1, t) + math.asinh(t))

    return m, 4 * wire * (long(b) - long(a))


PARTS: tuple[Callable[[Sizes], tuple[Hand, float]], ...] = (
    swept_round_a_bend, swept_mitred, swept_narrowing, swept_twisted, swept_along_edges, lofted_frustum, lofted_rings,
    lofted_to_a_point, coiled("round"), coiled("square"), leaned, healed, pushed_wall_and_hole,
    threaded_bolt, threaded_nut, nuts_and_roofs, hole_with_a_layer, hooked, ribbed,
    split_with("dowels"), split_with("pegs"), pattern_along_a_curve, vented, fillet_that_grows,
    wrapped("raise"), wrapped("engrave"),
    stretched, screwed, on_a_foot, gripped("grooves"), gripped("ridges"), gripped_flat, tilted, split_with_dovetails,
    loft_ring_straight, loft_ring_smooth, wound_from_a_drawing, flat_spiral,
)  # fmt: skip
ROUGHLY = {"threaded_bolt": 1e-3, "threaded_nut": 1e-3, "fillet_that_grows": 5e-5, "flat_spiral": 2e-5}
"""How near a volume must come where the kernel's faces only approach what is meant; all others to a millionth."""
