"""Tables of sizes that a model may have its own values in: what makers give differs from what is usual."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from .iso_holes import SIZES


@dataclass(frozen=True)
class SizeTable:
    """``usual``: mm by the name of a size; ``of``: what a size is called in a message; ``source`` of the figures."""

    title: str
    of: str
    source: str
    usual: Mapping[str, float]
    least: float = 0.1  # mm
    most: float = 100.0  # mm


TABLES: dict[str, SizeTable] = {
    "inserts": SizeTable(
        "Bores for heat-set inserts",
        "bore",
        "Usual are the bores that makers of brass inserts commonly give; yours may say otherwise.",
        {name: screw.insert for name, screw in SIZES.items()},
    ),
    "insert_lengths": SizeTable(
        "Lengths of heat-set inserts",
        "length",
        "Usual are lengths that are commonly sold; yours may be longer or shorter.",
        {"M2": 3.0, "M2.5": 4.0, "M3": 5.7, "M4": 8.1, "M5": 9.5, "M6": 12.7, "M8": 12.7, "M10": 12.7, "M12": 15.0},
    ),
}


def size_in(own: Mapping[str, Mapping[str, float]], table: str, name: str) -> float:
    """A size, mm: a model's own, else the usual."""
    return own.get(table, {}).get(name, TABLES[table].usual[name])


def describe_tables() -> dict[str, dict[str, Any]]:
    """Plain data, for the screen."""
    return {
        key: {"title": t.title, "of": t.of, "source": t.source, "usual": dict(t.usual)} for key, t in TABLES.items()
    }
