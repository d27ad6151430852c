"""Profiles of ordinary parts, drawn and held in the real browser: pointer, typing, keyboard alone."""

import math
import time

import pytest
from tests.ui.acts import holds

from sketchlathe.proving.page import INSIDE

pytestmark = [pytest.mark.ui, pytest.mark.xdist_group("ui-1")]


def sketch_on(bench, digit: str = "1") -> None:
    bench.new_model()
    bench.plane(digit)


def done(bench, times: int = 2) -> None:
    for _ in range(times):
        bench.page.keyboard.press("Escape")
    bench.still()


def regions(bench, count: int) -> None:
    bench.page.locator("#region-count").get_by_text(str(count), exact=True).wait_for()


def chain(bench, *points) -> None:
    bench.chord("dl")
    for x, y in points:
        bench.click(x, y)
        bench.still()


def dimension(bench, picks, text, value: str) -> None:
    """Dimension what is at some places, with its text at another."""
    bench.chord("kd")
    for p in picks:
        bench.click(*p)
    bench.click(*text)
    bench.page.locator("#typed input").wait_for()
    bench.type(value)
    bench.page.locator("#typed").wait_for(state="hidden")
    bench.still()
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("Escape")


def curve_lengths(bench) -> list[float]:
    """Lengths of the curves on the screen in sketch units, from their SVG paths."""
    return bench.page.evaluate("[...document.querySelectorAll('#layer-body .curve')].map((p) => p.getTotalLength())")


def test_half_a_bracket_is_held_by_constraints_and_sizes(bench) -> None:
    sketch_on(bench)
    chain(bench, (0, 0), (30, 0), (30, 8), (10, 8), (10, 26), (0, 26), (0, 0))
    regions(bench, 1)
    done(bench)
    dimension(bench, [(15, 0)], (15, -10), "30")
    dimension(bench, [(30, 4)], (38, 4), "8")
    dimension(bench, [(10, 16)], (20, 18), "18")
    dimension(bench, [(5, 26)], (5, 32), "10")
    bench.freedom("fully constrained")


def test_a_rough_outline_ten_times_too_small_grows_with_its_first_size(bench) -> None:
    sketch_on(bench)
    chain(bench, (0, 0), (40, 0), (40, 22), (14, 30), (0, 0))
    done(bench)
    before = sorted(curve_lengths(bench))
    dimension(bench, [(20, 0)], (20, -8), "400")
    after = sorted(curve_lengths(bench))
    assert after == pytest.approx([10 * v for v in before], rel=1e-4)


def test_a_bell_is_drawn_as_a_half_and_mirrored(bench) -> None:
    sketch_on(bench)
    chain(bench, (0, 0), (25, 0), (25, 5))
    # a drag from the chain's end swings a tangent arc
    bench.page.mouse.move(*bench.place(25, 5))
    bench.page.mouse.down()
    bench.page.mouse.move(*bench.place(22, 12), steps=5)
    bench.page.mouse.move(*bench.place(12, 20), steps=5)
    bench.page.mouse.up()
    bench.still()
    bench.click(12, 34)
    bench.still()
    bench.click(0, 34)
    bench.still()
    done(bench)
    holds(lambda: bench.page.locator("#layer-body .mark text", has_text="⌒").count() == 1)
    bench.click(12, 0)
    bench.chord("mk")
    bench.page.locator("#selection-title", has_text="5 things").wait_for()
    bench.chord("mm")
    bench.click(0, 50)
    regions(bench, 1)
    lengths = curve_lengths(bench)
    assert len(lengths) == 10
    assert sum(lengths[:5]) == pytest.approx(sum(lengths[5:]), rel=1e-3)


def test_a_ring_of_eight_slots(bench) -> None:
    sketch_on(bench)
    bench.chord("dc")
    bench.click(0, 0)
    bench.page.mouse.move(*bench.place(30, 0))
    bench.type("70")
    bench.still()
    done(bench)
    bench.chord("ds")
    bench.click(15, 0)
    bench.click(25, 0)
    bench.click(20, 4)
    bench.still()
    done(bench)
    bench.click(20, 4)
    bench.chord("mk")
    bench.page.locator("#selection-title", has_text="4 things").wait_for()
    bench.chord("mp")
    bench.click(0, 0)
    bench.page.locator("#sizes input").first.fill("8")
    bench.page.keyboard.press("Enter")
    regions(bench, 9)
    bench.still()
    # eight become five, afterwards
    bench.click(20, 4)
    count = bench.page.get_by_label("Number of members")
    count.fill("5")
    count.press("Enter")
    regions(bench, 6)


def test_a_hexagon_across_flats_by_keyboard_alone(bench) -> None:
    sketch_on(bench)
    bench.chord("dn")
    bench.page.keyboard.type("0, 0")
    bench.page.keyboard.press("Enter")
    bench.page.keyboard.type("17")
    bench.page.keyboard.press("Enter")
    regions(bench, 1)
    side = 17 / math.sqrt(3)
    assert [v for v in curve_lengths(bench) if abs(v - side) < 1e-3] == [pytest.approx(side, rel=1e-4)] * 6
    bench.freedom("1 way")


def test_overlapping_circles_are_united_by_picking_their_regions(bench) -> None:
    sketch_on(bench)
    bench.chord("dc")
    for x, r in ((-12, 16), (12, 16)):
        bench.click(x, 0)
        bench.page.mouse.move(*bench.place(x, 10))
        bench.type(str(2 * r))
        bench.still()
    regions(bench, 3)
    done(bench)
    bench.keep_sketch()
    bench.chord("se")
    boxes = bench.page.locator("#bar .picks label")
    boxes.first.wait_for()
    bench.page.locator("#all-regions").click()
    bench.page.get_by_label("distance").fill("4")
    bench.page.locator("#keep:enabled").wait_for()
    bench.page.get_by_label("distance").press("Enter")
    # two circles of radius 16, centres 24 apart: their lens is counted once
    lens = 2 * 256 * math.acos(12 / 16) - 24 / 2 * math.sqrt(4 * 256 - 24**2)
    bench.wait_volume(4 * (2 * math.pi * 256 - lens))


def test_a_name_plate_with_text_is_engraved(bench) -> None:
    sketch_on(bench)
    bench.chord("dr")
    bench.click(0, 0)
    bench.page.mouse.move(*bench.place(30, 15))
    bench.type("60, 20")
    bench.freedom("fully constrained")
    bench.chord("dx")
    # the tool begins in its text
    bench.page.keyboard.type("MAST 7")
    holds(lambda: bench.page.locator("#options input.wide").input_value() == "MAST 7")
    bench.page.keyboard.press("Enter")
    bench.click(8, 6)
    bench.page.mouse.move(*bench.place(40, 6))
    bench.type("8")
    bench.still()
    done(bench)
    holds(lambda: bench.page.locator("#layer-body .curve.lettering").count() == 1)
    bench.click(9, 9)
    words = bench.page.get_by_label("What the text says")
    words.fill("MAST 9")
    words.press("Enter")
    bench.still()
    bench.keep_sketch()
    bench.chord("se")
    bench.page.locator("#bar .picks label", has_text="letters").click()
    bench.page.get_by_label("distance").fill("2")
    bench.page.locator("#keep:enabled").wait_for()
    bench.page.get_by_label("distance").press("Enter")
    bench.page.locator("[data-measure=volume]").wait_for()
    bench.still()


def test_a_gap_is_closed_by_the_offered_repair(bench) -> None:
    sketch_on(bench)
    chain(bench, (0, 0), (40, 0), (40, 26))
    done(bench)
    bench.chord("dl")
    bench.page.keyboard.type("40.3, 26.3")
    bench.page.keyboard.press("Enter")
    bench.click(10, 30)
    bench.still()
    bench.click(0, 0)
    bench.still()
    done(bench)
    regions(bench, 0)
    bench.page.get_by_role("button", name="join them").first.click()
    regions(bench, 1)


def test_a_conflict_names_what_it_fights_with_and_offers_ways_out(bench) -> None:
    sketch_on(bench)
    bench.chord("dr")
    bench.click(0, 0)
    bench.page.mouse.move(*bench.place(30, 20))
    bench.type("60, 40")
    bench.freedom("fully constrained")
    done(bench)
    bench.chord("kd")
    bench.click(60, 20)
    bench.click(0, 20)
    bench.click(30, 48)
    bench.page.locator("#typed input").wait_for()
    bench.type("75")
    ways = bench.page.get_by_role("group", name="Ways out of the conflict")
    ways.wait_for()
    holds(lambda: bench.page.locator("#layer-body .dim.fights").count() >= 1)
    ways.get_by_role("button", name="make it a reference").click()
    bench.page.locator("#layer-body .dim text", has_text="(60)").wait_for()


def test_what_is_free_is_shown_and_suggestions_hold_it(bench) -> None:
    sketch_on(bench)
    bench.chord("dc")
    bench.click(20, 10)
    bench.click(28, 10)
    bench.still()
    done(bench)
    bench.freedom("3 ways")
    bench.chord("qm")
    bench.page.locator(".motions li").first.wait_for()
    holds(lambda: bench.page.locator(".motions li").count() == 3)
    bench.chord("qs")
    for left in ("2 ways", "1 way", "fully constrained"):
        bench.page.locator("#do-suggestion").wait_for()
        bench.page.keyboard.press("Enter")
        bench.freedom(left)


def test_trim_by_dragging_across_and_undo_inside_the_sketch(bench) -> None:
    sketch_on(bench)
    for x in (0, 10, 20):
        chain(bench, (x, -20), (x, 20))
        done(bench)
    chain(bench, (-15, 0), (35, 0))
    done(bench)
    bench.chord("mt")
    bench.page.mouse.move(*bench.place(-6, 12))
    bench.page.mouse.down()
    bench.page.mouse.move(*bench.place(26, 12), steps=30)
    bench.page.mouse.up()
    bench.still()
    done(bench)
    assert sorted(round(v) for v in curve_lengths(bench)) == [20, 20, 20, 50]
    bench.chord("uu")
    bench.still()
    assert sorted(round(v) for v in curve_lengths(bench)) == [40, 40, 40, 50]


def test_corners_are_rounded_and_the_overall_size_stays(bench) -> None:
    sketch_on(bench)
    bench.chord("dr")
    bench.click(0, 0)
    bench.page.mouse.move(*bench.place(30, 20))
    bench.type("60, 40")
    bench.freedom("fully constrained")
    done(bench)
    bench.chord("mr")
    bench.click(60, 40)
    bench.page.locator("#sizes input").wait_for()
    bench.type("8")
    bench.page.locator("#layer-body .dim text", has_text="R8").wait_for()
    bench.freedom("fully constrained")
    holds(lambda: bench.page.locator("#layer-body .dim text", has_text="60").count() == 1)


def test_copies_travel_between_sketches(bench) -> None:
    sketch_on(bench)
    bench.chord("dn")
    bench.page.keyboard.type("0, 0")
    bench.page.keyboard.press("Enter")
    bench.type("20")
    regions(bench, 1)
    done(bench)
    bench.page.mouse.move(*bench.place(-40, -30))
    bench.drag((-40, 30), (40, -30))
    bench.page.locator("#selection-title", has_text="things").wait_for()
    bench.page.keyboard.press("Control+c")
    bench.page.locator("#hint", has_text="copied").wait_for()
    bench.keep_sketch()
    bench.chord("sk")
    bench.plane("2")
    bench.page.keyboard.press("Control+v")
    regions(bench, 1)


def key(bench, *keys: str) -> None:
    for k in keys:
        bench.page.keyboard.press(k)


def typed_line(bench, start: str, length: str) -> None:
    """A line by numbers alone: where it starts, then its length and angle."""
    bench.chord("dl")
    bench.page.keyboard.type(start)
    bench.page.keyboard.press("Enter")
    bench.page.keyboard.type(length)
    bench.page.keyboard.press("Enter")
    bench.still()
    key(bench, "Escape", "Escape")


def walk_to(bench, words: str) -> None:
    """Walk through what is drawn until the hint names it."""
    for _ in range(60):
        bench.page.keyboard.press("]")
        if bench.page.locator("#hint").inner_text().startswith(words):
            return
    raise AssertionError(f"{words} was not reached")


def test_an_outline_held_and_rounded_by_keyboard_alone(bench) -> None:
    sketch_on(bench)
    typed_line(bench, "0, 0", "40, 0")
    typed_line(bench, "40, 0", "30, 90")
    walk_to(bench, "end of line 1")
    key(bench, "Enter")
    walk_to(bench, "start of line 2")
    key(bench, "Enter")
    bench.page.locator("#selection-title", has_text="end of line 1").wait_for()
    bench.chord("ko")
    bench.still()
    key(bench, "Escape")
    bench.chord("mr")
    walk_to(bench, "end of line 1")
    key(bench, "Enter")
    bench.page.locator("#sizes input").wait_for()
    bench.type("6")
    bench.page.locator("#layer-body .dim text", has_text="R6").wait_for()
    bench.freedom("fully constrained")


def test_a_used_sketch_is_opened_again_and_its_part_follows(bench) -> None:
    sketch_on(bench)
    bench.chord("dr")
    bench.click(0, 0)
    bench.page.mouse.move(*bench.place(30, 20))
    bench.type("60, 40")
    bench.freedom("fully constrained")
    bench.keep_sketch()
    bench.chord("se")
    bench.page.get_by_label("distance").fill("5")
    bench.page.locator("#keep:enabled").wait_for()
    bench.page.get_by_label("distance").press("Enter")
    bench.wait_volume(60 * 40 * 5)
    bench.act(1, "Open")
    bench.page.locator("#tray-sketch").wait_for()
    bench.still()
    bench.chord("mh")
    bench.click(60, 40)
    bench.page.locator("#sizes input").wait_for()
    bench.type("10")
    bench.still()
    done(bench)
    bench.keep_sketch()
    bench.wait_volume((60 * 40 - 50) * 5)
    bench.act(1, "Open")
    bench.page.locator("#tray-sketch").wait_for()
    bench.still()
    bench.chord("dc")
    bench.click(20, 20)
    bench.click(28, 20)
    bench.still()
    done(bench)
    bench.page.locator("#drop-sketch").click()
    bench.page.get_by_role("button", name="Drop").last.click()
    bench.page.locator("#tray-solid").wait_for()
    bench.wait_volume((60 * 40 - 50) * 5)


def test_a_chain_drawn_faster_than_the_server_answers_hangs_together(bench) -> None:
    bench.new_model()
    bench.plane("1")

    def slowly(route) -> None:
        time.sleep(0.4)
        route.continue_()

    bench.page.route("**/edit", slowly)
    bench.chord("dl")
    bench.click(0, 0)
    for towards, size in [((40, 0), "60"), ((60, 8), "8"), ((8, 8), "52"), ((8, 50), "42"), ((0, 50), "8")]:
        bench.page.mouse.move(*bench.place(*towards))
        bench.type(size)
    bench.click(0, 0)
    bench.freedom("fully constrained")
    bench.page.unroute("**/edit")
    bench.page.keyboard.press("Escape")
    bench.keep_sketch()
    bench.chord("se")
    bench.fill("distance", "10")
    bench.keep()
    bench.wait_volume((60 * 8 + 42 * 8) * 10)


@pytest.mark.parametrize("socket", [True, False], ids=["socket", "posted"])
def test_a_drop_is_heard_though_the_next_grab_comes_at_once(bench, socket) -> None:
    bench.new_model()
    bench.plane("1")
    bench.chord("dl")
    bench.click(0, 0)
    bench.click(30, 20)
    bench.page.keyboard.press("Escape")
    bench.page.keyboard.press("Escape")
    bench.still()
    heard = bench.page.evaluate(
        """async (socket) => {
          const { channel, S } = await INSIDE;
          if (!socket) channel.closeChannel();
          const heard = [], hear = (what) => (answer) => heard.push([what, answer]);
          const ref = `${S.sketch.curves[0].id}.end`;
          channel.talk({ do: 'grab', ref, at: [30, 20] }, hear('grab'));
          for (let i = 1; i < 9; i += 1) channel.talk({ do: 'to', at: [30 + i, 20] }, hear('to'));
          channel.talk({ do: 'drop' }, hear('drop'));
          channel.talk({ do: 'grab', ref, at: [38, 20] }, hear('grab again'));
          while (heard.at(-1)?.[0] !== 'grab again') await new Promise((r) => setTimeout(r, 30));
          return heard.filter(([what]) => what !== 'to')
            .map(([what, answer]) => [what, answer.message ?? '', answer.coordinates ?? null]);
        }""".replace("INSIDE", INSIDE),
        socket,
    )
    assert [what for what, *_ in heard] == ["grab", "drop", "grab again"]
    assert all(not message for _, message, _ in heard)
    assert [*heard[1][2].values()] == [{"start": [0, 0], "end": [38, 20]}]


def test_a_spline_by_its_controls_is_drawn_and_pulled(bench) -> None:
    bench.new_model()
    bench.plane("1")
    bench.chord("dk")
    for place in ((0, 0), (10, 25), (35, 30), (50, 0)):
        bench.click(*place)
    bench.page.keyboard.press("Enter")
    bench.still()
    bench.page.keyboard.press("Escape")
    cage = bench.page.locator(".cage")
    before = cage.get_attribute("d")
    bench.drag((35, 30), (45, 40))
    bench.still()
    holds(lambda: cage.get_attribute("d") != before)
    bench.chord("dl")
    bench.click(50, 0)
    bench.click(0, 0)
    bench.page.locator("#region-count", has_text="1").wait_for()
    assert bench.findings() == []


def test_what_is_drawn_stays_the_same_node_while_it_is_dragged_and_looked_at(bench) -> None:
    """A redraw that replaces nodes takes them from under the pointer, and costs a slow machine its pace."""
    sketch_on(bench)
    chain(bench, (0, 0), (40, 0), (40, 22), (0, 0))
    done(bench)
    bench.page.evaluate(
        """() => {
          const kept = [...document.querySelectorAll('#layer-body .curve, #layer-body .pt, #layer-body .mark')];
          window.kept = { nodes: kept, paths: kept.map(n => n.outerHTML) };
        }"""
    )
    bench.drag((40, 22), (30, 30))
    bench.still()
    bench.page.mouse.move(*bench.place(5, 5))
    bench.page.mouse.wheel(0, -240)
    bench.click(20, 0)
    bench.still()
    told = bench.page.evaluate(
        """() => ({
          all: window.kept.nodes.length,
          there: window.kept.nodes.filter(n => n.isConnected).length,
          other: window.kept.nodes.filter((n, i) => n.outerHTML !== window.kept.paths[i]).length,
        })"""
    )
    assert told["all"] == told["there"] > 8
    assert told["other"] > 5
