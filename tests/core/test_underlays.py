"""Pictures under sketches: read, set to scale, laid, kept out of what is built."""

from __future__ import annotations

import base64
import io
import math

import pytest
from fpdf import FPDF
from PIL import Image, ImageDraw
from tests.hand import Hand

from sketchlathe.core.bringing import read_file
from sketchlathe.core.errors import BadInput
from sketchlathe.core.model.document import Model
from sketchlathe.core.model.edits.bringing import model_of_file


def drawn(wide=400, high=200, kind="PNG", mode="RGB", **save):
    image = Image.new(mode, (wide, high), "white")
    ImageDraw.Draw(image).ellipse((50, 50, 150, 150), outline="black")
    out = io.BytesIO()
    image.save(out, kind, **save)
    return out.getvalue()


def picture(**how):
    return read_file(drawn(**how), "gasket.png").data


def laid():
    hand = Hand()
    sketch = hand.sketch("top")
    hand.do("put_underlay", sketch=sketch, picture=picture())
    return hand, sketch


def under(hand, sketch):
    return hand.model.sketch_step(sketch).underlay


@pytest.mark.parametrize(
    "kind, mode", [("PNG", "RGB"), ("PNG", "RGBA"), ("PNG", "1"), ("PNG", "P"), ("JPEG", "RGB"), ("JPEG", "L")]
)
def test_pictures_are_read_and_made_small(kind, mode):
    found = read_file(drawn(4200, 900, kind, mode), f"photo.{'jpg' if kind == 'JPEG' else 'png'}")
    assert found.gives == "underlay"
    assert (found.data["wide"], found.data["high"]) == (2000, 429)
    image = Image.open(io.BytesIO(base64.b64decode(found.data["data"])))
    assert image.size == (2000, 429)
    assert "two points" in found.notes[0]


def test_a_page_of_a_pdf_comes_in_its_own_size():
    page = FPDF(unit="mm", format=(210, 100))
    page.add_page()
    page.line(10, 10, 60, 10)
    found = read_file(bytes(page.output()), "drawing.pdf").data
    assert found["wide"] * found["scale"] == pytest.approx(210, rel=5e-3)
    assert found["high"] * found["scale"] == pytest.approx(100, rel=5e-3)


@pytest.mark.parametrize(
    "data, name, says",
    [
        (b"not a picture at all", "a.png", "is not a picture"),
        (drawn()[:200], "cut.png", "damaged, or cut short"),
        (drawn(kind="JPEG")[:-600], "cut.jpg", "damaged, or cut short"),
        (b"%PDF-1.7 nothing", "a.pdf", "cannot be read as PDF"),
        (b"", "a.jpg", "is empty"),
        (drawn(12000, 9000, mode="1"), "huge.png", "108 million pixels"),
    ],
)
@pytest.mark.filterwarnings("ignore::PIL.Image.DecompressionBombWarning")
def test_what_is_no_picture_says_so(data, name, says):
    with pytest.raises(BadInput, match=says):
        read_file(data, name)


def test_two_points_and_their_distance_set_the_scale_and_the_first_stays():
    hand, sketch = laid()
    before = under(hand, sketch)
    first, second = (-30.0, 10.0), (20.0, 5.0)
    hand.do("scale_underlay", sketch=sketch, first=first, second=second, length="25 mm")
    after = under(hand, sketch)
    k = 25 / math.dist(first, second)
    assert after.scale == pytest.approx(before.scale * k)

    def pixel(lies, p):
        return (p[0] - lies.x) / lies.scale, (p[1] - lies.y) / lies.scale

    assert pixel(after, first) == pytest.approx(pixel(before, first)), "the same spot of the picture lies there"
    along = tuple(a + k * (b - a) for a, b in zip(first, second))
    assert pixel(after, along) == pytest.approx(pixel(before, second))


def test_it_is_laid_by_numbers_and_undone_by_nothing_that_is_built():
    hand, sketch = laid()
    hand.draw(sketch, "circle", (0.0, 0.0), (5.0, 0.0), sizes=("10",))
    hand.step("extrude", regions=hand.regions(sketch), distance="4")
    keys = [r.key for r in hand.build().steps]
    hand.do("set_underlay", sketch=sketch, width="80 mm", x="3", y="-2 mm", turn="90 deg", strength=0.3)
    lies = under(hand, sketch)
    assert lies.wide * lies.scale == pytest.approx(80)
    assert (lies.x, lies.y, lies.turn, lies.strength) == pytest.approx((3, -2, math.pi / 2, 0.3))
    assert [r.key for r in hand.build().steps] == keys, "a picture is not built from"
    again = Model.model_validate_json(hand.model.model_dump_json())
    assert again.sketch_step(sketch).underlay == lies
    hand.do("drop_underlay", sketch=sketch)
    assert under(hand, sketch) is None


@pytest.mark.parametrize(
    "edit, says",
    [
        ({"kind": "set_underlay", "width": "0"}, "above zero"),
        ({"kind": "set_underlay", "x": "1e9 km"}, "."),
        ({"kind": "set_underlay", "strength": 2}, "."),
        ({"kind": "scale_underlay", "first": (0, 0), "second": (0, 0), "length": "5"}, "on one spot"),
        ({"kind": "scale_underlay", "first": (0, 0), "second": (1, 0), "length": "-5"}, "above zero"),
        ({"kind": "put_underlay", "picture": {"media": "image/svg+xml", "data": "x"}}, "cannot be kept"),
        ({"kind": "put_underlay", "picture": {**picture(), "data": "x" * 2_000_000}}, "cannot be kept"),
    ],
)
def test_bad_edits_change_nothing(edit, says):
    hand, sketch = laid()
    before = hand.model
    with pytest.raises(BadInput, match=says):
        hand.do(sketch=sketch, **edit)
    assert hand.model is before


def test_a_sketch_without_a_picture_says_so():
    hand = Hand()
    sketch = hand.sketch("top")
    with pytest.raises(BadInput, match="no picture under this sketch"):
        hand.do("drop_underlay", sketch=sketch)


def test_a_picture_begins_a_model_of_its_own():
    found = read_file(drawn(), "gasket.png")
    model = model_of_file({"gives": found.gives, "data": found.data}, "gasket.png")
    assert model.parts[0].steps[0].underlay.wide == 400
