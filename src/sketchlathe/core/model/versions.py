"""Reading older versions of the model format; newer ones are refused."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from ..errors import BadInput

FORMAT, VERSION = "sketch-lathe-model", 2


def _parts_have_sorts(raw: dict[str, Any]) -> dict[str, Any]:
    """Version 2 knows parts and parts put together; in version 1 there were parts only, mostly one."""
    return {**raw, "version": 2}


# version n -> a function that turns its data into version n + 1
MIGRATIONS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _parts_have_sorts}


def migrated(raw: Any) -> dict[str, Any]:
    """The data in the current version. Raises ``BadInput`` for foreign or newer data."""
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise BadInput("This is not a Sketch Lathe model file: its “format” is missing or another one.")
    version = raw.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise BadInput("This model file does not say which version of the format it is in.")
    if version > VERSION:
        raise BadInput(
            f"This model file is in version {version} of the format; this Sketch Lathe reads up to {VERSION}. "
            "Open it with a newer Sketch Lathe."
        )
    while version < VERSION:
        raw = MIGRATIONS[version](raw)
        version += 1
    return dict(raw)
