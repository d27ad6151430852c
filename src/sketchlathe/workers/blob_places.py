"""Stores of blobs by the place they are at."""

from __future__ import annotations

import functools
from pathlib import Path

from .blobs import Blobs
from .bucket import Bucket


@functools.lru_cache(maxsize=8)
def blobs_at(place: str) -> Blobs:
    """The store at a place: a folder, or a bucket (``s3://...``)."""
    if place.startswith("s3://"):
        return Bucket(place)
    return Blobs(Path(place))
