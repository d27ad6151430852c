"""What every format declares."""

from __future__ import annotations

import re
import unicodedata
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, ClassVar

from ..errors import CannotBuild
from ..registry import Registry, kind_of

if TYPE_CHECKING:
    from ..model.document import Model, Part
    from ..solid.naming import Body

DEFAULT_CHORD = 0.02  # mm
DEFAULT_ANGLE = 0.2  # rad


@dataclass(frozen=True)
class Export:
    """What is taken out: a model's part as built, and how fine its mesh is to be (mm, rad)."""

    model: Model
    part: Part
    bodies: tuple[Body, ...]
    chord: float = DEFAULT_CHORD
    angle: float = DEFAULT_ANGLE


class Format:
    """One format."""

    kind: ClassVar[str]
    word: ClassVar[str]
    ending: ClassVar[str]
    media: ClassVar[str]
    hint: ClassVar[str]
    order: ClassVar[int] = 100
    needs_solid: ClassVar[bool] = True

    def write(self, export: Export) -> bytes:
        """The file's content. Raises ``CannotBuild`` when there is nothing to write."""
        raise NotImplementedError


FORMATS: Registry[Format] = Registry("format", "sketchlathe.core.exchange")


def describe_formats() -> list[dict[str, Any]]:
    """All formats as plain data."""
    return [{"kind": kind_of(f), "word": f.word, "ending": f.ending, "hint": f.hint} for f in FORMATS]


def require_solid(export: Export) -> None:
    """Refuse to write a part without a solid."""
    if not export.bodies:
        raise CannotBuild(f"“{export.part.name}” has no solid yet: extrude a sketch first, then take it out.")


def file_stem(model: Model, part: Part, revision: int | None = None) -> str:
    """A file name without ending from model, part and revision.

    Letters outside ASCII lose their accents; what cannot be in a file name becomes ``-``.
    """
    parts = [model.name] if len(model.parts) == 1 else [model.name, part.name]
    if revision is not None:
        parts.append(f"r{revision}")
    spread = unicodedata.normalize("NFKD", " ".join(parts))
    plain = "".join(c if c.isascii() else "" if unicodedata.combining(c) else " " for c in spread)
    return re.sub(r"[^A-Za-z0-9]+", "-", plain).strip("-").lower()[:80] or "part"
