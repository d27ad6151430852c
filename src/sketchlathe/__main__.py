"""``./lathe COMMAND``: finds the command's module and runs it."""

from __future__ import annotations

import importlib
import os
import pkgutil
import re
import sys
from pathlib import Path

from . import commands
from .core.errors import BadInput, Trouble

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


def read_settings(path: Path) -> None:
    """Settings from a file of lines ``LATHE_NAME=value`` (``#`` begins a remark); what the environment says goes
    before. Raises ``BadInput``.
    """
    try:
        lines = path.read_text().splitlines()
    except (OSError, UnicodeDecodeError) as error:
        raise BadInput(f"The file of settings {path} (LATHE_CONFIG) cannot be read.") from error
    for number, line in enumerate(lines, 1):
        if not (line := line.strip()) or line.startswith("#"):
            continue
        found = re.fullmatch(r"((?:LATHE|AWS)_[A-Z_0-9]+)\s*=\s*(.*)", line)
        if found is None:
            raise BadInput(f"Line {number} of {path} is not of the form LATHE_NAME=value.")
        os.environ.setdefault(found[1], found[2].strip("\"'"))


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
        if os.environ.get("LATHE_CONFIG"):
            read_settings(Path(os.environ["LATHE_CONFIG"]))
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
