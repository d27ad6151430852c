"""docs/MAP.md: every module by its room, with what it says of itself in its first line."""

from __future__ import annotations

import ast
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
SOURCE = ROOT / "src" / "sketchlathe"
SCRIPTS = SOURCE / "web" / "static" / "js"
HEAD = """# Map

Every module by its room, in its own words. Made by `python scripts/make_map.py`; a test holds it to what there is.
Which room may use which stands in `pyproject.toml` (import-linter), how they work in [ARCHITECTURE](ARCHITECTURE.md).
"""


def _said(path: Path) -> str:
    """The first sentence of a module's docstring, or of a script's first comment."""
    if path.suffix == ".js":
        lines = []
        for line in path.read_text().splitlines():
            if not line.startswith("//"):
                break
            lines.append(line.lstrip("/ "))
        text = " ".join(lines)
    else:
        text = " ".join((ast.get_docstring(ast.parse(path.read_text())) or "").split("\n\n")[0].split())
    first, dot, _ = text.partition(". ")
    return f"{first}." if dot else text


def _rooms(root: Path, suffix: str) -> list[Path]:
    return sorted({p.parent for p in root.rglob(f"*{suffix}") if "versions" not in p.parts and "vendor" not in p.parts})


def _table(root: Path, suffix: str) -> list[str]:
    lines = []
    for room in _rooms(root, suffix):
        own = room / "__init__.py"
        name = room.relative_to(root.parent if suffix == ".js" else SOURCE.parent)
        lines += ["", f"## {name}", ""]
        if own.exists() and _said(own):
            lines += [_said(own), ""]
        lines += [
            f"- `{p.name}`: {_said(p)}" for p in sorted(room.glob(f"*{suffix}")) if p != own and p.name != "env.py"
        ]
    return lines


def text() -> str:
    """The page."""
    return "\n".join([HEAD, *_table(SOURCE, ".py")[1:], *_table(SCRIPTS, ".js")]) + "\n"


if __name__ == "__main__":
    (ROOT / "docs" / "MAP.md").write_text(text())
