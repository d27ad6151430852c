"""The job, done as a person does it: pointer and keyboard in the real browser."""

import math
import re
import time

import pytest
import trimesh
from tests.ui.acts import holds

from sketchlathe.proving.page import INSIDE

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-1")]


def drilled_plate(bench) -> None:
    """A 60 x 40 plate with a 10 mm hole at (20, 15), 5 thick."""
    bench.new_model()
    bench.plane("1")
    bench.chord("dr")
    bench.click(0, 0)
    px, py = bench.place(30, 20)
    bench.page.mouse.move(px, py)
    bench.type("60, 40")
    bench.freedom("fully constrained")
    bench.chord("dc")
    bench.still()
    bench.click(20, 15)
    bench.page.mouse.move(*bench.place(24, 15))
    bench.type("10")
    bench.freedom("2 ways")


def extrude_ring(bench, thick: str = "5") -> None:
    bench.keep_sketch()
    bench.chord("se")
    bench.page.locator("#bar .picks label").first.click()
    bench.page.get_by_label("distance").fill(thick)
    bench.page.locator("#keep:enabled").wait_for()
    bench.page.get_by_label("distance").press("Enter")


def test_plate_with_a_hole_by_parameter_to_stl(bench) -> None:
    bench.new_model()
    bench.page.keyboard.press("Escape")
    bench.page.locator("#add-parameter").click()
    bench.page.get_by_label("Name of the new parameter").fill("wide")
    bench.page.get_by_label("Value of the new parameter").fill("60")
    bench.page.keyboard.press("Enter")
    bench.page.get_by_label("Value of wide").wait_for()
    bench.page.locator("#view").click(position={"x": 500, "y": 250})
    bench.chord("sk")
    bench.plane("1")
    bench.chord("dr")
    bench.click(0, 0)
    bench.page.mouse.move(*bench.place(30, 20))
    bench.page.keyboard.type("0")
    bench.page.locator("#sizes input").nth(0).fill("wide")
    bench.page.locator("#sizes input").nth(1).fill("40")
    bench.page.keyboard.press("Enter")
    bench.freedom("fully constrained")
    bench.chord("dc")
    bench.still()
    bench.click(20, 15)
    bench.page.mouse.move(*bench.place(24, 15))
    bench.type("10")
    bench.freedom("2 ways")
    extrude_ring(bench)
    bench.wait_volume((2400 - 25 * math.pi) * 5)
    bench.page.get_by_label("Value of wide").fill("85 mm")
    bench.page.keyboard.press("Enter")
    bench.wait_volume((85 * 40 - 25 * math.pi) * 5)
    stl = trimesh.load(bench.download("STL"), file_type="stl")
    assert stl.is_watertight
    assert stl.volume == pytest.approx((85 * 40 - 25 * math.pi) * 5, rel=1e-3)


def test_lines_close_snap_and_hold(bench) -> None:
    """A chain of lines: nearly level ones become level, ends snap, the first point closes it."""
    bench.new_model()
    bench.plane("2")
    bench.chord("dl")
    for x, y in ((0, 0), (30, 0.4), (30.3, 20), (10, 28)):
        bench.click(x, y)
        bench.still()
    px, py = bench.place(0.5, 0.6)
    bench.page.mouse.move(px, py)
    holds(lambda: bench.page.locator("#snapnote").inner_text().startswith(("origin", "end")))
    bench.page.mouse.click(px, py)
    bench.page.locator("#region-count", has_text="1").wait_for()
    marks = bench.page.locator("#layer-body .mark text")
    holds(lambda: sorted(marks.all_text_contents()) == ["|", "–"])
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("Escape")
    # the first dimension scales everything: 30 wide becomes 60, and the rest with it
    bench.chord("kd")
    bench.click(15, 0)
    bench.click(15, -8)
    bench.page.locator("#typed input").wait_for()
    bench.type("60")
    bench.page.locator("#layer-body .dim text", has_text="60").wait_for()
    bench.still()
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("0")
    bench.still()
    bench.click(20, 56)
    bench.page.locator("#selection-readout", has_text="along").wait_for()
    holds(lambda: "56 mm" in bench.page.locator("#selection-readout").inner_text())


def test_free_points_drag_and_held_ones_do_not(bench) -> None:
    drilled_plate(bench)
    bench.page.keyboard.press("Escape")
    bench.still()
    bench.drag((20, 15), (40, 25))
    bench.still()
    bench.click(40, 25)
    bench.page.locator("#selection-readout", has_text="across").wait_for()
    readout = bench.page.locator("#selection-readout").inner_text()
    assert re.search(r"across\s+40", readout)
    assert re.search(r"along\s+25", readout)
    # held by its sizes
    bench.drag((60, 40), (70, 50))
    bench.still()
    bench.click(60, 40)
    bench.page.locator("#selection-readout", has_text="60 mm").wait_for()


def test_constraint_too_many_is_refused_by_name(bench) -> None:
    drilled_plate(bench)
    bench.page.keyboard.press("Escape")
    bench.chord("kd")
    bench.click(30, 40)
    bench.click(30, 47)
    bench.page.locator("#typed input").wait_for()
    bench.type("70")
    problem = bench.page.locator("#problem .problem")
    problem.wait_for()
    holds(lambda: "cannot be together with" in problem.inner_text())
    holds(lambda: "60 mm" in problem.inner_text())
    holds(lambda: bench.page.locator("#layer-body .dim.fights").count() == 1)


def test_ring_and_disc_are_picked_one_by_one_in_the_view(bench) -> None:
    drilled_plate(bench)
    bench.keep_sketch()
    bench.chord("se")
    regions = bench.page.locator("#layer-body path.region.pickable")
    regions.nth(1).wait_for()
    bench.page.locator("#bar .picks label").nth(1).click()
    bench.page.locator("#bar-answer", has_text="0.785").wait_for()
    bench.page.locator("#bar .picks label").nth(0).click()
    bench.page.locator("#bar-answer", has_text="24").wait_for()
    bench.page.get_by_label("Look from top").click()
    bench.still()
    box = regions.nth(0).bounding_box()
    bench.page.mouse.click(box["x"] + box["width"] * 0.9, box["y"] + box["height"] * 0.9)
    bench.page.locator("#bar-answer", has_text="0.785").wait_for()


def test_second_sketch_on_a_face_and_a_cut_that_finds_its_way(bench) -> None:
    drilled_plate(bench)
    extrude_ring(bench, "10")
    solid = (2400 - 25 * math.pi) * 10
    bench.wait_volume(solid)
    bench.page.keyboard.press("0")
    bench.still()
    bench.chord("sk")
    bench.page.locator("#bar").get_by_text("top plane").wait_for()
    bench.page.get_by_label("Look from top").click()
    bench.still()
    view = bench.page.locator("#view").bounding_box()
    # the plate seen from above fills the middle: right of the hole is its end face
    x, y = view["x"] + view["width"] * 0.62, view["y"] + view["height"] * 0.42
    bench.page.mouse.move(x - 5, y)
    bench.page.mouse.move(x, y)
    bench.page.locator("#snapnote", has_text="flat face, end of step 2").wait_for()
    bench.page.mouse.click(x, y)
    bench.page.locator("#keep-sketch").wait_for()
    bench.still()
    bench.chord("dc")
    bench.click(45, 20)
    bench.page.mouse.move(*bench.place(50, 20))
    bench.type("8")
    bench.page.locator("#region-count", has_text="1").wait_for()
    bench.keep_sketch()
    bench.chord("se")
    bench.page.get_by_label("result").wait_for()
    bench.page.get_by_label("result").select_option(label="cutting away")
    bench.page.get_by_label("how far").select_option(label="through everything")
    bench.page.locator("#bar-answer", has_text="−").wait_for()
    holds(lambda: bench.page.get_by_label("direction").input_value() == "backwards")
    bench.page.locator("#keep").click()
    bench.wait_volume(solid - 16 * math.pi * 10)
    # change a number in the sentence: the cut follows
    bench.step(2).get_by_role("button", name="10 mm").click()
    bench.type("14")
    bench.wait_volume((2400 - 25 * math.pi - 16 * math.pi) * 14)
    bench.page.locator("#undo").click()
    bench.wait_volume(solid - 16 * math.pi * 10)
    bench.page.locator("#redo").click()
    bench.wait_volume((2400 - 25 * math.pi - 16 * math.pi) * 14)


def test_skip_rename_delete_and_a_broken_step_in_its_place(bench) -> None:
    drilled_plate(bench)
    extrude_ring(bench)
    volume = (2400 - 25 * math.pi) * 5
    bench.wait_volume(volume)
    bench.act(2, "Rename")
    bench.page.locator("#ask input").fill("Base plate")
    bench.page.keyboard.press("Enter")
    bench.step(2).get_by_text("Base plate").wait_for()
    bench.step(2).get_by_role("button", name="5 mm").click()
    bench.type("nothere * 2")
    bench.page.locator("#problem .problem", has_text="no parameter called “nothere”").wait_for()
    bench.page.keyboard.press("Escape")
    bench.wait_volume(volume)
    bench.act(1, "Skip")
    bench.step(2).locator(".why", has_text="Sketch 1 is skipped").wait_for()
    bench.act(1, "Take in again")
    bench.wait_volume(volume)
    bench.act(1, "Delete")
    bench.page.get_by_text("Base plate uses it").wait_for()
    bench.page.get_by_role("button", name="All of them").click()
    bench.page.get_by_text("No steps yet").wait_for()
    bench.page.locator("#undo").click()
    bench.wait_volume(volume)


def test_a_number_being_typed_survives_the_list_being_filled_again(bench) -> None:
    bench.solid_plate()
    bench.step(2).get_by_role("button", name="20 mm").click()
    bench.page.keyboard.type("2")
    for time_ in (1, 2):
        bench.page.evaluate(
            """async (n) => {
              const { panels } = await INSIDE;
              const text = await (await fetch(`${location.pathname}/panels/steps`)).text();
              panels.fill({ steps: text + ' '.repeat(n) });
            }""".replace("INSIDE", INSIDE),
            time_,
        )
        bench.page.wait_for_function("() => document.activeElement?.matches('#steps input')")
    bench.type("5 mm")
    bench.wait_volume(2400 * 25)
    bench.step(2).get_by_role("button", name="25 mm").wait_for()


def extruded_in_haste(bench) -> None:
    """Somebody who knows the keys types on while the page still asks what can be picked."""

    def slowly(route) -> None:
        time.sleep(1)
        route.continue_()

    bench.page.reload()
    bench.page.locator("#steps li.step").first.wait_for()
    bench.page.route(re.compile(r"/sketches/\w+$"), slowly)
    bench.page.locator("#view").focus()
    bench.chord("se")
    bench.fill("distance", "7")
    bench.page.keyboard.press("Enter")


def test_enter_before_the_only_region_has_come_keeps_the_step(bench) -> None:
    bench.new_model()
    bench.plane("1")
    bench.chord("dr")
    bench.click(0, 0)
    bench.page.mouse.move(*bench.place(30, 20))
    bench.type("60, 40")
    bench.freedom("fully constrained")
    bench.keep_sketch()
    extruded_in_haste(bench)
    bench.page.locator("#bar").wait_for(state="hidden")
    bench.wait_volume(2400 * 7)


def test_enter_keeps_nothing_when_it_has_to_be_said_which_region(bench) -> None:
    drilled_plate(bench)
    bench.keep_sketch()
    extruded_in_haste(bench)
    bench.page.locator("#bar [data-blank=regions]").click()
    bench.page.locator("#bar .picks label").nth(1).wait_for()
    holds(lambda: bench.page.locator("#steps li.step").count() == 1)
    bench.page.locator("#bar .picks label").first.click()
    bench.keep()
    bench.wait_volume((2400 - 25 * math.pi) * 7)


def test_the_handle_does_the_same_as_the_number(bench) -> None:
    drilled_plate(bench)
    bench.keep_sketch()
    bench.page.get_by_label("Look from front").click()
    bench.chord("se")
    bench.page.locator("#bar .picks label").first.click()
    handle = bench.page.locator("#layer-body .handle circle")
    handle.wait_for()
    box = handle.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    bench.page.mouse.move(x, y)
    bench.page.mouse.down()
    bench.page.mouse.move(x, y - 70, steps=6)
    bench.page.mouse.up()
    typed = bench.page.get_by_label("distance").input_value()
    assert float(typed.split()[0]) > 12
    bench.page.locator("#keep:enabled").wait_for()
    bench.page.locator("#keep").click()
    bench.wait_volume((2400 - 25 * math.pi) * float(typed.split()[0]))


def test_all_by_keyboard(bench) -> None:
    """From nothing to a solid without the pointer."""
    bench.new_model()
    bench.plane("3")
    bench.chord("dr")
    bench.type("0, 0")
    bench.page.keyboard.type("1")
    bench.page.keyboard.press("Backspace")
    bench.type("30, 20")
    bench.freedom("fully constrained")
    bench.chord("dc")
    bench.type("15, 10")
    bench.type("8")
    bench.page.locator("#region-count", has_text="2").wait_for()
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("Escape")
    bench.keep_sketch()
    bench.page.keyboard.press("/")
    bench.page.keyboard.type("extr")
    bench.page.keyboard.press("Enter")
    bench.page.locator("#bar .picks input").first.focus()
    bench.page.keyboard.press("Space")
    bench.page.locator("#keep:enabled").wait_for()
    bench.page.get_by_label("distance").focus()
    bench.page.keyboard.press("Control+a")
    bench.type("12")
    bench.wait_volume((600 - 16 * math.pi) * 12)


def make_of(bench, words: str) -> None:
    bench.page.locator("#view").focus()
    bench.chord("ww")
    bench.page.keyboard.type(words)
    bench.page.keyboard.press("Enter")


def test_a_second_window_sees_what_changed(bench) -> None:
    drilled_plate(bench)
    extrude_ring(bench)
    bench.wait_volume((2400 - 25 * math.pi) * 5)
    bench.page.route("**/here", lambda asked: asked.abort())  # what changes elsewhere does not come by itself in time
    other = bench.page.context.new_page()
    other.goto(bench.page.url)
    other.locator("[data-measure=volume]").wait_for()
    other.locator("#units").select_option("in")
    other.locator("#saved", has_text="saved, revision").wait_for()
    other.locator("#layer-body").wait_for(state="attached")
    saved = "() => document.querySelector('#saved').className.trim() === 'saved'"
    other.wait_for_function(saved)
    make_of(bench, "steel, mild")
    bench.page.locator("#problem .problem", has_text="changed elsewhere").wait_for()
    holds(lambda: "Units in" in bench.page.locator("#problem .problem").inner_text())
    make_of(bench, "brass")
    bench.page.wait_for_function(saved)
    other.close()


def test_revisions_are_listed_and_brought_back(bench) -> None:
    drilled_plate(bench)
    extrude_ring(bench)
    bench.wait_volume((2400 - 25 * math.pi) * 5)
    bench.page.get_by_text("Revisions").click()
    bench.page.locator(".revs li", has_text="Extrude 1 added").wait_for()
    bench.page.locator(".revs li", has_text="Rectangle drawn").get_by_role("button", name="bring back").click()
    bench.page.locator(".revs li", has_text="brought back").wait_for()
    bench.page.wait_for_function("() => document.querySelectorAll('#steps li.step').length === 1")


def test_an_inch_model_works_in_inches(bench) -> None:
    bench.new_model("Inches")
    bench.page.locator("#units").select_option("in 1/64")
    bench.page.wait_for_function("() => document.querySelector('#scalebar span').textContent.endsWith(' in')")
    bench.page.locator("#view").focus()
    bench.chord("bb")
    holds(lambda: bench.page.get_by_label("width", exact=True).input_value() == "3/4 in")
    bench.fill("width", "2 1/4")
    bench.fill("depth", '1-1/2"')
    bench.keep()
    bench.wait_volume(2.25 * 1.5 * 0.375 * 25.4**3)
    bench.chord("sk")
    bench.plane("1")
    bench.chord("dr")
    # where nothing else is snapped to, places are whole 64ths of an inch
    bench.click(9, 7)
    bench.click(44, 29)
    bench.freedom("4 ways")
    bench.still()
    corners = bench.page.evaluate(
        "async () => (await (await fetch(location.pathname.replace('/models', '/api/models') + '/sketches/s3')).json())"
        ".curves.flatMap((c) => c.points.map((p) => p.at))"
    )
    assert corners
    for at in corners:
        for v in at:
            assert abs(v / 25.4 * 64 - round(v / 25.4 * 64)) < 1e-6


def test_hovering_makes_nothing_new_on_the_gpu_and_a_mesh_that_failed_is_asked_for_again(bench) -> None:
    bench.solid_plate("60", "40", "10")
    bench.turn()
    memory = f"() => {INSIDE}.then(({{ scene }}) => scene.onTheGpu().geometries)"

    def hover() -> None:
        for x, y, z in [(30, 20, 10), (60, 20, 5), (30, 0, 5), (60, 0, 5), (30, 0, 10), (60, 20, 10)] * 3:
            bench.page.mouse.move(*bench.on_screen(x, y, z))
        bench.page.mouse.move(*bench.on_screen(30, 200, 0))
        bench.still()

    hover()
    before = bench.page.evaluate(memory)
    hover()
    assert bench.page.evaluate(memory) <= before
    # the first answer for the next mesh is lost on the way
    lost = []

    def once(route) -> None:
        if lost:
            route.continue_()
        else:
            lost.append(route.request.url)
            route.abort()

    bench.page.route(re.compile("/meshes/"), once)
    bench.step(2).get_by_role("button", name="10 mm").click()
    bench.type("14")
    bench.wait_volume(60 * 40 * 14)
    bench.page.locator("#undo").click()
    bench.wait_volume(60 * 40 * 10)
    bench.page.locator("#redo").click()
    bench.wait_volume(60 * 40 * 14)
    # the picture comes a little after the numbers
    bench.page.wait_for_function(
        f"() => {INSIDE}.then(({{ scene }}) => "
        "Math.abs(Math.max(0, ...scene.pickables().map(({ body }) => body.box[1][2])) - 14) < 1e-4)"
    )
    assert lost
