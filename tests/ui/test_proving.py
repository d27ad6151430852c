"""Proving a part in the browser: material, Weigh & size, Answer check, the hand-in sheet."""

import pytest

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui")]


def wait_exact(bench, what: str, value: float) -> None:
    bench.page.wait_for_function(
        """([w, v]) => { const n = document.querySelector(`[data-measure="${w}"]`);
          return n && Math.abs(Number(n.dataset.exact) - v) < 1e-6 * v }""",
        arg=[what, value],
    )


def test_a_material_is_found_by_its_name_and_weighed(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.page.locator("#view").focus()
    bench.chord("ww")
    bench.page.keyboard.type("steel stain")
    bench.page.keyboard.press("ArrowDown")
    bench.page.locator("#materials-facts", has_text="1.4404").wait_for()
    bench.page.keyboard.press("Enter")
    wait_exact(bench, "mass", 48 * 7.98)
    # one's own
    bench.page.locator("#material").click()
    bench.page.get_by_text("one of your own").click()
    bench.page.get_by_label("Name of the material").fill("Ballast mix")
    bench.page.get_by_label("Density in g/cm³").fill("3,5")
    bench.page.keyboard.press("Enter")
    bench.page.locator("#materials-list [aria-selected=true]", has_text="Ballast mix").wait_for()
    bench.page.get_by_role("button", name="Use it").click()
    wait_exact(bench, "mass", 48 * 3.5)
    # read in other units, and so again after a reload
    bench.page.locator("#weigh-units summary").click()
    bench.page.locator("#weigh-mass").select_option("kg")
    bench.page.locator("[data-measure=mass]", has_text="0.168 kg").wait_for()
    bench.page.reload()
    bench.page.locator("[data-measure=mass]", has_text="0.168 kg").wait_for()


def test_an_answer_that_is_off_is_explained_and_put_right(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.page.locator("#view").focus()
    bench.chord("wa")
    bench.page.keyboard.type("43.2 cm³")
    bench.page.keyboard.press("Enter")
    bench.page.locator(".answer[data-what=volume]", has_text="too large by 4.8 cm³").wait_for()
    bench.page.locator("#answer-area").fill("84.0 cm²")
    bench.page.keyboard.press("Enter")
    bench.page.locator(".answer[data-what=area]", has_text="too much").wait_for()
    bench.page.locator("#view").focus()
    bench.chord("we")
    cause = bench.page.locator("#causes li").first
    cause.get_by_text("were 18 mm instead of 20 mm").wait_for()
    cause.get_by_role("button", name="make it 18 mm").click()
    bench.wait_volume(43200)
    bench.page.get_by_text("All of it agrees").wait_for()
    with bench.page.expect_download() as got:
        bench.page.get_by_role("link", name="PDF").click()
    from pypdf import PdfReader

    text = PdfReader(got.value.path()).pages[0].extract_text()
    assert "43.2 cm³" in text
    assert "agrees" in text
    # nonsense is refused with a sentence, and what was there stays
    bench.page.locator("#answer-volume").fill("heavy")
    bench.page.keyboard.press("Enter")
    bench.page.locator("#problem .problem", has_text="is not one number with a unit").wait_for()
