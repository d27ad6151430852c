"""Tables that go out as CSV (RFC 4180) hold no formulas of a spreadsheet, and come back as they were."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

_BEGINS = ("=", "+", "-", "@", "\t", "\r")


def written(rows: Iterable[Sequence[object]]) -> str:
    """Rows as CSV."""
    out = io.StringIO()
    csv.writer(out).writerows([_harmless(cell) for cell in row] for row in rows)
    return out.getvalue()


def meant(text: str) -> str:
    """What stood in a place before it was made harmless."""
    return text[1:] if text[:1] == "'" and text[1:2] in _BEGINS else text


def _harmless(cell: object) -> object:
    """A text that a spreadsheet would run as a formula gets an apostrophe, which it hides."""
    text = str(cell)
    return f"'{text}" if text[:1] in _BEGINS and not _is_plain_number(text) else cell


def _is_plain_number(text: str) -> bool:
    """Whether a text is just a number: a minus before it starts no formula."""
    try:
        float(text)
    except ValueError:
        return False
    return True
