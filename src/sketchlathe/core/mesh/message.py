"""The binary message that the screen reads bodies from: uint32 header length, JSON header, 8-byte aligned arrays."""

from __future__ import annotations

import json
import struct
from collections.abc import Mapping
from typing import Any

import numpy as np


def message(header: Mapping[str, Any], arrays: Mapping[str, np.ndarray]) -> bytes:
    """Header and arrays as one message; the header gets ``arrays``: {name: [type, count, offset]}."""
    offset, table = 0, {}
    for name, array in arrays.items():
        table[name] = [array.dtype.name, len(array), offset]
        offset += -(-array.nbytes // 8) * 8
    text = json.dumps({**header, "arrays": table}, separators=(",", ":")).encode()
    text += b" " * (-(len(text) + 4) % 8)
    out = bytearray(struct.pack("<I", len(text)) + text)
    for array in arrays.values():
        out += array.tobytes()
        out += b"\0" * (-array.nbytes % 8)
    return bytes(out)
