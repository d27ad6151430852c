"""STEP (ISO 10303-21) as exact solids."""

from __future__ import annotations

from typing import ClassVar

from ..errors import BadInput
from .base import READERS, Brought, Reader, packed

MOST_FACES = 5000


@READERS.add
class StepFile(Reader):
    """Solids with the names they have in the file."""

    kind: ClassVar[str] = "step"
    word: ClassVar[str] = "STEP"
    endings: ClassVar[tuple[str, ...]] = (".step", ".stp")
    gives: ClassVar[str] = "step"

    def read(self, data: bytes, name: str) -> Brought:
        from ..solid.kernel import FACE, mapped
        from ..solid.stepfile import read_step

        check_text(data, name)
        solids, notes = read_step(data, name)
        faces = sum(mapped(s.shape, FACE).Size() for s in solids)
        if faces > MOST_FACES:
            raise BadInput(f"“{name}” has {faces} faces; at most {MOST_FACES} can be worked with.")
        return Brought("step", "bring", {"file": name, "data": packed(data)}, notes=tuple(notes))


def check_text(data: bytes, name: str) -> None:
    """Refuse what is not a STEP file, or not all of one, before the kernel sees it."""
    head = data[:400].lstrip()
    if not head.startswith(b"ISO-10303-21"):
        raise BadInput(f"“{name}” is not a STEP file: it does not begin as one.")
    if b"END-ISO-10303-21" not in data[-400:]:
        raise BadInput(f"“{name}” is cut short: its end is missing.")
