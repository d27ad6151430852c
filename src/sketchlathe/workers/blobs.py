"""Meshes, answers and documents, found by digest, trimmed while the server runs. All of them can be made again."""

from __future__ import annotations

import contextlib
import gzip
import hashlib
import json
import os
import re
import threading
import time
from array import array
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from ..core.errors import Trouble
from ..core.plain_json import digest_of

KEPT_BYTES = 4 << 30
SPARED = 600.0  # seconds since its last use during which nothing is trimmed: a page may be about to ask for it
LOOK_EVERY = 200  # results between two looks at the folder, or
LOOK_AFTER = 900.0  # seconds
_KEY = re.compile(r"[0-9a-f]{32}")

FULL = "The disk of this server is full: nothing can be shown until there is room again. Nothing is lost."
_GONE = "This took so long that what it works on was put away meanwhile: ask for it again."


class Blobs:
    """Bytes by digest in a folder: meshes (packed), plain data, documents and files for those that are to work on them.

    The least recently used go first when there are too many bytes. All of it can be made again. Another kind of store
    (see ``bucket``) says where what is not in the folder comes from (``fetch``, ``is_elsewhere``), and where what is
    put goes besides (``share``).
    """

    def __init__(self, folder: Path, most: int = KEPT_BYTES, spared: float = SPARED) -> None:
        self.folder, self.most, self.spared = folder, most, spared
        self._lock = threading.Lock()
        self._since, self._looked, self._seen = 0, time.monotonic(), 0
        folder.mkdir(parents=True, exist_ok=True)

    @property
    def place(self) -> str:
        """What another process finds the same store by (``blobs_at``)."""
        return str(self.folder)

    # other stores

    def fetch(self, name: str) -> bytes | None:
        """What is not in the folder (any more)."""
        return None

    def is_elsewhere(self, name: str) -> bool:
        """Whether what is not in the folder is to be had all the same."""
        return False

    def share(self, name: str, data: bytes) -> None:
        """What was put, or is used again, for those on other machines. Raises ``Trouble`` where it cannot be."""

    def forget(self, name: str) -> None:
        """What is not wanted any longer."""

    # meshes

    def has_mesh(self, key: str) -> bool:
        """Whether a mesh is there."""
        return self._has(f"{key}.gz")

    def keep_mesh(self, key: str, data: bytes) -> None:
        """Keep a mesh under a key of its maker's. Raises ``Trouble`` where the disk is full."""
        self._put(f"{key}.gz", gzip.compress(data, 5, mtime=0))

    def mesh(self, key: str) -> bytes | None:
        """A mesh, packed (gzip); None if it is not there (any more)."""
        return self._get(f"{key}.gz") if _KEY.fullmatch(key) else None

    def drop_mesh(self, key: str) -> None:
        """A mesh is made anew."""
        self._drop(f"{key}.gz")

    # plain data

    def keep(self, data: Any, key: str = "") -> str:
        """Keep plain data as long as there is room; the key it is found by (of its maker's, or its digest). A disk that
        is full costs speed, nothing else.
        """
        key = key or digest_of(data)
        with contextlib.suppress(Trouble):
            self._put(f"{key}.json", json.dumps(data, separators=(",", ":")).encode())
        return key

    def kept(self, key: str) -> Any:
        """Plain data that was kept; None if it is not there (any more), or damaged."""
        try:
            return json.loads(self._get(f"{key}.json") or b"null") if _KEY.fullmatch(key) else None
        except ValueError:
            return None

    def drop(self, key: str) -> None:
        """Plain data is made anew."""
        self._drop(f"{key}.json")

    # bytes and documents

    def keep_raw(self, data: bytes) -> str:
        """Keep bytes as long as there is room; the key they are found by. Raises ``Trouble`` where the disk is full."""
        key = hashlib.blake2b(data, digest_size=16).hexdigest()
        if self._fresh(f"{key}.bin"):
            self.share(f"{key}.bin", data)
        else:
            self._put(f"{key}.bin", data)
        return key

    def keep_file(self, digest: str, text: str) -> None:
        """Keep a file that a document refers to. Raises ``Trouble`` where the disk is full."""
        name = f"{digest}.bin"
        if self._fresh(name):
            self.share(name, text.encode())
        else:
            self._put(name, text.encode())

    def keep_document(self, text: str) -> str:
        """Keep the text of a model for those that are to work on it; its digest."""
        return self.keep_raw(text.encode())

    def raw(self, key: str) -> bytes | None:
        """Bytes that were kept; None if they are not there (any more)."""
        return self._get(f"{key}.bin") if _KEY.fullmatch(key) else None

    def bytes_of(self, key: str) -> bytes:
        """Bytes that are worked on. Raises ``Trouble`` where they have been trimmed meanwhile."""
        found = self.raw(key)
        if found is None:
            raise Trouble(_GONE)
        return found

    def document_of(self, digest: str) -> str:
        """The text of a document (or of a file that it refers to) that is worked on. Raises ``Trouble`` where it has
        been trimmed meanwhile.
        """
        return self.bytes_of(digest).decode()

    # the folder

    def path(self, name: str) -> Path:
        """Where something is kept, whether or not it is there."""
        return self.folder / name[:2] / name

    def _has(self, name: str) -> bool:
        return self._fresh(name) or self.is_elsewhere(name)

    def _get(self, name: str) -> bytes | None:
        if self._fresh(name):
            with contextlib.suppress(OSError):
                return self.path(name).read_bytes()
        found = self.fetch(name)
        if found is not None:
            with contextlib.suppress(Trouble):
                self._write(name, found)
        return found

    def _put(self, name: str, data: bytes) -> None:
        self._write(name, data)
        self.share(name, data)

    def _write(self, name: str, data: bytes) -> None:
        """Whoever reads it meanwhile sees the whole of it or none."""
        path = self.path(name)
        temporary = path.with_suffix(f".{os.getpid()}-{threading.get_ident()}")
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            temporary.write_bytes(data)
            os.replace(temporary, path)
        except OSError as error:
            with contextlib.suppress(OSError):
                temporary.unlink(missing_ok=True)
            raise Trouble(FULL) from error

    def _drop(self, name: str) -> None:
        self.path(name).unlink(missing_ok=True)
        self.forget(name)

    def _fresh(self, name: str) -> bool:
        """Whether a file is there, marked as used just now."""
        path = self.path(name)
        try:
            if _age(path.stat()) > min(60.0, self.spared / 2):
                os.utime(path)
        except OSError:
            return False
        return True

    def came(self) -> None:
        """A result came: now and then the folder is looked at, in a thread of its own."""
        with self._lock:
            self._since += 1
            often = max(LOOK_EVERY, self._seen // 20)  # the more there are the longer a look takes
            if self._since < often and time.monotonic() - self._looked < LOOK_AFTER:
                return
            self._since, self._looked = 0, time.monotonic()
        threading.Thread(target=self.trim, daemon=True).start()

    def trim(self) -> None:
        """Delete what was used longest ago until the rest amounts to at most ``most`` bytes."""
        now = time.time()
        ages, sizes = array("d"), array("q")
        for _, stat in self._files():
            ages.append(_age(stat, now))
            sizes.append(stat.st_size)
        self._seen = len(ages)
        oldest = beyond(ages, sizes, self.most, self.spared)
        if oldest is None:
            return
        for path, stat in self._files():
            if _age(stat, now) >= oldest:
                path.unlink(missing_ok=True)

    def _files(self) -> Iterator[tuple[Path, os.stat_result]]:
        """Everything in the folder, one after the other: there may be a million."""
        for folder, _, names in os.walk(self.folder):
            for name in names:
                path = Path(folder, name)
                with contextlib.suppress(OSError):  # gone meanwhile
                    yield path, path.stat()


def beyond(ages: array[float], sizes: array[int], most: int, spared: float) -> float | None:
    """The age from which on things go, so that the rest takes at most ``most`` bytes; None if nothing has to. What is
    younger than ``spared`` stays.
    """
    surplus, oldest = sum(sizes) - most, None
    if surplus <= 0:
        return None
    for i in sorted(range(len(ages)), key=ages.__getitem__, reverse=True):
        if surplus <= 0 or ages[i] < spared:
            break
        surplus, oldest = surplus - sizes[i], ages[i]
    return oldest


def _age(stat: os.stat_result, now: float | None = None) -> float:
    """s since a file was used; one of the future was used before the clock was put back, nobody knows when."""
    return abs((time.time() if now is None else now) - stat.st_mtime)
