"""Answers to builds, kept on disk beside the meshes and shared by all workers of a machine.

An answer is good for one text of one model, one program and one kernel, as long as all its meshes are there. Whatever
cannot be read counts as not kept: it is made again.
"""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Any

from ..core.model.results import digest_of
from .jobs import blob_path
from .program import program


def path_of(blobs: str, document: str, part_id: str, what: Any = "") -> Path:
    """Where the answer for a part is kept, or that to something else asked of it. (One with barred steps is not kept:
    bars are forgotten.)
    """
    key = digest_of(["answer", program(), document, part_id, what])
    return Path(blobs) / key[:2] / f"{key}.json"


def read(path: Path, blobs: str = "") -> dict[str, Any] | None:
    """The kept answer, if it is there and, with ``blobs``, all its meshes are."""
    try:
        found: dict[str, Any] = json.loads(path.read_bytes())
        meshes = (*found["bodies"], *found["references"]) if blobs else ()
        return found if all(blob_path(blobs, b["key"]).exists() for b in meshes) else None
    except (OSError, ValueError, KeyError, TypeError):
        return None


def write(path: Path, answer: dict[str, Any]) -> None:
    """Keep an answer; a disk that is full costs speed, nothing else."""
    temporary = path.with_suffix(f".{os.getpid()}")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        temporary.write_text(json.dumps(answer, separators=(",", ":")))
        os.replace(temporary, path)
    except OSError:
        temporary.unlink(missing_ok=True)
