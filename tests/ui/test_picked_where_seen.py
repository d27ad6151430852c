"""What lies on top is picked, by pointer and by keyboard; nothing that was filled in is lost unasked."""

from __future__ import annotations

import math

import pytest
from tests.ui.acts import circle, holds, rectangle, sketch_on_face

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-1")]


def test_a_point_drawn_on_a_face_is_picked_for_a_hole_where_it_is_seen(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.turn()
    sketch_on_face(bench, 30, 20, 20)
    bench.chord("dp")
    for x, y in ((12, 10), (45, 28)):
        bench.click(x, y)
    bench.page.keyboard.press("Escape")
    bench.keep_sketch()
    bench.turn()
    bench.chord("sh")
    for x, y in ((12, 10), (45, 28)):
        at = bench.on_screen(x, y, 20)
        bench.page.mouse.move(*at)
        bench.page.mouse.click(*at)
    bench.gap("points").get_by_text("2 points").wait_for()
    before = bench.measure("volume")
    bench.keep()
    assert bench.wait_less(before) < before


def slowly_reloaded(bench, volume: float) -> None:
    """The page anew, where each sketch takes a while to come."""
    bench.page.add_init_script(
        """const asked = window.fetch;
        window.fetch = async (...what) => {
          if (/sketches\\/s\\d+$/.test(String(what[0]))) await new Promise(over => setTimeout(over, 1500));
          return asked(...what);
        }"""
    )
    bench.page.reload()
    bench.page.locator("body[data-ready='']").wait_for()
    bench.wait_volume(volume)


def test_what_is_typed_after_such_a_click_stays_and_the_click_counts(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.turn()
    slowly_reloaded(bench, 60 * 40 * 20)
    bench.page.locator("#view").focus()
    bench.chord("et")
    bench.spot("face", 60, 20, 10)
    bench.page.locator("#bar .gap", has_text="1 face").wait_for()
    bench.blank("axis")
    bench.spot("edge", 60, 20, 20)
    bench.fill("angle", "10")
    bench.page.keyboard.press("Enter")
    bench.wait_volume(40 * (60 * 20 + 200 * math.tan(math.radians(10))))


def test_a_click_meant_for_a_point_that_is_still_on_its_way_waits_for_it(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.turn()
    sketch_on_face(bench, 30, 20, 20)
    bench.chord("dp")
    for x, y in ((12, 10), (45, 28)):
        bench.click(x, y)
    bench.page.keyboard.press("Escape")
    bench.keep_sketch()
    bench.turn()
    slowly_reloaded(bench, 60 * 40 * 20)
    bench.page.locator("#view").focus()
    bench.chord("sh")
    for x, y in ((12, 10), (45, 28)):
        at = bench.on_screen(x, y, 20)
        bench.page.mouse.move(*at)
        bench.page.mouse.click(*at)
    bench.gap("points").get_by_text("2 points").wait_for()
    bench.keep()
    bench.wait_less(60 * 40 * 20)


def test_a_loft_without_a_tip_is_edited_and_kept_unchanged(bench) -> None:
    bench.new_model()
    bench.plane("1")
    rectangle(bench, (0, 0), "20, 20")
    bench.keep_sketch()
    bench.page.locator("#view").focus()
    bench.chord("sd")
    bench.page.locator("#bar").wait_for()
    bench.tick("top plane")
    bench.fill("distance", "30")
    bench.keep()
    bench.chord("sk")
    bench.tick("Datum")
    bench.page.locator("#tray-sketch").wait_for()
    bench.still()
    circle(bench, (10, 10), "10")
    bench.keep_sketch()
    bench.chord("sl")
    bench.page.locator("#all-regions").click()
    bench.keep()
    volume = bench.measure("volume")
    number = bench.page.locator("#steps li.step").count()
    bench.act(number, "Edit")
    bench.page.locator("#keep:enabled").wait_for()
    holds(lambda: "Still missing" not in bench.page.locator("#bar").inner_text())
    bench.keep()
    assert bench.measure("volume") == pytest.approx(volume, rel=1e-12)


def test_regions_are_picked_by_keyboard_alone(bench) -> None:
    bench.new_model()
    bench.plane("1")
    rectangle(bench, (0, 0), "40, 30")
    circle(bench, (20, 15), "10")
    bench.keep_sketch()
    keys = bench.page.keyboard
    bench.page.locator("#view").focus()
    bench.chord("se")
    bench.gap("regions").get_by_text("regions…").wait_for()
    bench.page.locator("#bar .picks input").nth(1).wait_for()
    for _ in range(4):
        keys.press("]")
        if "region 1" in bench.page.locator(".hint").inner_text():
            break
    keys.press("Enter")
    bench.gap("regions").get_by_text("1 region").wait_for()
    bench.type("5")
    bench.page.locator("#bar").wait_for(state="hidden")
    bench.wait_volume(5 * (40 * 30 - math.pi * 25))


def test_a_step_that_is_filled_in_is_not_lost_by_taking_another_tool(bench) -> None:
    bench.new_model()
    bench.plane("1")
    rectangle(bench, (0, 0), "40, 30")
    bench.keep_sketch()
    bench.chord("se")
    bench.fill("distance", "7")
    bench.page.locator("#keep:enabled").wait_for()
    bench.page.locator(".tool[data-step=revolve]").click()
    dialog = bench.page.locator("#ask")
    dialog.wait_for()
    dialog.get_by_role("button", name="Cancel").click()
    holds(lambda: bench.page.locator("#bar").get_by_label("distance", exact=True).input_value() == "7")
    bench.page.locator(".tool[data-step=revolve]").click()
    dialog.get_by_role("button", name="Keep it").click()
    bench.wait_volume(40 * 30 * 7)
    bench.page.locator("#bar", has_text="Revolve").wait_for()


def test_a_new_sketch_opens_on_a_face_where_one_was_begun_and_dropped(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.turn()
    for _ in range(3):
        sketch_on_face(bench, 30, 20, 20)
        bench.page.locator("#drop-sketch").click()
        ask = bench.page.locator("#ask")
        if ask.is_visible():
            ask.get_by_role("button").last.click()
        bench.page.locator("#tray-solid").wait_for()
        bench.still()
        bench.turn()
    holds(lambda: bench.page.locator("#steps li.step").count() == 2)


def test_a_hole_goes_where_one_clicked_and_its_distances_are_typed_at_once(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.turn()
    bench.chord("sh")
    at = bench.on_screen(15, 10, 20)
    bench.page.mouse.move(*at)
    bench.page.mouse.click(*at)
    first = bench.page.locator("#bar").get_by_label("first distance", exact=True)
    first.wait_for()
    holds(lambda: abs(float(first.input_value().split()[0]) - 10) < 1.5)
    bench.page.keyboard.type("12")
    bench.fill("second distance", "14")
    bench.fill("diameter", "8")
    bench.keep()
    bench.wait_volume(60 * 40 * 20 - math.pi * 16 * 20)
    holds(lambda: "12 mm from" in bench.step(3).inner_text().replace("\n", " "))
    # at its middle it stays in the middle
    bench.chord("sh")
    at = bench.on_screen(30, 20, 20)
    bench.page.mouse.move(*at)
    bench.page.mouse.click(*at)
    bench.gap("face").get_by_text("1 face").wait_for()
    holds(lambda: bench.page.locator("#bar").get_by_label("first distance", exact=True).count() == 0)


def test_what_is_repeated_is_the_hole_one_clicks_on(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.turn()
    bench.chord("sh")
    at = bench.on_screen(15, 10, 20)
    bench.page.mouse.move(*at)
    bench.page.mouse.click(*at)
    bench.fill("diameter", "12")
    bench.keep()
    bench.wait_volume(60 * 40 * 20 - math.pi * 36 * 20)
    bench.turn()
    bench.page.locator("#view").focus()
    bench.chord("rp")
    # the wall of the hole on the far side, where one looks into it
    rim = [(15 + 6 * math.cos(a), 10 + 6 * math.sin(a)) for a in (k * math.pi / 12 for k in range(24))]
    far = min(rim, key=lambda p: bench.on_screen(*p, 20)[1])
    at = bench.on_screen(*far, 17)
    bench.page.mouse.move(*at)
    bench.page.mouse.click(*at)
    bench.gap("steps").get_by_text("Hole 1").wait_for()
    holds(lambda: bench.page.locator("#bar .picks label", has_text="Hole 1").locator("input").is_checked())
    bench.choose("form", "along")
    bench.blank("axis")
    bench.tick("x axis")
    bench.fill("how many", "2")
    bench.fill("spacing", "25")
    bench.keep()
    bench.wait_volume(60 * 40 * 20 - 2 * math.pi * 36 * 20)
