"""The form of the source: circles among modules, lines that run on."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

from grimp import build_graph

from .measuring import Figure

ROOT = Path(__file__).resolve().parents[1]
SOURCES = ("src", "tests", "bench", "scripts")
LONGEST = 120
_PRAGMA = re.compile(r"\s+# (type: ignore|noqa|fmt:).*")
_ENDINGS = {".py", ".js", ".css", ".html"}


def long_lines() -> list[str]:
    """Where lines of ours are longer than 120 characters; a note to the type checker at the end is not counted."""
    found = []
    for path in (p for folder in SOURCES for p in (ROOT / folder).rglob("*") if p.suffix in _ENDINGS):
        if "vendor" in path.parts or path.name.endswith(".min.js"):
            continue
        for number, line in enumerate(path.read_text().splitlines(), 1):
            if len(_PRAGMA.sub("", line)) > LONGEST:
                found.append(f"{path.relative_to(ROOT)}:{number}")
    return found


def circles() -> list[tuple[str, ...]]:
    """Modules that use each other, imports inside functions counted too."""
    graph = build_graph("sketchlathe", cache_dir=None, exclude_type_checking_imports=True)
    uses = {module: graph.find_modules_directly_imported_by(module) for module in graph.modules}
    seen: dict[str, int] = {}
    found: list[tuple[str, ...]] = []

    def walk(module: str, above: list[str]) -> None:
        seen[module] = 1
        for other in sorted(uses[module]):
            if seen.get(other) == 1:
                found.append((*above[above.index(other) :], other) if other in above else (module, other))
            elif other not in seen:
                walk(other, [*above, other])
        seen[module] = 2

    for module in sorted(uses):
        if module not in seen:
            walk(module, [module])
    return found


def figures(quick: bool) -> Iterator[Figure]:
    """structure.circles, structure.long_lines (none of either)."""
    yield Figure("structure.circles", len(circles()), 1)
    yield Figure("structure.long_lines", len(long_lines()), 1)
