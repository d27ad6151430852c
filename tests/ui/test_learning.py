"""A class in the browser: an exercise made, done with one's own numbers beside its drawing, handed in, looked at."""

import re
from pathlib import Path

import pytest
from tests.ui.acts import holds

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-1")]


def enter(bench, name: str) -> None:
    bench.page.goto(f"{bench.site}/classes")
    bench.page.locator("main").get_by_role("link", name=name).click()


def number(bench, name: str) -> str:
    """A number of one's own, as the exercise says it."""
    row = bench.page.locator("#exercise dt", has_text=re.compile(f"^{name}"))
    return row.locator("xpath=following-sibling::dd[1]").inner_text().removesuffix(" mm")


def test_a_ring_is_made_after_its_drawing_and_handed_in(bench) -> None:
    page = bench.page
    enter(bench, "Form and fit")
    page.get_by_role("link", name="Spacer ring").click()
    assert bench.findings() == []
    holds(lambda: "radius for diameter" in page.get_by_label("Of this exercise").inner_text())
    page.get_by_role("button", name="try it yourself").click()
    page.locator("#bar").get_by_text("top plane").wait_for()
    bench.chord("wp")
    drawing = page.locator("#pinned svg.drawing")
    drawing.wait_for()
    assert bench.findings() == []
    before = page.locator("#pinned").bounding_box()
    page.keyboard.press("ArrowRight")  # its head has the focus
    page.keyboard.press("Shift+ArrowRight")
    after = page.locator("#pinned").bounding_box()
    assert after["x"] > before["x"]
    assert after["width"] > before["width"]
    head = page.locator("#pinned .head b").bounding_box()
    page.mouse.move(head["x"] + 5, head["y"] + 5)
    page.mouse.down()
    page.mouse.move(head["x"] + 5, head["y"] + 95, steps=3)
    page.mouse.up()
    assert page.locator("#pinned").bounding_box()["y"] == pytest.approx(after["y"] + 90, abs=1)
    page.locator("#pinned .sheet").hover()
    page.mouse.wheel(0, -400)
    page.wait_for_function(
        "() => new DOMMatrix(getComputedStyle(document.querySelector('#pinned .drawing')).transform).a > 2"
    )
    page.locator("#pinned").get_by_role("button", name="whole").click()
    page.locator("#pinned").get_by_role("button", name="put away").click()
    holds(lambda: drawing.count() == 0)
    outer, inner = number(bench, "outer"), number(bench, "inner")
    bench.plane("1")
    bench.chord("dc")
    for size, at in ((outer, 17), (inner, 9)):
        bench.click(0, 0)
        page.mouse.move(*bench.place(at, 0))
        bench.type(size)
    bench.freedom("fully constrained")
    bench.keep_sketch()
    bench.chord("wp")
    drawing.wait_for()
    bench.chord("se")
    bench.blank("regions")
    page.locator("#view").focus()
    ring = (float(outer) + float(inner)) / 4
    box = bench.on_screen(ring, 0, 0)
    page.mouse.move(*box)
    page.mouse.click(*box)
    # how thick it is stands on the drawing: taken from there, and ticked
    thick = page.locator("#bar").get_by_label("distance", exact=True)
    thick.focus()
    size = drawing.get_by_role("button", name="take 6", exact=True)
    size.click()
    holds(lambda: thick.input_value() == "6")
    drawing.get_by_role("button", name="6, taken", exact=True).wait_for()
    bench.fill("distance", "5")
    bench.keep()
    page.locator("#pinned").get_by_role("button", name="put away").click()
    bench.chord("wt")
    page.locator("#exercise .verdict.off", has_text="too small by").wait_for()
    bench.step(2).get_by_role("button", name="5 mm").click()
    bench.type("6")  # its blank is open in the list
    bench.still()
    page.locator("#view").focus()
    bench.chord("wt")
    page.locator("#exercise .verdict.ok", has_text="right").wait_for()
    assert bench.findings() == []
    page.get_by_role("button", name="Hand in", exact=True).click()
    page.locator("#exercise .handed", has_text="Handed in").wait_for()
    enter(bench, "Form and fit")
    mine = page.locator("tr", has_text="Ona Reed")
    mine.get_by_text("handed in").wait_for()
    page.get_by_label("Look at what Ona Reed did").click()
    page.wait_for_function("() => document.querySelector('.shot').naturalWidth > 0")
    assert bench.findings() == []
    page.get_by_label("Points").fill("5 of 5")
    page.get_by_role("button", name="Mark it").click()
    page.get_by_role("button", name="Mark it anew").wait_for()


def test_an_exercise_is_made_by_keyboard_alone(bench) -> None:
    page = bench.page
    enter(bench, "Form and fit")
    page.get_by_role("link", name="New exercise").focus()
    page.keyboard.press("Enter")
    page.get_by_role("link", name="Compass dial plate").focus()
    assert bench.findings() == []
    page.keyboard.press("Enter")
    page.get_by_label("Title").wait_for()
    assert bench.findings() == []
    page.get_by_label("size differs").focus()
    for keys in ("Space", "Tab"):
        page.keyboard.press(keys)
    for text in ("60", "70", "5"):
        page.keyboard.type(text)
        page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    page.get_by_text("Finding sets").or_(page.get_by_role("button", name="Give it out")).first.wait_for()
    give = page.get_by_role("button", name="Give it out", disabled=False)
    give.wait_for()  # it comes by itself
    give.focus()
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Take it back").wait_for()
    page.get_by_role("link", name="People").focus()
    page.keyboard.press("Enter")
    page.get_by_role("heading", name="How people come in").wait_for()
    assert bench.findings() == []


def test_a_student_sees_what_is_given_out_and_what_is_kept_of_them(bench) -> None:
    page = bench.page
    enter(bench, "Drawing for makers")
    holds(lambda: page.get_by_role("button", name="Begin Mast clamp, half").is_visible())
    page.get_by_text("about this class").click()
    holds(lambda: "other students do not" in page.locator("main").inner_text())
    assert bench.findings() == []
    with page.expect_download() as got:
        page.get_by_role("link", name="Take it out as a file").click()
    assert got.value.suggested_filename.endswith("about-me.json")
    page.goto(f"{bench.site}/classes")
    assert bench.findings() == []
    page.get_by_label("The code your teacher gave you").fill("no such code")
    page.keyboard.press("Enter")
    page.get_by_text("No class has this code").wait_for()


def test_the_handbook_opens_at_what_one_is_doing(bench) -> None:
    def opened(act) -> str:
        with bench.page.context.expect_page() as coming:
            act()
        page = coming.value
        page.wait_for_load_state()
        heading = page.locator("h1").inner_text().split("\n")[0]
        page.evaluate((Path(__file__).parent / "axe.min.js").read_text())
        found = page.evaluate("axe.run({ resultTypes: ['violations'] }).then((r) => r.violations)")
        assert [(v["id"], v["nodes"][0]["html"][:140]) for v in found] == []
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
        page.close()
        return heading

    bench.solid_plate("60", "40", "10")
    assert opened(lambda: bench.page.keyboard.press("F1")) == "Handbook"
    bench.chord("ef")
    bench.page.locator("#bar .edges, #bar").first.wait_for()
    assert opened(lambda: bench.page.keyboard.press("F1")) == "Fillet"
    assert opened(lambda: bench.page.locator("#bar .about").click()) == "Fillet"
    bench.page.locator("#drop").click()
    bench.chord("sk")
    bench.plane("2")
    bench.chord("dc")
    assert opened(lambda: bench.page.keyboard.press("F1")).startswith("Circle")
