"""The real application in a thread, and a browser on it."""

from __future__ import annotations

import os
import re
import secrets
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from tests.forms import OFF, hold_to_forms

from sketchlathe.chromium import chromium
from sketchlathe.proving.page import INSIDE

ARGS = [
    "--no-sandbox", "--disable-quic", "--no-first-run", "--disable-background-networking", "--disable-component-update",
    "--disable-sync", "--disable-gpu-rasterization",
]  # fmt: skip


class Site(str):
    """Where the application answers, and a way to what it stores."""

    def __new__(cls, address: str, database: Any, person: str) -> Site:
        made = super().__new__(cls, address)
        made.database, made.person = database, person  # type: ignore[attr-defined]
        return made

    def empty_model(self, name: str) -> str:
        """The address of a new model of the demo's person."""
        from sketchlathe.service import shelf

        database, person = self.database, self.person  # type: ignore[attr-defined]
        project = shelf.projects(database, person)[0][0]
        return f"{self}/models/{shelf.make_model(database, person, project.id, name).id}"


@pytest.fixture(scope="session")
def site(database: Any, workers: Any, tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """The demo form of the application; its person has the Weather post models."""
    from werkzeug.serving import make_server

    from sketchlathe.core.sketch.solver.warming import warm
    from sketchlathe.demo import load_demo
    from sketchlathe.printer.http import serve as printer_server
    from sketchlathe.web import Settings, create_app

    warm()
    workers.warm()
    person = load_demo(database, lambda text: None)
    blobs, scripts = tmp_path_factory.mktemp("meshes"), tmp_path_factory.mktemp("scripts")
    printer = printer_server(0, 40.0)
    threading.Thread(target=printer.serve_forever, daemon=True).start()
    settings = Settings(
        secret="ui",
        blobs=blobs,
        demo_person=person,
        secure_cookies=False,
        printer_port=printer.server_port,
        scripts=scripts,
    )
    app = hold_to_forms(create_app(settings, database, workers))
    server = make_server("127.0.0.1", 0, app, threaded=True)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield Site(f"http://127.0.0.1:{server.server_port}", database, person)
    server.shutdown()
    printer.shutdown()


@pytest.fixture(autouse=True)
def answers_as_declared() -> Iterator[None]:
    """See ``tests.forms``."""
    yield
    off, OFF[:] = OFF[:], []
    assert off == []


@pytest.fixture(scope="session")
def browser() -> Iterator[Any]:
    from playwright.sync_api import sync_playwright

    with sync_playwright() as playwright:
        launched = playwright.chromium.launch(executable_path=chromium(), args=ARGS)
        yield launched
        launched.close()


class Bench:
    """A person at the Bench: pointer, keyboard, eyes."""

    def __init__(self, page: Any, site: Site) -> None:
        self.page, self.site = page, site
        self.problems: list[str] = []
        page.on("pageerror", lambda error: self.problems.append(str(error)))

    def new_model(self, name: str = "") -> None:
        """An empty model; the sentence bar then asks for a plane."""
        self.page.goto(self.site.empty_model(name or f"Trial {secrets.token_hex(3)}"))
        self.page.locator("#bar").get_by_text("top plane").wait_for()

    def plane(self, digit: str) -> None:
        """Choose an origin plane by its number; waits until it can be drawn on."""
        self.page.keyboard.press(digit)
        self.page.locator("#tray-sketch").wait_for()
        self.page.locator("#keep-sketch").wait_for()
        self.still()

    def still(self) -> None:
        """Wait until everything is saved, built and drawn: the page says so itself (``core/rest.js``)."""
        self.page.wait_for_function(
            """() => document.body.dataset.rests === 'yes' && document.body.dataset.ready === ''
              && document.querySelector('#saved').textContent.startsWith('saved')""",
            polling=40,  # by the clock: asked at every picture, the page would draw one after the other
        )

    def chord(self, keys: str) -> None:
        for key in keys:
            self.page.keyboard.press(key)

    def place(self, x: float, y: float) -> tuple[float, float]:
        """Where a point of the open sketch (mm) is on the screen, measured off the origin mark and the scale bar."""
        at = self.page.evaluate(
            f"([x, y]) => {INSIDE}.then(({{ S, places }}) => places.toScreen(S.frame, [x, y]))",
            [x, y],
        )
        box = self.page.locator("#view").bounding_box()
        return box["x"] + at[0], box["y"] + at[1]

    def click(self, x: float, y: float) -> None:
        px, py = self.place(x, y)
        self.page.mouse.move(px - 12, py - 9)
        self.page.mouse.move(px, py)
        self.page.mouse.click(px, py)

    def drag(self, start: tuple[float, float], end: tuple[float, float]) -> None:
        self.page.mouse.move(*self.place(*start))
        self.page.mouse.down()
        self.page.mouse.move(*self.place((start[0] + end[0]) / 2, (start[1] + end[1]) / 2), steps=4)
        self.page.mouse.move(*self.place(*end), steps=4)
        self.page.mouse.up()

    def type(self, text: str) -> None:
        """Type and press Enter."""
        self.page.keyboard.type(text)
        self.page.keyboard.press("Enter")

    def freedom(self, words: str) -> None:
        self.page.locator("#freedom", has_text=words).wait_for()

    def keep_sketch(self) -> None:
        self.chord("ok")
        self.page.locator("#tray-solid").wait_for()

    def measure(self, what: str) -> float:
        """A readout of Weigh & size as the page has it for copying."""
        row = self.page.locator(f"#weigh:not([aria-busy]) [data-measure={what}]")
        row.wait_for()
        return float(row.get_attribute("data-exact"))

    def wait_volume(self, mm3: float, rel: float = 1e-6) -> None:
        self.page.wait_for_function(
            """([v, r]) => { const n = document.querySelector('#weigh:not([aria-busy]) [data-measure=volume]');
              return n && Math.abs(Number(n.dataset.exact) - v) <= r * v }""",
            arg=[mm3, rel],
        )

    def wait_less(self, mm3: float) -> float:
        """Wait until the part weighs less than it did; its volume then."""
        self.page.wait_for_function(
            """(v) => { const n = document.querySelector('#weigh:not([aria-busy]) [data-measure=volume]');
              return n && Number(n.dataset.exact) < v - 1e-3 }""",
            arg=mm3,
        )
        return self.measure("volume")

    def step(self, number: int) -> Any:
        return self.page.locator("#steps li.step").nth(number - 1)

    def act(self, number: int, what: str) -> None:
        """Choose something from a step's menu."""
        self.step(number).get_by_label("More for").click()
        self.step(number).get_by_role("button", name=what).click()

    def download(self, name: str) -> Path:
        self.still()
        self.chord("ft")
        self.page.locator("#take-formats label", has_text=name).first.click()
        with self.page.expect_download() as got:
            self.page.get_by_role("button", name="Take out", exact=True).click()
        return Path(got.value.path())

    def solid_plate(self, width: str = "60", height: str = "40", thick: str = "20") -> None:
        self.new_model()
        self.plane("1")
        self.chord("dr")
        self.click(0, 0)
        self.page.mouse.move(*self.place(30, 20))
        self.type(f"{width}, {height}")
        self.freedom("fully constrained")
        self.keep_sketch()
        self.chord("se")
        self.fill("distance", thick)
        self.keep()
        self.wait_volume(float(width) * float(height) * float(thick))
        self.page.keyboard.press("0")
        self.still()

    def fill(self, label: str, text: str) -> None:
        self.page.locator("#bar").get_by_label(label, exact=True).fill(text)

    def keep(self) -> None:
        self.page.locator("#keep:enabled").wait_for()
        self.page.locator("#keep").click()
        self.page.locator("#bar").wait_for(state="hidden")
        self.still()

    def turn(self, behind: bool = False) -> None:
        """A view from which the top, the front (or the back) and the right side are seen."""
        self.page.locator("#view").focus()
        # from the right and well above, wherever it was looked from before
        self.page.evaluate(
            f"(az) => {INSIDE}.then(({{ camera }}) => camera.go({{ az, el: 0.75 }}))",
            0.8 if behind else -0.8,
        )
        self.page.keyboard.press("0")
        self.still()

    def look(self, el: float) -> None:
        """A view from the front right, from above (or from below where ``el``, rad, is negative), all of it."""
        self.page.evaluate(
            f"(el) => {INSIDE}.then(({{ camera }}) => camera.go({{ az: -0.8, el }}))",
            el,
        )
        self.page.locator("#tray-solid").get_by_text("Fit").click()
        self.still()

    def spot(self, what: str, x: float, y: float, z: float) -> None:
        """Click on the edge or face whose middle is nearest to a place, or on the place itself."""
        at = self.page.evaluate(
            """async ([what, goal]) => {
              const { camera, scene } = await INSIDE;
              const box = document.getElementById('view').getBoundingClientRect(), found = [];
              for (const { body } of scene.shown) {
                const l = body.lines, at = (i) => [...l.subarray(3 * i, 3 * i + 3)];
                const mid = (e) => { const [first, count] = e.at, a = at(first), b = at(first + count - 1);
                  return count === 2 ? a.map((v, i) => (v + b[i]) / 2) : at(first + Math.floor(count / 2)); };
                const things = what === 'edge' ? body.edges.filter((e) => e.faces.length > 1) : body.faces;
                for (const t of things) found.push(what === 'edge' ? mid(t) : t.centre);
              }
              const d = (p) => Math.hypot(...p.map((v, i) => v - goal[i]));
              const best = what === 'place' ? goal : found.sort((a, b) => d(a) - d(b))[0], q = camera.project(best);
              return [q[0] + box.left, q[1] + box.top];
            }""".replace("INSIDE", INSIDE),
            [what, [x, y, z]],
        )
        self.page.mouse.move(*at)
        self.page.mouse.click(*at)

    def on_screen(self, x: float, y: float, z: float) -> tuple[float, float]:
        """Where a place of space is on the screen."""
        at = self.page.evaluate(
            f"(p) => {INSIDE}.then(({{ camera }}) => camera.project(p))",
            [x, y, z],
        )
        box = self.page.locator("#view").bounding_box()
        return box["x"] + at[0], box["y"] + at[1]

    def seen(self) -> Any:
        """What a failed test is understood by where nobody can look."""
        return self.page.evaluate(
            """() => [location.pathname, { ...document.body.dataset }, document.activeElement?.outerHTML.slice(0, 200),
              ...['bar', 'saved', 'steps', 'messages', 'ask'].map(id => document.getElementById(id)?.innerText),
              ...[...document.querySelectorAll('.hint, .stack')].map(node => node.innerText)]"""
        )

    def choose(self, label: str, words: str) -> None:
        self.page.locator("#bar").get_by_label(label, exact=True).select_option(label=words)

    def tick(self, words: str) -> None:
        """Of what can be picked; what is ticked already stays so.

        Clicked, not ``check``-ed: once a plane is picked its list may be gone before anybody can ask for its state.
        """
        box = self.page.locator("#bar .picks label", has_text=words).first.locator("input")
        if not box.is_checked():
            box.click()

    def findings(self) -> list[str]:
        """What axe finds on the page as it stands, in words."""
        self.page.evaluate((Path(__file__).parent / "axe.min.js").read_text())
        found = self.page.evaluate("axe.run({ resultTypes: ['violations'] }).then((r) => r.violations)")
        return [f"{v['id']}: {v['nodes'][0]['html'][:140]}" for v in found]

    def gap(self, label: str) -> Any:
        """A blank of the sentence bar that is filled by picking."""
        return self.page.locator("#bar").get_by_label(re.compile(f"^{re.escape(label)}: "))

    def blank(self, label: str) -> None:
        self.gap(label).click()


@pytest.hookimpl(wrapper=True)
def pytest_runtest_makereport(item: Any, call: Any) -> Any:
    report = yield
    item.failed = getattr(item, "failed", False) or (report.when == "call" and report.failed)
    return report


@pytest.fixture(scope="session")
def desk(browser: Any) -> Iterator[Any]:
    """One browser for all tests of a process, as a person has one: scripts that were read are not read again."""
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, reduced_motion="reduce", accept_downloads=True
    )
    yield context
    context.close()


def forgotten(desk: Any, site: Site) -> None:
    """Nothing that somebody chose is remembered, nothing of theirs is open."""
    page = next((p for p in desk.pages if p.url.startswith(site)), None)
    if page is not None:
        page.evaluate("localStorage.clear()")
    for left in desk.pages:
        left.close()
    desk.clear_cookies()


@pytest.fixture
def bench(desk: Any, site: Site, request: pytest.FixtureRequest) -> Iterator[Bench]:
    """Somebody new at the Bench: nothing that the last one chose is remembered."""
    page = desk.new_page()
    page.set_default_timeout(int(os.environ.get("LATHE_PATIENCE", "90000")))
    if slow := float(os.environ.get("LATHE_SLOW", "1")) - 1:
        page.context.new_cdp_session(page).send("Emulation.setCPUThrottlingRate", {"rate": slow + 1})
    person = Bench(page, site)
    yield person
    if getattr(request.node, "failed", False):
        print("what was on the screen:", person.seen())
        if shots := os.environ.get("LATHE_SHOTS"):
            page.screenshot(path=Path(shots) / f"{request.node.name}.png")
    forgotten(desk, site)
    assert person.problems == []
