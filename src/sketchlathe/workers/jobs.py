"""The door to what runs in workers: jobs by name, so that the process that asks never loads the kernel."""

from __future__ import annotations

import importlib
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

Job = TypeVar("Job", bound=Callable[..., Any])
JOBS: dict[str, Callable[..., Any]] = {}


def job(function: Job) -> Job:
    """Marks a function as what workers can be asked for. Plain data in and out."""
    JOBS[function.__name__] = function
    return function


def call(name: str, *args: Any) -> Any:
    """Run the job ``name`` (in a worker)."""
    if name not in JOBS:  # the forkserver was started for something else, or failed to load what it should
        importlib.import_module("sketchlathe.workers.preload")
    return JOBS[name](*args)


def blob_path(blobs: str, key: str) -> Path:
    """Where a blob is kept (gzip)."""
    return Path(blobs) / key[:2] / f"{key}.gz"
