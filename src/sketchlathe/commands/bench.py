"""Measure speeds and sizes against their goals."""

from __future__ import annotations

import argparse
import importlib
import json
import os
import pkgutil
import sys
from pathlib import Path


def run(argv: list[str]) -> int:
    """``./lathe bench [--quick] [--json FILE] [--only THEME]``"""
    parser = argparse.ArgumentParser(prog="lathe bench", description=__doc__)
    parser.add_argument("--quick", action="store_true", help="fewer rounds; under 45 s")
    parser.add_argument("--json", help="also write {figure: {value, goal, ok}} to this file")
    parser.add_argument("--only", help="one theme")
    options = parser.parse_args(argv)
    root = Path(os.environ.get("LATHE_ROOT", "."))
    sys.path.insert(0, str(root))
    package = importlib.import_module("bench")
    out: dict[str, dict[str, object]] = {}
    for info in pkgutil.iter_modules(package.__path__):
        module = importlib.import_module(f"bench.{info.name}")
        if not hasattr(module, "figures") or (options.only and options.only != info.name):
            continue
        for figure in module.figures(options.quick):
            sign = ">" if figure.at_least else "<"
            print(
                f"{figure.name:28} {figure.value:10.4g}  {sign} {figure.goal:<8g} {'ok' if figure.ok else 'SHORT'}",
                flush=True,
            )
            out[figure.name] = {"value": float(figure.value), "goal": float(figure.goal), "ok": bool(figure.ok)}
    if options.json:
        Path(options.json).write_text(json.dumps(out, indent=1) + "\n")
    return 0
