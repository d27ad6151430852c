"""The door to ``work``: jobs by name, so that the process that asks never loads the kernel."""

from __future__ import annotations

from pathlib import Path
from typing import Any


def call(name: str, *args: Any) -> Any:
    """Run the function ``name`` of ``work`` (in a worker)."""
    from . import work

    return getattr(work, name)(*args)


def blob_path(blobs: str, key: str) -> Path:
    """Where a blob is kept (gzip)."""
    return Path(blobs) / key[:2] / f"{key}.gz"
