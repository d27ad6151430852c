"""The pages' scripts put together: a browser asks for a handful of files in place of a hundred and twenty.

What puts them together is ``esbuild`` of Debian's packages, and it is no more than a convenience: where it is not
installed, or fails, pages load the modules as they stand in ``static/js``, which are the same program.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import tempfile
from pathlib import Path

PATIENCE = 30.0  # s; it takes a fifth of one
OPTIONS = ("--bundle", "--splitting", "--format=esm", "--minify", "--sourcemap", "--target=es2022", "--log-level=error")
OUTSIDE = ("three-kit", "preact")  # files of their own: they change less often than ours


def entries(js: Path) -> list[Path]:
    """The scripts that pages name: those that stand at the top, and a room's ``page.js``."""
    return sorted([*js.glob("*.js"), *js.glob("*/page.js")])


def put_together(js: Path, kept: Path, version: str) -> Path | None:
    """A folder with what ``entries`` are together with all that they import, by the same names; ``None`` where that
    cannot be made. ``kept`` is where it stays for the next start; ``version`` is that of what stands in ``js``.
    """
    made, program = kept / version, shutil.which("esbuild")
    if made.is_dir():
        return made
    if program is None:
        return None
    try:
        kept.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=kept) as folder:
            # a web process that starts at the same time may be doing the same: whoever is first has made it
            new = Path(folder) / "made"
            command = [program, *map(str, entries(js)), *OPTIONS, f"--outbase={js}", f"--outdir={new}"]
            command += [f"--external:{name}" for name in OUTSIDE]
            subprocess.run(command, check=True, timeout=PATIENCE, capture_output=True)
            os.replace(new, made)
    except (OSError, subprocess.SubprocessError):
        return made if made.is_dir() else None
    for old in kept.iterdir():
        if old != made and old.is_dir() and len(old.name) == len(version):
            shutil.rmtree(old, ignore_errors=True)
    return made
