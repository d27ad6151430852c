"""Write the exercises that one can do alone (``service/practice.json``): models of the Weather post's world, each with
sets of numbers. What a set comes to is built.
"""

from __future__ import annotations

import json
import sys
import tempfile
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from tests.batteries.making import edge, face
from tests.hand import ORIGIN, Hand

from sketchlathe.core.exercises.numbers import candidates, changed_by, edits_of, figures_of, same_answer
from sketchlathe.core.exercises.terms import Terms, check
from sketchlathe.core.model.document import Model, new_model
from sketchlathe.core.sketch.solver.freedom import freedom
from sketchlathe.service.building import Builder, failed_step, weighed_of
from sketchlathe.service.modelling import Opened, written
from sketchlathe.workers import Blobs, LocalEngine, LocalWorkers

OUT = Path(__file__).parents[1] / "src" / "sketchlathe" / "service" / "practice.json"
WANTED = 12
Range = tuple[str, str, str]


@dataclass
class Practice:
    """An exercise: its title, what is said of it, what differs, what comes then, what is asked."""

    title: str
    words: str
    make: Callable[[Hand], None]
    values: dict[str, str]
    differs: dict[str, Range]
    then: dict[str, str] = field(default_factory=dict)
    asked: tuple[str, ...] = ("volume",)
    units: str = "mm"


def size(m: Hand, s: str, *on: str, value: str, at: tuple[float, float], way: str = "") -> None:
    """A size between two things of a sketch."""
    m.do("add_dimension", sketch=s, on=list(on), at=list(at), value=value, **({"way": way} if way else {}))


def circle(m: Hand, s: str, x: float, y: float, r: float, value: str, along: str = "", up: str = "") -> str:
    """A circle with its diameter, and its place from the origin."""
    id = m.draw(s, "circle", ORIGIN if x == y == 0 else (x, y), (x + r, y), sizes=(value,))[0]
    if along:
        size(m, s, "origin", f"{id}.centre", value=along, at=(x / 2, -14), way="across")
    if up:
        size(m, s, "origin", f"{id}.centre", value=up, at=(-14, y / 2), way="along")
    return id


def ring(m: Hand) -> None:
    s = m.sketch("top")
    m.draw(s, "circle", ORIGIN, (17.0, 0.0), sizes=("outer",))
    m.draw(s, "circle", ORIGIN, (9.0, 0.0), sizes=("inner",))
    m.step("extrude", regions=m.regions(s), distance="high")


def tile(m: Hand) -> None:
    s = m.sketch("top")
    m.draw(s, "rectangle", ORIGIN, (40.0, 40.0), sizes=("side", "side"))
    circle(m, s, 20.0, 20.0, 8.0, "hole", "side / 2", "side / 2")
    m.step("extrude", regions=m.regions(s), distance="thick")


def tab(m: Hand) -> None:
    """A rectangle and a circle centred on its side, united, with a hole."""
    s = m.sketch("top")
    sides = m.draw(s, "rectangle", ORIGIN, (50.0, 24.0), sizes=("long", "wide"))
    end = m.draw(s, "circle", (50.0, 12.0, "middle", sides[1]), (62.0, 12.0), sizes=("wide",))[0]
    m.draw(s, "circle", (50.0, 12.0, "centre", f"{end}.centre"), (54.0, 12.0), sizes=("hole",))
    areas = m.areas(s)
    m.step("extrude", regions=m.regions(s, *range(len(areas) - 2)), distance="thick")  # the hole is two halves


def standoff(m: Hand) -> None:
    s = m.sketch("top")
    m.draw(s, "circle", ORIGIN, (9.0, 0.0), sizes=("outer",))
    m.draw(s, "circle", ORIGIN, (3.0, 0.0), sizes=("bore",))
    m.step("extrude", regions=m.regions(s), distance="long")
    m.step("chamfer", edges=[edge(m, (-9, 0, 30))], size="1 mm")


def two_depths(m: Hand) -> None:
    s = m.sketch("top")
    m.draw(s, "rectangle", ORIGIN, (60.0, 40.0), sizes=("wide", "deep"))
    circle(m, s, 20.0, 20.0, 10.0, "boss", "wide / 3", "deep / 2")
    m.step("extrude", regions=m.regions(s, 0, 1), distance="low")
    m.step("extrude", regions=m.regions(s, 1), distance="high")


def foot(m: Hand) -> None:
    s = m.sketch("top")
    m.draw(s, "rectangle", ORIGIN, (70.0, 30.0), sizes=("long", "30 mm"))
    m.step("extrude", regions=m.regions(s), distance="thick")
    top = m.sketch({"face": face(m, (0, 0, 1))})
    spots = []
    for x, along in ((12.0, "12 mm"), (58.0, "long - 12 mm")):
        id = m.draw(top, "point", (x, 15.0))[0]
        size(m, top, "origin", f"{id}.at", value=along, at=(x / 2, -8), way="across")
        size(m, top, "origin", f"{id}.at", value="15 mm", at=(-8, 8), way="along")
        spots.append({"sketch": top, "ref": f"{id}.at"})
    m.step("hole", points=spots, form="counterbored", diameter="bolt", seat_diameter="2 * bolt", seat_depth="thick / 2")


def ball(m: Hand) -> None:
    """A hollow ball, by two balls."""
    m.step("block", shape="sphere", diameter="outer")
    m.step("block", shape="sphere", diameter="outer - 2 * wall", result="cut")


def can(m: Hand) -> None:
    s = m.sketch("top")
    m.draw(s, "circle", ORIGIN, (25.0, 0.0), sizes=("outer",))
    m.step("extrude", regions=m.regions(s), distance="high")
    m.step("shell", thickness="wall", faces=[face(m, (0, 0, 1))])


def lid(m: Hand) -> None:
    """A disc with a rim that goes into the can, with play."""
    s = m.sketch("top")
    m.draw(s, "circle", ORIGIN, (25.0, 0.0), sizes=("outer",))
    m.step("extrude", regions=m.regions(s), distance="wall")
    rim = m.sketch({"face": face(m, (0, 0, 1))})
    m.draw(rim, "circle", ORIGIN, (22.0, 0.0), sizes=("outer - 2 * wall - 2 * play",))
    m.draw(rim, "circle", ORIGIN, (20.0, 0.0), sizes=("outer - 4 * wall - 2 * play",))
    m.step("extrude", regions=m.regions(rim, 1), distance="6 mm")


def clover(m: Hand) -> None:
    """Three circles united."""
    s = m.sketch("top")
    circle(m, s, 0.0, 0.0, 14.0, "leaf")
    circle(m, s, 18.0, 0.0, 14.0, "leaf", "apart", "")
    third = circle(m, s, 9.0, 16.0, 14.0, "leaf", "apart / 2", "apart")
    m.do("add_constraint", sketch=s, constraint="horizontal", on=["origin", f"{m.curves(s)[1].id}.centre"])
    assert third
    m.step("extrude", regions=m.regions(s, *range(len(m.areas(s)))), distance="thick")


def gusset(m: Hand) -> None:
    """Half of a bracket, mirrored."""
    s = m.sketch("front")
    m.draw(s, "rectangle", ORIGIN, (35.0, 6.0), sizes=("half", "thick"))
    m.step("extrude", regions=m.regions(s), distance="deep")
    up = m.sketch("front")
    m.draw(up, "rectangle", ORIGIN, (6.0, 30.0), sizes=("thick", "high"))
    m.step("extrude", regions=m.regions(up), distance="deep")
    m.step("mirror", plane={"plane": "right"})


def inch_plate(m: Hand) -> None:
    s = m.sketch("top")
    m.draw(s, "rectangle", ORIGIN, (63.5, 38.1), sizes=("wide", "deep"))
    circle(m, s, 19.0, 19.0, 6.0, "hole", "wide / 4", "deep / 2")
    m.step("extrude", regions=m.regions(s), distance="thick")


def rounded(m: Hand) -> None:
    """A block by its sizes, its upright edges rounded."""
    m.step("block", width="wide", depth="deep", height="high")
    corners = [edge(m, (x, y, 10)) for x in (0, 60) for y in (0, 40)]
    m.step("fillet", edges=corners, radius="corner")


def holes_round(m: Hand, x: float, r: float, value: str, from_axis: str, count: str) -> None:
    """Holes in a ring round the z axis."""
    s = m.sketch("top")
    id = m.draw(s, "circle", (x, 0.0), (x + r, 0.0), sizes=(value,))[0]
    size(m, s, "origin", f"{id}.centre", value=from_axis, at=(x / 2, -10), way="across")
    m.do("add_constraint", sketch=s, constraint="horizontal", on=["origin", f"{id}.centre"])
    hole = m.step("extrude", regions=m.regions(s), reach="through", result="cut")
    m.step("pattern", steps=[hole], axis={"axis": "z"}, count=count)


def flange(m: Hand) -> None:
    """A disc with a ring of holes."""
    s = m.sketch("top")
    m.draw(s, "circle", ORIGIN, (35.0, 0.0), sizes=("outer",))
    m.draw(s, "circle", ORIGIN, (12.0, 0.0), sizes=("bore",))
    m.step("extrude", regions=m.regions(s), distance="thick")
    holes_round(m, 24.0, 2.0, "bolt", "(outer + bore) / 4", "6")


def pulley(m: Hand) -> None:
    """A profile turned about an axis."""
    s = m.sketch("front")
    m.draw(s, "rectangle", (4.0, 0.0), (20.0, 12.0), sizes=("(outer - bore) / 2", "wide"))
    first = m.curves(s)[0].id
    size(m, s, "origin", f"{first}.start", value="bore / 2", at=(2, -10), way="across")
    m.do("add_constraint", sketch=s, constraint="horizontal", on=["origin", f"{first}.start"])
    m.step("revolve", regions=m.regions(s), axis={"axis": "z"})
    m.step("chamfer", edges=[edge(m, (-20, 0, 12)), edge(m, (-20, 0, 0))], size="edge")


def strap(m: Hand) -> None:
    """A bar whose end is a full round."""
    m.step("block", width="long", depth="wide", height="thick")
    m.step("fillet", form="width", middle=[face(m, (1, 0, 0))], sides=[face(m, (0, 1, 0)), face(m, (0, -1, 0))])


def tray(m: Hand) -> None:
    """A box with a leaned wall, hollow."""
    m.step("block", width="wide", depth="deep", height="high")
    m.step("fillet", edges=[edge(m, (x, y, 10)) for x in (0, 80) for y in (0, 50)], radius="8 mm")
    m.step("shell", thickness="wall", faces=[face(m, (0, 0, 1))])


def hexagon(m: Hand) -> None:
    """A hexagon by its width across flats, with a bore."""
    s = m.sketch("top")
    sides = m.draw(s, "polygon", ORIGIN, (8.0, 0.0), sizes=("flats",), sides=6, measured="flats")
    m.do("add_constraint", sketch=s, constraint="vertical", on=[sides[0]])
    m.draw(s, "circle", ORIGIN, (2.5, 0.0), sizes=("bore",))
    m.step("extrude", regions=m.regions(s), distance="high")


def link(m: Hand) -> None:
    """A bar round at both ends, with a hole in the middle of each round."""
    s = m.sketch("top")
    outline = m.draw(s, "slot", ORIGIN, (40.0, 0.0), (40.0, 9.0), sizes=("apart", "wide"))
    m.do("add_constraint", sketch=s, constraint="horizontal", on=[outline[0]])
    ends = [c.id for c in m.curves(s) if c.kind == "arc"]
    for end in ends:
        at = next(c.centre for c in m.curves(s) if c.id == end)
        m.draw(s, "circle", (*at, "centre", f"{end}.centre"), (at[0] + 4.0, at[1]), sizes=("hole",))
    m.step("extrude", regions=m.regions(s), distance="thick")


def sign(m: Hand) -> None:
    """A plate with letters cut through."""
    m.step("block", width="wide", depth="30 mm", height="thick")
    s = m.sketch("top")
    m.draw(s, "text", (8.0, 8.0), (40.0, 8.0), sizes=("letters",), words="VANE")
    text = m.curves(s)[0].id
    size(m, s, "origin", f"{text}.at", value="8 mm", at=(4, -8), way="across")
    size(m, s, "origin", f"{text}.at", value="8 mm", at=(-8, 4), way="along")
    m.do("add_constraint", sketch=s, constraint="horizontal", on=[f"{text}.at", f"{text}.to"])
    m.step("extrude", regions=m.regions(s, *range(len(m.areas(s)))), reach="through", result="cut")


def pads(m: Hand) -> None:
    """A plate on four low pads."""
    m.step("block", width="wide", depth="deep", height="thick")
    pad = m.step("block", shape="cylinder", diameter="pad", height="1.5 mm", x="10 mm", y="10 mm", z="-1.5 mm")
    m.step("pattern", steps=[pad], form="row", axis={"axis": "x"}, count="2", spacing="wide - 20 mm",
           second={"axis": "y"}, second_count="2", second_spacing="deep - 20 mm")  # fmt: skip


def funnel(m: Hand) -> None:
    """A cone, hollow, open at both ends."""
    m.step("block", shape="cone", diameter="lower", top="upper", height="high")
    m.step("shell", thickness="wall", faces=[face(m, (0, 0, 1)), face(m, (0, 0, -1))])


def wedge(m: Hand) -> None:
    """A right-angled triangle by one side and an angle."""
    s = m.sketch("front")
    m.polygon(s, ORIGIN, (50.0, 0.0), (0.0, 20.0))
    base, slope, _ = (c.id for c in m.curves(s))
    size(m, s, base, value="base", at=(25, -8))
    size(m, s, base, slope, value="slope", at=(36, 4))
    m.step("extrude", regions=m.regions(s), distance="deep")


def notched(m: Hand) -> None:
    """A disc with notches in its rim."""
    s = m.sketch("top")
    m.draw(s, "circle", ORIGIN, (30.0, 0.0), sizes=("outer",))
    m.draw(s, "circle", ORIGIN, (5.0, 0.0), sizes=("bore",))
    m.step("extrude", regions=m.regions(s), distance="thick")
    holes_round(m, 30.0, 3.0, "notch", "outer / 2", "8")


PRACTICE = [
    Practice("Spacer ring", "Two circles round the origin, pulled up.", ring,
             {"outer": "34 mm", "inner": "18 mm", "high": "6 mm"},
             {"outer": ("30 mm", "40 mm", "2 mm"), "inner": ("14 mm", "22 mm", "2 mm")}),
    Practice("Dial tile", "A square with a hole in its middle. It must stay there when the side changes.", tile,
             {"side": "40 mm", "hole": "16 mm", "thick": "4 mm"},
             {"side": ("36 mm", "60 mm", "4 mm"), "hole": ("12 mm", "20 mm", "2 mm")}, {"side": "70 mm"}),
    Practice("Lug", "A circle centred on the side of a rectangle, both as one, with a hole.", tab,
             {"long": "50 mm", "wide": "24 mm", "hole": "8 mm", "thick": "5 mm"},
             {"long": ("40 mm", "60 mm", "5 mm"), "wide": ("18 mm", "30 mm", "3 mm")}, {"hole": "10 mm"}),
    Practice("Block by sizes", "A block with its upright edges rounded.", rounded,
             {"wide": "60 mm", "deep": "40 mm", "high": "20 mm", "corner": "6 mm"},
             {"wide": ("50 mm", "70 mm", "5 mm"), "corner": ("4 mm", "10 mm", "1 mm")}, {"high": "26 mm"},
             ("volume", "area")),
    Practice("Standoff", "A tube between two boards, its upper edge bevelled by 1 mm.", standoff,
             {"outer": "18 mm", "bore": "6 mm", "long": "30 mm"},
             {"outer": ("16 mm", "24 mm", "2 mm"), "long": ("20 mm", "40 mm", "5 mm")}),
    Practice("Two heights", "A plate and a boss from one sketch: two regions, two heights.", two_depths,
             {"wide": "60 mm", "deep": "40 mm", "boss": "20 mm", "low": "5 mm", "high": "18 mm"},
             {"wide": ("54 mm", "75 mm", "3 mm"), "boss": ("16 mm", "24 mm", "2 mm")}, {"high": "25 mm"},
             ("volume", "centre")),
    Practice("Mast foot", "A bar with two counterbored holes, 12 mm from its ends.", foot,
             {"long": "70 mm", "thick": "8 mm", "bolt": "5.5 mm"},
             {"long": ("60 mm", "90 mm", "5 mm"), "bolt": ("4.5 mm", "6.5 mm", "1 mm")}, {"long": "110 mm"},
             ("volume", "area")),
    Practice("Float", "A hollow ball: one ball cut out of another.", ball,
             {"outer": "50 mm", "wall": "2 mm"},
             {"outer": ("40 mm", "60 mm", "4 mm"), "wall": ("1.6 mm", "3.2 mm", "0.4 mm")}),
    Practice("Sensor can", "A cylinder, hollow, open on top.", can,
             {"outer": "50 mm", "high": "40 mm", "wall": "2 mm"},
             {"outer": ("40 mm", "60 mm", "5 mm"), "wall": ("1.6 mm", "2.8 mm", "0.4 mm")}, {"high": "55 mm"},
             ("volume", "area")),
    Practice("Lid of the can", "It lies on the can's rim, and a ring of its own goes into it with play all round.", lid,
             {"outer": "50 mm", "wall": "2 mm", "play": "0.2 mm"},
             {"outer": ("40 mm", "60 mm", "5 mm"), "play": ("0.15 mm", "0.35 mm", "0.05 mm")}, {"wall": "2.4 mm"}),
    Practice("Three leaves", "Three circles that lie over each other, as one.", clover,
             {"leaf": "28 mm", "apart": "18 mm", "thick": "4 mm"},
             {"leaf": ("26 mm", "34 mm", "2 mm"), "apart": ("16 mm", "20 mm", "1 mm")}),
    Practice("Bracket by half", "One half is made, then mirrored on the right plane.", gusset,
             {"half": "35 mm", "high": "30 mm", "thick": "6 mm", "deep": "20 mm"},
             {"half": ("30 mm", "45 mm", "3 mm"), "high": ("24 mm", "40 mm", "4 mm")}, {"thick": "8 mm"}),
    Practice("Flange", "A disc with a bore and six holes halfway between bore and rim.", flange,
             {"outer": "70 mm", "bore": "24 mm", "bolt": "4.5 mm", "thick": "5 mm"},
             {"outer": ("60 mm", "80 mm", "5 mm"), "bore": ("20 mm", "28 mm", "2 mm")}, {"outer": "90 mm"},
             ("volume", "area")),
    Practice("Pulley blank", "A rectangle turned about the axis, both rims bevelled.", pulley,
             {"outer": "40 mm", "bore": "8 mm", "wide": "12 mm", "edge": "2 mm"},
             {"outer": ("36 mm", "48 mm", "3 mm"), "edge": ("1 mm", "3 mm", "0.5 mm")}, {"wide": "16 mm"}),
    Practice("Strap", "A bar with one end fully round.", strap,
             {"long": "60 mm", "wide": "20 mm", "thick": "4 mm"},
             {"long": ("50 mm", "80 mm", "5 mm"), "wide": ("16 mm", "24 mm", "2 mm")}, {"wide": "30 mm"}),
    Practice("Gauge tray", "A rounded box, hollow and open on top.", tray,
             {"wide": "80 mm", "deep": "50 mm", "high": "25 mm", "wall": "2 mm"},
             {"wide": ("70 mm", "100 mm", "5 mm"), "wall": ("1.6 mm", "2.8 mm", "0.4 mm")}, {"high": "32 mm"},
             ("volume", "area")),
    Practice("Inch plate", "All sizes are in inches.", inch_plate,
             {"wide": "2.5 in", "deep": "1.5 in", "hole": "0.5 in", "thick": "0.25 in"},
             {"wide": ("2 in", "3 in", "0.25 in"), "hole": ("0.375 in", "0.75 in", "0.125 in")}, {"thick": "0.375 in"},
             ("volume", "area"), "in"),
    Practice("Hex spacer", "A hexagon by its width across flats, with a bore.", hexagon,
             {"flats": "16 mm", "bore": "5 mm", "high": "12 mm"},
             {"flats": ("13 mm", "22 mm", "1 mm"), "bore": ("4 mm", "6 mm", "0.5 mm")}, {"high": "20 mm"},
             ("volume", "area")),
    Practice("Link", "A bar that is round at both ends, with a hole in the middle of each round.", link,
             {"apart": "40 mm", "wide": "18 mm", "hole": "8 mm", "thick": "4 mm"},
             {"apart": ("35 mm", "60 mm", "5 mm"), "wide": ("16 mm", "22 mm", "2 mm")}, {"apart": "75 mm"}),
    Practice("Roof wedge", "A right-angled triangle by one side and an angle, pulled.", wedge,
             {"base": "50 mm", "slope": "22 deg", "deep": "20 mm"},
             {"base": ("40 mm", "60 mm", "4 mm"), "slope": ("18 deg", "30 deg", "2 deg")}, {"slope": "35 deg"},
             ("volume", "area")),
    Practice("Plate on pads", "A plate that stands on four low pads, 1.5 mm high, 10 mm from its sides.", pads,
             {"wide": "80 mm", "deep": "50 mm", "thick": "4 mm", "pad": "12 mm"},
             {"wide": ("70 mm", "100 mm", "5 mm"), "pad": ("10 mm", "14 mm", "1 mm")}, {"deep": "64 mm"},
             ("volume", "area")),
    Practice("Rain funnel", "A cone, hollow, open at both ends.", funnel,
             {"lower": "60 mm", "upper": "20 mm", "high": "45 mm", "wall": "2 mm"},
             {"lower": ("50 mm", "70 mm", "5 mm"), "wall": ("1.6 mm", "2.8 mm", "0.4 mm")}, {"high": "60 mm"}),
    Practice("Notched wheel", "A disc with eight round notches in its rim. They stay there when it grows.", notched,
             {"outer": "60 mm", "bore": "10 mm", "notch": "6 mm", "thick": "5 mm"},
             {"outer": ("50 mm", "70 mm", "5 mm"), "notch": ("5 mm", "8 mm", "0.5 mm")}, {"outer": "84 mm"},
             ("volume", "area")),
    Practice("Cut letters", "A plate, 30 mm deep, with the word VANE cut through, 8 mm from its corner.", sign,
             {"wide": "90 mm", "thick": "3 mm", "letters": "14 mm"},
             {"wide": ("75 mm", "111 mm", "3 mm"), "letters": ("11 mm", "18 mm", "1 mm")}, {"thick": "5 mm"}),
]  # fmt: skip


def opened_of(model: Model) -> Opened:
    """A model as if it were stored."""
    text = written(model)
    return Opened("practice", "", 1, model, text.text, can_undo=False, can_redo=False, files=text.files, who="")


def told(builder: Builder, practice: Practice) -> dict[str, Any]:
    """An exercise with its sets, each built."""
    m = Hand(new_model(practice.title, practice.units))  # type: ignore[arg-type]
    for name, formula in practice.values.items():
        m.do("add_parameter", name=name, formula=formula)
    practice.make(m)
    for step in m.steps:
        sketch = getattr(step, "sketch", None)
        if sketch is not None:
            left = freedom(sketch.valued(m.model.table.values, m.model.units)).count
            assert left == 0, (practice.title, m.model.title_of(step.id), left)
    terms = Terms(
        part="p1", asked=[{"what": what} for what in practice.asked], off_after=1, why_after=2,
        varying=[{"parameter": n, "low": a, "high": b, "step": c} for n, (a, b, c) in practice.differs.items()],
        then=[{"parameter": n, "value": v} for n, v in practice.then.items()],
    )  # fmt: skip
    check(terms, m.model)

    def comes_to(edits: list[dict[str, Any]]) -> Any:
        built = builder.as_it_is(Builder.as_edited(opened_of(m.model), edits), "p1")
        assert not failed_step(built), (practice.title, edits, [s["message"] for s in built["steps"]])
        return figures_of(terms.asked, weighed_of(built))

    sets: list[dict[str, Any]] = []
    for numbers in candidates(terms, m.model, seed=11):
        figures = comes_to(edits_of(numbers))
        if not any(same_answer(terms.asked, figures, other["answers"]) for other in sets):
            then = comes_to(edits_of(changed_by(terms.then, numbers))) if terms.then else None
            sets.append({"numbers": numbers, "answers": figures, "then": then})
        if len(sets) == WANTED:
            break
    print(practice.title, len(sets), sets[0])
    return {
        "title": practice.title, "words": practice.words, "model": m.model.as_json(),
        "terms": terms.model_dump(mode="json"), "sets": sets,
    }  # fmt: skip


if __name__ == "__main__":
    only = sys.argv[1:]
    workers = LocalWorkers(1, limit=120)
    try:
        with tempfile.TemporaryDirectory() as folder:
            builder = Builder(LocalEngine(workers, Blobs(Path(folder)), 120))
            made = [told(builder, p) for p in PRACTICE if not only or p.title in only]
        if not only:
            OUT.write_text(json.dumps(made, ensure_ascii=False, separators=(",", ":")) + "\n")
            print(OUT, OUT.stat().st_size)
    finally:
        workers.close()
