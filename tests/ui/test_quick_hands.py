"""Hands that do not wait, and a view that follows what they make."""

from __future__ import annotations

import json
import math

import pytest
from tests.ui.acts import holds, rectangle

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-2")]


def slow_answers(bench, path: str, seconds: float) -> None:
    """What is asked there takes so long to be answered, and no socket can be had."""
    bench.page.add_init_script(
        """([path, ms]) => {
          window.WebSocket = class { static OPEN = 1; constructor() { setTimeout(() => this.onclose?.()) } close() {} };
          const own = window.fetch;
          window.fetch = async (...asked) => {
            if (String(asked[0]).endsWith(path)) await new Promise(go => setTimeout(go, ms));
            return own(...asked);
          };
        }""".join(("(", f")({json.dumps([path, 1e3 * seconds])})"))
    )


def circle(bench, x: float, y: float, across: str) -> None:
    bench.chord("dc")
    bench.click(x, y)
    bench.page.mouse.move(*bench.place(x + 5, y + 3))
    bench.type(across)
    bench.still()


def two_wheels(bench) -> None:
    """Two circles beside each other, and the dimension tool in hand."""
    circle(bench, 0, 0, "40")
    circle(bench, 50, 0, "24")
    bench.page.wait_for_timeout(400)  # the view may still be following
    bench.page.keyboard.press("Escape")
    bench.chord("kd")


def sight(bench) -> list[float]:
    """Where the origin is on the screen, and pixels a mm."""
    (x, y), (x1, _) = bench.place(0, 0), bench.place(1, 0)
    return [x, y, x1 - x]


def test_a_size_is_typed_before_the_measured_one_is_there(bench) -> None:
    slow_answers(bench, "/dimension", 1.0)
    bench.new_model()
    bench.plane("1")
    two_wheels(bench)
    for place in ((0, 0), (50, 0), (25, -30)):
        bench.page.mouse.click(*bench.place(*place))
    bench.type("60")
    bench.freedom("fully constrained")
    holds(lambda: bench.page.locator("#layer text", has_text="60").count() == 1)
    # Enter without a number waits for what is measured
    bench.page.keyboard.press("Escape")
    circle(bench, 0, 0, "10")
    bench.page.keyboard.press("Escape")
    circle(bench, 28, -12, "8")
    bench.page.wait_for_timeout(400)  # the view may still be following
    bench.page.keyboard.press("Escape")
    bench.chord("kd")
    for place in ((0, 0), (28, -12), (14, 23)):
        bench.page.mouse.click(*bench.place(*place))
    bench.page.keyboard.press("Enter")
    bench.page.locator("#typed").wait_for(state="hidden")
    bench.still()
    holds(lambda: bench.page.locator("#layer text", has_text="28").count() == 1)


def test_a_line_from_near_the_top_of_a_wheel_runs_along_both(bench) -> None:
    bench.new_model()
    bench.plane("1")
    two_wheels(bench)
    for place in ((0, 0), (50, 0), (25, -30)):
        bench.click(*place)
    bench.type("50")
    bench.freedom("fully constrained")
    bench.page.keyboard.press("Escape")
    bench.chord("dl")
    bench.click(0.4, 19.9)
    lean, rise = 8 / 50, math.sqrt(1 - (8 / 50) ** 2)  # of the radii to where it touches
    end = (50 + 12 * lean, 12 * rise)
    bench.page.mouse.move(*bench.place(30, 16))
    bench.page.mouse.move(*bench.place(*end))
    bench.page.locator("#snapnote", has_text="tangent to circle 1 and circle 2").wait_for()
    bench.click(*end)
    bench.still()
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("Escape")
    bench.click(25 + 16 * lean, 16 * rise)
    bench.page.locator("#selection-title", has_text="line 1").wait_for()
    holds(lambda: f"{math.sqrt(50**2 - 8**2):.3f}" in bench.page.locator("#selection-readout").inner_text())


def test_a_letter_that_was_let_go_does_not_swallow_the_next(bench) -> None:
    bench.new_model()
    bench.plane("1")
    said = bench.page.locator("#hint")
    # nothing is called so; then a letter that is let go by Escape
    bench.chord("ldc")
    said.filter(has_text="centre").wait_for()
    bench.page.keyboard.press("Escape")
    bench.chord("d")
    said.filter(has_text="d then: ").wait_for()
    bench.page.keyboard.press("Escape")
    said.filter(has_text="d then: ").wait_for(state="detached")
    bench.chord("ok")
    bench.page.locator("#tray-solid").wait_for()


def test_an_axis_is_seen_and_taken_in_the_view(bench) -> None:
    bench.new_model()
    bench.plane("2")
    rectangle(bench, (0, 0), "10, 6")
    bench.keep_sketch()
    bench.chord("sr")
    listed = bench.page.locator("#bar .picks label", has_text="line 2")
    listed.wait_for()
    # its list does not lie over the profile
    bench.page.wait_for_function(
        """() => document.querySelector('#layer .region').getBoundingClientRect().top
          > document.getElementById('bar').getBoundingClientRect().bottom"""
    )
    # what the list names is marked in the view
    holds(lambda: bench.page.locator("#layer .axisline.hot").count() == 0)
    listed.hover()
    bench.page.locator("#layer .axisline.hot").wait_for(state="attached")
    bench.page.locator("#layer .axisname", has_text="z axis").click()
    bench.keep()
    bench.wait_volume(math.pi * 10**2 * 6)


def test_what_is_typed_last_is_what_clicks_have_not_said(bench) -> None:
    bench.new_model()
    bench.plane("1")
    bench.chord("ds")
    bench.click(-10, 0)
    bench.page.mouse.move(*bench.place(0, 0.2))
    bench.click(14, 0)
    bench.page.mouse.move(*bench.place(14, 3))
    bench.type("8")
    bench.still()
    bench.keep_sketch()
    bench.chord("se")
    bench.page.locator("#bar").get_by_text("1 region", exact=True).wait_for()
    bench.fill("distance", "2")
    bench.keep()
    bench.wait_volume(2 * (24 * 8 + math.pi * 16))


def test_the_view_follows_what_is_sized_out_of_it_and_stays_where_details_are_drawn(bench) -> None:
    bench.new_model()
    bench.plane("1")
    bench.chord("dr")
    bench.click(0, 0)
    bench.page.mouse.move(*bench.place(30, 20))
    bench.type("40, 30")
    bench.still()
    bench.page.wait_for_timeout(400)
    # close by a corner, whose rectangle then reaches far out of the view
    x, y = bench.place(2, 2)
    bench.page.mouse.move(x, y)
    for _ in range(8):
        bench.page.mouse.wheel(0, -240)
    bench.page.wait_for_timeout(400)
    near = sight(bench)
    assert near[2] > 20
    circle(bench, 3, 3, "2")
    bench.page.wait_for_timeout(600)
    assert sight(bench) == pytest.approx(near)
    # and what is drawn or sized beyond its edge is gone after
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("Escape")
    bench.chord("kd")
    bench.click(3, 3)
    bench.click(0, 0)
    bench.click(1.5, 4.5)
    bench.type("15")
    bench.still()
    bench.page.wait_for_timeout(600)
    far = sight(bench)
    assert far[2] < near[2] / 2
    box = bench.page.locator("#view").bounding_box()
    for corner in ((0, 0), (40, 30)):
        at = bench.place(*corner)
        assert box["x"] < at[0] < box["x"] + box["width"]
        assert box["y"] < at[1] < box["y"] + box["height"]


def test_keep_stands_still_while_its_answer_comes(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.turn()
    bench.chord("ef")
    keep = bench.page.locator("#keep")
    before = keep.bounding_box()
    bench.spot("edge", 60, 0, 10)
    bench.page.locator("#bar-answer", has_text="cm³").wait_for()
    bench.page.locator("#bar .picks", has_text="along z, at x 60 mm, y 0 mm").wait_for()  # which one it is
    bench.fill("radius", "12.25")
    bench.page.locator("#bar-answer", has_text="−0.644").wait_for()  # (1 − π/4) · 12.25² · 20 mm³
    assert keep.bounding_box() == before


def test_from_an_open_sketch_straight_to_thickness(bench) -> None:
    bench.new_model()
    bench.plane("1")
    rectangle(bench, (0, 0), "40, 30")
    bench.page.locator("#view").focus()
    bench.chord("se")
    bench.gap("regions").get_by_text("1 region").wait_for()
    bench.fill("distance", "7")
    bench.keep()
    bench.wait_volume(40 * 30 * 7)


def test_enter_with_a_tool_in_hand_keeps_what_was_drawn(bench) -> None:
    bench.new_model()
    bench.plane("1")
    circle(bench, 0, 0, "20")
    holds(lambda: bench.page.locator(".tool[data-family=circle]").get_attribute("aria-pressed") == "true")
    bench.page.keyboard.press("Enter")
    bench.page.locator("#tray-solid").wait_for()
    bench.page.locator("#steps li.step", has_text="fully constrained").wait_for()


def test_other_sketches_are_seen_faintly_while_one_is_drawn(bench) -> None:
    bench.new_model()
    bench.plane("1")
    circle(bench, 0, 0, "20")
    bench.keep_sketch()
    bench.page.locator("#view").focus()
    bench.chord("sk")
    bench.plane("2")
    faint = bench.page.locator(".layer .faint path")
    faint.first.wait_for(state="attached")
    holds(lambda: faint.count() == 1, "the other one, and not the one that is drawn")
    circle(bench, 0, 0, "30")
    holds(lambda: faint.count() == 1)


def test_take_out_stays_under_the_pointer_while_triangles_are_counted(bench) -> None:
    slow_answers(bench, "/triangles", 1.5)
    bench.solid_plate("60", "40", "20")
    bench.chord("ft")
    page = bench.page
    page.locator("#take-formats label", has_text="3MF").first.click()
    page.locator("#take-count", has_text="counting").wait_for()
    at = page.locator("#take-now").bounding_box()
    page.mouse.move(at["x"] + 10, at["y"] + 5)
    with page.expect_download(timeout=20_000):
        page.mouse.down()
        page.locator("#take-count", has_text="volume").wait_for()  # it is there before the hand lets go
        assert page.locator("#take-now").bounding_box() == at
        page.mouse.up()
