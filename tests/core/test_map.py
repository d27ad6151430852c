"""docs/MAP.md names every module as it speaks of itself."""

from pathlib import Path

from scripts.make_map import text

import sketchlathe


def test_the_map_is_that_of_the_house() -> None:
    page = Path(sketchlathe.__file__).parents[2] / "docs" / "MAP.md"
    assert page.read_text() == text(), "run: python scripts/make_map.py"
    assert not [line for line in text().splitlines() if line.endswith("`: ")], "a module says nothing of itself"
