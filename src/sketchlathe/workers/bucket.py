"""Blobs for several machines: a bucket of an S3-style store, with a folder of this machine in front of it."""

from __future__ import annotations

import contextlib
import hashlib
import os
import tempfile
import threading
import time
from array import array
from collections import OrderedDict
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from urllib.parse import parse_qs, urlsplit

from obstore.exceptions import BaseError, NotFoundError
from obstore.store import S3Store

from ..core.errors import Trouble
from .blobs import KEPT_BYTES, SPARED, Blobs, beyond

AGAIN = 12 * 3600.0  # s after which what is still used is put into the bucket anew: its age says when it may go
REMEMBERED = 20_000  # names of what this process has put
AWAY = "The store of meshes does not answer just now: nothing can be shown until it does. Nothing is lost."


class Bucket(Blobs):
    """``s3://bucket/prefix?endpoint=http://host:port&region=name``; who we are to the store stands in the environment
    (``AWS_ACCESS_KEY_ID``, ``AWS_SECRET_ACCESS_KEY``). ``LATHE_CACHE`` is the folder in front of it.
    """

    def __init__(self, place: str, folder: Path | None = None, most: int = KEPT_BYTES, spared: float = SPARED) -> None:
        parts = urlsplit(place)
        how = {key: values[0] for key, values in parse_qs(parts.query).items()}
        kept = hashlib.blake2b(place.encode(), digest_size=6).hexdigest()
        root = Path(os.environ.get("LATHE_CACHE", tempfile.gettempdir()))
        super().__init__(folder or root / f"lathe-blobs-{kept}", most, spared)
        self._place = place
        self._store = S3Store(
            parts.netloc,
            prefix=parts.path.strip("/") or None,
            endpoint=how.get("endpoint"),
            region=how.get("region", "us-east-1"),
            virtual_hosted_style_request=how.get("endpoint") is None,
            client_options={"allow_http": True, "timeout": "20s", "connect_timeout": "3s"},
            retry_config={"max_retries": 3},
        )
        self._put_at: OrderedDict[str, float] = OrderedDict()
        self._put_lock = threading.Lock()

    @property
    def place(self) -> str:
        """See ``Blobs.place``."""
        return self._place

    @staticmethod
    def _name(name: str) -> str:
        return f"{name[:2]}/{name}"

    def fetch(self, name: str) -> bytes | None:
        """See ``Blobs.fetch``."""
        try:
            return bytes(self._store.get(self._name(name)).bytes())
        except (NotFoundError, FileNotFoundError):
            return None
        except BaseError as error:
            raise Trouble(AWAY) from error

    def is_elsewhere(self, name: str) -> bool:
        """See ``Blobs.is_elsewhere``."""
        try:
            self._store.head(self._name(name))
        except (BaseError, FileNotFoundError):
            return False
        return True

    def share(self, name: str, data: bytes) -> None:
        """See ``Blobs.share``. What this process has put lately is not put again."""
        now = time.monotonic()
        with self._put_lock:
            if now - self._put_at.get(name, -AGAIN) < AGAIN:
                return
        try:
            self._store.put(self._name(name), data)
        except BaseError as error:
            raise Trouble(AWAY) from error
        with self._put_lock:
            self._put_at[name] = now
            while len(self._put_at) > REMEMBERED:
                self._put_at.popitem(last=False)

    def forget(self, name: str) -> None:
        """See ``Blobs.forget``."""
        with self._put_lock:
            self._put_at.pop(name, None)
        with contextlib.suppress(BaseError, FileNotFoundError):
            self._store.delete(self._name(name))

    def trim(self) -> None:
        """The folder as ever; of the bucket what was put longest ago, until the rest is not too much."""
        super().trim()
        with contextlib.suppress(BaseError):
            now, ages, sizes = datetime.now(UTC), array("d"), array("q")
            for age, row in self._rows(now):
                ages.append(age)
                sizes.append(row["size"])
            oldest = beyond(ages, sizes, 4 * self.most, self.spared + AGAIN)
            if oldest is not None:
                for path in [row["path"] for age, row in self._rows(now) if age >= oldest]:
                    self._store.delete(path)

    def _rows(self, now: datetime) -> Iterator[tuple[float, Any]]:
        """What is in the bucket, and for how many seconds."""
        for rows in self._store.list():
            for row in rows:
                yield (now - row["last_modified"]).total_seconds(), row
