"""The first plate: four holes, rounded corners, out as STL, by the shortest way the screen offers; its actions are counted."""

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
    page.locator("#bar .picks label", has_text="region 1").locator("input").check()
    me.count += 1
    bench.fill("distance", "5")
    bench.keep()
    exact = 5 * (2400 - (4 - math.pi) * 36 - 4 * math.pi * 6.25)
    bench.wait_volume(exact)
    me.count += 3  # opens the dialog, chooses the format, takes it
    stl = trimesh.load(bench.download("STL"), file_type="stl")
    assert abs(stl.volume - exact) < 0.002 * exact and stl.is_watertight
    assert me.count <= MOST, me.count
