"""Somebody at work on one page of a real browser that is never loaded again: what the page holds stays level."""

from __future__ import annotations

import threading
from typing import Any

from ..chromium import chromium
from .crowding import Crowd, Student

INSIDE = "import(document.querySelector('script[src$=\"/js/bench.js\"]').src.replace('bench.js', 'outside.js'))"
"""For a page's ``evaluate``: what the Bench tells those who watch it (``js/outside.js``), to come."""

ON_THE_GPU = (
    f"() => {INSIDE}.then(({{ scene }}) => {{ const m = scene.onTheGpu(); return m.geometries + m.textures; }})"
)


class Onlooker(threading.Thread):
    """A browser of its own, at the model of a person who was signed up for it. ``held`` is its latest look: bytes of
    script objects after collecting, nodes of the document, listeners, things on the graphics card.
    """

    def __init__(self, port: int, crowd: Crowd, ended: threading.Event) -> None:
        super().__init__(daemon=True)
        self._port, self._crowd, self._ended = port, crowd, ended
        self.held: dict[str, float] = {}
        self.rounds = 0

    def run(self) -> None:
        """Until it is over. What goes wrong is a problem of the crowd's."""
        from playwright.sync_api import sync_playwright

        try:
            person = Student(self._port, 1000, self._crowd)
            with sync_playwright() as playwright:
                args = ["--no-sandbox", "--disable-quic"]
                browser = playwright.chromium.launch(executable_path=chromium(), args=args)
                context = browser.new_context(viewport={"width": 1280, "height": 800})
                context.add_cookies([{"name": c.name, "value": c.value or "", "url": person.at} for c in person.jar])
                page = context.new_page()
                page.on("pageerror", lambda error: self._crowd.problems.append(f"page: {error}"))
                page.goto(f"{person.at}/models/{person.model}")
                devtools = context.new_cdp_session(page)
                devtools.send("Performance.enable")
                while not self._ended.is_set():
                    self._round(page)
                    self.rounds += 1
                    self.held = self._look(page, devtools)
                browser.close()
        except Exception as problem:  # whatever a person would have met
            self._crowd.problems.append(f"page: {type(problem).__name__} {problem}"[:300])

    def _still(self, page: Any) -> None:
        page.wait_for_function(
            """() => document.body.dataset.rests === 'yes' && document.body.dataset.ready === ''
              && document.querySelector('#saved').textContent.startsWith('saved')""",
            polling=40,
        )

    def _round(self, page: Any) -> None:
        """A number changed, undone and made again; the pointer over the part; its sketch opened, drawn in, closed."""
        self._still(page)
        value = page.locator("#parameter-wide")
        value.fill(f"{50 + self.rounds % 37} mm")
        value.press("Enter")
        self._still(page)
        page.locator("#view").focus()
        for keys in ("Control+z", "Control+y"):
            page.keyboard.press(keys)
            self._still(page)
        box = page.locator("#view").bounding_box()
        for i in range(60):
            page.mouse.move(
                box["x"] + box["width"] * (0.3 + 0.4 * (i * 37 % 100) / 100),
                box["y"] + box["height"] * (0.3 + 0.4 * (i * 61 % 100) / 100),
            )
        page.locator("#steps li.step").first.get_by_label("More for").click()
        page.locator("#steps li.step").first.get_by_role("button", name="Open").click()
        page.locator("#tray-sketch").wait_for()
        self._still(page)
        for keys in "dl":
            page.keyboard.press(keys)
        page.mouse.click(box["x"] + box["width"] * 0.7, box["y"] + box["height"] * 0.3)
        page.mouse.click(box["x"] + box["width"] * 0.75, box["y"] + box["height"] * 0.35)
        page.keyboard.press("Escape")
        page.keyboard.press("Escape")
        self._still(page)
        page.keyboard.press("Control+z")
        self._still(page)
        for keys in "ok":
            page.keyboard.press(keys)
        page.locator("#tray-solid").wait_for()
        self._still(page)

    def _look(self, page: Any, devtools: Any) -> dict[str, float]:
        devtools.send("HeapProfiler.collectGarbage")
        told = {m["name"]: m["value"] for m in devtools.send("Performance.getMetrics")["metrics"]}
        return {
            "page bytes": told["JSHeapUsedSize"],
            "page nodes": told["Nodes"],
            "page listeners": told["JSEventListeners"],
            "page on the gpu": float(page.evaluate(ON_THE_GPU)),
        }
