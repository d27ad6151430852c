"""Sweeps, lofts, threads, faces changed where they are, and what printing asks for, as a person makes them."""

from __future__ import annotations

import math

import pytest
from tests.ui.acts import block, circle, holds, new_parameter, rectangle, sketch_on_face

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-4")]
PI = math.pi


def line(bench, *points) -> None:
    """A chain of lines through places of the open sketch."""
    bench.chord("dl")
    for p in points:
        bench.click(*p)
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("Escape")
    bench.still()


def new_sketch(bench, plane: str) -> None:
    bench.page.locator("#view").focus()
    bench.chord("sk")
    bench.tick(plane)
    bench.page.locator("#tray-sketch").wait_for()
    bench.still()


def plane_above(bench, height: str) -> None:
    """A datum plane over the top plane."""
    bench.page.locator("#view").focus()
    bench.chord("sd")
    bench.choose("form", "a plane off")
    bench.blank("plane")
    bench.tick("top plane")
    bench.fill("distance", height)
    bench.keep()


def test_a_spout_lofted_from_a_square_to_a_circle_and_shelled(bench) -> None:
    bench.new_model()
    bench.plane("1")
    rectangle(bench, (-20, -20), "40, 40")
    bench.keep_sketch()
    plane_above(bench, "50")
    new_sketch(bench, "Datum 1")
    circle(bench, (0, 0), "20")
    bench.keep_sketch()
    bench.chord("sl")
    # both regions, in their order; keyboard: the list of the bar
    bench.page.locator("#bar .picks label").nth(1).wait_for()
    bench.tick("Sketch 1")
    bench.tick("Sketch 2")
    bench.page.locator(".gaugenum", has_text="corners that are matched").wait_for()
    bench.keep()
    # between the square's area and the circle's
    volume = bench.measure("volume")
    assert PI * 100 * 50 < volume < 1600 * 50
    bench.turn()
    bench.chord("es")
    bench.fill("thickness", "1.5")
    bench.blank("open faces")
    bench.spot("face", 0, 0, 50)
    bench.spot("face", -10, -10, 0)
    bench.keep()
    assert bench.wait_less(volume) < 0.5 * volume


def test_a_cable_guide_swept_along_a_bent_path_with_its_hole(bench) -> None:
    bench.new_model()
    bench.plane("1")
    circle(bench, (0, 0), "10")
    circle(bench, (0, 0), "6")
    bench.keep_sketch()
    new_sketch(bench, "front plane")
    line(bench, (0, 0), (0, 30), (40, 30))
    bench.keep_sketch()
    bench.chord("sw")
    bench.tick("Sketch 1")
    bench.blank("path")
    bench.tick("2 curves end to end")
    bench.page.locator("#keep:enabled").wait_for()
    bench.keep()
    # mitred: each leg is as long as its middle
    tube = PI * (25 - 9) if bench.step(3).inner_text().count("region") == 1 else PI * 25
    bench.wait_volume(tube * 70, 1e-3)
    # what cannot be says so in the bar, and nothing is lost
    before = bench.measure("volume")
    bench.act(3, "Edit")
    bench.fill("twist", "90")
    bench.page.locator("#bar", has_text="round its corners first").wait_for()
    bench.page.locator("#drop").click()
    bench.page.locator("#bar").wait_for(state="hidden")
    bench.wait_volume(before)


def test_a_screw_and_its_nut_by_their_faces(bench) -> None:
    bench.new_model()
    bench.page.keyboard.press("Escape")
    block(bench, width="16", depth="16", height="6", x="-8", y="20")
    bench.turn()
    sketch_on_face(bench, 0, 28, 6)
    circle(bench, (0, 28), "6.65")
    bench.keep_sketch()
    bench.chord("se")
    bench.choose("result", "cutting away")
    bench.choose("how far", "through everything")
    bench.keep()
    nut = (256 - PI * 3.325**2) * 6
    bench.wait_volume(nut)
    block(bench, shape="cylinder", diameter="8", height="8")
    plain = nut + PI * 16 * 8
    bench.wait_volume(plain)
    bench.turn()
    bench.chord("st")
    bench.spot("place", 4 * 0.707, -4 * 0.707, 4)
    bench.keep()
    threaded = bench.wait_less(plain)
    # between the cores of root and crest
    assert PI * 3.1**2 * 8 < threaded - nut < PI * 16 * 8
    bench.step(5).get_by_role("button", name="keep it M8").click()
    bench.page.locator("#steps", has_text="as M8").wait_for()
    bench.still()
    bench.chord("st")
    bench.spot("place", 0 - 3.32 * 0.7, 28 + 3.32 * 0.714, 5)
    bench.keep()
    bench.wait_less(threaded)
    holds(lambda: bench.page.locator("#steps .problem").count() == 0)


def test_a_hole_is_healed_a_wall_pushed_and_a_side_drafted(bench) -> None:
    bench.solid_plate("60", "40", "20")
    sketch_on_face(bench, 30, 20, 20)
    circle(bench, (20, 20), "10")
    bench.keep_sketch()
    bench.chord("se")
    bench.choose("result", "cutting away")
    bench.choose("how far", "through everything")
    bench.keep()
    drilled = 48000 - PI * 25 * 20
    bench.wait_volume(drilled)
    bench.turn()
    bench.chord("ep")
    bench.spot("face", 60, 20, 10)
    bench.fill("distance", "5")
    bench.keep()
    bench.wait_volume(drilled + 5 * 40 * 20)
    # too far in: the farthest that works is offered
    bench.turn()
    bench.chord("ep")
    bench.spot("face", 65, 20, 10)
    bench.choose("way", "in")
    bench.fill("distance", "200")
    bench.page.locator("#bar", has_text="The farthest that works is about").wait_for()
    bench.page.locator("#drop").click()
    bench.page.locator("dialog[open]").get_by_role("button", name="Drop").click()
    bench.turn()
    bench.chord("eh")
    bench.spot("place", 20 - 5 * 0.7, 20 + 5 * 0.714, 17)
    bench.keep()
    bench.wait_volume(65 * 40 * 20)
    bench.turn()
    bench.chord("ed")
    bench.spot("face", 65, 20, 10)
    bench.fill("angle", "5")
    bench.keep()
    bench.wait_volume(65 * 40 * 20 - 40 * 20 * 20 * math.tan(math.radians(5)) / 2)


def test_a_cover_with_nut_pockets_and_a_snap_hook(bench) -> None:
    bench.solid_plate("60", "40", "8")
    bench.chord("nn")
    bench.choose("where", "on")
    bench.blank("face")
    bench.spot("face", 30, 20, 8)
    bench.choose("nut", "M5")
    bench.fill("play", "0.2")
    bench.keep()
    pocket = 8.2**2 * math.sqrt(3) / 2 * 4.9
    bench.wait_volume(60 * 40 * 8 - pocket)
    bench.turn()
    bench.chord("ns")
    bench.choose("where", "on")
    bench.blank("face")
    bench.spot("face", 60, 20, 4)
    bench.blank("side")
    bench.tick("z axis")
    bench.fill("length", "6")
    # strained too much: told, with the length that would do
    bench.page.locator("#bar", has_text="It is strained by").wait_for()
    bench.keep()
    assert bench.measure("volume") > 60 * 40 * 8 - pocket


def test_a_long_bar_is_split_with_dowels_and_goes_together(bench) -> None:
    bench.new_model()
    bench.page.keyboard.press("Escape")
    block(bench, width="300", depth="30", height="20", x="-150")
    bench.chord("bs")
    bench.blank("plane")
    bench.tick("right plane")
    bench.page.locator("#more-blanks").click()
    bench.choose("joint", "joined by loose dowels")
    bench.keep()
    holes, dowels = 4 * PI / 4 * 25 * 6, 2 * PI / 4 * 4.8**2 * 11.8
    bench.wait_volume(300 * 30 * 20 - holes + dowels)
    holds(lambda: bench.page.locator("#bodies-readout .nameit").count() == 4)
    bench.page.locator("#view").focus()
    bench.chord("tf")
    bench.page.locator("#fit-panel").wait_for()
    bench.page.locator("#fit-panel", has_text="play").wait_for(timeout=60_000)
    holds(lambda: "overlap" not in bench.page.locator("#fits").inner_text().lower())


def test_tools_lie_in_drawers_and_answer_to_keys(bench) -> None:
    bench.new_model()
    bench.page.keyboard.press("Escape")
    page = bench.page
    fillet, extrude = (page.locator(f"#tray-solid [data-step={k}]") for k in ("fillet", "extrude"))
    holds(lambda: extrude.is_visible() and not fillet.is_visible())
    page.locator("[data-drawer=edge]").click()
    holds(lambda: fillet.is_visible() and not extrude.is_visible())
    holds(lambda: page.locator("[data-drawer=edge]").get_attribute("aria-pressed") == "true")
    page.locator("#view").focus()
    page.keyboard.press("b")
    page.locator("#tray-solid [data-step=coil]").wait_for()
    page.keyboard.press("o")
    page.locator("#bar").get_by_label("turns", exact=True).wait_for()
    bench.keep()
    bench.wait_volume(PI * 5 * math.hypot(PI * 20, 5))
    # one in a closed drawer is found by its name
    page.locator("#view").focus()
    page.keyboard.press("/")
    page.keyboard.type("gusset")
    page.keyboard.press("Enter")
    page.locator("#bar", has_text="Raise a rib").wait_for()
    assert bench.findings() == []


def test_a_gasket_is_traced_to_scale_from_a_photograph(bench, tmp_path) -> None:
    from PIL import Image, ImageDraw

    # a ring of 80 pixels between two holes 320 pixels apart
    image = Image.new("RGB", (600, 300), "white")
    pen = ImageDraw.Draw(image)
    for x in (140, 460):
        pen.ellipse((x - 40, 110, x + 40, 190), outline="black", width=4)
    image.save(tmp_path / "gasket.png")
    bench.new_model()
    bench.plane("1")
    page = bench.page
    with page.expect_file_chooser() as chooser:
        page.locator("#underlay-choose").click()
    chooser.value.set_files(tmp_path / "gasket.png")
    page.locator("#layer image.underlay").wait_for()
    page.locator("#hint", has_text="set it by two points").wait_for()
    # it comes 100 mm wide: the holes lie at -26.667 and 26.667; in truth they are 64 mm apart
    page.locator("#underlay-scale").click()
    bench.click(-160 / 6, 0)
    bench.click(160 / 6, 0)
    page.locator("#ask input").fill("64 mm")
    page.keyboard.press("Enter")
    page.locator("[data-underlay=width]").wait_for()
    page.wait_for_function(
        "() => Math.abs(parseFloat(document.querySelector('[data-underlay=width]').value) - 120) < 0.3"
    )
    bench.still()
    # traced: a circle over a hole is as large as in truth, 16 mm
    page.locator("[data-underlay=x]").fill("0")
    page.keyboard.press("Tab")
    bench.still()
    # moved by hand, a millimetre by an arrow key, and back by numbers
    page.locator("#underlay-move").click()
    bench.drag((0, 10), (6, 14))
    page.wait_for_function("() => Math.abs(parseFloat(document.querySelector('[data-underlay=x]').value) - 6) < 0.3")
    bench.still()
    page.keyboard.press("ArrowRight")
    page.wait_for_function("() => Math.abs(parseFloat(document.querySelector('[data-underlay=x]').value) - 7) < 0.3")
    bench.still()
    page.keyboard.press("Escape")
    for name in ("x", "y"):
        page.locator(f"[data-underlay={name}]").fill("0")
        page.keyboard.press("Tab")
        bench.still()
    page.locator("#view").focus()
    circle(bench, (32, 0), "16")
    bench.keep_sketch()
    bench.chord("se")
    bench.fill("distance", "2")
    bench.keep()
    bench.wait_volume(PI * 64 * 2)
    # undone, the picture lies as before; taken away it is gone
    bench.act(1, "Open")
    page.locator("#underlay-drop").click()
    page.locator("#layer image.underlay").wait_for(state="detached")
    page.locator("#underlay-choose").wait_for()
    assert bench.findings() == []


def test_a_name_is_wrapped_round_a_mast(bench) -> None:
    bench.new_model()
    bench.page.keyboard.press("Escape")
    block(bench, shape="cylinder", diameter="40", height="30")
    mast = PI * 400 * 30
    bench.wait_volume(mast)
    new_sketch(bench, "front plane")
    bench.chord("dx")
    bench.page.locator("#options").get_by_label("text").fill("BOE")
    bench.click(-10, 12)
    bench.click(10, 12)
    bench.still()
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("Escape")
    bench.keep_sketch()
    bench.page.keyboard.press("Escape")
    bench.turn()
    bench.chord("em")
    bench.tick("letters")
    bench.blank("face")
    bench.spot("place", 20 * 0.7, -20 * 0.714, 8)
    bench.fill("height", "1")
    bench.keep()
    raised = bench.measure("volume") - mast
    bench.act(3, "Edit")
    bench.choose("way", "engrave")
    bench.keep()
    cut = mast - bench.wait_less(mast)
    # raised over engraved: (R + h/2) over (R - h/2)
    assert raised / cut == pytest.approx(20.5 / 19.5, rel=1e-4)


def test_a_cover_with_vents_follows_its_size(bench) -> None:
    bench.solid_plate("60", "40", "3")
    bench.chord("nv")
    bench.spot("face", 30, 20, 3)
    bench.fill("width", "4")
    bench.fill("gap", "2")
    bench.fill("rim", "5")
    bench.keep()
    slot = (60 - 10 - 4) * 4 + PI * 4
    bench.wait_volume(3 * (2400 - 5 * slot))


def test_curves_by_formulas_and_by_a_table(bench) -> None:
    bench.new_model()
    bench.plane("1")
    page = bench.page
    bench.chord("mn")
    page.locator("#plot-dialog[open]").wait_for()
    assert bench.findings() == []
    # a slip is told at its place, and nothing typed is lost
    page.locator("#plot-x").fill("20 mm * cos(u)")
    page.keyboard.press("Enter")
    page.locator("#plot-says", has_text="no parameter called").wait_for()
    page.locator("#plot-x").fill("20 mm * cos(t)")
    page.keyboard.press("Enter")
    page.locator("#plot-dialog").wait_for(state="hidden")
    bench.still()
    page.locator("#region-count", has_text="1").wait_for()
    bench.keep_sketch()
    bench.chord("se")
    bench.fill("distance", "5")
    bench.keep()
    bench.wait_volume(PI * 160 * 5, 1e-3)
    new_sketch(bench, "top plane")
    bench.chord("mn")
    page.locator("#plot-by").select_option("plot_table")
    page.locator("#plot-text").fill("30 0\n40 0\n40 10\n30 10\n30 0")
    page.locator("#plot-form").select_option("lines")
    page.get_by_role("button", name="Draw it").click()
    page.locator("#region-count", has_text="1").wait_for()
    assert bench.findings() == []


def test_a_box_is_made_to_weigh_what_it_should_by_its_wall(bench) -> None:
    from tests.ui.acts import new_parameter, open_box

    open_box(bench, "20", "3")
    new_parameter(bench, "thick", "3 mm")
    bench.step(3).locator("[data-blank=thickness]").click()
    bench.page.keyboard.press("Control+a")
    bench.type("thick")
    bench.page.locator("[data-seek=thick]").click()
    page = bench.page
    assert bench.findings() == []
    page.locator("#seek-goal").fill("lots")
    page.keyboard.press("Enter")
    page.locator("#seek-says", has_text="is not one number").wait_for()
    page.locator("#seek-goal").fill("15")
    page.locator("#seek-read", has_text="= 15 g").wait_for()
    page.locator("#seek-goal").fill("15 g")
    page.keyboard.press("Enter")
    page.locator("#seek-says", has_text="found in").wait_for()
    page.locator("#seek-curve svg").wait_for()
    page.keyboard.press("Enter")
    page.locator("#seek-dialog").wait_for(state="hidden")
    page.wait_for_function("() => Math.abs(document.querySelector('[data-measure=mass]').dataset.exact - 15) < 1e-3")
    bench.page.locator("#undo").click()
    bench.wait_volume(60 * 40 * 20 - 54 * 34 * 17)


def test_a_cam_follows_its_parameter_and_its_formulas_are_changed(bench) -> None:
    bench.new_model()
    bench.page.keyboard.press("Escape")
    new_parameter(bench, "wide", "20")
    bench.chord("sk")
    bench.plane("1")
    page = bench.page
    bench.chord("mn")
    page.locator("#plot-x").fill("wide * cos(t)")
    page.keyboard.press("Enter")
    page.locator("#plot-dialog").wait_for(state="hidden")
    bench.still()
    page.locator(".curve.taken").first.wait_for()
    bench.click(0, 8)
    bench.chord("mn")
    page.locator("#plot-dialog[open]", has_text="Formulas of the picked curve").wait_for()
    holds(lambda: page.locator("#plot-x").input_value() == "wide * cos(t)")
    page.locator("#plot-y").fill("10 mm * sin(t)")
    page.keyboard.press("Enter")
    page.locator("#plot-dialog").wait_for(state="hidden")
    bench.still()
    bench.keep_sketch()
    bench.chord("se")
    bench.fill("distance", "5")
    bench.keep()
    bench.wait_volume(PI * 200 * 5, rel=1e-4)
    page.locator("#parameter-wide").fill("30")
    page.keyboard.press("Enter")
    bench.wait_volume(PI * 300 * 5, rel=1e-4)
