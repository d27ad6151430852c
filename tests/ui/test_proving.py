"""Proving a part in the browser: material, Weigh & size, Answer check, the hand-in sheet."""

import pytest
from tests.ui.acts import holds

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-2")]


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
    revision = bench.page.locator("#saved").text_content()
    bench.page.locator("#view").focus()
    bench.still()
    holds(
        lambda: bench.page.locator("#saved").text_content() == revision, "leaving the field said the same answer twice"
    )
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


def files(tmp_path) -> dict[str, str]:
    """A STEP pin, an STL ball, a DXF ring, a table."""
    import ezdxf
    import trimesh
    from tests.conftest import Hand

    from sketchlathe.core.exchange import FORMATS, Export

    hand = Hand()
    hand.step("block", shape="cylinder", diameter="10", height="50")
    built = hand.build()
    (tmp_path / "pin.step").write_bytes(FORMATS["step"]().write(Export(hand.model, hand.model.parts[0], built.bodies)))
    trimesh.creation.box((30, 20, 10)).export(tmp_path / "old.stl")
    drawing = ezdxf.new()
    drawing.units = 5  # cm
    drawing.modelspace().add_circle((2, 0), 1)
    drawing.modelspace().add_lwpolyline([(0, 3), (4, 3), (4, 5), (0, 5)], close=True)
    drawing.saveas(tmp_path / "ring.dxf")
    (tmp_path / "sizes.csv").write_text("name,formula\nwall,4 mm\nwide,wall * 3\n")
    (tmp_path / "bad.step").write_text("nonsense")
    return {p.name: str(p) for p in tmp_path.iterdir()}


def test_files_are_brought_in(bench, tmp_path) -> None:
    found = files(tmp_path)
    page = bench.page
    bench.solid_plate("60", "40", "20")
    page.set_input_files("#bring-file", found["bad.step"])
    page.locator("#problem .problem", has_text="not a STEP file").wait_for()
    page.set_input_files("#bring-file", found["pin.step"])
    page.locator("#bar").wait_for()
    for label, text in (("x", "20"), ("y", "20"), ("z", "-5")):
        bench.fill(label, text)
    bench.choose("result", "cutting away")
    bench.keep()
    bench.wait_volume(48000 - 3.141592653589793 * 25 * 20)
    page.set_input_files("#bring-file", found["old.stl"])
    page.locator("#bar").wait_for()
    bench.fill("x", "100")
    bench.keep()
    page.locator(".bodies", has_text="Reference 1").wait_for()
    bench.wait_volume(48000 - 3.141592653589793 * 25 * 20)
    # the section cuts the reference too: 20 x 10 of it at x = 100
    page.locator("#section-across").select_option("x")
    page.locator("#section-at").fill("100")
    page.keyboard.press("Enter")
    page.locator("#section-area", has_text="200 mm²").wait_for()
    page.locator("#section-outline", has_text="60 mm").wait_for()
    page.locator("#section-across").select_option("")
    # a table of parameters
    page.set_input_files("#bring-file", found["sizes.csv"])
    page.locator("#parameter-wide").wait_for()
    # a drawing needs an open sketch
    page.set_input_files("#bring-file", found["ring.dxf"])
    page.locator("#problem .problem", has_text="drawing is brought into one").wait_for()
    page.locator("#view").focus()
    bench.chord("sk")
    bench.plane("1")
    page.set_input_files("#bring-file", found["ring.dxf"])
    page.locator("#drawing-says", has_text="the file says cm").wait_for()
    page.get_by_role("button", name="Bring it in").click()
    page.locator("#region-count").get_by_text("2", exact=True).wait_for()


def test_a_sketch_and_a_section_are_taken_out(bench) -> None:
    import ezdxf
    import svgpathtools

    bench.solid_plate("60", "40", "20")
    bench.page.locator("#section-across").select_option("z")
    bench.page.locator("#section-area", has_text="2400 mm²").wait_for()
    bench.chord("ft")
    bench.page.locator("#take-what").select_option(label="the section")
    bench.page.locator("#take-formats label", has_text="SVG").click()
    with bench.page.expect_download() as got:
        bench.page.locator("#take-now").click()
    paths, _ = svgpathtools.svg2paths(str(got.value.path()))
    assert sum(p.length() for p in paths) == pytest.approx(200)
    bench.chord("ft")
    bench.page.locator("#take-what").select_option(label="Sketch 1")
    bench.page.locator("#take-formats label", has_text="DXF").click()
    with bench.page.expect_download() as got:
        bench.page.locator("#take-now").click()
    assert len(ezdxf.readfile(got.value.path()).modelspace()) == 4


def test_two_faces_are_measured_and_the_measure_is_kept(bench) -> None:
    bench.solid_plate("60", "40", "20")
    bench.turn()
    bench.spot("face", 60, 20, 10)
    bench.page.locator("#measured [data-gauge=area]", has_text="800 mm²").wait_for()
    bench.page.keyboard.down("Shift")
    bench.spot("edge", 30, 0, 20)
    bench.page.keyboard.up("Shift")
    bench.page.locator("#measured [data-gauge=angle]", has_text="90°").wait_for()
    bench.spot("edge", 30, 0, 20)
    bench.page.locator("#measured [data-gauge=length]", has_text="60 mm").wait_for()
    bench.page.locator("#view").focus()
    bench.chord("wk")
    bench.page.locator("#measures [data-kept]", has_text="60 mm").wait_for()
    # a chamfer at its end makes that edge shorter
    bench.chord("ec")
    bench.spot("edge", 60, 0, 10)
    bench.fill("size", "5")
    bench.keep()
    bench.page.locator("#measures [data-kept]", has_text="55 mm").wait_for()
    bench.page.get_by_label("Drop measurement A").click()
    bench.page.locator("#measure-panel").wait_for(state="hidden")
