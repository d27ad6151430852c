"""What every reader declares, and what comes of a file."""

from __future__ import annotations

import base64
import binascii
import zlib
from dataclasses import dataclass, field
from pathlib import PurePath
from typing import Any, ClassVar

from ..errors import BadInput, Trouble
from ..registry import Registry, kind_of
from ..saying import a

MOST_BYTES = 25_000_000
MOST_PACKED = 14_000_000  # characters of a file that a model holds


@dataclass(frozen=True)
class Brought:
    """What a file had in it. ``gives``: "step" (``fields`` of a step of kind ``step``), "curves", "underlay" or
    "parameters".

    ``data``: what the screen needs besides. ``notes``: what was left out, in words.
    """

    gives: str
    step: str = ""
    fields: dict[str, Any] = field(default_factory=dict)
    data: dict[str, Any] = field(default_factory=dict)
    notes: tuple[str, ...] = ()


class Reader:
    """One format."""

    kind: ClassVar[str]
    word: ClassVar[str]
    endings: ClassVar[tuple[str, ...]]
    gives: ClassVar[str]
    most: ClassVar[int] = MOST_BYTES

    def read(self, data: bytes, name: str) -> Brought:
        """What is in a file. Raises ``BadInput`` with a sentence that says what is wrong with it."""
        raise NotImplementedError


READERS: Registry[Reader] = Registry("reader", "sketchlathe.core.bringing")


def describe_readers() -> list[dict[str, Any]]:
    """All readers as plain data."""
    return [
        {"kind": kind_of(r), "word": r.word, "spoken": a(r.word), "endings": r.endings, "gives": r.gives}
        for r in READERS
    ]


def reader_for(name: str) -> Reader:
    """The reader for a file name. Raises ``BadInput`` with the endings that are known."""
    ending = PurePath(name).suffix.lower()
    for cls in READERS:
        if ending in cls.endings:
            return cls()
    known = ", ".join(e for r in READERS for e in r.endings)
    raise BadInput(f"“{ending or name[-20:]}” is not a kind of file that can be brought in; known are {known}.")


def read_file(data: bytes, name: str) -> Brought:
    """What is in a file. Raises ``BadInput`` with a sentence, whatever the libraries that read it raise."""
    reader = reader_for(name)
    if not data:
        raise BadInput(f"“{_short(name)}” is empty.")
    if len(data) > reader.most:
        raise BadInput(
            f"“{_short(name)}” has {len(data) / 1e6:.0f} MB; {a(reader.word)} file may have at most "
            f"{reader.most / 1e6:.0f} MB."
        )
    try:
        return reader.read(data, _short(name))
    except (Trouble, MemoryError):
        raise
    except Exception as error:
        raise BadInput(f"“{_short(name)}” is damaged: it cannot be read as {reader.word}.") from error


def _short(name: str) -> str:
    plain = PurePath(name.replace("\\", "/")).name
    return plain if len(plain) <= 60 else f"{plain[:40]}…{plain[-16:]}"


def packed(data: bytes) -> str:
    """A file's content as text that a model can hold."""
    text = base64.b85encode(zlib.compress(data, 9)).decode("ascii")
    if len(text) > MOST_PACKED:
        raise BadInput("This file is too large to be kept in a model, even packed. Make it simpler first.")
    return text


def unpacked(text: str, most: int = 200_000_000) -> bytes:
    """What ``packed`` has packed; refuses what would grow beyond ``most`` bytes."""
    try:
        tool = zlib.decompressobj()
        data = tool.decompress(base64.b85decode(text), most)
    except (zlib.error, binascii.Error, ValueError) as error:
        raise BadInput("The file in this step is damaged. Bring it in again.") from error
    if tool.unconsumed_tail or not tool.eof:
        raise BadInput("The file in this step is damaged or too large. Bring it in again.")
    return data
