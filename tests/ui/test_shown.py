"""A model shown to others, in two real browsers: by a link, with comments; what one changes arrives at the other."""

import pytest
from tests.ui.acts import block, holds, new_parameter, rectangle

from sketchlathe.service import modelling

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-4")]


@pytest.fixture
def stranger(bench):
    """Another browser, signed out."""
    context = bench.page.context.browser.new_context(viewport={"width": 1280, "height": 800})
    page = context.new_page()
    page.goto(f"{bench.site}/")
    page.get_by_role("button", name="Sign out").click()
    page.get_by_role("button", name="Sign in").first.wait_for()
    yield page
    context.close()


def test_a_link_shows_the_model_and_what_is_changed_arrives(bench, stranger) -> None:
    bench.new_model()
    bench.page.keyboard.press("Escape")
    block(bench, width="40", depth="20", height="5")
    bench.wait_volume(4000)
    # all by keyboard
    bench.chord("fs")
    bench.page.locator("#show-form").wait_for()
    bench.page.locator("#show-form [value=link]").focus()
    bench.page.keyboard.press("Enter")
    bench.page.locator("table.shown input").wait_for()
    holds(lambda: bench.page.evaluate("() => document.activeElement.dataset.copy !== undefined"))
    link = bench.page.locator("table.shown input").input_value()
    bench.page.keyboard.press("Escape")
    bench.page.locator("#shown-dialog").wait_for(state="hidden")

    stranger.goto(link)
    stranger.get_by_text("shown to you by").wait_for()
    holds(lambda: "40 × 20 × 5" in stranger.locator("#weigh").inner_text())
    assert stranger.locator("#tray-solid .tool:visible").count() == 0
    assert stranger.locator("#undo:visible, #take-out:visible, #show-to:visible").count() == 0
    # what would change it is refused in words, and nothing is tried
    stranger.locator(".step .blank").first.click()
    stranger.get_by_text("shown to you to look at").wait_for()
    assert stranger.locator("#bar").is_hidden()

    holds(lambda: "with somebody" in stranger.locator("#here").inner_text().lower())
    bench.step(1).locator(".n").click()
    new_parameter(bench, "wide", "40 mm")
    stranger.locator("#parameters").get_by_text("wide").wait_for()
    holds(lambda: "with" in bench.page.locator("#here").inner_text())
    assert bench.problems == []


def test_a_comment_stands_at_its_step_for_everybody_until_it_is_settled(bench, stranger) -> None:
    bench.new_model()
    bench.page.keyboard.press("Escape")
    block(bench, width="40", depth="20", height="5")
    bench.wait_volume(4000)
    bench.chord("fs")
    bench.page.locator("#show-form button[type=submit]").click()
    link = bench.page.locator("table.shown input").input_value()
    bench.page.locator("#shown-close").click()
    stranger.goto(link)
    stranger.locator("#step-s1, .step").first.wait_for()
    bench.act(1, "Say something")
    bench.page.keyboard.type("Is 5 mm enough?")
    bench.page.keyboard.press("Control+Enter")
    bench.page.locator(".step .talk").wait_for()
    stranger.locator(".step .talk button").click()  # it came by itself
    stranger.get_by_text("Is 5 mm enough?").wait_for()
    assert stranger.locator("#comment-form").count() == 0
    bench.page.get_by_role("button", name="settled", exact=True).click()
    bench.page.locator(".step .talk").wait_for(state="detached")
    stranger.locator(".step .talk").wait_for(state="detached")
    assert bench.findings() == []


def test_dropping_a_sketch_says_that_what_others_did_meanwhile_goes_too(bench) -> None:
    bench.new_model()
    bench.plane("1")
    rectangle(bench, (0, 0), "20, 10")
    model = bench.page.url.split("/models/")[1].split("?")[0]
    theirs = {"kind": "add_parameter", "name": "theirs", "formula": "2 mm"}
    modelling.change(bench.site.database, bench.site.person, model, None, theirs)
    bench.page.locator("#parameters").get_by_text("theirs").wait_for()
    bench.page.locator("#drop-sketch").click()
    bench.page.locator("#ask").get_by_text("what others changed since").wait_for()
    bench.page.locator("#ask").get_by_text("theirs").wait_for()
    bench.page.locator("#ask").get_by_role("button", name="Cancel").click()
    assert bench.page.locator("#keep-sketch").is_visible()
