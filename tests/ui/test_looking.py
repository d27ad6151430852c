"""The view is turned with what one is used to; what this browser remembers is read with care."""

from __future__ import annotations

import pytest
from tests.ui.acts import holds

from sketchlathe.proving.page import INSIDE

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-2")]

WAY = f"{INSIDE}.then(({{ camera }}) => [camera.az, camera.el, ...camera.target])"


def drag(bench, at: tuple[float, float], button: str) -> tuple[bool, bool]:
    """Whether a drag turned the view, and whether it shifted it."""
    before = bench.page.evaluate(WAY)
    bench.page.mouse.move(*at)
    bench.page.mouse.down(button=button)
    bench.page.mouse.move(at[0] + 40, at[1] + 20, steps=3)
    bench.page.mouse.up(button=button)
    after = bench.page.evaluate(WAY)
    return before[:2] != after[:2], before[2:] != after[2:]


def test_what_turns_the_view_is_chosen_once_and_remembered(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.turn()
    box = bench.page.locator("#view").bounding_box()
    part, beside = bench.on_screen(30, 20, 20), (box["x"] + 40, box["y"] + 0.45 * box["height"])
    assert drag(bench, beside, "left") == (False, False)
    assert drag(bench, part, "right") == (True, False)
    bench.page.get_by_role("button", name="turn it otherwise").click()
    choice = bench.page.get_by_label("What the view is turned with")
    holds(lambda: choice.evaluate("node => node === document.activeElement"))
    choice.select_option("middle")
    assert drag(bench, beside, "middle") == (True, False)
    assert drag(bench, beside, "right")[1]
    choice.select_option("left")
    assert drag(bench, beside, "left") == (True, False)
    bench.turn()
    assert drag(bench, bench.on_screen(30, 20, 20), "left") == (False, False)
    choice.select_option("trackpad")
    bench.page.mouse.move(*beside)
    before = bench.page.evaluate(WAY)
    bench.page.mouse.wheel(60, 20)
    bench.page.wait_for_function(f"was => {WAY}.then(now => now[0] !== was[0])", arg=before)
    bench.page.reload()
    bench.wait_volume(60 * 40 * 20)
    holds(lambda: bench.page.get_by_label("What the view is turned with").input_value() == "trackpad")


def test_a_damaged_store_is_told_and_begun_anew(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.page.evaluate(
        """() => { for (const name of ['reading', 'take-out', 'turning', `hidden.${location.pathname.split('/')[2]}`])
             localStorage.setItem(`lathe.${name}`, '{"half'); }"""
    )
    bench.page.reload()
    bench.page.get_by_text("What this browser remembered could not be read").wait_for()
    bench.wait_volume(60 * 40 * 20)
    bench.page.reload()
    bench.wait_volume(60 * 40 * 20)
    holds(lambda: bench.page.get_by_text("What this browser remembered").count() == 0)
