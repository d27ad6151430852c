"""What every format declares."""

from __future__ import annotations

import io
import re
import unicodedata
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any, ClassVar, NamedTuple

from ..errors import CannotBuild
from ..model.document import origin_of
from ..model.made_of import bought_as, colour_for, key_for
from ..registry import Registry, kind_of

if TYPE_CHECKING:
    from ..making.results import PartBuild
    from ..model.document import Model, Part
    from ..solid.naming import Body
    from .outlines import Outline

DEFAULT_CHORD = 0.02  # mm
DEFAULT_ANGLE = 0.2  # rad


@dataclass(frozen=True)
class Export:
    """What is taken out: a model's part as built, and how fine its mesh is to be (mm, rad).

    ``outline``: the flat drawing that is taken out, for formats of drawings; ``mass``: of what a sheet shows, in words.
    """

    model: Model
    part: Part
    bodies: tuple[Body, ...]
    chord: float = DEFAULT_CHORD
    angle: float = DEFAULT_ANGLE
    outline: Outline | None = None
    built: PartBuild | None = None
    mass: str = ""

    def name_of(self, body: Body) -> str:
        """What a body is called in the file: as it was named, or in a shop, else by the part and its number."""
        own = next((n.name for n in self.part.body_names if n.body == body.id), None)
        if own is not None:
            return own
        if bought := bought_as(self.model, self.part, body):
            return bought
        source, _ = origin_of(self.model, self.part, body)
        if source is not self.part:
            return self.model.title_of_body(body.id, source)
        if (self.built is not None and len(self.built.bodies) > 1) or len(self.bodies) > 1:
            everything = self.built.bodies if self.built is not None else self.bodies
            number = next((i for i, b in enumerate(everything, 1) if b.id == body.id), 1)
            return f"{self.part.name}, body {number}"
        return self.part.name

    def name_of_alike(self, bodies: Sequence[Body]) -> str:
        """What equal copies are called together: the name of the part they come from."""
        if len(bodies) == 1 or bodies[0].came is None:
            return self.name_of(bodies[0])
        source, there = origin_of(self.model, self.part, bodies[0])
        own = next((n.name for n in source.body_names if n.body == there), None)
        return own or source.name

    def colour_of(self, body: Body) -> str:
        """A body's colour, #rrggbb: the one it was given, or its material's."""
        return colour_for(self.model, self.part, body)


class Alike(NamedTuple):
    """A shape, and the bodies that are it: each with its motion (see ``Copied``), None for one that is no copy."""

    shape: Any
    bodies: tuple[Body, ...]
    motions: tuple[tuple[float, ...] | None, ...]


def alike(export: Export) -> list[Alike]:
    """The bodies by shape, equal copies of one finish together."""
    from ..solid.transforms import original_of

    groups: dict[tuple[str, ...], list[Body]] = {}
    for body in export.bodies:
        finish = (export.colour_of(body), key_for(export.model, export.part, body))
        key = (body.came.of, body.came.state, *finish) if body.came and body.came.motion else (body.id,)
        groups.setdefault(key, []).append(body)
    return [
        Alike(
            original_of(bodies[0]) if bodies[0].came and bodies[0].came.motion else bodies[0].shape, tuple(bodies),
            tuple(b.came.motion or None if b.came else None for b in bodies),
        )
        for bodies in groups.values()
    ]  # fmt: skip


class Format:
    """One format. ``of``: what it can hold ("part", "outline", "sheet"); ``meshed``: it asks how fine triangles are to
    be.
    """

    kind: ClassVar[str]
    word: ClassVar[str]
    ending: ClassVar[str]
    media: ClassVar[str]
    hint: ClassVar[str]
    order: ClassVar[int] = 100
    of: ClassVar[str] = "part"
    meshed: ClassVar[bool] = False
    needs_solid: ClassVar[bool] = True

    def write(self, export: Export) -> bytes:
        """The file's content. Raises ``CannotBuild`` when there is nothing to write."""
        raise NotImplementedError


FORMATS: Registry[Format] = Registry("format", "sketchlathe.core.exchange")


def describe_formats() -> list[dict[str, Any]]:
    """All formats as plain data."""
    return [
        {
            "kind": kind_of(f), "word": f.word, "ending": f.ending, "hint": f.hint, "of": f.of, "meshed": f.meshed,
            "solid": f.needs_solid,
        }
        for f in FORMATS
    ]  # fmt: skip


def require_solid(export: Export) -> None:
    """Refuse to write a part without a solid."""
    if not export.bodies:
        raise CannotBuild(f"“{export.part.name}” has no solid yet: extrude a sketch first, then take it out.")


def require_outline(export: Export) -> Outline:
    """The drawing to write; refuses to write an empty one."""
    if export.outline is None or not export.outline.curves:
        raise CannotBuild("There is nothing to draw here: choose a sketch, a flat face or a section with curves in it.")
    return export.outline


def separately(format_: Format, export: Export) -> bytes:
    """A zip with one file for each body."""
    require_solid(export)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        used: set[str] = set()
        for number, body in enumerate(export.bodies, 1):
            own = next((n.name for n in export.part.body_names if n.body == body.id), None)
            stem = plain_name(own) if own else f"{plain_name(export.part.name)}-{number}"
            name = f"{stem}.{format_.ending}" if stem not in used else f"{stem}-{number}.{format_.ending}"
            used.add(stem)
            archive.writestr(name, format_.write(replace(export, bodies=(body,))))
    return out.getvalue()


def file_stem(model: Model, part: Part, revision: int | None = None, more: Sequence[str] = ()) -> str:
    """A file name without ending from model, part and revision."""
    parts = [model.name] if len(model.there) == 1 else [model.name, part.name]
    parts += more
    if revision is not None:
        parts.append(f"r{revision}")
    return plain_name(" ".join(parts))


def plain_name(text: str) -> str:
    """A text as a file name: letters outside ASCII lose their accents, what cannot be in a name becomes ``-``.

    >>> plain_name("Höhen / Platte")
    'hohen-platte'
    """
    spread = unicodedata.normalize("NFKD", text)
    plain = "".join(c if c.isascii() else "" if unicodedata.combining(c) else " " for c in spread)
    return re.sub(r"[^A-Za-z0-9]+", "-", plain).strip("-").lower()[:80] or "part"
