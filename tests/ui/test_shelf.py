"""The Shelf, accounts in the demo, and accessibility of every main view."""

import pytest
from tests.ui.acts import holds

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-1")]


def test_demo_says_so_and_shows_its_models(bench) -> None:
    bench.page.goto(bench.site)
    holds(lambda: "demo on this machine, signed in as Ona Reed" in bench.page.locator("header").inner_text())
    for name in ("Mast clamp, half", "Shield plate", "Compass dial plate"):
        bench.page.get_by_role("link", name=name).wait_for()
    bench.page.wait_for_function(
        """() => [...document.images].filter((i) => i.getBoundingClientRect().top < innerHeight)
          .every((i) => i.complete && i.naturalWidth > 0)"""
    )
    assert bench.findings() == []


def test_rename_copy_bin_and_bring_back(bench) -> None:
    page = bench.page
    bench.new_model("Louvre trial")
    page.goto(bench.site)
    page.get_by_label("More for Louvre trial").click()
    page.get_by_role("button", name="Rename…").and_(page.locator(":visible")).click()
    page.locator("#rename-model-name").fill("Louvre, first")
    page.keyboard.press("Enter")
    page.get_by_role("link", name="Louvre, first").wait_for()
    page.get_by_label("More for Louvre, first").click()
    page.locator("details[open]").get_by_role("button", name="Copy").click()
    page.get_by_role("link", name="Louvre, first, copy").wait_for()
    page.get_by_label("More for Louvre, first, copy").click()
    page.locator("details[open]").get_by_role("button", name="Put in the bin").click()
    page.get_by_role("link", name="Louvre, first, copy").wait_for(state="detached")
    page.get_by_label("Find a model, a part or a step").fill("louvre")
    page.wait_for_function("() => document.querySelectorAll('.cards > li').length === 1")
    page.goto(f"{bench.site}/bin")
    page.locator("li", has_text="Louvre, first, copy").get_by_role("button", name="Bring back").click()
    page.get_by_role("link", name="Louvre, first, copy").wait_for()
    page.get_by_label("More for Louvre, first, copy").click()
    page.locator("details[open]").get_by_role("button", name="Put in the bin").click()
    page.get_by_role("link", name="Louvre, first, copy").wait_for(state="detached")
    page.goto(f"{bench.site}/bin")
    page.locator("li", has_text="Louvre, first, copy").get_by_role("button", name="Delete for good").click()
    page.get_by_role("heading", name="“Louvre, first, copy”").wait_for()
    assert bench.findings() == []
    page.locator("#gone").get_by_role("button", name="Delete for good").click()
    page.locator("li", has_text="Louvre, first, copy").wait_for(state="detached")
    assert bench.findings() == []


def test_a_file_dropped_on_the_shelf_becomes_a_model(bench) -> None:
    page = bench.page
    page.goto(bench.site)
    page.evaluate(
        """() => { const data = new DataTransfer();
          data.items.add(new File(['name,value\\nvane,12 mm\\n'], 'vane sizes.csv'));
          const how = { dataTransfer: data, bubbles: true, cancelable: true };
          const on = document.querySelector('.shelf main');
          for (const type of ['dragover', 'drop']) on.dispatchEvent(new DragEvent(type, how)); }"""
    )
    page.locator("#parameter-vane").wait_for()
    holds(lambda: page.locator("#parameter-vane").input_value() == "12 mm")
    holds(lambda: page.locator("#model-name").inner_text() == "vane sizes")


def test_sign_out_waits_to_be_asked(bench) -> None:
    bench.page.goto(bench.site)
    bench.page.get_by_role("button", name="Sign out").click()
    bench.page.get_by_role("heading", name="Sign in").wait_for()
    assert bench.findings() == []
    bench.page.get_by_role("button", name="Go on in the demo").click()
    bench.page.get_by_role("link", name="Shield plate").wait_for()


def test_axe_finds_nothing_on_the_bench(bench) -> None:
    bench.page.goto(bench.site)
    bench.page.get_by_role("link", name="Mast clamp, half").click()
    bench.page.locator("[data-measure=volume]").wait_for()
    bench.still()
    assert bench.findings() == []
    bench.act(1, "Open")
    bench.freedom("fully constrained")
    bench.still()
    assert bench.findings() == []
    bench.keep_sketch()
    bench.chord("se")
    bench.page.locator("#bar .picks label").first.wait_for()
    assert bench.findings() == []


@pytest.mark.parametrize("size", [(1280, 800), (1024, 700)])
def test_nothing_is_cut_off(bench, size) -> None:
    bench.page.set_viewport_size({"width": size[0], "height": size[1]})
    bench.page.goto(bench.site)
    bench.page.get_by_role("link", name="Mast clamp, half").click()
    bench.page.locator("[data-measure=volume]").wait_for()
    bench.still()
    holds(lambda: bench.page.evaluate("document.documentElement.scrollWidth <= innerWidth"))
    for selector in ("#tray-solid", "#take-out", "#dial", "#scalebar", "#weigh"):
        box = bench.page.locator(selector).bounding_box()
        assert box["x"] >= 0 and box["x"] + box["width"] <= size[0] + 1, selector
        assert box["y"] >= 0 and box["y"] + box["height"] <= size[1] + 1, selector
    bench.act(1, "Open")
    bench.freedom("fully constrained")
    tray, view = (bench.page.locator(s).bounding_box() for s in ("#tray-sketch", "#view"))
    assert tray["x"] >= view["x"] and tray["x"] + tray["width"] <= view["x"] + view["width"]
