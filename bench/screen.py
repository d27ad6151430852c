"""What the page does while a hand moves: in the real browser, drawn by software. Left out of the quick run."""

from __future__ import annotations

import logging
import tempfile
import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from sketchlathe.chromium import chromium
from sketchlathe.proving.page import ON_THE_GPU

from .measuring import Figure, percentile
from .stack import zigzag

_FRAMES = """() => { window.frames = []; let last = performance.now();
  (function next() { const now = performance.now(); frames.push(now - last); last = now;
    requestAnimationFrame(next); })(); }"""


def figures(quick: bool) -> Iterator[Figure]:
    """live.fps_p10, live.exact_after_ms, ui.frame_ms, ui.gpu_growth, ui.frame_ms.sketch, share.arrives_ms."""
    if quick:
        return
    from sketchlathe.store.cluster import Cluster

    with tempfile.TemporaryDirectory() as folder:
        cluster = Cluster(Path(folder) / "postgres")
        url = cluster.start()
        try:
            yield from _taken(url, Path(folder))
        finally:
            cluster.stop()


def _taken(url: str, folder: Path) -> Iterator[Figure]:
    from playwright.sync_api import sync_playwright
    from werkzeug.serving import make_server

    from sketchlathe.core.exchange.modelfile import load_model
    from sketchlathe.demo import load_demo
    from sketchlathe.service import shelf
    from sketchlathe.store import Database
    from sketchlathe.web import Settings, create_app
    from sketchlathe.workers import LocalWorkers

    logging.getLogger("werkzeug").setLevel(logging.ERROR)
    database = Database(url)
    database.migrate()
    workers = LocalWorkers(1)
    workers.warm()
    person = load_demo(database, lambda text: None)
    project = shelf.projects(database, person)[0][0].id
    chain = shelf.make_model(database, person, project, "Chain", model=load_model(zigzag(300)[0]))
    settings = Settings(
        secret="bench", blobs=folder / "meshes", demo_person=person, secure_cookies=False, scripts=folder / "scripts"
    )
    server = make_server("127.0.0.1", 0, create_app(settings, database, workers), threaded=True)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        with sync_playwright() as playwright:
            args = ["--no-sandbox", "--disable-quic"]
            browser = playwright.chromium.launch(executable_path=chromium(), args=args)
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            page.goto(f"http://127.0.0.1:{server.server_port}")
            page.get_by_text("Mast clamp, half").first.click()
            _rest(page)
            yield from _dragged(page)
            yield from _hovered(page)
            yield from _arriving(browser, page)
            page.goto(f"http://127.0.0.1:{server.server_port}/models/{chain.id}")
            page.locator("#steps li.step").first.get_by_label("More for").click()
            page.locator("#steps li.step").first.get_by_role("button", name="Open").click()
            page.locator("#tray-sketch").wait_for()
            page.locator('body[data-rests="yes"]').wait_for()
            page.wait_for_timeout(500)
            yield Figure("ui.frame_ms.sketch", _hover(page, 300), 6)
            browser.close()
    finally:
        server.shutdown()
        workers.close()
        database.close()


def _arriving(browser: Any, page: Any) -> Iterator[Figure]:
    """ms from the answer to one person's change until another, at the same model, sees it."""
    other = browser.new_page(viewport={"width": 1280, "height": 800})
    other.goto(page.url)
    _rest(other)
    other.get_by_text("you, in another window").wait_for()
    page.get_by_text("you, in another window").wait_for()
    took = []
    for k in range(12):
        name = f"seen_{k}"
        other.evaluate(
            """name => { window.came = new Promise(done => { (function look() {
              if (document.querySelector(`[data-rename="${name}"]`)) done(Date.now());
              else setTimeout(look, 5); })(); }); }""",
            name,
        )
        sent = page.evaluate(
            """async name => { const id = JSON.parse(document.getElementById('state').textContent).id;
              const token = document.querySelector('meta[name=csrf]').content;
              await fetch(`/api/models/${id}/edit`, { method: 'POST',
                headers: { 'Content-Type': 'application/json', 'X-CSRFToken': token },
                body: JSON.stringify({ edit: { kind: 'add_parameter', name, formula: '2 mm' } }) });
              return Date.now(); }""",
            name,
        )
        took.append(other.evaluate("() => window.came") - sent)
        page.wait_for_timeout(150 * (k % 4))  # not always at the same moment of the question
    other.close()
    yield Figure("share.arrives_ms", percentile(took, 50), 500)


def _rest(page: Any) -> None:
    page.locator('#weigh:not([aria-busy]) [data-measure="volume"]').wait_for(timeout=120_000)
    page.locator('body[data-rests="yes"]').wait_for()
    page.wait_for_timeout(500)


def _dragged(page: Any) -> Iterator[Figure]:
    """A parameter dragged through the demo part."""
    grip = page.locator(".param .grip").first.bounding_box()
    x, y = grip["x"] + 5, grip["y"] + 5
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 60, y)
    page.wait_for_timeout(1200)
    page.evaluate(_FRAMES)
    for i in range(90):
        page.mouse.move(x + 10 + i, y)
        page.wait_for_timeout(14)
    frames = page.evaluate("frames.slice(2)")
    yield Figure("live.fps_p10", 1000 / percentile(frames, 0.9), 20, at_least=True)
    # from when the hand rests until the exact part is shown, less what its build alone took
    page.evaluate(
        """() => { performance.clearResourceTimings(); window.rested = null; window.moved = 0;
          document.addEventListener('pointermove', () => { window.moved = performance.now(); }, true);
          new MutationObserver(() => {
            if (!document.body.dataset.live) window.rested ??= performance.now() - window.moved; })
            .observe(document.body, { attributes: true, attributeFilter: ['data-live'] }); }"""
    )
    page.mouse.move(x + 104, y)
    page.locator('body[data-live=""]').wait_for()
    build = page.evaluate(
        "performance.getEntriesByType('resource').filter(e => e.name.endsWith('/build')).at(-1).duration"
    )
    yield Figure("live.exact_after_ms", page.evaluate("window.rested") - build, 100)
    page.mouse.up()
    _rest(page)


def _hovered(page: Any) -> Iterator[Figure]:
    """The pointer moved over the part: script time a move, and what stays on the graphics card."""
    _hover(page, 300)
    page.wait_for_timeout(300)
    before = page.evaluate(ON_THE_GPU)
    yield Figure("ui.frame_ms", _hover(page, 500), 4)
    page.wait_for_timeout(300)
    yield Figure("ui.gpu_growth", page.evaluate(ON_THE_GPU) / max(1, before), 1.1)


def _hover(page: Any, count: int) -> float:
    """Median script time, ms, of a pointer move over the view."""
    box = page.locator("#view").bounding_box()
    return float(page.evaluate(
        """([left, top, w, h, count]) => { const t = [];
          for (let i = 0; i < count; i += 1) {
            const at = { clientX: left + w * (0.3 + 0.4 * ((i * 37 % 100) / 100)), bubbles: true,
                         clientY: top + h * (0.3 + 0.4 * ((i * 61 % 100) / 100)) };
            const began = performance.now();
            document.getElementById('scene').dispatchEvent(new PointerEvent('pointermove', at));
            t.push(performance.now() - began); }
          return t.sort((a, b) => a - b)[Math.floor(count / 2)]; }""",
        [box["x"], box["y"], box["width"], box["height"], count],
    ))  # fmt: skip
