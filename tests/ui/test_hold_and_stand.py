"""What printing asks for at the Bench: grips, feet, tilted faces, dovetails, rings; a jar whose lid turns."""

from __future__ import annotations

import math

import pytest
from tests.ui.acts import block, holds

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-4")]

PI = math.pi


def test_a_knob_gets_a_grip_and_stands_on_a_foot(bench) -> None:
    bench.new_model()
    bench.page.keyboard.press("Escape")
    block(bench, shape="cylinder", diameter="30", height="12")
    bench.turn()
    bench.chord("ng")
    bench.spot("place", 15 * 0.707, -15 * 0.707, 6)
    bench.fill("width", "2")
    bench.keep()
    gripped = bench.wait_less(PI * 225 * 12)
    bench.page.locator("#view").focus()
    bench.chord("nf")
    bench.fill("size", "0.6")
    bench.keep()
    bench.wait_less(gripped)
    holds(lambda: bench.page.locator("#steps .problem").count() == 0)


def test_a_side_is_tilted_about_its_edge(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.turn()
    bench.chord("et")
    bench.spot("face", 60, 20, 10)
    bench.blank("axis")
    bench.spot("edge", 60, 20, 20)
    bench.fill("angle", "10")
    bench.keep()
    bench.wait_volume(40 * (60 * 20 + 200 * math.tan(math.radians(10))))


def test_a_long_bar_slides_together_by_dovetails(bench) -> None:
    bench.new_model()
    bench.page.keyboard.press("Escape")
    block(bench, width="300", depth="30", height="20", x="-150")
    bench.chord("bs")
    bench.blank("plane")
    bench.tick("right plane")
    bench.page.locator("#more-blanks").click()
    bench.choose("joint", "joined by dovetails that slide in")
    bench.fill("width", "8")
    bench.fill("depth", "4")
    bench.keep()
    middle, play = 8 - 4 * math.tan(math.radians(15)), 0.2
    bench.wait_volume(300 * 30 * 20 - 2 * 20 * (middle * 4 - (middle - play) * (4 - play)))
    holds(lambda: bench.page.locator("#bodies-readout .nameit").count() == 2)
    bench.page.locator("#view").focus()
    bench.chord("tf")
    bench.page.locator("#fit-panel", has_text="play").wait_for(timeout=60_000)
    holds(lambda: "overlap" not in bench.page.locator("#fits").inner_text().lower())


def fits(bench) -> str:
    """What the fit check says of the part as it is."""
    bench.page.locator("#view").focus()
    bench.chord("tf")
    bench.page.locator("#fits[aria-busy]").wait_for(state="attached")
    bench.page.locator("#fits:not(.stale):not([aria-busy]) li").first.wait_for(timeout=90_000)
    return bench.page.locator("#fits").inner_text()


def test_a_jar_and_its_lid_go_together(bench) -> None:
    """That they turn into each other, and no other way, is seen without the Bench."""
    bench.new_model()
    bench.page.keyboard.press("Escape")
    # the jar with its neck, the lid beside it
    block(bench, shape="cylinder", diameter="18", height="10")
    block(bench, shape="cylinder", diameter="12", height="6", z="10")
    block(bench, shape="cylinder", diameter="18", height="8", x="30", z="10")
    block(bench, shape="cylinder", diameter="10.106", height="6", x="30", z="10", result="cutting away")
    plain = PI * (81 * 10 + 36 * 6 + 81 * 8 - 10.106**2 / 4 * 6)
    bench.wait_volume(plain)
    bench.turn()
    bench.chord("st")
    bench.spot("place", 6 * 0.707, -6 * 0.707, 13)
    bench.choose("size", "M12")
    bench.fill("play", "0.4")
    bench.keep()
    jar = bench.wait_less(plain)
    bench.look(-0.6)
    bench.chord("st")
    bench.spot("place", 30 - 5.05 * 0.707, 5.05 * 0.707, 12)
    bench.choose("size", "M12")
    bench.fill("play", "0.4")
    bench.choose("end", "the other end")
    bench.keep()
    bench.wait_less(jar)

    def move(**blanks: str) -> None:
        bench.page.locator("#view").focus()
        bench.chord("bm")
        bench.blank("bodies")
        bench.tick("body of Block 3")
        for label, value in blanks.items():
            if label == "how":
                bench.choose("how", value)
            else:
                bench.fill(label.replace("_", " "), value)
        bench.keep()
        bench.still()

    move(along_x="-30")
    assert "overlap" not in fits(bench).lower()


def test_the_bores_for_inserts_are_those_of_ones_own_maker(bench) -> None:
    bench.solid_plate("60", "40", "8")
    bench.chord("sh")
    bench.choose("where", "on")
    bench.blank("face")
    bench.spot("face", 30, 20, 8)
    bench.choose("screw", "M3 screws")
    bench.choose("fit", "with a heat-set insert")
    bench.page.locator("#bar").get_by_role("button", name="sizes…").click()
    dialog = bench.page.locator("#bores")
    dialog.get_by_label("bore for M3").fill("-1")
    dialog.get_by_role("button", name="Keep them").click()
    dialog.get_by_role("alert").get_by_text("must be from").wait_for()
    assert bench.findings() == []
    dialog.get_by_label("bore for M3").fill("4.6")
    dialog.get_by_role("button", name="Keep them").click()
    dialog.wait_for(state="hidden")
    bench.keep()
    bench.wait_volume(60 * 40 * 8 - PI * 2.3**2 * 6.7)  # as deep as an insert of M3 is long, and 1 mm
