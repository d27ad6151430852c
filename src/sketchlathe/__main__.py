"""``./lathe COMMAND``: finds the command's module and runs it."""

from __future__ import annotations

import importlib
import pkgutil
import sys

from . import commands
from .core.errors import Trouble


def main(argv: list[str]) -> int:
    """Run one command; its exit code."""
    known = {info.name: info for info in pkgutil.iter_modules(commands.__path__)}
    name = argv[0] if argv else "help"
    if name in ("help", "-h", "--help") or name not in known:
        print("Sketch Lathe\n\nusage: ./lathe COMMAND [--help]\n")
        for command in sorted(known):
            module = importlib.import_module(f"{commands.__name__}.{command}")
            print(f"  {command:12} {(module.__doc__ or '').strip().splitlines()[0]}")
        return 0 if name in ("help", "-h", "--help") else 2
    try:
        module = importlib.import_module(f"{commands.__name__}.{name}")
        return int(module.run(argv[1:]) or 0)
    except Trouble as problem:
        print(f"lathe: {problem}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
