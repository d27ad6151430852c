"""What a change does, as a person tries it: flex test, variants, Compare, Replay, copies, a number dragged."""

import io
import zipfile

import pytest
import trimesh
from PIL import Image
from tests.hand import clamp
from tests.ui.acts import holds

from sketchlathe.core.exchange.modelfile import dump_model

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-3")]


@pytest.fixture
def opened(bench, tmp_path):
    """The clamp brought in from its file, open at the Bench."""
    file = tmp_path / "clamp.json"
    file.write_bytes(dump_model(clamp().model.changed(name="Mast clamp")))
    bench.page.goto(bench.site)
    bench.page.get_by_role("button", name="Bring in a file").click()
    bench.page.locator("#bring-in-file").set_input_files(str(file))
    bench.page.get_by_role("button", name="Bring in", exact=True).click()
    bench.page.locator("#view").wait_for()
    bench.wait_volume(4000 - 45 * 3.141592653589793)
    bench.still()
    return bench


def _dragged_along_its_track(opened) -> None:
    """A dimension of a sketch by the dot of its line: the part follows, and keeps it."""
    page = opened.page
    row = page.locator("#flexes li", has_text="20 mm in Sketch 1")
    row.scroll_into_view_if_needed()
    dot = row.locator("[data-pull]").bounding_box()
    x, y = dot["x"] + dot["width"] / 2, dot["y"] + dot["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 12, y)
    page.mouse.move(x + 25, y)
    page.wait_for_timeout(600)
    said = row.locator(".ends").inner_text()
    page.mouse.up()
    depth = float(said.split()[0])
    assert depth > 20
    opened.wait_volume(200 * depth - 45 * 3.141592653589793)


def test_the_width_at_which_a_bolt_hole_runs_out_is_found_and_limited(opened) -> None:
    page = opened.page
    page.locator("#view").focus()
    opened.chord("pf") if page.locator("#flex-begin").is_visible() else page.locator("#flex-box summary").first.click()
    if page.locator("#flex-begin").inner_text() == "try every number":
        page.locator("#flex-begin").click()
    row = page.locator("#flexes li", has=page.locator("[data-flex='p:w']"))
    row.get_by_text("breaks at").wait_for()
    holds(lambda: "15 mm in Extrude 2" in row.inner_text())
    page.locator("#flex-begin", has_text="again").wait_for()
    row.get_by_role("button", name="show it").click()
    page.locator("#older", has_text="runs out of the side").wait_for()
    holds(lambda: page.locator(".step.broken").count() == 1)
    page.keyboard.press("Escape")
    page.locator("#older").wait_for(state="hidden")
    row.get_by_role("button", name="give it these limits").click()
    row.get_by_text("limits kept").wait_for()
    page.locator("#parameter-w").fill("12")
    page.keyboard.press("Enter")
    page.locator("#steps", has_text="below its limit").wait_for()
    page.get_by_role("button", name="make it 15").first.click()
    page.wait_for_function("() => !document.querySelector('#steps').textContent.includes('below its limit')")
    assert opened.findings() == []
    page.locator("#undo").click()
    page.locator("#undo").click()
    opened.wait_volume(4000 - 45 * 3.141592653589793)
    page.locator("#flex-begin").click()
    page.locator("#flexes:not(.stale)").wait_for(state="attached")
    page.locator("#flex-begin", has_text="again").wait_for()
    _dragged_along_its_track(opened)


def test_five_sizes_from_a_table_are_taken_out_in_one_file(opened) -> None:
    page = opened.page
    page.locator("#view").focus()
    opened.chord("pv")
    page.locator("#variants-paste summary").click()
    page.locator("#variants-text").fill("variant,w\none,x*\n")
    page.locator("#variants-bring").click()
    page.locator("#variants-says", has_text="Row 1 (one)").wait_for()
    page.locator("#variants-text").fill(
        "variant,w\n" + "\n".join(f"mast {w},{w}" for w in (40, 50, 60, 70)) + "\nslim,8"
    )
    page.locator("#variants-bring").click()
    page.locator("#variants-table tbody tr").nth(4).wait_for()
    page.locator("#variants-table tr", has=page.locator("[value='mast 70']")).get_by_text("70 × 20 × 5 mm").wait_for()
    page.locator("#variants-table tr", has=page.locator("[value=slim]")).get_by_text("✗").wait_for()
    with page.expect_download() as got:
        page.locator("#variants-out").click()
    with zipfile.ZipFile(got.value.path()) as archive:
        for width in (40, 50, 60, 70):
            mesh = trimesh.load(io.BytesIO(archive.read(f"mast-clamp-mast-{width}.stl")), file_type="stl")
            assert mesh.is_watertight
            assert mesh.volume == pytest.approx(100 * width - 45 * 3.14159265, rel=2e-3)
    assert opened.findings() == []
    page.locator("#variants-table tr", has=page.locator("[value='mast 60']")).get_by_role("button", name="take").click()
    page.locator("#variants-table tr.taken", has=page.locator("[value='mast 60']")).wait_for()
    page.locator("#variants-close").click()
    opened.wait_volume(6000 - 45 * 3.141592653589793)


def test_a_moved_hole_is_found_in_words_in_paint_and_in_figures(opened) -> None:
    page = opened.page
    opened.act(3, "Open")
    page.locator("#tray-sketch").wait_for()
    opened.still()
    page.locator(".dim", has_text="12").first.locator(".grab").dblclick()
    page.locator("#typed input").fill("24")
    page.keyboard.press("Enter")
    opened.still()
    opened.keep_sketch()
    opened.still()
    page.locator("#revisions-box summary").first.click()
    page.locator("#compare").click()
    page.locator(".differs", has_text="12 mm became 24 mm").wait_for()
    page.locator("#compare-says", has_text="gone 0.14137 cm³").wait_for()
    holds(lambda: "come 0.14137 cm³" in page.locator("#compare-says").inner_text())
    masses = page.locator(".figures tr", has_text="mass").first.locator("td").all_inner_texts()
    assert masses[0] == masses[1]
    page.wait_for_timeout(300)
    seen = Image.open(io.BytesIO(page.locator("#view").screenshot())).convert("RGB")
    colours = [seen.getpixel((x, y)) for x in range(0, seen.width, 3) for y in range(120, seen.height - 120, 3)]
    assert sum(r > 140 and g < 90 and b > 70 for r, g, b in colours) > 20, "what is gone is painted magenta"
    assert sum(r < 90 and g > 90 and b < 110 for r, g, b in colours) > 20, "what has come is painted green"
    page.keyboard.press("Tab")
    assert opened.findings() == []
    page.locator("#compare-divide").focus()
    page.keyboard.press("End")
    page.locator("#divide").wait_for(state="hidden")
    page.locator("[data-back]").first.click()
    page.locator("#older-steps", has_text="Nothing differs").wait_for()
    page.keyboard.press("Escape")
    page.locator("#steps").wait_for()
    opened.still()


def test_a_dragged_number_moves_the_part_before_it_is_built(opened) -> None:
    page = opened.page

    def picture() -> bytes:
        return page.locator("#view").screenshot()

    grip = page.locator(".param[data-parameter=w] .grip").bounding_box()
    x, y = grip["x"] + grip["width"] / 2, grip["y"] + grip["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 25, y)
    page.wait_for_timeout(1500)
    before = picture()
    # the server does not answer builds any more: what moves is what the page knows
    page.route("**/build", lambda route: None)
    page.mouse.move(x + 35, y)
    page.wait_for_timeout(250)
    assert picture() != before
    page.unroute("**/build")
    width = float(page.locator("#parameter-w").input_value().split()[0])
    assert width > 40
    page.mouse.up()
    opened.wait_volume(100 * width - 45 * 3.141592653589793)
    page.locator("#undo").click()
    opened.wait_volume(4000 - 45 * 3.141592653589793)
    field = page.locator("#parameter-w")
    field.focus()
    for _ in range(3):
        page.keyboard.press("ArrowUp")
    holds(lambda: float(field.input_value().split()[0]) > 40)
    page.keyboard.press("Escape")
    holds(lambda: field.input_value() == "40 mm")


def test_the_history_is_played_and_taken_out(opened) -> None:
    page = opened.page
    for width in ("44", "52"):
        page.locator("#parameter-w").fill(width)
        page.keyboard.press("Enter")
        opened.wait_volume(100 * float(width) - 45 * 3.141592653589793)
    page.locator("#revisions-box summary").first.click()
    page.locator("#replay").click()
    page.locator("#older", has_text="w = 52 mm").wait_for()
    page.locator("#replay-play", has_text="Play").wait_for()
    page.locator("#replay-make").click()
    page.locator("#replay-file").wait_for()
    with page.expect_download() as got:
        page.locator("#replay-file").click()
    film = Image.open(got.value.path())
    assert film.format == "GIF"
    assert film.n_frames == 3
    assert opened.findings() == []
    page.locator("#replay-at").focus()
    page.keyboard.press("Home")
    page.locator("#older-steps", has_text="Steps of revision 1").wait_for()
    page.locator("#older-end").click()


def test_what_was_good_on_a_copy_goes_back(opened) -> None:
    page = opened.page
    page.locator("#revisions-box summary").first.click()
    page.locator("#try-on-copy").click()
    page.locator("#tried-panel", has_text="Nothing is different").wait_for()
    opened.still()
    page.locator("#parameter-w").fill("46")
    page.keyboard.press("Enter")
    page.locator("#tried", has_text="40 mm became 46 mm").wait_for()
    page.locator("#tried input").check()
    page.locator("#take-back").click()
    page.locator("#problem", has_text="has it now").wait_for()
    page.locator("#tried a").click()
    opened.wait_volume(4600 - 45 * 3.141592653589793)
