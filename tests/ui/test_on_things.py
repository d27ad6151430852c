"""What can be done with a thing, asked on the thing itself, by the right button and by keyboard."""

from __future__ import annotations

import pytest
from tests.ui.acts import block, holds, rectangle

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-1")]


def test_a_face_tells_what_made_it_and_its_number_is_changed_there(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.turn()
    at = bench.on_screen(30, 20, 20)
    bench.page.mouse.click(*at, button="right")
    menu = bench.page.get_by_role("dialog", name="What can be done here")
    menu.wait_for()
    assert bench.findings() == []
    number = menu.get_by_label("distance of Extrude 1")
    number.fill("12")
    number.press("Enter")
    bench.wait_volume(60 * 40 * 12)
    holds(lambda: menu.count() == 0)
    # a drag with the right button turns the view and asks nothing
    bench.page.mouse.move(*at)
    bench.page.mouse.down(button="right")
    bench.page.mouse.move(at[0] + 60, at[1] + 10, steps=4)
    bench.page.mouse.up(button="right")
    holds(lambda: menu.count() == 0)
    bench.turn()
    bench.page.mouse.click(*bench.on_screen(30, 20, 12), button="right")
    menu.get_by_role("button", name="Draw on it").click()
    bench.page.locator("#tray-sketch").wait_for()
    bench.still()
    rectangle(bench, (10, 10), "10, 10")
    bench.keep_sketch()
    holds(lambda: bench.page.locator("#steps li.step").count() == 3)
    # a right click on nothing is nothing
    box = bench.page.locator("#view").bounding_box()
    bench.page.mouse.click(box["x"] + 30, box["y"] + 200, button="right")
    holds(lambda: menu.count() == 0)


def test_by_keyboard_what_is_picked_is_asked(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.turn()
    bench.spot("face", 30, 20, 20)
    bench.page.locator("#selection-panel").wait_for()
    bench.page.keyboard.press(".")
    menu = bench.page.get_by_role("dialog", name="What can be done here")
    menu.wait_for()
    for _ in range(12):
        if "Delete Extrude 1" in (bench.page.evaluate("document.activeElement.textContent") or ""):
            break
        bench.page.keyboard.press("ArrowDown")
    bench.page.keyboard.press("Enter")
    bench.still()
    holds(lambda: bench.page.locator("#steps li.step").count() == 1)
    bench.page.locator("#undo").click()
    bench.wait_volume(60 * 40 * 20)


def test_delete_and_a_long_press_lead_to_what_can_be_done(bench) -> None:
    bench.solid_plate("60", "40", "20")
    block(bench, width="10", depth="10", height="10", x="80", result="as a separate body")
    bench.turn()
    bench.spot("face", 85, 5, 10)
    bench.page.locator("#selection-panel").wait_for()
    bench.page.keyboard.press("Delete")
    menu = bench.page.get_by_role("dialog", name="What can be done here")
    menu.get_by_role("button", name="Leave body of Block 1 out").wait_for()
    # the first is in hand
    bench.page.keyboard.press("Enter")
    bench.wait_volume(60 * 40 * 20)
    bench.page.locator("#undo").click()
    bench.wait_volume(60 * 40 * 20 + 1000)
    bench.page.mouse.move(*bench.on_screen(30, 20, 20))
    bench.page.mouse.down()
    bench.page.get_by_role("menuitem", name="What can be done here").wait_for()
    bench.page.mouse.up()
    bench.page.get_by_role("menuitem", name="What can be done here").click()
    menu.get_by_role("button", name="Draw on it").wait_for()
    bench.page.keyboard.press("Escape")
    holds(lambda: menu.count() == 0)


def test_a_body_is_left_out_and_a_size_is_changed_where_it_stands(bench) -> None:
    bench.solid_plate("60", "40", "20")
    block(bench, width="10", depth="10", height="10", x="80", result="as a separate body")
    bench.turn()
    bench.page.mouse.click(*bench.on_screen(85, 5, 10), button="right")
    menu = bench.page.get_by_role("dialog", name="What can be done here")
    menu.get_by_role("button", name="Leave body of Block 1 out").click()
    bench.wait_volume(60 * 40 * 20)
    bench.act(1, "Open")
    bench.page.locator("#tray-sketch").wait_for()
    bench.still()
    bench.page.locator("#layer text", has_text="60").first.click(button="right", force=True)
    menu.get_by_role("button", name="Change its number").click()
    bench.page.locator("#typed input:focus").wait_for()
    bench.type("50")
    bench.page.locator("#typed").wait_for(state="hidden")
    bench.still()
    bench.keep_sketch()
    bench.wait_volume(50 * 40 * 20)


def test_numbers_are_changed_by_a_click_and_digits_and_kept_by_a_click_elsewhere(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.step(2).locator("[data-blank=distance]").click()
    bench.page.locator("#steps input.num").fill("25")
    bench.page.locator("#view").click(position={"x": 40, "y": 300})
    bench.wait_volume(60 * 40 * 25)
    # Escape keeps nothing
    bench.step(2).locator("[data-blank=distance]").click()
    bench.page.locator("#steps input.num").fill("3")
    bench.page.keyboard.press("Escape")
    bench.still()
    assert bench.measure("volume") == pytest.approx(60 * 40 * 25)
    bench.act(1, "Open")
    bench.page.locator("#tray-sketch").wait_for()
    bench.still()
    bench.page.locator("#layer text", has_text="60").first.click(force=True)
    bench.page.keyboard.press("7")
    bench.page.locator("#typed input:focus").wait_for()
    bench.type("0")
    bench.page.locator("#typed").wait_for(state="hidden")
    bench.still()
    bench.keep_sketch()
    bench.wait_volume(70 * 40 * 25)
    # Delete takes the chosen step, undo brings it back
    bench.step(2).locator("button.n").click()
    bench.page.keyboard.press("Delete")
    bench.page.locator("#steps li.step").nth(1).wait_for(state="detached")
    bench.page.locator("#undo").click()
    bench.wait_volume(70 * 40 * 25)


def test_a_model_is_renamed_where_its_name_stands(bench) -> None:
    bench.solid_plate()
    bench.page.locator("#model-name").click()
    bench.page.locator("#ask input").fill("W" * 120)
    bench.page.keyboard.press("Enter")
    bench.page.locator("#model-name", has_text="WWWW").wait_for()
    box = bench.page.locator("#take-out").bounding_box()
    assert box["x"] + box["width"] <= 1280  # a long name pushes nothing out of the window
