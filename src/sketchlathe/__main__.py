"""``./lathe COMMAND``: finds the command's module and runs it."""

from __future__ import annotations

import importlib
import pkgutil
import re
import sys

from . import commands
from .core.errors import Trouble

# Which Debian package brings a shared library that the Python packages of the lock file load.
_PACKAGES = {
    "libGL": "libgl1", "libGLX": "libglx0", "libGLdispatch": "libglvnd0", "libX11": "libx11-6", "libxcb": "libxcb1",
    "libXau": "libxau6", "libXdmcp": "libxdmcp6", "libexpat": "libexpat1", "libstdc++": "libstdc++6", "libz": "zlib1g",
    "libgcc_s": "libgcc-s1", "libatomic": "libatomic1", "libgomp": "libgomp1",
}  # fmt: skip


def missing_library(problem: ImportError) -> str:
    """What to install when a shared library could not be loaded; empty when that is not what happened."""
    found = re.match(r"(lib[^\s:/]+?)(\.so[.\d]*): cannot open shared object file", str(problem))
    if found is None:
        return ""
    package = _PACKAGES.get(found[1])
    want = f"run: apt-get install -y {package}" if package else "install the Debian package that has it"
    return f"the library {found[1]}{found[2]} is missing on this system; {want}"


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
    except ImportError as problem:
        text = missing_library(problem)
        if not text:
            raise
        print(f"lathe: {text}", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 130


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
