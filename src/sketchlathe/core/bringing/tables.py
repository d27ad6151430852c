"""Parameters from a table (CSV): name, formula, and a note if there is one."""

from __future__ import annotations

import csv
import io
from typing import ClassVar

from ..errors import BadInput
from ..plain_csv import meant
from .base import READERS, Brought, Reader

MOST_ROWS = 500


@READERS.add
class ParameterTable(Reader):
    """Columns are found by their headings; without headings the first is the name, the second the formula."""

    kind: ClassVar[str] = "csv"
    word: ClassVar[str] = "CSV"
    endings: ClassVar[tuple[str, ...]] = (".csv",)
    gives: ClassVar[str] = "parameters"
    most: ClassVar[int] = 1_000_000

    def read(self, data: bytes, name: str) -> Brought:
        try:
            text = data.decode("utf-8-sig")
        except UnicodeDecodeError as error:
            raise BadInput(f"“{name}” is not a table: it is not text.") from error
        if "\0" in text:
            raise BadInput(f"“{name}” is not a table: it is not text.")
        delimiter = max(",;\t", key=text[:2000].count)
        try:
            rows = [r for r in csv.reader(io.StringIO(text), delimiter=delimiter) if any(c.strip() for c in r)]
        except csv.Error as error:
            raise BadInput(f"“{name}” is not a table of parameters: one of its fields is far too long.") from error
        if not rows:
            raise BadInput(f"“{name}” has no rows in it.")
        heads = [c.strip().lower() for c in rows[0]]
        if "name" in heads and ("formula" in heads or "value" in heads):
            at = heads.index("name"), heads.index("formula") if "formula" in heads else heads.index("value")
            note = heads.index("note") if "note" in heads else -1
            rows = rows[1:]
        else:
            at, note = (0, 1), 2
        if len(rows) > MOST_ROWS:
            raise BadInput(f"“{name}” has {len(rows)} rows; at most {MOST_ROWS} parameters can be had.")
        found = []
        for number, row in enumerate(rows, 1):
            if len(row) <= max(at):
                raise BadInput(f"Row {number} of “{name}” has too few columns: it needs a name and a formula.")
            found.append(
                {
                    "name": meant(row[at[0]].strip()),
                    "formula": meant(row[at[1]].strip()),
                    "note": meant(row[note].strip()) if 0 <= note < len(row) else "",
                }
            )
        return Brought("parameters", data={"rows": found})
