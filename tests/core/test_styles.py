"""Style sheets are whole: one brace too many takes the rule behind it away, and nobody is told."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

import sketchlathe

SHEETS = sorted((Path(sketchlathe.__file__).parent / "web" / "static" / "css").glob("*.css"))


@pytest.mark.parametrize("sheet", SHEETS, ids=lambda p: p.name)
def test_every_brace_has_its_other(sheet: Path) -> None:
    bare = re.sub(r"/\*.*?\*/|\"[^\"]*\"", "", sheet.read_text(), flags=re.DOTALL)
    depth = 0
    for brace in re.findall(r"[{}]", bare):
        depth += 1 if brace == "{" else -1
        assert 0 <= depth <= 2
    assert depth == 0
