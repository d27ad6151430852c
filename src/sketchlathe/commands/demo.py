"""Start Sketch Lathe on this machine with the Weather post demo."""

from __future__ import annotations

import argparse
import contextlib
import os
import secrets
import signal
import subprocess
import sys
import threading
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from .. import rubbish
from ..core.errors import Trouble
from ..ports import free_port
from ..store import Database
from ..store.cluster import Cluster, check_port
from . import say


def data_folder() -> Path:
    """Where everything of this installation is kept."""
    folder = Path(os.environ.get("LATHE_DATA", ".data"))
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def lasting_secret(folder: Path) -> str:
    """The key that signs cookies: made once, readable by us only."""
    path = folder / "secret-key"
    if not path.exists() or len(path.read_text().strip()) < 32:  # a disk that was full left an empty one
        new = path.with_name(f"{path.name}.new")
        new.touch(mode=0o600)
        new.write_text(secrets.token_hex(32))
        new.replace(path)
    return path.read_text().strip()


class Helpers:
    """What the demo started beside itself: the database and the printer. One that dies is started again."""

    def __init__(self, cluster: Cluster, printer_port: int) -> None:
        self._cluster, self._port = cluster, printer_port
        self._over = threading.Event()
        self._printer = self._start_printer()

    def _start_printer(self) -> subprocess.Popen[bytes]:
        return subprocess.Popen([sys.executable, "-m", "sketchlathe", "printer", "--port", str(self._port)])

    def watch(self) -> None:
        """From now on, look after them."""
        threading.Thread(target=self._watch, daemon=True).start()

    def _watch(self) -> None:
        while not self._over.wait(2.0):
            if self._printer.poll() is not None:
                say("the printer had ended; starting it again")
                self._printer = self._start_printer()
            if not self._cluster.alive() and not self._over.is_set():
                say("PostgreSQL had ended; starting it again")
                with contextlib.suppress(Trouble):  # tried again the next time round
                    self._cluster.start(self._cluster.port)

    def stop(self) -> None:
        """End them."""
        self._over.set()
        self._printer.terminate()


def run(argv: list[str]) -> int:
    """``./lathe demo [--port N]``"""
    parser = argparse.ArgumentParser(prog="lathe demo", description=__doc__)
    parser.add_argument("--port", type=int, default=8420, help="port on 127.0.0.1 (default 8420)")
    options = parser.parse_args(argv)
    folder = data_folder()
    check_port("127.0.0.1", options.port)
    cluster = Cluster(folder / "postgres")
    printer_port = free_port()
    helpers = Helpers(cluster, printer_port)
    say("starting PostgreSQL")
    try:
        with ThreadPoolExecutor(1) as aside:
            starting = aside.submit(cluster.start)
            with rubbish.loading():  # two seconds of imports, taken while PostgreSQL starts
                from ..demo import load_demo
                from ..web import Settings
                from ..web.serving import serve

            url = starting.result()
        database = Database(url)
        database.migrate()
        person = load_demo(database, say)
        settings = Settings(
            secret=lasting_secret(folder), blobs=folder / "meshes", demo_person=person, secure_cookies=False,
            printer_port=printer_port, scripts=folder / "scripts",
        )  # fmt: skip
        helpers.watch()
        say(f"open http://127.0.0.1:{options.port}/ (Ctrl-C stops it)")
        serve(settings, database, "127.0.0.1", options.port)
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        signal.signal(signal.SIGTERM, signal.SIG_IGN)
        say("stopping")
        helpers.stop()
        cluster.stop()
    return 0
