"""Look whether a library that ships with us is known to be unsafe (asks the package index)."""

from __future__ import annotations

import argparse
import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any

from . import say


def judged(told: dict[str, Any]) -> tuple[list[str], list[str]]:
    """What an audit told: what is unsafe, as sentences; of which libraries nothing could be learnt."""
    unsafe, unknown = [], []
    for library in told["dependencies"]:
        if "skip_reason" in library:
            unknown.append(str(library["name"]))
        for fault in library.get("vulns", ()):
            better = ", ".join(fault["fix_versions"]) or "none yet"
            unsafe.append(f"{library['name']} {library['version']}: {fault['id']}; mended in: {better}")
    return unsafe, unknown


def run(argv: list[str]) -> int:
    """``./lathe audit``: 0 all is well, 1 something is unsafe, 2 the index told nothing of some libraries."""
    parser = argparse.ArgumentParser(prog="lathe audit", description=__doc__)
    parser.parse_args(argv)
    lock = Path(os.environ.get("LATHE_ROOT", ".")) / "requirements.lock"
    command = [sys.executable, "-m", "pip_audit", "-r", str(lock), "--require-hashes", "--disable-pip", "-f", "json"]
    done = subprocess.run([*command, "--progress-spinner", "off"], capture_output=True, text=True)
    try:
        unsafe, unknown = judged(json.loads(done.stdout))
    except (ValueError, KeyError, TypeError):
        say(f"the package index did not answer: {done.stderr.strip().splitlines()[-1:]}")
        return 2
    for line in unsafe:
        say(f"unsafe: {line}")
    if unknown:
        say(f"nothing could be learnt of {len(unknown)} libraries: {', '.join(unknown[:8])} ...")
    if not unsafe and not unknown:
        say("nothing is known against any library that ships with us")
    return 1 if unsafe else 2 if unknown else 0
