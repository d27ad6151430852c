"""What a person does at the Bench again and again, and how they look: until what they expect is there."""

from __future__ import annotations

import time
from collections.abc import Callable


def holds(seen: Callable[[], object], why: str = "", patience: float = 20.0) -> None:
    """What is seen comes to be so within so many seconds: a page that is read once is read too early on a slow day."""
    until = time.monotonic() + patience
    while not seen():
        assert time.monotonic() < until, why or "what was looked for did not come to be seen"
        time.sleep(0.05)


def rectangle(bench, corner, size: str) -> None:
    """A rectangle off a corner, its sizes typed."""
    bench.chord("dr")
    bench.click(*corner)
    bench.page.mouse.move(*bench.place(corner[0] + 9, corner[1] + 7))
    bench.type(size)
    bench.still()
    bench.page.keyboard.press("Escape")


def circle(bench, centre, diameter: str) -> None:
    """A circle about a centre, its diameter typed."""
    bench.chord("dc")
    bench.click(*centre)
    bench.page.mouse.move(*bench.place(centre[0] + 6, centre[1] + 2))
    bench.type(diameter)
    bench.still()
    bench.page.keyboard.press("Escape")


def sketch_on_face(bench, x, y, z) -> None:
    """A new sketch on the face nearest to a place."""
    bench.page.locator("#view").focus()
    bench.chord("sk")
    bench.spot("face", x, y, z)
    bench.page.locator("#tray-sketch").wait_for()
    bench.still()


def block(bench, **values: str) -> None:
    """A block; its blanks by their labels."""
    bench.page.locator("#view").focus()
    bench.chord("bb")
    for label in ("shape", "result"):
        if label in values:
            bench.choose(label, values.pop(label))
    for label, value in values.items():
        bench.fill(label, value)
    bench.keep()


def new_parameter(bench, name: str, value: str) -> None:
    """A parameter, typed into the panel."""
    bench.page.locator("#add-parameter").wait_for()
    bench.still()
    bench.chord("pa")
    bench.page.get_by_label("Name of the new parameter").fill(name)
    bench.page.get_by_label("Value of the new parameter").fill(value)
    bench.page.keyboard.press("Enter")
    bench.page.locator(f"#parameter-{name}").wait_for()
    bench.page.locator("#view").focus()


def open_box(bench, thick: str, wall: str) -> None:
    """A plate of 60 x 40 hollowed out, open at its top."""
    bench.solid_plate("60", "40", thick)
    bench.turn()
    bench.chord("es")
    bench.fill("thickness", wall)
    bench.blank("open faces")
    bench.spot("face", 30, 20, float(thick))
    bench.keep()
