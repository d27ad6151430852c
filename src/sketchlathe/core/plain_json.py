"""Plain data as JSON, and keys from it."""

from __future__ import annotations

import hashlib
import json
from typing import Any

import orjson


def dumped(value: Any) -> str:
    """Plain data as compact JSON: ten times as fast as by the library of Python, which takes what the fast one does not
    (numbers of more than 64 bits, keys that are no texts).
    """
    try:
        return orjson.dumps(value, option=orjson.OPT_SERIALIZE_NUMPY).decode()
    except TypeError:
        return json.dumps(value, separators=(",", ":"))


def digest_of(parts: Any) -> str:
    """A key from plain data."""
    text = json.dumps(parts, sort_keys=True, separators=(",", ":"), default=str)
    return hashlib.blake2b(text.encode(), digest_size=16).hexdigest()
