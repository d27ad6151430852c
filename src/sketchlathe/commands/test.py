"""Run everything that checks the code: ruff, mypy, what checks the scripts, pytest with PostgreSQL and Chromium."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
from pathlib import Path

from ..store import Database
from ..store.cluster import Cluster
from . import say

CODE = ("src", "tests", "bench", "scripts")
SCRIPTS = ("src/sketchlathe/web/static/js", "tests/scripts")


def run(argv: list[str]) -> int:
    """``./lathe test [pytest options]``; without options also what looks at the code's form and types."""
    root = Path(os.environ.get("LATHE_ROOT", "."))
    python = sys.executable
    if not argv:
        node, tools = str(Path(python).parent / "node"), "node_modules"
        for name, command in (
            ("ruff check", [python, "-m", "ruff", "check", *CODE]),
            ("ruff format", [python, "-m", "ruff", "format", "--check", *CODE]),
            ("mypy", [python, "-m", "mypy"]),
            ("imports", [str(Path(python).parent / "lint-imports"), "--no-cache"]),
            ("prettier", [node, f"{tools}/prettier/bin/prettier.cjs", "--check", *SCRIPTS, "--log-level", "warn"]),
            ("eslint", [node, f"{tools}/eslint/bin/eslint.js", *SCRIPTS]),
            ("tsc", [node, f"{tools}/typescript/bin/tsc", "-p", "tsconfig.json"]),
            ("node --test", [node, "--test", "--test-reporter=dot", "tests/scripts/*.test.js"]),
        ):
            if name in ("prettier", "eslint", "tsc") and not (root / tools).is_dir():
                say(f"{name} is not here: the scripts' form is not checked")
                continue
            say(name)
            if subprocess.run(command, cwd=root).returncode:
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
