"""Start Sketch Lathe on this machine with the Weather post demo."""

from __future__ import annotations

import argparse
import os
import secrets
import signal
import socket
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from ..store import Database
from ..store.cluster import Cluster, check_port


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


def free_port() -> int:
    """A port of loopback that nobody uses."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def say(text: str) -> None:
    """Tell whoever started us."""
    print(f"lathe: {text}", flush=True)


def run(argv: list[str]) -> int:
    """``./lathe demo [--port N]``"""
    parser = argparse.ArgumentParser(prog="lathe demo", description=__doc__)
    parser.add_argument("--port", type=int, default=8420, help="port on 127.0.0.1 (default 8420)")
    options = parser.parse_args(argv)
    folder = data_folder()
    check_port("127.0.0.1", options.port)
    cluster = Cluster(folder / "postgres")
    printer_port = free_port()
    printer = subprocess.Popen([sys.executable, "-m", "sketchlathe", "printer", "--port", str(printer_port)])
    say("starting PostgreSQL")
    with ThreadPoolExecutor(1) as aside:
        starting = aside.submit(cluster.start)
        from ..demo import load_demo  # a second of imports, taken while PostgreSQL starts
        from ..web import Settings
        from ..web.serving import serve

        url = starting.result()
    try:
        database = Database(url)
        database.migrate()
        person = load_demo(database, say)
        settings = Settings(
            secret=lasting_secret(folder), blobs=folder / "meshes", demo_person=person, secure_cookies=False,
            printer_port=printer_port,
        )  # fmt: skip
        say(f"open http://127.0.0.1:{options.port}/ (Ctrl-C stops it)")
        serve(settings, database, "127.0.0.1", options.port)
    finally:
        signal.signal(signal.SIGINT, signal.SIG_IGN)
        signal.signal(signal.SIGTERM, signal.SIG_IGN)
        say("stopping")
        printer.terminate()
        cluster.stop()
    return 0
