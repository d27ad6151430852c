"""Take pictures of the main views from the demo data."""

from __future__ import annotations

import argparse
import logging
import os
import re
import tempfile
import threading
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ..chromium import chromium
from ..store import Database
from ..store.cluster import Cluster
from . import say


def run(argv: list[str]) -> int:
    """``./lathe screenshots [--folder DIR] [--size WIDTHxHEIGHT]``"""
    parser = argparse.ArgumentParser(prog="lathe screenshots", description=__doc__)
    kept = Path(os.environ.get("LATHE_ROOT", ".")) / "docs" / "screenshots"
    parser.add_argument("--folder", type=Path, default=kept, help="where they go (default docs/screenshots)")
    parser.add_argument("--size", type=_size, default=(1280, 800), help="of the window (default 1280x800)")
    options = parser.parse_args(argv)
    options.folder.mkdir(parents=True, exist_ok=True)
    logging.getLogger("werkzeug").setLevel(logging.WARNING)
    with tempfile.TemporaryDirectory(prefix="lathe-shots-", ignore_cleanup_errors=True) as name:
        folder = Path(name)
        folder.chmod(0o711)
        cluster = Cluster(folder / "postgres", durable=False)
        url = cluster.start()
        try:
            _take(url, folder, options.folder, options.size)
        finally:
            cluster.stop()
    return 0


def _size(text: str) -> tuple[int, int]:
    """A window's, of what was typed: 1024x700."""
    found = re.fullmatch(r"(\d{3,4})x(\d{3,4})", text)
    if found is None:
        raise argparse.ArgumentTypeError("say width and height in pixels, like 1024x700")
    return int(found[1]), int(found[2])


def _take(url: str, folder: Path, out: Path, size: tuple[int, int]) -> None:
    from playwright.sync_api import sync_playwright
    from werkzeug.serving import make_server

    from ..demo import load_demo
    from ..printer.http import serve as printer_server
    from ..web import Settings, create_app
    from ..workers import LocalWorkers

    database = Database(url)
    database.migrate()
    person = load_demo(database, say)
    workers = LocalWorkers(1)
    printer = printer_server(0, 60.0)
    threading.Thread(target=printer.serve_forever, daemon=True).start()
    settings = Settings(
        secret="pictures", blobs=folder / "meshes", demo_person=person, secure_cookies=False,
        printer_port=printer.server_port, scripts=folder / "scripts",
    )  # fmt: skip
    server = make_server("127.0.0.1", 0, create_app(settings, database, workers), threaded=True)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        with sync_playwright() as playwright:
            browser = playwright.chromium.launch(executable_path=chromium(), args=["--no-sandbox", "--disable-quic"])
            page = browser.new_page(viewport={"width": size[0], "height": size[1]}, reduced_motion="reduce")
            _walk(page, f"http://127.0.0.1:{server.server_port}", out)
            browser.close()
    finally:
        server.shutdown()
        workers.close()
        database.close()


def _vary(page: Any, site: str, shot: Callable[[str], None]) -> None:
    """Flex test, variants, two states compared."""
    page.goto(f"{site}/")
    page.get_by_role("link", name="Mast clamp, half").click()
    page.locator("[data-measure=volume]").wait_for()
    page.locator("#flex-box summary").first.click()
    page.locator("#flex-begin").click()
    page.locator("#flex-begin", has_text="again").wait_for(timeout=120_000)
    page.locator("[data-flex='p:wall'] summary").click()
    page.locator("li:has([data-flex='p:wall']) .fix", has_text="show it").click()
    page.locator("#older-end").wait_for()
    page.locator("#flex-box").evaluate("node => node.scrollIntoView()")
    page.wait_for_function("() => [...document.images].every((i) => i.complete)")
    shot("flex")
    page.locator("#older-end").click()
    page.locator("#variants-open").click()
    page.locator("#variants-paste summary").click()
    table = "variant,mast_d,wall,bolt\nmast 30,30,4,4.3\nmast 42,42,5,5.5\nmast 60,60,6,6.4\ntoo thin,42,0.1,60"
    page.locator("#variants-text").fill(table)
    page.locator("#variants-bring").click()
    page.locator("#variants-table td.bad").wait_for(timeout=60_000)
    shot("variants")
    page.locator("#variants-close").click()
    page.locator("#parameter-wall").fill("8 mm")
    page.keyboard.press("Enter")
    page.locator("#saved", has_text="revision").wait_for()
    page.locator("#revisions-box summary").first.click()
    page.locator("#compare").click()
    page.locator("#compare-says .gone").wait_for()
    page.wait_for_timeout(800)
    shot("compare")
    page.locator("#older-end").click()


def _sheet(page: Any, site: str, shot: Callable[[str], None]) -> None:
    """A sheet of the clamp, one more view of it being added."""
    page.goto(f"{site}/")
    page.get_by_role("link", name="Mast clamp, half").click()
    page.locator("[data-measure=volume]").wait_for()
    page.locator("#view").focus()
    for key in ("t", "s"):
        page.keyboard.press(key)
    page.locator("#paper svg").wait_for()
    bar = page.locator("#bar")
    page.locator(".tool[data-step=cut_open]").click()
    bar.get_by_label("place", exact=True).fill("0 mm")
    page.locator("#paper path.hatch").wait_for()
    page.wait_for_timeout(500)
    shot("sheet")


def _class(page: Any, site: str, shot: Callable[[str], None]) -> None:
    """A class as its teacher sees it, something handed in, an exercise beside its drawing."""
    page.goto(f"{site}/classes")
    page.get_by_role("link", name="Form and fit").click()
    page.get_by_role("link", name="Shield plate").click()
    shot("class")
    page.get_by_label("Look at what Ben Sol did").click()
    page.wait_for_function("() => document.querySelector('.shot').naturalWidth > 0")
    shot("hand-in")
    page.goto(f"{site}/classes")
    page.get_by_role("link", name="Drawing for makers").click()
    page.get_by_role("button", name="Begin Mast clamp, half").click()
    page.locator("#bar").get_by_text("front plane").wait_for()
    page.keyboard.press("2")
    page.locator("#keep-sketch").wait_for()
    for key in ("d", "r"):
        page.keyboard.press(key)
    page.locator("#pin-task").click()
    page.locator("#pinned svg.drawing").wait_for()
    page.mouse.click(700, 560)
    page.mouse.move(830, 530)
    shot("exercise")


def _shown(page: Any, site: str, out: Path) -> None:
    """A model as somebody sees it who has a link, while its owner is at it and has said something."""
    page.goto(f"{site}/")
    page.get_by_role("link", name="Logger hatch").click()
    page.locator("[data-measure=volume]").wait_for()
    page.locator("#show-to").click()
    page.locator("#show-form button[type=submit]").click()
    link = page.locator("table.shown input").input_value()
    page.locator("#shown-close").click()
    page.wait_for_function("() => document.body.dataset.ready === ''")
    page.locator("#steps details.menu summary").nth(1).click()
    page.locator("#steps details.menu[open] [data-act=talk]").click()
    page.keyboard.type("Wide enough for the plug of the rain gauge?")
    page.locator("#comment-say").click()
    page.locator(".step .talk").wait_for()
    context = page.context.browser.new_context(viewport=page.viewport_size, reduced_motion="reduce")
    other = context.new_page()
    other.goto(f"{site}/")
    other.get_by_role("button", name="Sign out").click()
    other.get_by_role("heading", name="Sign in").wait_for()
    other.goto(link)
    other.locator("#here span").wait_for()
    other.locator("#comments-box summary").click()
    other.wait_for_timeout(1500)
    other.screenshot(path=str(out / "shown.png"))
    say("shown.png")
    context.close()


def _walk(page: Any, site: str, out: Path) -> None:
    """One picture of each main view."""
    out.mkdir(parents=True, exist_ok=True)

    def shot(name: str) -> None:
        page.wait_for_timeout(600)  # the view has drawn what the page says
        page.screenshot(path=str(out / f"{name}.png"))
        say(f"{name}.png")

    page.goto(site)
    page.wait_for_function("() => [...document.images].every((i) => i.complete && i.naturalWidth > 0)", timeout=60_000)
    shot("shelf")
    page.get_by_role("link", name="Mast clamp, half").click()
    page.locator("[data-measure=volume]").wait_for()
    shot("bench-solid")
    page.locator("#steps li.step").first.get_by_label("More for").click()
    page.locator("#steps li.step").first.get_by_role("button", name="Open").click()
    page.locator("#freedom").wait_for()
    shot("bench-sketch")
    page.locator("#view").focus()
    page.keyboard.press("Escape")
    page.locator("#keep-sketch").click()
    page.get_by_label("Look from front").click()
    page.get_by_label("Look from top").focus()
    page.locator("#view").focus()
    for key in ("ArrowUp", "ArrowUp", "ArrowRight", "ArrowRight"):
        page.keyboard.press(key)
    page.locator("[data-step=extrude].tool").click()
    page.locator("#bar .picks label", has_text="Sketch 1, region 4").click()
    page.locator("#keep:enabled").wait_for()
    shot("bench-extrude")
    page.keyboard.press("Escape")
    page.locator("#view").focus()
    for key in ("w", "a"):
        page.keyboard.press(key)
    page.keyboard.type("28.1 cm³")
    page.keyboard.press("Enter")
    page.locator(".answer .verdict").first.wait_for()
    page.locator("#explain").click()
    page.locator("#causes .fix").first.wait_for(timeout=60_000)
    page.locator("#causes").scroll_into_view_if_needed()
    shot("bench-answers")
    page.locator("#undo").click()
    page.locator("#view").focus()
    for key in ("f", "p"):
        page.keyboard.press(key)
    page.locator("[data-estimate=time]").wait_for()
    page.locator("#queue").click()
    page.locator("#printer .jobbar").wait_for()
    page.locator("#solid").uncheck()
    shot("print")
    page.goto(f"{site}/")
    page.get_by_role("link", name="Logger cover").click()
    page.locator("[data-measure=volume]").wait_for()
    page.locator("[data-drawer=print]").click()
    shot("bench-printing")
    page.goto(f"{site}/")
    page.get_by_role("link", name="Logger hatch").click()
    page.wait_for_function("() => document.body.dataset.ready === ''")
    page.locator("#parts [data-part]", has_text="Together").click()
    page.locator("#parts-list tbody tr", has_text="Hatch").wait_for()
    page.locator("#fit-check").click()
    page.locator("#fits:not([aria-busy]) li").first.wait_for()
    for _ in range(5):
        page.locator("#apart-by").press("PageUp")
    page.locator("#fit").click()
    shot("bench-together")
    page.locator("#to-print").click()
    page.locator("[data-estimate=time]").wait_for()
    shot("print-bed")
    _vary(page, site, shot)
    _class(page, site, shot)
    _sheet(page, site, shot)
    _shown(page, site, out)
    page.goto(f"{site}/")
    page.get_by_role("button", name="Sign out").click()
    page.get_by_role("heading", name="Sign in").wait_for()
    shot("sign-in")
    page.goto(f"{site}/handbook/step/fillet")
    shot("handbook")
