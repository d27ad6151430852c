"""A screw goes into the hole one clicks on; it is counted, and it is not printed."""

from __future__ import annotations

import io
import math
import zipfile

import pytest

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-2")]


def click_on(bench, x: float, y: float, z: float) -> None:
    at = bench.on_screen(x, y, z)
    bench.page.mouse.move(*at)
    bench.page.mouse.click(*at)


def test_a_screw_is_put_into_a_hole_counted_and_not_printed(bench) -> None:
    page = bench.page
    bench.solid_plate("60", "40", "20")
    bench.turn()
    bench.chord("sh")
    click_on(bench, 15, 10, 20)
    bench.choose("form", "counterbored")
    bench.choose("screw", "M5 screws")
    # what the table gives is said: ISO 273 medium, the seat of a cap head
    page.locator("#bar-answer", has_text="⌀ 5.5 mm, seat ⌀ 10 mm, 5.4 mm deep").wait_for()
    bench.keep()
    bench.wait_volume(60 * 40 * 20 - math.pi / 4 * (100 * 5.4 + 5.5**2 * 14.6))
    bench.turn()
    bench.chord("bh")
    # the rim nearest to the eye, where it is drawn
    rim = [(15 + 5 * math.cos(a), 10 + 5 * math.sin(a)) for a in (k * math.pi / 12 for k in range(24))]
    click_on(bench, *max(rim, key=lambda p: bench.on_screen(*p, 20)[1]), 20)
    page.locator("#bar .gap", has_text="1 edge").wait_for()
    page.wait_for_function("() => document.querySelector('#bar select[aria-label=size]')?.value === 'M5'")
    bench.fill("length", "17")
    page.locator("#bar .why", has_text="is not made 17 mm long: take 16 mm or 20 mm").wait_for()
    bench.fill("length", "20")
    bench.keep()
    screw = math.pi / 4 * (8.5**2 * 5 + 25 * 20) - 2.5 * 16 * math.sqrt(3) / 2
    bench.wait_volume(60 * 40 * 20 - math.pi / 4 * (100 * 5.4 + 5.5**2 * 14.6) + screw)
    page.locator("#bodies-panel", has_text="ISO 4762 M5 × 20").wait_for()
    page.locator("#fit-check").click()
    page.locator("#fit-panel", has_text="Play of a round thing in its hole").wait_for()
    both = zipfile.ZipFile(bench.download("3MF"))
    assert both.read("3D/3dmodel.model").count(b"<object ") >= 2
    page.locator("#view").focus()
    bench.chord("fp")
    page.locator("#findings li.ok", has_text="Watertight, one body").wait_for()
    address = page.locator("aside a[download]", has_text="3MF").get_attribute("href")
    alone = zipfile.ZipFile(io.BytesIO(page.request.get(f"{bench.site}{address}").body()))
    names = alone.read("3D/3dmodel.model")
    whole = both.read("3D/3dmodel.model")
    assert b"ISO 4762" not in names and b"ISO 4762" in whole
