"""Run everything that checks the code: ruff, mypy, pytest with PostgreSQL and Chromium."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from pathlib import Path

from ..store import Database
from ..store.cluster import Cluster
from .demo import say


def run(argv: list[str]) -> int:
    """``./lathe test [pytest options]``; without options also ruff and mypy."""
    root = Path(os.environ.get("LATHE_ROOT", "."))
    python = sys.executable
    if not argv:
        for name, command in (
            ("ruff check", ["-m", "ruff", "check", "src", "tests", "bench", "scripts"]),
            ("ruff format", ["-m", "ruff", "format", "--check", "src", "tests", "bench", "scripts"]),
            ("mypy", ["-m", "mypy"]),
        ):
            say(name)
            if subprocess.run([python, *command], cwd=root).returncode:
                say(f"{name} found something")
                return 1
    say("pytest")
    with tempfile.TemporaryDirectory(prefix="lathe-test-", ignore_cleanup_errors=True) as folder:
        os.chmod(folder, 0o711)
        cluster = Cluster(Path(folder) / "postgres", durable=False)
        url = cluster.start()
        try:
            database = Database(url)
            database.migrate()
            database.close()
            environment = {**os.environ, "LATHE_TEST_URL": url}
            command = [python, "-m", "pytest", *(argv or ["-n", "2", "--dist", "loadgroup"])]
            return subprocess.run(command, cwd=root, env=environment).returncode
        finally:
            cluster.stop()
