"""Every dialog and every sentence bar while it is open: axe finds nothing, the keyboard stays inside, Esc leads out."""

from itertools import pairwise

import pytest
from tests.ui.acts import holds

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-2")]


@pytest.fixture
def clamp(bench):
    """A finished demo model at the Bench."""
    bench.page.goto(bench.site)
    bench.page.get_by_role("link", name="Mast clamp, half").click()
    bench.page.locator("[data-measure=volume]").wait_for()
    bench.still()
    return bench


@pytest.mark.parametrize(
    ("chord", "dialog"),
    [("ft", "#take-out-dialog"), ("fs", "#shown-dialog"), ("ww", "#materials"), ("/", "#finder")],
    ids=["out", "shown", "stuff", "find"],
)
def test_a_dialog_is_accessible_and_esc_leads_back(clamp, chord, dialog) -> None:
    page = clamp.page
    page.locator("#view").focus()
    clamp.chord(chord)
    page.locator(dialog).wait_for()
    assert clamp.findings() == []
    for _ in range(40):  # Tab goes round inside
        page.keyboard.press("Tab")
        holds(
            lambda: page.evaluate(
                "(d) => document.activeElement === document.body || "
                "document.querySelector(d).contains(document.activeElement)",
                dialog,
            )
        )
    page.keyboard.press("Escape")
    page.locator(dialog).wait_for(state="hidden")


def test_a_question_is_accessible(clamp) -> None:
    clamp.act(1, "Delete")
    clamp.page.locator("#ask").wait_for()
    assert clamp.findings() == []
    clamp.page.keyboard.press("Escape")
    clamp.page.locator("#ask").wait_for(state="hidden")
    holds(lambda: clamp.page.locator("#steps li.step").count() > 3, "Esc must delete nothing")


def test_every_sentence_bar_is_accessible(clamp) -> None:
    """Each step's button opens its bar; every control in it has a name."""
    page = clamp.page
    tools = page.locator("[data-step].tool:not([data-on-sheet])")
    kinds = tools.evaluate_all("(all) => all.map((b) => b.dataset.step)")
    assert len(kinds) > 12
    bad = {}
    for kind in kinds:
        tool = page.locator(f"[data-step={kind}].tool").first
        page.locator(f"[data-drawer={tool.evaluate('t => t.parentNode.id')[len('drawer-') :]}]").click()
        tool.click()
        if page.locator("#bar").is_hidden():  # it asked for a file instead
            continue
        bare = page.locator("#bar").evaluate(
            """(bar) => [...bar.querySelectorAll('input, select, button')]
              .filter((n) => !(n.getAttribute('aria-label') || n.textContent.trim()
                || n.closest('label')?.textContent.trim()))
              .map((n) => n.outerHTML.slice(0, 120))"""
        )
        found = bare + clamp.findings()
        if found:
            bad[kind] = found
        page.keyboard.press("Escape")
        page.locator("#bar").wait_for(state="hidden")
    assert bad == {}


def test_every_drawing_tool_is_reached_by_its_chord(bench) -> None:
    bench.new_model()
    bench.plane("1")
    page = bench.page
    chords = page.locator("#tray-sketch [data-tool][data-chord]").evaluate_all(
        "(all) => all.map((b) => [b.dataset.chord, b.dataset.family])"
    )
    assert len(chords) >= 10
    assert len({c for c, _ in chords}) == len(chords), "two tools share a chord"
    page.locator("#view").focus()
    for chord, family in chords:
        bench.chord(chord)
        tool = page.locator(f"[data-tool][data-family={family}]").first
        holds(lambda tool=tool: tool.get_attribute("aria-pressed") == "true")
        page.keyboard.press("Escape")
    bench.chord(chords[0][0])
    assert bench.findings() == []


@pytest.mark.parametrize("size", [(1280, 800), (1024, 700)])
def test_dialogs_and_bars_fit_small_screens(clamp, size) -> None:
    page = clamp.page
    page.set_viewport_size({"width": size[0], "height": size[1]})
    for chord, dialog in [
        ("ft", "#take-out-dialog"),
        ("fs", "#shown-dialog"),
        ("ww", "#materials"),
        ("sh", "#bar"),
        ("se", "#bar"),
        ("rp", "#bar"),
    ]:
        page.locator("#view").focus()
        clamp.chord(chord)
        page.locator(dialog).wait_for()
        box = page.locator(dialog).bounding_box()
        assert box["x"] >= 0 and box["y"] >= 0, (chord, box)
        assert box["x"] + box["width"] <= size[0] + 1 and box["y"] + box["height"] <= size[1] + 1, (chord, box)
        page.keyboard.press("Escape")
        page.locator(dialog).wait_for(state="hidden")


@pytest.mark.parametrize("width", [1280, 1110, 1024, 1001])
def test_every_tool_of_the_trays_is_seen_whole(bench, width) -> None:
    page = bench.page
    page.set_viewport_size({"width": width, "height": 700})
    bench.new_model()
    bench.plane("1")
    seen_whole(page, "#tray-sketch")
    page.locator("#keep-sketch").click()
    page.locator("#tray-solid").wait_for()
    for drawer in page.locator("#tray-solid .drawer[data-drawer]:visible").all():
        drawer.click()
        seen_whole(page, "#tray-solid")


def seen_whole(page, tray: str, least: int = 9) -> None:
    """Every button of a tray lies within it, none over another."""
    page.locator(tray).wait_for()
    inside, boxes = page.evaluate(
        """(tray) => { const at = (n) => { const b = n.getBoundingClientRect(); return [b.left, b.right, b.top]; };
          return [at(document.querySelector(tray)),
            [...document.querySelectorAll(`${tray} .tool, ${tray} .drawer`)].filter((n) =>
              n.checkVisibility({ visibilityProperty: true }) && n.getBoundingClientRect().width > 1)
              .map(at)]; }""",
        tray,
    )
    assert len(boxes) >= least
    for left, right, _ in boxes:
        assert inside[0] <= left and right <= inside[1], (tray, left, right, inside)
    for (_, right, top), (left, _, below) in pairwise(boxes):
        assert below > top + 5 or right <= left + 0.5, (tray, right, left)
