"""Check & print in the browser: findings, laying, layers, the printer live."""

import pytest
from tests.ui.acts import holds, open_box

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-2")]


def thin_tray(bench) -> None:
    """An open box with walls of 0.6 mm, on the page Check & print."""
    open_box(bench, "20", "0.6")
    bench.page.locator("#view").focus()
    bench.chord("fp")
    bench.page.locator("[data-estimate=time]").wait_for()


def test_a_thin_wall_is_put_right_and_the_part_is_printed(bench) -> None:
    thin_tray(bench)
    page = bench.page
    finding = page.locator("#findings li.bad", has_text="Wall of 0.6 mm")
    finding.wait_for()
    finding.get_by_role("button", name="Wall of 0.6 mm").click()
    holds(lambda: finding.get_by_role("button", name="Wall of 0.6 mm").get_attribute("aria-pressed") == "true")
    finding.get_by_role("button", name="make the thickness 0.8 mm").click()
    page.locator("#findings li.ok", has_text="No thin walls").wait_for()
    # layers by keyboard
    page.locator("#view").focus()
    page.keyboard.press("PageDown")
    page.locator("#layer-says", has_text="of 100").wait_for()
    holds(lambda: not page.locator("#solid").is_checked())
    # another way to lie
    page.get_by_label("on its left side").check()
    page.locator("[data-estimate=layers]", has_text="300 ×").wait_for()
    page.get_by_label("as modelled").check()
    page.locator("[data-estimate=layers]", has_text="100 ×").wait_for()
    # other layers
    page.get_by_text("How it is printed").click()
    page.locator("#process [name=layer]").fill("0,4")
    page.keyboard.press("Enter")
    page.locator("[data-estimate=layers]", has_text="50 × 0.4").wait_for()
    page.locator("#process [name=nozzle]").fill("0")
    page.keyboard.press("Tab")
    page.locator("#findings", has_text="“nozzle” must be from 0.1 to 2 mm").wait_for()
    page.locator("#process [name=nozzle]").fill("0.4")
    page.keyboard.press("Tab")
    page.locator("[data-estimate=layers]").wait_for()
    # the printer, its faults
    page.locator("#queue").click()
    page.locator("#printer", has_text="printing").wait_for()
    page.get_by_text("practise faults").click()
    page.get_by_role("button", name="Run out").click()
    page.locator("#printer", has_text="filament has run out").wait_for()
    page.get_by_role("button", name="Put a new spool on").click()
    page.get_by_role("button", name="Resume").click()
    page.locator("#printer", has_text="printing").wait_for()
    page.get_by_role("button", name="Pull the plug").click()
    page.locator("#printer", has_text="does not answer").wait_for()
    page.get_by_role("button", name="Plug it in again").click()
    page.get_by_role("button", name="Cancel").click()
    page.locator("#printer", has_text="It is idle").wait_for()
    # what was put right is in the model
    page.get_by_role("link", name="Back to the Bench").click()
    bench.wait_volume(60 * 40 * 20 - 58.4 * 38.4 * 19.2)


def test_the_page_is_accessible(bench) -> None:
    thin_tray(bench)
    assert bench.findings() == []
