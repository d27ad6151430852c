"""The first plate: four holes, rounded corners, out as STL, by the shortest way the screen offers; its actions are
counted.
"""

import math

import trimesh

MOST = 25  # actions: a chord, a click, or a field typed and left


class Counted:
    """A person who counts what they do."""

    def __init__(self, bench) -> None:
        self.bench, self.count = bench, 0

    def chord(self, keys: str) -> None:
        self.count += 1
        self.bench.chord(keys)

    def key(self, key: str) -> None:
        self.count += 1
        self.bench.page.keyboard.press(key)

    def click(self, x: float, y: float) -> None:
        self.count += 1
        self.bench.click(x, y)

    def type(self, text: str) -> None:
        self.count += len(text.split(", "))
        self.bench.type(text)
        self.bench.still()


def test_a_plate_with_holes_and_round_corners_takes_few_actions(bench) -> None:
    page, me = bench.page, Counted(bench)
    bench.new_model()
    me.count += 1
    bench.plane("1")
    me.chord("dr")
    me.click(0, 0)
    page.mouse.move(*bench.place(30, 20))
    me.type("60, 40")
    me.key("Control+a")
    me.chord("mr")
    me.type("6")
    me.chord("dc")
    for x, y in ((8, 8), (52, 8), (52, 32), (8, 32)):
        me.click(x, y)
        me.type("5")
    me.count += 1
    bench.keep_sketch()
    me.chord("se")
    me.count += 1
    bench.tick("region 1")
    me.count += 1
    bench.fill("distance", "5")
    bench.keep()
    exact = 5 * (2400 - (4 - math.pi) * 36 - 4 * math.pi * 6.25)
    bench.wait_volume(exact)
    me.count += 3  # opens the dialog, chooses the format, takes it
    stl = trimesh.load(bench.download("STL"), file_type="stl")
    assert abs(stl.volume - exact) < 0.002 * exact and stl.is_watertight
    assert me.count <= MOST, me.count


def test_the_tour_leads_to_a_part_and_goes_back_with_who_undoes(bench) -> None:
    """Somebody who does what it says, and nothing else."""
    page = bench.page
    bench.new_model("A first part")
    said = page.get_by_role("region", name="Tour of the first part")

    def told(words: str) -> None:
        said.filter(has_text=words).wait_for()
        box = said.bounding_box()
        assert box["x"] >= 0 and box["y"] >= 0 and box["x"] + box["width"] <= 1280 and box["y"] + box["height"] <= 800

    page.get_by_role("button", name="Show me how").click()
    told("top plane")
    assert bench.findings() == []
    bench.plane("1")
    told("Choose Rectangle")
    bench.chord("dr")
    told("where the axes meet")
    bench.click(0, 0)
    told("type 60")
    page.mouse.move(*bench.place(20, 12))
    page.keyboard.type("60")
    page.keyboard.press("Tab")
    bench.type("40")
    told("choose Circle")
    # who undoes is led through it again
    bench.still()
    page.keyboard.press("Escape")
    page.keyboard.press("Control+z")
    told("Choose Rectangle")
    page.keyboard.press("Control+y")
    told("choose Circle")
    bench.chord("dc")
    told("inside the rectangle")
    bench.click(30, 20)
    page.mouse.move(*bench.place(34, 20))
    bench.type("12")
    told("Keep the sketch")
    bench.still()
    page.keyboard.press("Escape")
    bench.keep_sketch()
    told("thickness")
    bench.chord("se")
    told("between the rectangle and the circle")
    page.locator("#bar .picks label").nth(1).wait_for()
    page.mouse.click(*bench.on_screen(8, 8, 0))
    bench.fill("distance", "8")
    bench.keep()
    told("Turn it")
    page.locator("#view").focus()
    page.keyboard.press("ArrowLeft")
    told("stays open")
    page.locator("#steps [data-blank=distance]").click()
    bench.type("12")
    bench.wait_volume((2400 - 36 * math.pi) * 12)
    told("Take out")
    bench.chord("ft")
    page.keyboard.press("Escape")
    told("whole way")
    said.get_by_role("button", name="done").click()
    said.wait_for(state="hidden")
