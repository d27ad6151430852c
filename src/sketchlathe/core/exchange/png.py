"""PNG (ISO/IEC 15948): a picture of the part."""

from __future__ import annotations

from typing import ClassVar

from .base import FORMATS, Export, Format, require_solid


@FORMATS.add
class Png(Format):
    """The part from the front, right and above."""

    kind: ClassVar[str] = "png"
    word: ClassVar[str] = "Picture"
    ending: ClassVar[str] = "png"
    media: ClassVar[str] = "image/png"
    hint: ClassVar[str] = "the part, 1600 x 1000, from the front, right and above"
    order: ClassVar[int] = 22

    def write(self, export: Export) -> bytes:
        require_solid(export)
        return draw(export, 1600, 1000)


def draw(export: Export, width: int, height: int) -> bytes:
    """A picture of all bodies; of none, an empty sheet."""
    from ..inspect.picture import picture
    from ..solid.measuring import rough_box
    from ..solid.meshing import extract, tessellate, view_tolerance

    meshes = []
    for body in export.bodies:
        low, high = rough_box(body.shape)
        tessellate(body.shape, view_tolerance(max(h - l for l, h in zip(low, high))))
        meshes.append(extract(body.shape))
    return picture(meshes, width, height, [export.colour_of(b) for b in export.bodies])
