"""Answer check: reading what was typed, agreeing or not, and what would account for a difference; the hand-in sheet."""

import io
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.batteries.slips import explained
from tests.conftest import Hand, plate

from sketchlathe.core.amounts.answers import Answer, meant, verdict
from sketchlathe.core.amounts.weighing import Units, together, weighed
from sketchlathe.core.errors import BadInput
from sketchlathe.core.inspect import handin
from sketchlathe.core.inspect.explaining import explain
from sketchlathe.core.inspect.wrong_numbers import roundest
from sketchlathe.core.making.results import BuildCache
from sketchlathe.core.solid.measuring import measures

MM, INCH = Units("mm"), Units("in", "oz")


@pytest.mark.parametrize(
    ("what", "text", "units", "value"),
    [
        ("volume", "48.3 cm³", MM, 48300), ("volume", "48,3 cm3", MM, 48300), ("volume", "48.3", MM, 48300),
        ("volume", "2 in^3", MM, 2 * 25.4**3), ("volume", "2", INCH, 2 * 25.4**3), ("volume", "50 ml", MM, 50000),
        ("volume", "1.5e4 mm³", MM, 15000), ("area", "96 cm²", MM, 9600), ("area", "3 sq in", MM, 3 * 645.16),
        ("mass", "0.5 kg", MM, 500), ("mass", "1 lb", INCH, 453.59237), ("mass", "2", INCH, 56.69904625),
    ],
)  # fmt: skip
def test_numbers_with_units_are_read(what, text, units, value) -> None:
    assert meant(Answer(what=what, text=text), units).values == pytest.approx((value,))


@pytest.mark.parametrize("text", ["60 x 40 x 20", "60×40×20 mm", "6, 4, 2 cm", "(60; 40; 20)", "60mm x 40mm x 20mm"])
def test_three_sides_are_read(text) -> None:
    assert meant(Answer(what="box", text=text), MM).values == pytest.approx((60, 40, 20))


@pytest.mark.parametrize(
    ("what", "text", "tolerance", "says"),
    [
        ("volume", "much", "", "not one number"), ("volume", "3 mm", "", "not a unit of a volume"),
        ("mass", "3 cm³", "", "not a unit of a mass"), ("box", "60 x 40", "", "not three numbers"),
        ("box", "6 cm x 40 mm x 2", "", "more than one unit"), ("area", "3 cm³", "", "not a unit of an area"),
        ("volume", "3 cm³", "lots", "not a tolerance"), ("volume", "3 cm³", "-1 %", "not negative"),
        ("mass", "1e999 g", "", "too large"),
    ],
)  # fmt: skip
def test_what_cannot_be_read_says_why(what, text, tolerance, says) -> None:
    with pytest.raises(BadInput, match=says):
        meant(Answer(what=what, text=text, tolerance=tolerance), MM)


@given(st.text(min_size=1, max_size=30), st.sampled_from(["volume", "area", "mass", "box", "centre"]))
def test_whatever_is_typed_is_read_or_refused(text, what) -> None:
    try:
        found = meant(Answer(what=what, text=text), MM)
    except BadInput:
        return
    assert len(found.values) in (1, 3)
    assert all(s >= 0 for s in found.slack)


def weigh(hand: Hand):
    found = [measures(b.shape) for b in hand.build().bodies]
    return together([weighed(m.volume, m.area, m.centre, m.box, m.moments, 1.24) for m in found])


@pytest.mark.parametrize(
    ("what", "text", "tolerance", "agrees", "says"),
    [
        ("volume", "48 cm³", "", True, "agrees"), ("volume", "48.05 cm³", "", False, "too small by 0.05 cm³"),
        ("volume", "48.05 cm³", "0.2 %", True, "agrees"), ("mass", "59.5 g", "", True, "agrees"),
        ("mass", "55 g", "1 g", False, "too heavy by 4.52 g"), ("box", "20 x 60 x 40", "", True, "agrees"),
        ("box", "60 x 40 x 18", "", False, "too large by 2 mm"), ("centre", "30, 20, 10", "", True, "agrees"),
        ("centre", "30, 20, 12", "", False, "off by 2 mm along z"), ("area", "88 cm²", "", True, "agrees"),
    ],
)  # fmt: skip
def test_a_plate_against_answers(what, text, tolerance, agrees, says) -> None:
    found = verdict(Answer(what=what, text=text, tolerance=tolerance), weigh(plate("60", "40", "20")), MM)
    assert found.agrees is agrees
    assert found.text.startswith(says)


@pytest.mark.parametrize(
    ("value", "spread", "number", "digits"),
    [(5.9987, 0.01, 6, 1), (0.898, 0.004, 0.9, 1), (12.4991, 0.001, 12.5, 3), (119.6, 1, 120, 2), (-3.02, 0.05, -3, 1)],
)
def test_the_roundest_number_near_another(value, spread, number, digits) -> None:
    assert roundest(value, spread) == (pytest.approx(number), digits)


def causes(hand: Hand, **answers: str) -> list[str]:
    given_ = [Answer(what=w, text=t) for w, t in answers.items()]
    return [c.text for c in explain(hand.model, "p1", given_, BuildCache(1 << 30))]


def test_a_wrong_thickness_is_named_and_put_right() -> None:
    hand = plate("60", "40", "20")
    found = explain(
        hand.model, "p1", [Answer(what="volume", text="43.2 cm³"), Answer(what="area", text="84.0 cm²")], BuildCache()
    )
    assert found[0].text == "as if the distance of Extrude 1 were 18 mm instead of 20 mm"
    hand.do("together", edits=[dict(e) for e in found[0].edits])
    assert hand.volume() == pytest.approx(43200)


def test_inches_read_as_millimetres() -> None:
    assert "inches had been read as mm" in causes(plate("6", "4", "2"), volume="48 in3")[0]


def test_a_heavier_material() -> None:
    assert "Steel, mild" in causes(plate("60", "40", "20"), volume="48 cm³", mass="376.8 g")[0]


def test_a_forgotten_copy_of_a_hole() -> None:
    hand = plate("60", "40", "20")
    hand.step("block", shape="cylinder", diameter="8", height="20", x="10", y="10", result="cut")
    hole = 3.141592653589793 * 16 * 20 / 1000
    assert "Block 1 takes away is missing once more" in causes(hand, volume=f"{48 - 2 * hole:.4f} cm³")[0]


def test_a_missing_hole_from_volume_and_area() -> None:
    pi, hand = 3.141592653589793, plate("60", "40", "20")
    found = causes(
        hand, volume=f"{48 - pi * 12.25 * 0.02:.4f} cm³", area=f"{88 + pi * 7 * 0.2 - pi * 24.5 / 100:.4f} cm²"
    )
    assert "a round hole of 7 mm through 20 mm is missing" in found[:2]


def test_a_part_that_agrees_needs_no_cause() -> None:
    assert causes(plate("60", "40", "20"), volume="48 cm³") == []


def test_answers_are_kept_ordered_and_taken_away() -> None:
    hand = plate("60", "40", "20")
    hand.do("set_answer", part="p1", what="mass", text="59.5 g", tolerance="1 %")
    hand.do("set_answer", part="p1", what="volume", text=" 48 cm³ ")
    assert [(a.what, a.text) for a in hand.model.parts[0].answers] == [("volume", "48 cm³"), ("mass", "59.5 g")]
    with pytest.raises(BadInput):
        hand.do("set_answer", part="p1", what="mass", text="heavy")
    hand.do("set_answer", part="p1", what="mass", text="")
    assert [a.what for a in hand.model.parts[0].answers] == ["volume"]


def test_the_right_cause_is_among_the_first_three() -> None:
    share, count, missed = explained(1, first_seed=501)
    assert count >= 4
    assert share >= 75, "\n".join(missed)


# --- the hand-in sheet


def sheet(steps: int) -> handin.Sheet:
    from PIL import Image

    out = io.BytesIO()
    Image.new("RGB", (96, 54), "#d9cfbb").save(out, "PNG")
    return handin.Sheet(
        "Schirmplatte № 3 für Żuraw", "Ivo Marsh", date(2026, 11, 25), 12, "PLA", out.getvalue(),
        [("mass", "59.52 g"), ("volume", "48 cm³")], [("volume", "48 cm³ ± 0.1 %", "agrees")],
        [f"Extrude {i} regions of Sketch {i} by 12 mm forwards, adding material" for i in range(1, steps + 1)],
        afterwards=[f"Tap M{i} in 1 hole" for i in range(1, 10)],
    )  # fmt: skip


@pytest.mark.parametrize("steps", [1, 30, 400])
def test_one_page_with_all_that_belongs_on_it(steps) -> None:
    from pypdf import PdfReader

    pages = PdfReader(io.BytesIO(handin.pdf(sheet(steps)))).pages
    assert len(pages) == 1
    text = pages[0].extract_text()
    for words in ("Schirmplatte", "Ivo Marsh", "2026-11-25", "revision 12", "59.52 g", "48 cm³", "agrees", "by 12 mm",
                  "Tap M5 in", "and 4 more"):  # fmt: skip
        assert words in text
    assert ("more steps" in text) == (steps == 400)
    assert len(pages[0].images) == 1


def test_the_sheet_as_a_picture() -> None:
    from PIL import Image

    image = Image.open(io.BytesIO(handin.png(sheet(3))))
    assert image.width / image.height == pytest.approx(210 / 297, rel=0.01)
    assert image.convert("L").getextrema()[0] < 80
