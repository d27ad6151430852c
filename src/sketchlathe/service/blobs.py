"""Meshes and answers on disk: found by digest, trimmed while the server runs. All of them can be made again."""

from __future__ import annotations

import contextlib
import hashlib
import os
import re
import threading
import time
from pathlib import Path
from typing import Any

from ..core.model.results import digest_of
from ..workers import answers, jobs

KEPT_BYTES = 4 << 30
SPARED = 600.0  # seconds since its last use during which nothing is trimmed: a page may be about to ask for it
LOOK_EVERY = 200  # results between two looks at the folder, or
LOOK_AFTER = 900.0  # seconds
_KEY = re.compile(r"[0-9a-f]{32}")


class Blobs:
    """A folder of files by digest. The least recently used go first when there are too many bytes."""

    def __init__(self, folder: Path, most: int = KEPT_BYTES, spared: float = SPARED) -> None:
        self.folder, self.most, self.spared = folder, most, spared
        self._lock = threading.Lock()
        self._since, self._looked = 0, time.monotonic()
        folder.mkdir(parents=True, exist_ok=True)
        self.trim()

    def path(self, key: str) -> Path:
        """Where a blob is kept, whether or not it is there."""
        return jobs.blob_path(str(self.folder), key)

    def used(self, key: str) -> Path | None:
        """Where a blob is, marked as used just now; None if it is not there (any more)."""
        path = self.path(key)
        try:
            # once an hour is exact enough, and spares the disk
            if time.time() - path.stat().st_mtime > min(3600.0, self.spared / 2):
                os.utime(path)
        except OSError:
            return None
        return path

    def keep(self, data: Any) -> str:
        """Keep plain data as long as there is room; the key it is found by."""
        key = digest_of(data)
        answers.write(self.folder / key[:2] / f"{key}.json", data)
        return key

    def kept(self, key: str) -> Any:
        """Plain data that was kept; None if it is not there (any more)."""
        return answers.read(self.folder / key[:2] / f"{key}.json") if _KEY.fullmatch(key) else None

    def keep_raw(self, data: bytes) -> str:
        """Keep bytes as long as there is room; the key they are found by. Raises ``OSError``."""
        key = hashlib.blake2b(data, digest_size=16).hexdigest()
        path = self.folder / key[:2] / f"{key}.bin"
        path.parent.mkdir(parents=True, exist_ok=True)
        temporary = path.with_suffix(f".{os.getpid()}")
        temporary.write_bytes(data)
        os.replace(temporary, path)
        return key

    def raw(self, key: str) -> bytes | None:
        """Bytes that were kept; None if they are not there (any more)."""
        path = self.folder / key[:2] / f"{key}.bin"
        try:
            return path.read_bytes() if _KEY.fullmatch(key) else None
        except OSError:
            return None

    def came(self) -> None:
        """A result came: now and then the folder is looked at, in a thread of its own."""
        with self._lock:
            self._since += 1
            if self._since < LOOK_EVERY and time.monotonic() - self._looked < LOOK_AFTER:
                return
            self._since, self._looked = 0, time.monotonic()
        threading.Thread(target=self.trim, daemon=True).start()

    def trim(self) -> None:
        """Delete what was used longest ago until the rest amounts to at most ``most`` bytes."""
        files = []
        for path in self.folder.rglob("*"):
            with contextlib.suppress(OSError):  # gone meanwhile
                if path.is_file():
                    files.append((path.stat(), path))
        files.sort(key=lambda f: f[0].st_mtime)
        surplus, young = sum(s.st_size for s, _ in files) - self.most, time.time() - self.spared
        for stat, path in files:
            if surplus <= 0 or stat.st_mtime > young:
                return
            path.unlink(missing_ok=True)
            surplus -= stat.st_size
