"""Answers to builds, kept beside the meshes and shared by all workers.

An answer is good for one document, one program and one kernel, as long as all its meshes are there. Whatever
cannot be read counts as not kept: it is made again.
"""

from __future__ import annotations

from typing import Any, cast

from ..core.plain_json import digest_of
from .answers import Built
from .blobs import Blobs
from .program import program


def key_of(document: str, part: str, what: Any = "") -> str:
    """What the answer for a part is kept under, or that to something else asked of it. (One with barred steps is not
    kept: bars are forgotten.)
    """
    return digest_of(["answer", program(), document, part, what])


def built(blobs: Blobs, document: str, part: str) -> Built | None:
    """The kept answer to a build, if it is there and all its meshes are."""
    found = blobs.kept(key_of(document, part))
    try:
        whole = found and all(blobs.has_mesh(b["key"]) for b in (*found["bodies"], *found["references"]))
        return cast(Built, found) if whole else None
    except (KeyError, TypeError):
        return None
