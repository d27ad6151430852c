"""Sheets: which view says which size, where it stands, what is taken out, what cannot be."""

from __future__ import annotations

import io
from collections import Counter
from itertools import combinations
from pathlib import Path
from typing import Any

import ezdxf
import pypdfium2
import pytest
import shapely
from tests.core.test_wrong_things_in_blanks import WRONG, wrong_message
from tests.hand import Hand, plate

from sketchlathe.core.errors import CannotBuild, Refused, Trouble
from sketchlathe.core.exchange.base import FORMATS, Export
from sketchlathe.core.exchange.modelfile import dump_model, load_model
from sketchlathe.core.inspect.sheet_page import advise_on, page_of
from sketchlathe.core.making.results import BuildCache, PartBuild
from sketchlathe.core.model.building import build
from sketchlathe.core.registry import kind_of
from sketchlathe.core.sheet.page import Page, meet
from sketchlathe.core.sheet.puts import SCALES, SIDES, Size, Sizes, View, scale_words
from sketchlathe.core.sheet.telling import told
from sketchlathe.core.steps.base import STEPS

EXAMPLES = sorted((Path(__file__).parents[2] / "examples").glob("*.json"))
LINES = [kind_of(k) for k in STEPS if k.on_sheet]


class Sheet:
    """A model with a sheet of its first part."""

    def __init__(self, hand: Hand, of: str = "p1") -> None:
        self.hand = hand
        hand.do("add_part", sort="sheet", of=of)
        self.id = hand.model.parts[-1].id

    def add(self, kind: str, **fields: Any) -> str:
        self.hand.do("add_step", part=self.id, step=kind, fields=fields)
        return str(self.hand.model.part(self.id).steps[-1].id)

    def set(self, line: int, **fields: Any) -> None:
        step = self.hand.model.part(self.id).steps[line - 1].id
        self.hand.do("set_fields", step=step, fields=fields)

    @property
    def built(self) -> PartBuild:
        return build(self.hand.model, self.hand.model.part(self.id), self.hand.cache)

    @property
    def page(self) -> Page:
        return page_of(self.hand.model, self.built)

    @property
    def advice(self) -> list[str]:
        return [a.text for _, a in advise_on(self.page, self.hand.model, self.hand.model.part(self.id))]

    def file(self, kind: str) -> bytes:
        part = self.hand.model.part(self.id)
        return FORMATS[kind]().write(Export(self.hand.model, part, (), built=self.built))


def said(page: Page) -> Counter[str]:
    """The sizes that stand in views."""
    return Counter(t.words for t in page.drawn.texts if t.of and t.height > 3)


def clashes(page: Page) -> list[tuple[str, str]]:
    texts = [t for t in page.drawn.texts if t.words]
    return [(a.words, b.words) for a, b in combinations(texts, 2) if meet(a.box(0.0), b.box(0.0))]


def test_a_plates_sheet_says_its_three_sizes_once() -> None:
    page = Sheet(plate("60", "40", "20")).page
    assert said(page) == {"60": 1, "40": 1, "20": 1}
    assert clashes(page) == []
    assert page.scale == 1


def test_holes_of_one_diameter_are_said_once_with_their_number() -> None:
    hand = plate("60", "40", "20")
    s = hand.sketch("top")
    for x in (15, 45):
        curve = hand.draw(s, "circle", (x, 20), (x + 3, 20), sizes=("6",))
        assert curve
    hand.step("extrude", regions=hand.regions(s, 0, 1), reach="through", result="cut")
    found = said(Sheet(hand).page)
    assert found["2× ⌀6"] == 1, found


def test_a_diameter_of_which_nothing_is_there_is_not_said() -> None:
    hand = plate("60", "40", "20")
    s = hand.sketch("top")
    for x in (15, 45):
        hand.draw(s, "circle", (x, 20), (x + 3, 20), sizes=(str(x // 3),))
    hand.step("extrude", regions=hand.regions(s, 0), reach="through", result="cut")
    found = said(Sheet(hand).page)
    assert found["⌀15"] == 1 and found["⌀5"] == 0, found
    assert Sheet(hand).advice == []


def test_equal_lengths_at_different_places_are_each_said() -> None:
    hand = plate("60", "40", "20")
    for y in (5, 25):
        s = hand.sketch("top")
        hand.draw(s, "rectangle", (10, y), (30, y + 10), sizes=("17", "10"))
        hand.step("extrude", regions=hand.regions(s), reach="through", result="cut")
    assert said(Sheet(hand).page)["17"] == 2


def test_equal_angles_at_one_corner_are_each_said() -> None:
    plane = SIDES["above"]

    def angle(first: tuple[float, float], second: tuple[float, float]) -> Size:
        return Size("angular", plane, ((0.0, 0.0), first, second), (5.0, 5.0), "30°", "s1")

    right, left = angle((1.0, 0.0), (0.866, 0.5)), angle((-0.866, 0.5), (-1.0, 0.0))
    view = View("p1", "above", plane, (), (0.0, 0.0, 0.0), (1.0, 1.0, 1.0))
    by_view, unsaid = told([("v", view)], [("l", Sizes("p1", (right, left, right)))])
    assert [size for _, size in by_view["v"]] == [right, left] and unsaid == []


def test_a_note_speaks_of_its_own_holes_only() -> None:
    hand = plate("60", "40", "20")
    for x, reach in ((15, "through"), (45, "depth")):
        s = hand.sketch({**hand.face((0, 0, 1))})
        (point,) = hand.draw(s, "point", (x, 20))
        points = [{"sketch": s, "ref": f"{point}.at"}]
        hand.step("hole", points=points, diameter="6", reach=reach, depth="8", form="plain")
    assert not any(hand.messages()), hand.messages()
    found = said(Sheet(hand).page)
    assert found["⌀6 through"] == found["⌀6, 8 deep"] == 1, found


def test_a_sketch_that_nothing_is_made_of_says_nothing() -> None:
    hand = plate("60", "40", "20")
    hand.draw(hand.sketch("top"), "rectangle", (70, 5), (90, 15), sizes=("23", "11"))
    assert said(Sheet(hand).page) == {"60": 1, "40": 1, "20": 1}


@pytest.mark.parametrize("way", ["lying", "upright"])
@pytest.mark.parametrize("size", ["a4", "a3"])
def test_many_steps_in_words_stand_beside_the_title_block_and_leave_room(size: str, way: str) -> None:
    hand = plate("60", "40", "20")
    for number in range(60):
        hand.step("block", shape="box", x=f"{number} mm", width="2 mm", depth="2 mm", height="30 mm", result="add")
    sheet = Sheet(hand)
    sheet.set(1, size=size, way=way, heading="A" * 80, number="B" * 80, by="C" * 80)
    page = sheet.page
    assert page.fits and page.scale >= 0.2 and clashes(page) == []
    assert all(10 <= t.at[1] <= page.high - 10 and t.box()[2] < page.wide - 8 for t in page.drawn.texts)
    assert any("more lines" in t.words for t in page.drawn.texts)


def test_words_that_no_file_can_hold_are_blanks() -> None:
    from xml.etree import ElementTree

    sheet = Sheet(plate("60", "40", "20"))
    sheet.add("note", words="one\ntwo\x07\x1f Größe ⌀ Ж", x="30 mm", y="60 mm")
    sheet.set(1, heading="Plate\x00\x0b & <b>")
    texts = [e.text for e in ElementTree.fromstring(sheet.file("sheet_svg")).iter("{http://www.w3.org/2000/svg}text")]
    assert "one two  Größe ⌀ Ж" in texts and "Plate  & <b>" in texts
    dxf = ezdxf.read(io.StringIO(sheet.file("sheet_dxf").decode())).modelspace()
    assert "one two  Größe %%c Ж" in [t.dxf.text for t in dxf.query("TEXT")]
    assert sheet.file("sheet_pdf").startswith(b"%PDF")


def test_sizes_are_in_the_readers_unit() -> None:
    hand = plate("60", "40", "20")
    hand.do("set_units", units="in", fractions=False)
    found = said(Sheet(hand).page)
    assert set(found) == {"2.362", "1.575", "0.787"}, found
    hand = plate("2 in", "1 in", "3/4 in")
    assert said(Sheet(hand).page)["19.05"] == 1
    hand.do("set_units", units="in", fractions=True)
    # how far it is extruded too, though the step is as it was
    assert set(said(Sheet(hand).page)) == {"2", "1", "3/4"}


def test_a_size_that_no_view_shows_is_told_and_one_click_shows_it() -> None:
    hand = plate("60", "40", "20")
    s = hand.sketch("right")
    hand.draw(s, "circle", (10, 10), (13, 10), sizes=("7",))
    hand.step("extrude", regions=hand.regions(s), reach="through", result="cut")
    sheet = Sheet(hand)
    left = hand.model.part(sheet.id).steps[3]
    assert left.side == "left"
    assert sheet.advice == []
    hand.do("delete_step", step=left.id)
    ((_, advice),) = advise_on(sheet.page, hand.model, hand.model.part(sheet.id))
    assert "7 of Sketch" in advice.text and "⌀7" not in said(sheet.page)
    for edit in advice.edits:
        hand.do(**edit)
    assert sheet.advice == [] and said(sheet.page)["⌀7"] == 1


def test_first_angle_puts_the_view_from_above_below_and_third_angle_above() -> None:
    sheet = Sheet(plate("60", "40", "20"))
    front, above, left = (s.id for s in sheet.hand.model.part(sheet.id).steps[1:4])
    boxes = sheet.page.views
    assert boxes[above][3] < boxes[front][1] and boxes[left][0] > boxes[front][2]
    sheet.set(1, angle="third")
    boxes = sheet.page.views
    assert boxes[above][1] > boxes[front][3] and boxes[left][2] < boxes[front][0]


def test_views_are_lined_up_and_stay_where_somebody_moved_them() -> None:
    sheet = Sheet(plate("60", "40", "20"))
    front, above = (s.id for s in sheet.hand.model.part(sheet.id).steps[1:3])

    def left_edge(of: str) -> float:
        xs = [
            p.a[0] for line in sheet.page.drawn.lines for p in [line.piece] if line.of == of and line.look == "visible"
        ]
        return min(xs)

    assert left_edge(front) == pytest.approx(left_edge(above), abs=1e-9)
    at = left_edge(front)
    sheet.set(2, x="7 mm")
    assert left_edge(front) == pytest.approx(at + 7, abs=1e-9)


@pytest.mark.parametrize("path", EXAMPLES, ids=lambda p: p.stem)
def test_sheets_of_the_examples_fit_and_no_words_overlap(path: Path) -> None:
    hand = Hand(load_model(path.read_bytes()))
    for part in [p.id for p in hand.model.there]:
        sheet = Sheet(hand, part)
        assert [r.message for r in sheet.built.failed] == []
        page = sheet.page
        assert page.fits and clashes(page) == []
        for box in page.views.values():
            assert box[0] >= 20 and box[2] <= page.wide - 10 and box[1] >= 10 and box[3] <= page.high - 10


def test_a_scale_that_does_not_fit_is_told_with_a_way_out() -> None:
    sheet = Sheet(plate("60", "40", "20"))
    sheet.set(1, scale="20:1")
    part = sheet.hand.model.part(sheet.id)
    ((_, advice),) = advise_on(sheet.page, sheet.hand.model, part)
    assert "20:1" in advice.text
    sheet.set(1, **advice.fields)
    assert sheet.advice == []


def test_a_sheet_follows_its_part() -> None:
    sheet = Sheet(plate("60", "40", "20"))
    sketch = sheet.hand.steps[0]
    size = next(c for c in sketch.sketch.constraints if getattr(c, "value", "") == "60 mm")
    sheet.hand.do("set_dimension", sketch=sketch.id, id=size.id, value="75")
    assert said(sheet.page) == {"75": 1, "40": 1, "20": 1}


def test_warm_is_cold() -> None:
    sheet = Sheet(plate("60", "40", "20"))
    warm = sheet.page
    sheet.hand.cache = BuildCache()
    assert sheet.page == warm


def test_at_true_scale_in_the_pdf_and_its_words_can_be_read() -> None:
    data = Sheet(plate("60", "40", "20")).file("sheet_pdf")
    page = pypdfium2.PdfDocument(data)[0]
    assert page.get_size() == pytest.approx((297 / 25.4 * 72, 210 / 25.4 * 72), abs=0.01)
    words = page.get_textpage().get_text_range().split()
    assert {"60", "40", "20", "1:1"} <= set(words)
    round_ = Hand()
    s = round_.sketch("top")
    round_.draw(s, "circle", (0, 0), (20, 0), sizes=("40",))
    round_.step("extrude", regions=round_.regions(s), distance="5 mm")
    told = pypdfium2.PdfDocument(Sheet(round_).file("sheet_pdf"))[0].get_textpage().get_text_range()
    assert "Ø40" in told
    boxes = [o.get_bounds() for o in page.get_objects() if o.type == 2]
    # the widest thing is the frame: 297 - 20 - 10 mm
    assert max(b[2] - b[0] for b in boxes) / 72 * 25.4 == pytest.approx(297, abs=1.5)


def test_the_dxf_has_lines_and_circles_on_layers() -> None:
    hand = plate("60", "40", "20")
    s = hand.sketch("top")
    hand.draw(s, "circle", (20, 20), (25, 20), sizes=("10",))
    hand.step("extrude", regions=hand.regions(s), reach="through", result="cut")
    space = ezdxf.read(io.StringIO(Sheet(hand).file("sheet_dxf").decode())).modelspace()
    circles = space.query('CIRCLE[layer=="visible edges"]')
    assert [c.dxf.radius for c in circles] == [pytest.approx(5)]
    dashed = space.query('LINE[layer=="hidden edges"]')
    assert {round(line.dxf.start.distance(line.dxf.end), 6) for line in dashed} == {20}
    assert "60" in [t.dxf.text for t in space.query("TEXT")]


def test_the_svg_is_paper_in_mm() -> None:
    from xml.etree import ElementTree

    root = ElementTree.fromstring(Sheet(plate("60", "40", "20")).file("sheet_svg"))
    assert (root.get("width"), root.get("height")) == ("297mm", "210mm")
    assert sum(e.tag.endswith("text") for e in root) > 8


def test_a_sheet_is_kept_in_the_model_and_reads_again() -> None:
    sheet = Sheet(plate("60", "40", "20"))
    sheet.add("note", words="Break sharp edges", x="30 mm", y="30 mm")
    again = load_model(dump_model(sheet.hand.model))
    assert again == sheet.hand.model
    assert any(t.words == "Break sharp edges" for t in sheet.page.drawn.texts)


def test_steps_belong_into_parts_and_lines_onto_sheets() -> None:
    sheet = Sheet(plate("60", "40", "20"))
    with pytest.raises(Refused, match="line of a sheet"):
        sheet.hand.step("show", part="p1")
    with pytest.raises(Refused, match="belongs into a part"):
        sheet.add("block")


def test_a_sheet_is_no_part_to_bring_or_to_show() -> None:
    sheet = Sheet(plate("60", "40", "20"))
    sheet.hand.do("add_part")
    other = sheet.hand.model.parts[-1].id
    sheet.hand.do("add_step", part=other, step="bring_part", fields={"part": sheet.id})
    built = build(sheet.hand.model, sheet.hand.model.part(other), sheet.hand.cache)
    assert "paper" in built.failed[0].message


def test_a_sheet_of_nothing_says_so() -> None:
    sheet = Sheet(Hand())
    assert all("no solid yet" in r.message for r in sheet.built.failed)
    assert len(sheet.built.failed) == 5
    sheet.hand.do("delete_step", step=sheet.hand.model.part(sheet.id).steps[0].id)
    with pytest.raises(CannotBuild, match="show a part first"):
        sheet.file("sheet_pdf")


def test_of_a_part_that_is_deleted_the_sheet_keeps_the_last_shape() -> None:
    sheet = Sheet(plate("60", "40", "20"))
    sheet.hand.do("add_part")
    sheet.hand.do("delete_part", part="p1", with_users=False, leave_users=True)
    assert said(sheet.page)["60"] == 1


@pytest.mark.parametrize("kind", LINES)
def test_whatever_stands_in_a_blank_a_refusal_is_a_sentence(kind: str) -> None:
    sheet, off = Sheet(plate()), []
    base = sheet.hand.model
    for name in STEPS[kind].blanks():
        for value in (*WRONG, "0", "-3", "1e9", "nan", "x / 0"):
            sheet.hand.model = base
            try:
                sheet.add(
                    kind, **{"part": "p1"} if "part" in STEPS[kind].blanks() else {}, **{name: value}
                ) if name != "part" else sheet.add(kind, part=value)
                messages = [r.message for r in sheet.built.failed]
                assert sheet.page.drawn.texts
            except Trouble as problem:
                messages = [problem.message]
            off += [f"{name}={value!r}"[:80] + f": {bad}: {m[:150]}" for m in messages if (bad := wrong_message(m))]
    assert off == []


def test_scales_are_said_as_drawings_say_them() -> None:
    assert [scale_words(s) for s in SCALES[:8]] == ["50:1", "20:1", "10:1", "5:1", "2:1", "1:1", "1:2", "1:5"]


def test_two_hundred_views_are_laid_out_smaller() -> None:
    sheet = Sheet(plate("60", "40", "20"))
    for number in range(24):
        sheet.add("show", part="p1", side=("front", "above", "right")[number % 3])
    page = sheet.page
    assert sum(isinstance(r.put, View) for r in sheet.built.steps) == 28
    assert page.scale < 0.5


def test_a_part_cut_open_is_hatched_where_material_is_and_marked_where_the_plane_runs() -> None:
    hand = plate("60", "40", "20")
    s = hand.sketch("top")
    hand.draw(s, "circle", (30, 20), (40, 20), sizes=("20",))
    hand.step("extrude", regions=hand.regions(s), reach="through", result="cut")
    sheet = Sheet(hand)
    line = sheet.add("cut_open", part="p1", side="front", at="20 mm")
    put = next(r.put for r in sheet.built.steps if r.step == line)
    assert isinstance(put, View) and put.cut is not None
    (areas,) = put.cut.areas
    # 60 x 20 less the bore of 20
    shapes = [shapely.Polygon(rings[0], rings[1:]) for rings in areas]
    assert sum(p.area for p in shapes) == pytest.approx(60 * 20 - 20 * 20, rel=1e-5)
    page = sheet.page
    hatch = [p.piece for p in page.drawn.lines if p.look == "hatch"]
    box = page.views[line]
    assert hatch and all(box[0] <= p.a[0] <= box[2] and box[1] <= p.a[1] <= box[3] for p in hatch)
    assert {round(abs((p.b[1] - p.a[1]) / (p.b[0] - p.a[0])), 6) for p in hatch} == {1.0}
    # the bore is open: no hatching runs through its middle
    middle = (box[0] + box[2]) / 2
    assert not any(min(p.a[0], p.b[0]) < middle < max(p.a[0], p.b[0]) for p in hatch)
    letters = Counter(t.words for t in page.drawn.texts if t.words in ("A", "A–A"))
    assert letters == {"A": 2, "A–A": 1} and clashes(page) == []


def test_a_plane_beside_the_part_says_where_the_part_is() -> None:
    sheet = Sheet(plate("60", "40", "20"))
    sheet.add("cut_open", part="p1", side="left", at="75 mm")
    assert "between 0 mm and 60 mm" in sheet.built.failed[0].message


def test_bodies_that_touch_are_hatched_each_their_own_way() -> None:
    hand = plate("60", "40", "20")
    hand.step("block", shape="box", result="separate", x="0 mm", y="0 mm", z="20 mm")
    sheet = Sheet(hand)
    sheet.add("cut_open", part="p1", side="front", at="5 mm")
    ways = {round((p.piece.b[1] - p.piece.a[1]) / (p.piece.b[0] - p.piece.a[0]), 6)
            for p in sheet.page.drawn.lines if p.look == "hatch"}  # fmt: skip
    assert ways == {1.0, -1.0}


def test_holes_are_said_by_a_note_with_their_number() -> None:
    hand = plate("60", "40", "20")
    s = hand.sketch("top")
    for x in (15, 45):
        hand.draw(s, "point", (x, 20))
    points = [{"sketch": s, "ref": f"{c.id}.at"} for c in hand.curves(s)]
    hand.step("hole", points=points, diameter="6", reach="depth", depth="8", form="plain")
    sheet = Sheet(hand)
    # drilled from below, they are behind the plate where it is looked at from above
    ((_, advice),) = advise_on(sheet.page, hand.model, hand.model.part(sheet.id))
    assert "⌀6, 8 deep" in advice.text and advice.fix == "show it from below"
    hand.do(**advice.edits[0])
    found = said(sheet.page)
    assert found["2× ⌀6, 8 deep"] == 1 and sheet.advice == [], found


def test_a_round_plate_says_its_diameter_once_and_no_width() -> None:
    hand = Hand()
    s = hand.sketch("top")
    hand.draw(s, "circle", (0, 0), (20, 0), sizes=("40",))
    hand.step("extrude", regions=hand.regions(s), distance="5 mm")
    other = hand.sketch("top")
    hand.draw(other, "circle", (0, 0), (20, 0), sizes=("40",))
    assert said(Sheet(hand).page) == {"⌀40": 1, "5": 1}


def test_what_no_size_says_is_said_in_words() -> None:
    hand = plate("60", "40", "20")
    hand.step("fillet", edges=hand.edges((0, 0, 1)), radius="5 mm")
    words = " ".join(t.words for t in Sheet(hand).page.drawn.texts if t.height < 3)
    assert "Fillet" in words and "5 mm" in words
    assert "Extrude" not in words  # its distance is said as a size
