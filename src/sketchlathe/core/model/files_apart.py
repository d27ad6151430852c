"""Files that were brought into a model, apart from its document: there they stand by digest.

They are by far the largest that a document holds and never change, while the document is written, compared and sent
to a worker at every edit. A model in memory, a model file and an archive have them in their places.
"""

from __future__ import annotations

import functools
import hashlib
from collections.abc import Callable, Iterator, Mapping
from typing import Any

MARK = "@file:"  # no packed file begins so
LEAST = 4096  # characters; what is shorter stays where it is


@functools.lru_cache(maxsize=8)
def digest_of_file(text: str) -> str:
    """The digest of a file as it stands in a document (the same as of its bytes among the blobs)."""
    return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()


def _holders(document: Any) -> Iterator[tuple[tuple[int, int], str, str]]:
    """Where texts of files stand: number of part and step, the key in the step ("" for itself), the text. What is no
    document has none: whoever reads it says what is wrong with it.
    """
    for i, part in enumerate(_listed(document, "parts")):
        for j, step in enumerate(_listed(part, "steps")):
            for key in ("", "underlay"):
                holder = step.get(key) if key and isinstance(step, dict) else step
                if isinstance(holder, dict) and isinstance(holder.get("data"), str):
                    yield (i, j), key, holder["data"]


def _listed(holder: Any, key: str) -> list[Any]:
    found = holder.get(key) if isinstance(holder, dict) else None
    return found if isinstance(found, list) else []


def _changed(document: Mapping[str, Any], new: Mapping[tuple[int, int], tuple[str, str]]) -> dict[str, Any]:
    """A copy of the document with other texts for files; what stays the same is shared with the original."""
    out = {**document, "parts": list(document["parts"])}
    for (i, j), (key, text) in new.items():
        part = out["parts"][i] = {**out["parts"][i]}
        part["steps"] = list(part["steps"])
        step = part["steps"][j]
        part["steps"][j] = {**step, key: {**step[key], "data": text}} if key else {**step, "data": text}
    return out


def apart(document: dict[str, Any]) -> tuple[dict[str, Any], dict[str, str]]:
    """The document with digests in place of its files, and the files by digest."""
    files: dict[str, str] = {}
    new: dict[tuple[int, int], tuple[str, str]] = {}
    for at, key, text in _holders(document):
        if len(text) >= LEAST or text.startswith(MARK):
            digest = digest_of_file(text)
            files[digest] = text
            new[at] = key, MARK + digest
    return (_changed(document, new), files) if new else (document, files)


def whole(document: dict[str, Any], file_of: Callable[[str], str]) -> dict[str, Any]:
    """The document with its files; ``file_of`` gives the one with a digest."""
    new: dict[tuple[int, int], tuple[str, str]] = {}
    for at, key, text in _holders(document):
        if text.startswith(MARK):
            new[at] = key, file_of(text.removeprefix(MARK))
    return _changed(document, new) if new else document
