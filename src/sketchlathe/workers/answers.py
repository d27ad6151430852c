"""Answers to builds, kept on disk beside the meshes and shared by all workers of a machine.

An answer is good for one document, one program and one kernel, as long as all its meshes are there. Whatever
cannot be read counts as not kept: it is made again.
"""

from __future__ import annotations

from pathlib import Path
from typing import Any

from ..core.model.results import digest_of
from .blobs import blob_path, read_json, write_json
from .program import program


def path_of(blobs: str, document: str, part: str, what: Any = "") -> Path:
    """Where the answer for a part is kept, or that to something else asked of it. (One with barred steps is not kept:
    bars are forgotten.)
    """
    key = digest_of(["answer", program(), document, part, what])
    return Path(blobs) / key[:2] / f"{key}.json"


def read(path: Path, blobs: str = "") -> dict[str, Any] | None:
    """The kept answer, if it is there and, with ``blobs``, all its meshes are."""
    found = read_json(path)
    try:
        meshes = (*found["bodies"], *found["references"]) if blobs else ()
        return found if found and all(blob_path(blobs, b["key"]).exists() for b in meshes) else None
    except (KeyError, TypeError):
        return None


def write(path: Path, answer: Any) -> None:
    """Keep an answer."""
    write_json(path, answer)
