"""Zip files from elsewhere: what a damaged one may end in."""

from __future__ import annotations

import lzma
import struct
import zipfile
import zlib

# by its method of packing, and by which of its tables is damaged (found by nonsense, see ``proving.fuzzing``)
DAMAGED = (
    zipfile.BadZipFile, zlib.error, lzma.LZMAError, struct.error, RuntimeError, NotImplementedError, EOFError, OSError,
    ValueError, OverflowError, IndexError,
)  # fmt: skip
