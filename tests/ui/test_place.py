"""Placing in the browser: a can and its lid by pointer, a rod by keyboard."""

from __future__ import annotations

import math

import acts
import pytest

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-2")]


@pytest.fixture
def can_and_lid(bench):
    bench.new_model()
    bench.page.keyboard.press("Escape")
    acts.block(bench, shape="cylinder", diameter="60", height="50")
    bench.turn()
    bench.chord("es")
    bench.fill("thickness", "2")
    bench.blank("open faces")
    bench.spot("face", 0, 0, 50)
    bench.keep()
    acts.block(bench, shape="cylinder", diameter="60", height="4", x="80", result="as a separate body")
    return bench


def test_a_lid_is_seated_by_clicking_what_touches_what(can_and_lid):
    bench = can_and_lid
    volume = bench.measure("volume")
    bench.page.locator("#view").focus()
    bench.chord("bp")
    bench.look(-0.5)
    bench.spot("face", 80, 0, 0)  # its underside; the bar goes on to where it goes by itself
    bench.look(0.75)
    bench.spot("edge", 0, 0, 50)  # an edge of the rim stands for the rim
    bench.page.locator("#keep:enabled").wait_for()
    bench.page.locator("#more-blanks").click()
    bench.blank("and what of it")
    bench.spot("edge", 80, 0, 54)
    bench.spot("edge", 0, 0, 50)
    bench.fill("gap", "0.2")
    bench.keep()
    assert bench.measure("volume") == pytest.approx(volume, rel=1e-9)
    text = bench.step(4).inner_text()
    assert "against" in text and " on " in text.replace("\n", " ")
    assert "may still turn about an axis (z)" in text
    # 60 x 60, and the can, the gap and the lid high
    box = bench.page.locator("#weigh [data-measure=box]").inner_text()
    assert "60 × 60 × 54.2 mm" in box
    # what is free is given a number, and then nothing is said of it
    bench.step(4).get_by_role("button", name="hold it").click()
    bench.fill("turn", "15")
    bench.keep()
    acts.holds(lambda: "may still" not in bench.step(4).inner_text())


def test_what_cannot_hold_says_so_in_the_bar(can_and_lid):
    bench = can_and_lid
    bench.page.locator("#view").focus()
    bench.chord("bp")
    bench.look(0.75)
    bench.spot("face", 80, 0, 4)
    bench.tick("top plane")
    bench.page.locator("#keep:enabled").wait_for()
    bench.choose("how it stands", "touching")
    bench.page.locator("#bar .why", has_text="needs a round face and a flat or round one").wait_for()
    bench.choose("how it stands", "flush with")
    bench.keep()
    acts.holds(lambda: bench.page.locator("#weigh [data-measure=box]").inner_text().endswith("mm"))


def test_by_keyboard_alone(can_and_lid):
    bench, keys = can_and_lid, can_and_lid.page.keyboard
    bench.page.locator("#view").focus()
    bench.chord("bp")
    for _ in range(40):  # walk through edges and faces until a round face is named
        keys.press("]")
        if "cylindrical face, round side of step 3" in bench.page.locator(".hint").inner_text():
            break
    keys.press("Enter")
    bench.gap("where it goes").wait_for()
    bench.tick("z axis")
    bench.choose("how it stands", "on")
    bench.page.locator("#keep:enabled").wait_for()
    keys.press("Enter")
    bench.page.locator("#bar").wait_for(state="hidden")
    bench.still()
    assert math.isfinite(bench.measure("volume"))


def test_a_body_is_picked_where_it_is_seen_while_it_is_placed(can_and_lid):
    """The first relation is tried, the lid is drawn on the rim: there it is picked, not where it was."""
    bench = can_and_lid
    bench.page.locator("#view").focus()
    bench.chord("bp")
    bench.look(-0.5)
    bench.spot("face", 80, 0, 0)
    bench.look(0.75)
    bench.spot("edge", 0, 0, 50)
    bench.page.locator("#keep:enabled").wait_for()
    bench.still()
    bench.page.locator("#more-blanks").click()
    bench.blank("and what of it")
    # where it was there is nothing now
    bench.page.mouse.move(*bench.on_screen(110, 0, 2))
    acts.holds(lambda: bench.page.locator("#snapnote").is_hidden())
    bench.page.mouse.click(*bench.on_screen(110, 0, 2))
    acts.holds(lambda: "…" in bench.gap("and what of it").inner_text())
    # its round rim, as it is drawn now
    seen = bench.on_screen(80 + 30 * math.cos(-0.8), 30 * math.sin(-0.8), 52)
    bench.page.mouse.move(*seen)
    bench.page.locator("#snapnote", has_text="of step 3").wait_for()
    bench.page.mouse.click(*seen)
    bench.gap("where that goes").wait_for()
    bench.spot("edge", 0, 0, 50)
    bench.keep()
    acts.holds(lambda: "60 × 60 × 54 mm" in bench.page.locator("#weigh [data-measure=box]").inner_text())
