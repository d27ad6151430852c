"""Parts made of several steps in the real browser: edges and faces picked in the view, axes and
steps from their lists.
"""

import math

import pytest
from tests.ui.acts import holds

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-2")]
PI = math.pi


def test_a_shelled_box_with_two_radii_and_a_chamfered_rim(bench) -> None:
    bench.solid_plate()
    bench.turn()
    bench.chord("ef")
    bench.spot("edge", 60, 0, 10)
    bench.fill("radius", "6")
    bench.keep()
    left = 48000 - 20 * 36 * (1 - PI / 4)
    bench.wait_volume(left)
    bench.chord("es")
    bench.fill("thickness", "2")
    bench.blank("open faces")
    bench.spot("face", 30, 20, 20)
    bench.page.locator("#bar").get_by_label("open faces").get_by_text("1 face").wait_for()
    bench.keep()
    inner = (56 * 36 - 16 * (1 - PI / 4)) * 18
    bench.wait_volume(left - inner)
    holds(lambda: "open at" in bench.step(4).inner_text())


def test_what_a_sentence_lacks_is_said_and_enter_leads_there(bench) -> None:
    bench.new_model()
    bench.plane("1")
    for x in (0, 40):
        bench.chord("dr")
        bench.click(x, 0)
        bench.page.mouse.move(*bench.place(x + 20, 15))
        bench.type("30, 20")
    bench.still()
    bench.keep_sketch()
    bench.chord("se")
    bench.fill("distance", "6")
    bench.page.locator("#bar .why", has_text="Still missing: regions").wait_for()
    bench.page.locator("#bar").get_by_label("distance").press("Enter")
    bench.tick("region 1")
    bench.page.locator("#keep:enabled").wait_for()
    bench.keep()
    bench.wait_volume(30 * 20 * 6)


def test_a_fillet_too_big_offers_the_largest_that_works(bench) -> None:
    bench.solid_plate(thick="10")
    bench.turn()
    bench.chord("ef")
    bench.spot("edge", 30, 0, 10)
    bench.fill("radius", "30")
    why = bench.page.locator("#bar .why")
    why.get_by_text("largest that works here").wait_for()
    why.get_by_role("button", name="make it").click()
    bench.keep()
    bench.wait_volume(24000 - 60 * 100 * (1 - PI / 4), rel=2e-3)


def test_a_bracket_mirrored_with_one_step_forgotten_and_added(bench) -> None:
    bench.solid_plate("30", "40", "10")
    bench.chord("sk")
    bench.plane("1")
    bench.chord("dp")
    bench.click(20, 20)
    bench.still()
    bench.page.keyboard.press("Escape")
    bench.keep_sketch()
    bench.chord("sh")
    bench.tick("point 1")
    bench.fill("diameter", "8")
    bench.keep()
    hole = PI * 16 * 10
    bench.wait_volume(12000 - hole)
    bench.chord("rm")
    bench.choose("what", "the steps")
    bench.blank("steps")
    bench.tick("Hole 1")
    bench.blank("plane")
    bench.tick("right plane")
    why = bench.page.locator("#bar .why")
    why.get_by_text("is not repeated").wait_for()
    why.get_by_role("button", name="add Extrude 1").click()
    bench.keep()
    bench.wait_volume(2 * (12000 - hole))


def test_a_ring_of_holes_follows_its_number(bench) -> None:
    bench.new_model()
    bench.page.keyboard.press("Escape")
    bench.chord("bb")
    bench.choose("shape", "cylinder")
    bench.fill("diameter", "100")
    bench.fill("height", "5")
    bench.keep()
    bench.wait_volume(PI * 2500 * 5)
    bench.chord("bb")
    bench.choose("shape", "cylinder")
    bench.fill("diameter", "6")
    bench.fill("height", "20")
    bench.fill("x", "40")
    bench.fill("z", "-5")
    bench.choose("result", "cutting away")
    bench.keep()
    bench.chord("rp")
    bench.tick("Block 2")
    bench.blank("axis")
    bench.tick("z axis")
    bench.fill("how many", "7")
    bench.keep()
    bench.wait_volume((PI * 2500 - 7 * PI * 9) * 5)
    bench.step(3).get_by_role("button", name="7").click()
    bench.page.keyboard.type("9")
    bench.page.keyboard.press("Enter")
    bench.wait_volume((PI * 2500 - 9 * PI * 9) * 5)


def test_a_hollow_ball_by_revolve_and_a_symmetric_cut_out(bench) -> None:
    bench.new_model()
    bench.plane("2")
    bench.chord("dl")
    bench.click(0, -20)
    bench.click(0, 20)
    bench.still()
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("Escape")
    bench.chord("da")
    bench.click(0, -20)
    bench.click(0, 20)
    bench.click(20, 0)
    bench.still()
    bench.page.keyboard.press("Escape")
    bench.keep_sketch()
    bench.chord("sr")
    bench.blank("axis")
    bench.tick("z axis")
    bench.keep()
    ball = 4 / 3 * PI * 8000
    bench.wait_volume(ball)
    bench.chord("es")
    bench.fill("thickness", "4")
    bench.keep()
    bench.wait_volume(ball - 4 / 3 * PI * 4096)


def test_an_edge_taken_from_the_solid_carries_a_hole_along(bench) -> None:
    bench.solid_plate("60", "40", "5")
    bench.page.locator("#view").focus()
    bench.chord("sk")
    bench.spot("face", 30, 20, 5)
    bench.page.locator("#tray-sketch").wait_for()
    bench.still()
    bench.chord("mj")
    bench.page.locator("#layer-body .curve.taken").first.wait_for(state="attached")
    bench.click(60, 20)
    bench.still()
    bench.page.keyboard.press("Escape")
    bench.chord("dc")
    bench.click(40, 20)
    bench.page.mouse.move(*bench.place(44, 20))
    bench.type("8")
    bench.still()
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("Escape")
    bench.chord("kd")
    bench.click(40, 20)
    bench.click(60, 30)
    bench.click(50, 50)
    bench.page.locator("#typed input").wait_for()
    bench.type("15")
    bench.page.locator("#layer-body .dim text", has_text="15").wait_for()
    bench.keep_sketch()
    bench.chord("se")
    bench.tick("Sketch 2")
    bench.choose("how far", "through everything")
    bench.choose("result", "cutting away")
    bench.keep()
    bench.wait_volume((2400 - 16 * PI) * 5)


def test_stepping_back_inserting_and_deleting_a_step_keeps_its_sketch(bench) -> None:
    bench.solid_plate(thick="10")
    bench.act(2, "Delete")
    bench.page.wait_for_function("() => document.querySelectorAll('#steps li.step').length === 1")
    bench.still()
    bench.chord("se")
    bench.fill("distance", "4")
    bench.keep()
    bench.wait_volume(2400 * 4)


def test_what_is_selected_goes_into_the_next_step(bench) -> None:
    """First the edge or face, then the tool."""
    bench.solid_plate("60", "40", "10")
    bench.turn()
    bench.spot("edge", 60, 0, 5)
    bench.chord("ef")
    bench.fill("radius", "6")
    bench.keep()
    left = 24000 - 36 * (1 - PI / 4) * 10
    bench.wait_volume(left)
    # a hole asks for points; a face that was selected is as good
    bench.spot("face", 30, 20, 10)
    bench.chord("sh")
    bench.gap("face").get_by_text("1 face").wait_for()
    bench.fill("diameter", "8")
    bench.keep()
    left -= 16 * PI * 10
    bench.wait_volume(left)
    # a sketch starts on it at once
    bench.page.locator("#view").focus()
    bench.spot("place", 10, 10, 10)
    bench.chord("sk")
    bench.page.locator("#keep-sketch").wait_for()
    bench.still()
    holds(lambda: "Extrude" in bench.step(5).inner_text())


def test_a_face_picked_while_a_hole_asks_for_points_is_drilled(bench) -> None:
    bench.solid_plate("60", "40", "10")
    bench.turn()
    bench.chord("sh")
    bench.page.locator("#bar .picks label").first.wait_for()
    bench.spot("face", 30, 20, 10)
    bench.gap("face").get_by_text("1 face").wait_for()
    bench.fill("diameter", "6")
    bench.keep()
    bench.wait_volume(24000 - 9 * PI * 10)
    holds(lambda: "holes on the" in bench.step(3).inner_text())


def test_all_edges_parallel_to_one_and_a_hole_in_the_middle_of_a_round_edge(bench) -> None:
    bench.solid_plate("60", "40", "10")
    bench.turn()
    bench.chord("ef")
    bench.spot("edge", 60, 0, 5)
    bench.page.get_by_role("button", name="all 4 parallel to it").click()
    bench.fill("radius", "10")
    bench.keep()
    plate = (2400 - (4 - math.pi) * 100) * 10
    bench.wait_volume(plate)
    bench.chord("sh")
    bench.spot("edge", 60 - 10 * (1 - math.sqrt(0.5)), 10 * (1 - math.sqrt(0.5)), 10)
    where = bench.page.locator("#bar").get_by_label("where", exact=True)
    holds(lambda: where.evaluate("(s) => s.selectedOptions[0].textContent") == "in the middle of")
    bench.fill("diameter", "8")
    bench.keep()
    bench.wait_volume(plate - math.pi * 16 * 10)


def test_a_turned_plane_is_asked_for_in_the_order_of_its_sentence_and_seen_before_it_is_kept(bench) -> None:
    bench.solid_plate("60", "40", "8")
    bench.chord("sd")
    bench.choose("form", "a plane turned from")
    bench.spot("face", 30, 20, 8)
    bench.page.locator("#bar", has_text="the picked face").wait_for()
    bench.spot("edge", 60, 20, 8)
    bench.page.locator("#bar", has_text="the picked edge").wait_for()
    bench.fill("angle", "30")
    bench.page.locator("#layer path.datum").wait_for()
    bench.keep()
    bench.still()
    holds(lambda: bench.page.locator("#layer path.datum").count() == 1)
    # a peg from there down to the plate
    bench.chord("sk")
    bench.page.locator("#bar").get_by_text("Datum 1").wait_for()
    bench.plane("4")
    bench.chord("dc")
    bench.click(20, -20)
    bench.page.mouse.move(*bench.place(25, -17))
    bench.type("10")
    bench.still()
    bench.keep_sketch()
    bench.page.keyboard.press("0")
    bench.chord("se")
    bench.choose("how far", "up to")
    bench.spot("face", 30, 20, 8)
    bench.page.locator("#bar", has_text="1 face").wait_for()
    bench.keep()
    # the length of its middle: so far up the slope, times the tangent
    at = math.radians(30)
    up, lean = 60 * math.cos(at) - 8 * math.sin(at) - 20, math.tan(at)
    bench.wait_volume(60 * 40 * 8 + math.pi * 25 * up * lean)
