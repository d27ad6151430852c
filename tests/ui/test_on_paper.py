"""A sheet is made, filled, moved by hand, taken out; the part changes and the sheet follows."""

from __future__ import annotations

import pypdfium2
import pytest
from tests.ui.acts import holds
from tests.ui.test_accessible import seen_whole


def words(bench) -> list[str]:
    return bench.page.locator("#paper svg text[data-line]").all_text_contents()


def sheet_of_plate(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.page.locator("#view").focus()
    bench.chord("ts")
    bench.page.locator("#paper svg").wait_for()
    bench.still()


def test_a_sheet_with_its_sizes_in_two_keys_then_taken_out(bench) -> None:
    sheet_of_plate(bench)
    holds(lambda: {"60", "40", "20"} <= set(words(bench)))
    assert bench.findings() == []
    # every line is changed in the bar, and the paper shows it before it is kept
    bench.act(1, "Edit")
    bench.choose("arrangement", "third angle")
    bench.fill("title", "Wall plate")
    bench.page.locator("#paper text", has_text="Wall plate").wait_for()
    bench.keep()
    # cut open in its middle: the part and the place are there already
    bench.page.locator(".tool[data-step=cut_open]").click()
    bench.page.locator("#paper path.hatch").wait_for()
    holds(lambda: bench.page.locator("#bar").get_by_label("place", exact=True).input_value() == "20 mm")
    bench.keep()
    page = pypdfium2.PdfDocument(bench.download("PDF"))[0]
    told = page.get_textpage().get_text_range().split()
    assert {"60", "40", "20", "Wall", "plate"} <= set(told)


@pytest.mark.parametrize("size", [(1024, 700), (1280, 800)])
def test_every_line_of_a_sheet_is_accessible_and_seen_whole(bench, size) -> None:
    page = bench.page
    page.set_viewport_size({"width": size[0], "height": size[1]})
    sheet_of_plate(bench)
    seen_whole(page, "#tray-solid", 5)
    kinds = page.locator("[data-step].tool[data-on-sheet]").evaluate_all("(all) => all.map((b) => b.dataset.step)")
    assert len(kinds) >= 5
    for kind in kinds:
        page.locator(f"[data-step={kind}].tool").click()
        page.locator("#bar").wait_for()
        bench.still()
        assert bench.findings() == [], kind
        page.keyboard.press("Escape")
        page.locator("#bar").wait_for(state="hidden")
    paper = page.locator("#paper svg").bounding_box()
    view = page.locator("#view").bounding_box()
    tray = page.locator("#tray-solid").bounding_box()
    assert view["x"] <= paper["x"] and paper["x"] + paper["width"] <= view["x"] + view["width"]
    assert paper["y"] + paper["height"] <= tray["y"], "the tools lie over the paper"


def test_a_view_is_dragged_and_a_number_of_the_part_changes_the_sheet(bench) -> None:
    sheet_of_plate(bench)
    line = bench.page.locator("#paper path.visible").first
    before = line.bounding_box()
    at = before["x"] + before["width"] / 2, before["y"] + before["height"] / 2
    bench.page.mouse.move(*at)
    bench.page.mouse.down()
    bench.page.mouse.move(at[0] - 30, at[1] - 12, steps=5)
    bench.page.mouse.up()
    bench.step(2).get_by_text("moved").wait_for()
    bench.still()
    holds(lambda: abs(line.bounding_box()["x"] - before["x"] + 30) < 2)
    holds(lambda: abs(line.bounding_box()["y"] - before["y"] + 12) < 2)
    # the keys of the view are the paper's: zoomed, and back
    wide = bench.page.locator("#paper svg").bounding_box()["width"]
    bench.page.locator("#view").focus()
    bench.page.keyboard.press("+")
    holds(lambda: bench.page.locator("#paper svg").bounding_box()["width"] > 1.2 * wide)
    bench.page.keyboard.press("0")
    holds(lambda: abs(bench.page.locator("#paper svg").bounding_box()["width"] - wide) < 1)
    # a number of its sketch, where it is read
    bench.page.locator("#paper text[data-number]", has_text="60").dblclick()
    field = bench.page.locator("#ask input")
    holds(lambda: field.input_value() == "60 mm")
    field.fill("66")
    bench.page.keyboard.press("Enter")
    bench.page.locator("#paper text", has_text="66").wait_for()
    bench.still()
    bench.page.locator("#parts [data-part]").first.click()
    bench.page.locator("#weigh").wait_for()
    bench.still()
    bench.act(2, "Edit")
    bench.fill("distance", "25")
    bench.keep()
    bench.page.locator("#parts [data-part]").nth(1).click()
    bench.page.locator("#paper text", has_text="25").wait_for()
    holds(lambda: "20" not in words(bench))


def test_what_no_view_says_is_shown_by_one_click(bench) -> None:
    sheet_of_plate(bench)
    for left in (5, 4):  # from the front, then from above: the left side shows no width
        bench.act(2, "Delete")
        holds(lambda left=left: bench.page.locator("#steps li.step").count() == left)
        bench.still()
    bench.step(4).get_by_role("button", name="show it from above").click()
    bench.still()
    holds(lambda: {"60", "40", "20"} <= set(words(bench)))
    # by keyboard alone: a note
    bench.page.locator("#paper").focus()
    bench.page.keyboard.press("+")
    bench.page.keyboard.press("0")
    bench.chord("yn")
    bench.fill("words", "Break all edges")
    bench.page.keyboard.press("Enter")
    bench.page.locator("#paper text", has_text="Break all edges").wait_for()
    bench.page.locator("#undo").click()
    bench.page.locator("#paper text", has_text="Break all edges").wait_for(state="detached")


def test_an_empty_sheet_begins_with_a_view_and_a_cut_is_dragged_too(bench) -> None:
    sheet_of_plate(bench)
    page = bench.page
    for left in (5, 4, 3, 2, 1, 0):
        bench.act(1, "Delete")
        holds(lambda left=left: page.locator("#steps li.step").count() == left)
        bench.still()
    page.locator("#start").get_by_role("button", name="Show").click()
    page.locator("#bar").get_by_label("part", exact=True).select_option(label="Part 1")
    page.locator("#paper path.visible").first.wait_for()
    bench.keep()
    holds(lambda: page.locator("#start").is_hidden())
    bench.chord("yc")
    page.locator("#paper path.hatch").wait_for()
    bench.keep()
    hatch = page.locator("#paper path.hatch")
    before = hatch.bounding_box()
    at = before["x"] + before["width"] / 2, before["y"] + before["height"] / 2
    page.mouse.move(*at)
    page.mouse.down()
    page.mouse.move(at[0] + 24, at[1] + 10, steps=4)
    page.mouse.up()
    bench.step(2).get_by_text("moved").wait_for()
    bench.still()
    holds(lambda: abs(hatch.bounding_box()["x"] - before["x"] - 24) < 2)
    # tools of parts have no keys here, and lines none in a part
    page.locator("#view").focus()
    bench.chord("se")
    assert page.locator("#bar").is_hidden()
    page.locator("#parts [data-part]").first.click()
    page.locator("#weigh").wait_for()
    bench.still()
    page.locator("#view").focus()
    bench.chord("yv")
    assert page.locator("#bar").is_hidden()
