"""Run a script that makes parts with the library: from sketchlathe import Model."""

from __future__ import annotations

import runpy
import sys
from pathlib import Path

from ..core.errors import BadInput


def run(argv: list[str]) -> int:
    """``./lathe run SCRIPT.py [what the script takes]``"""
    if not argv or argv[0] in ("-h", "--help"):
        print("usage: lathe run SCRIPT.py [what the script takes]\n\n" + (__doc__ or ""))
        return 0 if argv else 2
    script = Path(argv[0])
    if not script.is_file():
        raise BadInput(f"There is no script {script}.")
    sys.argv = argv
    sys.path.insert(0, str(script.resolve().parent))
    runpy.run_path(str(script), run_name="__main__")
    return 0
