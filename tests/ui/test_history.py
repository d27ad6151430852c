"""Steps of the past: stepping back, moving, deleting, dragging a number; looking into a part. In the real browser."""

import math

import pytest
from tests.ui.acts import block, holds, new_parameter, open_box, rectangle

from sketchlathe.proving.page import INSIDE

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-2")]
PI = math.pi


def test_stepping_back_inserting_a_hole_and_going_on(bench) -> None:
    open_box(bench, "10", "2")
    hollow = 24000 - 56 * 36 * 8
    bench.wait_volume(hollow)
    bench.act(2, "Now line here")
    bench.wait_volume(24000)
    bench.chord("sh")
    bench.choose("where", "on")
    bench.blank("face")
    bench.spot("face", 30, 20, 10)
    bench.fill("diameter", "10")
    bench.keep()
    bench.wait_volume(24000 - PI * 250)
    bench.page.get_by_role("button", name="to the end").click()
    # the hole's wall gets a sleeve, 2 thick, from the floor to the rim
    bench.wait_volume(hollow - PI * 25 * 2 + PI * (49 - 25) * 8)


def test_the_now_line_is_dragged_and_moved_by_keys(bench) -> None:
    bench.solid_plate("60", "40", "10")
    block(bench, width="10", depth="10", height="30")
    both = 24000 + 100 * 20
    bench.wait_volume(both)
    line, second = bench.page.locator(".nowline").bounding_box(), bench.step(2).bounding_box()
    bench.page.mouse.move(line["x"] + 60, line["y"] + 8)
    bench.page.mouse.down()
    bench.page.mouse.move(second["x"] + 60, second["y"] + second["height"] - 4, steps=6)
    bench.page.mouse.up()
    bench.wait_volume(24000)
    bench.page.locator(".nowline .grab").focus()
    bench.page.keyboard.press("ArrowDown")
    bench.wait_volume(both)
    bench.still()
    bench.page.wait_for_function("() => document.activeElement.matches('.nowline .grab')")
    bench.page.keyboard.press("ArrowUp")
    bench.wait_volume(24000)
    assert bench.findings() == []


def test_a_deleted_step_leaves_its_sketch_for_a_cut(bench) -> None:
    bench.solid_plate("60", "40", "10")
    bench.page.locator("#view").focus()
    bench.chord("sk")
    bench.plane("1")
    rectangle(bench, (10, 10), "20, 15")
    bench.page.keyboard.press("Escape")
    bench.keep_sketch()
    bench.chord("se")
    bench.page.locator("#bar .picks input:checked").wait_for()  # the fresh region is picked by itself
    bench.fill("distance", "25")
    bench.keep()
    bench.wait_volume(24000 + 300 * 15)
    bench.act(4, "Delete")
    bench.wait_volume(24000)
    bench.chord("se")
    bench.page.locator("#bar .picks input:checked").wait_for()
    bench.choose("result", "cutting away")
    bench.choose("how far", "through everything")
    bench.keep()
    bench.wait_volume(24000 - 300 * 10)


def test_steps_are_moved_duplicated_and_deleted_with_a_choice(bench) -> None:
    bench.new_model()
    bench.page.keyboard.press("Escape")
    block(bench, width="20", depth="20", height="10")
    block(bench, width="30", depth="10", height="10", z="10")
    bench.wait_volume(4000 + 3000)
    number = bench.step(2).locator("button.n")
    number.focus()
    bench.page.keyboard.press("Alt+ArrowUp")
    bench.step(1).get_by_text("30 mm").wait_for()
    bench.act(1, "Duplicate")
    bench.page.wait_for_function("() => document.querySelectorAll('#steps li.step').length === 3")
    bench.still()
    bench.step(3).locator("button.n").drag_to(bench.step(1))
    bench.step(1).get_by_text("20 mm").first.wait_for()
    bench.wait_volume(7000)
    # what a step made is lit, and a face tells its step
    bench.page.keyboard.press("0")
    bench.turn()
    bench.spot("face", 15, 5, 20)
    made = bench.page.locator("#selection-readout .made")
    made.get_by_role("button").first.click()
    holds(lambda: bench.page.locator("#steps li.step.on").count() == 1)
    # a fillet uses its block: deleting that block offers both ways
    bench.page.locator("#view").focus()
    bench.chord("ef")
    bench.spot("edge", 20, 0, 5)
    bench.fill("radius", "2")
    bench.keep()
    bench.act(1, "Delete")
    bench.page.get_by_role("button", name="Only Block 1").click()
    bench.page.locator("#steps .why").wait_for()
    bench.page.keyboard.press("Control+z")
    bench.page.locator("#steps .why").wait_for(state="detached")


def test_a_parameter_is_dragged_and_the_part_follows(bench) -> None:
    bench.new_model()
    bench.page.keyboard.press("Escape")
    new_parameter(bench, "tall", "10 mm")
    block(bench, width="20", depth="20", height="tall")
    bench.wait_volume(4000)
    bench.page.locator(".param small", has_text="used by Block 1").wait_for()
    grip = bench.page.locator(".param .grip").bounding_box()
    bench.page.mouse.move(grip["x"] + 4, grip["y"] + 6)
    bench.page.mouse.down()
    bench.page.mouse.move(grip["x"] + 54, grip["y"] + 6, steps=6)
    bench.page.mouse.up()
    bench.still()
    value = float(bench.page.locator("#parameter-tall").input_value().split()[0])
    assert value > 10
    bench.wait_volume(400 * value)


def test_a_section_shows_the_area_of_the_cut_and_colours_are_kept(bench) -> None:
    bench.solid_plate("60", "40", "10")
    bench.page.locator("#section-across").select_option("x")
    bench.page.locator("#section-area", has_text="400 mm²").wait_for()
    bench.page.locator("#section-across").select_option("")
    bench.turn()
    bench.spot("face", 30, 20, 10)
    box = bench.page.get_by_label("Colour of this face")
    box.evaluate("(n) => { n.value = '#336699'; n.dispatchEvent(new Event('change')); }")
    bench.still()
    bench.page.reload()
    bench.page.locator("[data-measure=volume]").wait_for()
    bench.still()
    bench.turn()
    bench.spot("face", 30, 20, 10)
    holds(lambda: bench.page.get_by_label("Colour of this face").input_value() == "#336699")


def test_the_cut_of_each_body_is_its_own_and_hidden_ones_stay_out(bench) -> None:
    bench.new_model()
    block(bench, width="60", depth="40", height="30")
    block(bench, shape="cylinder", result="as a separate body", diameter="20", height="40", x="90", y="20")
    bench.turn()
    bench.page.locator("#section-across").select_option("y")
    bench.page.locator("#section-area", has_text="2600 mm²").wait_for()
    bench.still()
    bench.page.mouse.move(*bench.on_screen(90, 20, 20))
    bench.page.locator("#snapnote", has_text="cut of body of Block 2, 800 mm²").wait_for()
    bench.page.mouse.click(*bench.on_screen(90, 20, 20))
    holds(lambda: bench.page.locator("[data-cut=area]").inner_text().endswith("800 mm²"))
    holds(lambda: bench.page.locator("[data-cut=outline]").inner_text().endswith("120 mm"))
    bench.page.get_by_label("Show body of Block 2").uncheck()
    bench.page.locator("#section-area", has_text="1800 mm²").wait_for()
    bench.page.mouse.move(*bench.on_screen(90, 20, 20))
    bench.page.locator("#snapnote").wait_for(state="hidden")
    bench.page.locator("#section-across").select_option("")


def test_an_older_revision_is_looked_at_and_left_again(bench) -> None:
    bench.solid_plate("60", "40", "10")
    block(bench, width="20", depth="20", height="30")
    bench.wait_volume(60 * 40 * 10 + 400 * 20)
    now = bench.page.locator("#saved").inner_text()
    bench.page.locator("#revisions-box summary").click()
    bench.page.locator(".revs li", has_text="Extrude 1").get_by_role("button", name="look").click()
    older = bench.page.locator("#older")
    older.get_by_text("24 cm³").wait_for()
    holds(lambda: bench.page.locator("#older-steps li").count() == 2)
    assert bench.findings() == []
    bench.page.wait_for_function(
        f"() => {INSIDE}.then(({{ scene }}) => scene.pickables().every(({{ body }}) => body.faces.length === 6))"
    )
    older.get_by_role("button", name="older").click()
    older.get_by_text("no solid").wait_for()
    bench.page.keyboard.press("Escape")
    older.wait_for(state="hidden")
    bench.wait_volume(60 * 40 * 10 + 400 * 20)
    holds(lambda: bench.page.locator("#saved").inner_text() == now)
    bench.page.locator(".revs li", has_text="Extrude 1").get_by_role("button", name="look").click()
    older.get_by_role("button", name="Bring it back").click()
    bench.wait_volume(60 * 40 * 10)
