"""Meshes and answers on disk: found by digest, trimmed while the server runs. All of them can be made again."""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
import re
import threading
import time
from pathlib import Path
from typing import Any

from ..core.errors import Trouble
from ..core.model.results import digest_of

KEPT_BYTES = 4 << 30
SPARED = 600.0  # seconds since its last use during which nothing is trimmed: a page may be about to ask for it
LOOK_EVERY = 200  # results between two looks at the folder, or
LOOK_AFTER = 900.0  # seconds
_KEY = re.compile(r"[0-9a-f]{32}")


FULL = "The disk of this server is full: nothing can be shown until there is room again. Nothing is lost."


def blob_path(blobs: str, key: str) -> Path:
    """Where a mesh is kept (gzip)."""
    return Path(blobs) / key[:2] / f"{key}.gz"


def document_of(blobs: str, digest: str) -> str:
    """The text of a document that was kept. Raises ``Trouble`` where it has been trimmed meanwhile."""
    try:
        return (Path(blobs) / digest[:2] / f"{digest}.bin").read_text()
    except OSError as error:
        raise Trouble("This took so long that what it works on was put away meanwhile: ask for it again.") from error


def bytes_of(blobs: str, key: str) -> bytes:
    """Bytes that were kept. Raises ``Trouble`` where they have been trimmed meanwhile."""
    try:
        return (Path(blobs) / key[:2] / f"{key}.bin").read_bytes()
    except OSError as error:
        raise Trouble("This took so long that what it works on was put away meanwhile: ask for it again.") from error


def read_json(path: Path) -> Any:
    """Plain data of a file; None where it is not there, or damaged."""
    try:
        return json.loads(path.read_bytes())
    except (OSError, ValueError):
        return None


def write_json(path: Path, data: Any) -> None:
    """Keep plain data in a file; a disk that is full costs speed, nothing else."""
    temporary = path.with_suffix(f".{os.getpid()}-{threading.get_ident()}")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        temporary.write_text(json.dumps(data, separators=(",", ":")))
        os.replace(temporary, path)
    except OSError:
        temporary.unlink(missing_ok=True)


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
        return blob_path(str(self.folder), key)

    def used(self, key: str) -> Path | None:
        """Where a blob is, marked as used just now; None if it is not there (any more)."""
        path = self.path(key)
        return path if self._fresh(path) else None

    def keep(self, data: Any) -> str:
        """Keep plain data as long as there is room; the key it is found by."""
        key = digest_of(data)
        write_json(self.folder / key[:2] / f"{key}.json", data)
        return key

    def kept(self, key: str) -> Any:
        """Plain data that was kept; None if it is not there (any more)."""
        return read_json(self.folder / key[:2] / f"{key}.json") if _KEY.fullmatch(key) else None

    def keep_raw(self, data: bytes) -> str:
        """Keep bytes as long as there is room; the key they are found by. Raises ``Trouble`` where the disk is full."""
        key = hashlib.blake2b(data, digest_size=16).hexdigest()
        path = self.folder / key[:2] / f"{key}.bin"
        if self._fresh(path):
            return key
        path.parent.mkdir(parents=True, exist_ok=True)
        temporary = path.with_suffix(f".{os.getpid()}-{threading.get_ident()}")
        try:
            temporary.write_bytes(data)
            os.replace(temporary, path)
        except OSError as error:
            temporary.unlink(missing_ok=True)
            raise Trouble(FULL) from error
        return key

    def keep_document(self, text: str) -> str:
        """Keep the text of a model for those that are to work on it; its digest."""
        return self.keep_raw(text.encode())

    def _fresh(self, path: Path) -> bool:
        """Whether a file is there, marked as used just now."""
        try:
            if time.time() - path.stat().st_mtime > min(60.0, self.spared / 2):
                os.utime(path)
        except OSError:
            return False
        return True

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
