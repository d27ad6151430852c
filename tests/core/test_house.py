"""The house in order: nothing dead, no line that runs on, a map that is that of the house."""

from pathlib import Path

from bench.structure import long_lines
from scripts.make_map import text
from vulture import Vulture

import sketchlathe

SOURCE = Path(sketchlathe.__file__).parent
ROOT = SOURCE.parents[1]
# called by libraries, by name
CALLED = ["__getattr__", "do_GET", "do_POST", "log_message", "load_config", "get_id", "_act_*"]
DECLARED = [
    "@handles*",
    "@*blueprint*",
    "@*validator*",
    "@*serializer*",
    "@app*",
    "@*loader*",
    "@*route*",
    "@*handler*",
]


def test_every_function_is_used_by_something() -> None:
    look = Vulture(ignore_names=CALLED, ignore_decorators=DECLARED)
    # what is public is used by its tests
    public = ROOT / "tests" / "core" / "test_library.py"
    look.scavenge([SOURCE, ROOT / "bench", ROOT / "tests" / "store", public])
    found = [*look.unused_funcs, *look.unused_methods, *look.unused_props]
    assert [f"{i.filename}:{i.first_lineno} {i.name}" for i in found if "versions" not in str(i.filename)] == []


def test_no_line_runs_on() -> None:
    assert long_lines() == []


def test_the_map_is_that_of_the_house() -> None:
    assert (ROOT / "docs" / "MAP.md").read_text() == text(), "run: python scripts/make_map.py"
    assert not [line for line in text().splitlines() if line.endswith("`: ")], "a module says nothing of itself"
