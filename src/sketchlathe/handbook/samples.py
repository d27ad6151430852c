"""One small part for each step kind: what there is before it, and with it. The handbook shows both, and this text.

Each is a function that makes what there is before, yields, and makes the step; its name is the step's kind.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from tempfile import TemporaryDirectory

from ..library import Model

Sample = Callable[[Model], Iterator[None]]


def sketch(m: Model) -> Iterator[None]:
    base = m.block("60 mm", "40 mm", "6 mm")
    yield
    s = m.sketch(base.faces("up").only)
    s.circle((22, 20), "12 mm")
    m.extrude(s, "8 mm")


def extrude(m: Model) -> Iterator[None]:
    base = m.block("60 mm", "40 mm", "6 mm")
    s = m.sketch(base.faces("up").only)
    s.rectangle((8, 8), ("30 mm", "24 mm"))
    s.circle((23, 20), "12 mm")
    yield
    m.extrude(s, "14 mm")


def revolve(m: Model) -> Iterator[None]:
    s = m.sketch("front")
    s.outline((0, 0), (22, 0), (22, 5), (9, 8), (9, 26), (0, 26))
    yield
    m.revolve(s, "z")


def sweep(m: Model) -> Iterator[None]:
    way = m.sketch("front")
    first = way.line((0, 0), (0, 30))[0]
    bend = way.arc_tangent(first.end, (20, 50))[0]
    way.line(bend.start, (45, 50))
    ring = m.sketch("top")
    ring.circle("origin", "10 mm")
    m.extrude(ring, "2 mm")
    yield
    m.sweep(ring, first)


def loft(m: Model) -> Iterator[None]:
    low = m.sketch("top")
    low.rectangle_centred("origin", ("50 mm", "36 mm"))
    m.extrude(low, "2 mm")
    high = m.sketch(m.datum("top", "30 mm"))
    high.circle("origin", "20 mm")
    yield
    m.loft([low, high])


def hole(m: Model) -> Iterator[None]:
    plate = m.block("60 mm", "40 mm", "10 mm")
    s = m.sketch(plate.faces("up").only)
    places = [s.point((x, y))[0] for x in (12, 48) for y in (12, 28)]
    yield
    m.hole(places, form="counterbored", screw="M4")


def thread(m: Model) -> Iterator[None]:
    m.block(shape="cylinder", diameter="30 mm", height="6 mm")
    s = m.sketch(m.faces("up").only)
    s.circle("origin", "12 mm")
    rod = m.extrude(s, "24 mm")
    yield
    m.thread(rod.faces(form="cylindrical").only, size="M12", play="0.3 mm")


def rib(m: Model) -> Iterator[None]:
    s = m.sketch("front")
    s.outline((0, 0), (50, 0), (50, 5), (5, 5), (5, 40), (0, 40))
    m.extrude(s, "36 mm", way="both")
    slope = m.sketch("front").line((5, 30), (40, 5))[0]
    yield
    m.rib("4 mm", slope)


def datum(m: Model) -> Iterator[None]:
    m.block("40 mm", "40 mm", "8 mm")
    yield
    above = m.sketch(m.datum("top", "28 mm"))
    above.circle((20, 20), "16 mm")
    m.extrude(above, "6 mm")


def fillet(m: Model) -> Iterator[None]:
    block = m.block("60 mm", "40 mm", "16 mm")
    yield
    m.fillet(block.edges(along="z"), "8 mm")


def chamfer(m: Model) -> Iterator[None]:
    block = m.block("60 mm", "40 mm", "16 mm")
    yield
    m.chamfer(block.faces("up").only, "3 mm")


def shell(m: Model) -> Iterator[None]:
    block = m.block("60 mm", "40 mm", "26 mm")
    yield
    m.shell("2 mm", faces=block.faces("up").only)


def draft(m: Model) -> Iterator[None]:
    block = m.block("50 mm", "40 mm", "30 mm")
    yield
    sides = [block.faces(way).only for way in ("left", "right", "front", "back")]
    m.draft(sides, "8 deg", "top")


def push(m: Model) -> Iterator[None]:
    m.block("50 mm", "40 mm", "10 mm")
    step = m.block("25 mm", "40 mm", "24 mm")
    yield
    m.push(step.faces("right").highest("right").only, "12 mm")


def heal(m: Model) -> Iterator[None]:
    block = m.block("60 mm", "40 mm", "12 mm")
    s = m.sketch(block.faces("up").only)
    s.circle((30, 20), "16 mm")
    cut = m.extrude(s, reach="through", result="cut")
    yield
    m.heal(cut.faces(form="cylindrical"))


def tilt(m: Model) -> Iterator[None]:
    block = m.block("50 mm", "40 mm", "24 mm")
    foot = block.edges(along="y").near(50, 20, 0)
    yield
    m.tilt(block.faces("right").only, foot, "-20 deg")


def emboss(m: Model) -> Iterator[None]:
    m.block(shape="cylinder", diameter="50 mm", height="30 mm")
    s = m.sketch("front")
    s.text((2, 10), "11 mm", words="N 7")
    yield
    m.emboss(s, m.faces(form="cylindrical").only, "1.5 mm", way="raise")


def mirror(m: Model) -> Iterator[None]:
    base = m.block("30 mm", "40 mm", "6 mm", result="add")
    s = m.sketch(base.faces("up").only)
    s.circle((20, 20), "10 mm")
    peg = m.extrude(s, "12 mm")
    yield
    m.mirror("right", what="bodies", bodies=peg.bodies or base.bodies)


def pattern(m: Model) -> Iterator[None]:
    plate = m.block(shape="cylinder", diameter="60 mm", height="6 mm")
    s = m.sketch(plate.faces("up").only)
    s.circle((20, 0), "8 mm")
    bore = m.extrude(s, reach="through", result="cut")
    yield
    m.pattern(steps=bore, axis="z", count=6)


def combine(m: Model) -> Iterator[None]:
    one = m.block("40 mm", "40 mm", "20 mm")
    other = m.block(shape="sphere", diameter="30 mm", x="40 mm", y="20 mm", z="20 mm", result="separate")
    yield
    m.combine(one, other, how="subtract")


def move(m: Model) -> Iterator[None]:
    m.block("40 mm", "30 mm", "10 mm")
    lid = m.block("40 mm", "30 mm", "4 mm", z="10 mm", result="separate")
    yield
    m.move(lid, dz="20 mm")


def block(m: Model) -> Iterator[None]:
    m.block("60 mm", "40 mm", "8 mm")
    yield
    m.block(shape="cylinder", diameter="20 mm", height="20 mm", x="30 mm", y="20 mm", z="8 mm")


def coil(m: Model) -> Iterator[None]:
    m.block(shape="cylinder", diameter="36 mm", height="3 mm")
    yield
    m.coil(wire="3 mm", diameter="24 mm", turns=5, pitch="6 mm", axis="z", start="3 mm")


def place(m: Model) -> Iterator[None]:
    tray = m.parts[0]
    tray.name = "Tray"
    tray.block("50 mm", "40 mm", "16 mm")
    lid = m.part("Lid")
    lid.block("50 mm", "40 mm", "4 mm")
    both = m.together("Together")
    below = both.bring_part(tray)
    above = both.bring_part(lid, x="30 mm", z="40 mm")
    yield
    both.place(
        above.faces("down").only, below.faces("up").only, how="against",
        a2=above.faces("left").only, how2="flush", b2=below.faces("left").only,
    )  # fmt: skip


def split(m: Model) -> Iterator[None]:
    m.block("90 mm", "30 mm", "12 mm")
    middle = m.datum("right", "45 mm")
    yield
    m.split(plane=middle, joint="dovetails", across="10 mm", deep="6 mm", play="0.2 mm", count=1)


def bring_part(m: Model) -> Iterator[None]:
    peg = m.parts[0]
    peg.name = "Peg"
    peg.block(shape="cylinder", diameter="10 mm", height="20 mm")
    both = m.together("Together")
    both.bring_part(peg)
    yield
    both.bring_part(peg, x="24 mm", count=3, apart="16 mm")


def leave_out(m: Model) -> Iterator[None]:
    m.block("40 mm", "30 mm", "10 mm")
    second = m.block(shape="sphere", diameter="16 mm", x="20 mm", y="15 mm", z="24 mm", result="separate")
    yield
    m.leave_out(second)


def standard_part(m: Model) -> Iterator[None]:
    plate = m.block("40 mm", "30 mm", "8 mm")
    s = m.sketch(plate.faces("up").only)
    middle = s.point((20, 15))
    m.hole(middle, screw="M6")
    yield
    m.standard_part("16 mm", middle, size="M6", at="points")


def nut_pocket(m: Model) -> Iterator[None]:
    plate = m.block("40 mm", "30 mm", "10 mm")
    middle = m.sketch(plate.faces("up").only).point((20, 15))
    yield
    m.nut_pocket(middle, size="M6", at="points")


def snap_hook(m: Model) -> Iterator[None]:
    plate = m.block("40 mm", "30 mm", "4 mm")
    middle = m.sketch(plate.faces("up").only).point((20, 15))
    yield
    m.snap_hook(middle, at="points", length="16 mm", width="10 mm", thickness="2 mm", catch="1.5 mm")


def vents(m: Model) -> Iterator[None]:
    m.block("70 mm", "50 mm", "3 mm")
    yield
    m.vents(m.faces("up").only, form="hexagons", size="6 mm", gap="1.6 mm", rim="5 mm")


def foot(m: Model) -> Iterator[None]:
    m.block("40 mm", "30 mm", "10 mm")
    yield
    m.foot("1 mm", faces=m.faces("down").only)


def grip(m: Model) -> Iterator[None]:
    knob = m.block(shape="cylinder", diameter="40 mm", height="16 mm")
    yield
    m.grip(knob.faces(form="cylindrical").only, form="ridges")


def bring(m: Model) -> Iterator[None]:
    maker = Model("Bought bracket")
    maker.block("30 mm", "20 mm", "4 mm")
    maker.block("4 mm", "20 mm", "24 mm")
    with TemporaryDirectory() as folder:
        maker.save(f"{folder}/bracket.step")
        m.block("60 mm", "40 mm", "6 mm")
        yield
        m.bring_file(f"{folder}/bracket.step", x="15 mm", y="10 mm", z="6 mm")


def reference(m: Model) -> Iterator[None]:
    maker = Model("Scanned stub")
    maker.block(shape="cylinder", diameter="20 mm", height="24 mm")
    with TemporaryDirectory() as folder:
        maker.save(f"{folder}/stub.stl")
        m.block("60 mm", "40 mm", "6 mm")
        yield
        m.bring_file(f"{folder}/stub.stl", x="30 mm", y="20 mm", z="6 mm")


def _bracket(m: Model) -> None:
    """What the sheets show."""
    s = m.sketch("front")
    s.outline((0, 0), (50, 0), (50, 6), (6, 6), (6, 34), (0, 34))
    m.extrude(s, "30 mm", way="both")
    m.hole(m.sketch(m.faces("up").highest("right").only).point((34, 0)), diameter="8 mm")


def paper(m: Model) -> Iterator[None]:
    _bracket(m)
    sheet = m.sheet()
    sheet.show(m.parts[0], side="front")
    yield
    sheet.paper(size="A4", heading="Bracket", number="B 7", by="Ada Holm")


def show(m: Model) -> Iterator[None]:
    _bracket(m)
    sheet = m.sheet()
    sheet.show(m.parts[0], side="front")
    yield
    sheet.show(m.parts[0], side="above")


def cut_open(m: Model) -> Iterator[None]:
    _bracket(m)
    sheet = m.sheet()
    sheet.show(m.parts[0], side="above")
    yield
    sheet.cut_open(m.parts[0], at="0 mm", side="front")


def say_sizes(m: Model) -> Iterator[None]:
    _bracket(m)
    sheet = m.sheet()
    sheet.show(m.parts[0], side="front")
    sheet.show(m.parts[0], side="above")
    yield
    sheet.say_sizes(m.parts[0])


def note(m: Model) -> Iterator[None]:
    _bracket(m)
    sheet = m.sheet()
    sheet.show(m.parts[0], side="front")
    yield
    sheet.note("Edges broken 0.3 mm", "30 mm", "30 mm")


SAMPLES: dict[str, Sample] = {
    name: made
    for name, made in list(globals().items())
    if callable(made) and getattr(made, "__module__", "") == __name__ and not name.startswith("_")
}
"""By step kind."""
