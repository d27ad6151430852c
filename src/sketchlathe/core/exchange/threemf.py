"""3MF (3MF Consortium, core specification 1.3), written by lib3mf: one object a shape, a build item a copy, in mm,
with names.
"""

from __future__ import annotations

import functools
from collections.abc import Sequence
from typing import Any, ClassVar

import numpy as np

from ..model.made_of import key_for, material_of
from .base import FORMATS, Export, Format, alike, require_solid


@FORMATS.add
class ThreeMf(Format):
    """Bodies as separate objects with units and names."""

    kind: ClassVar[str] = "3mf"
    word: ClassVar[str] = "3MF"
    ending: ClassVar[str] = "3mf"
    media: ClassVar[str] = "model/3mf"
    hint: ClassVar[str] = "units, names, colours and separate bodies; the best for printing"
    order: ClassVar[int] = 1
    meshed: ClassVar[bool] = True

    def write(self, export: Export) -> bytes:
        import lib3mf

        from ..inspect.picture import picture
        from ..solid.meshing import meshed, welded

        require_solid(export)
        wrapper = _library()
        document = wrapper.CreateModel()
        document.SetUnit(lib3mf.ModelUnit.MilliMeter)
        document.GetMetaDataGroup().AddMetaData("", "Title", export.model.name, "xs:string", True)
        stuffs = document.AddBaseMaterialGroup()
        seen: dict[str, Any] = {}  # meshes of bodies as they stand, for the picture
        for group in alike(export):
            body = group.bodies[0]
            made = meshed(group.shape, export.chord, export.angle)
            if group.motions == (None,):
                seen[body.id] = made
            mesh = welded(made)
            thing = document.AddMeshObject()
            thing.SetName(export.name_of_alike(group.bodies))
            colour = export.colour_of(body)
            material = material_of(export.model, key_for(export.model, export.part, body)).name
            red, green, blue = (int(colour[i : i + 2], 16) for i in (1, 3, 5))
            own = stuffs.AddMaterial(material, wrapper.RGBAToColor(red, green, blue, 255))
            thing.SetGeometry(*_buffers(lib3mf, mesh.positions, mesh.triangles))
            thing.SetObjectLevelProperty(stuffs.GetResourceID(), own)
            for motion in group.motions:
                document.AddBuildItem(thing, _transform(lib3mf, motion) if motion else wrapper.GetIdentityTransform())
        meshes = [seen.get(b.id) or meshed(b.shape, export.chord, export.angle) for b in export.bodies]
        shown = picture(meshes, 160, 160, [export.colour_of(b) for b in export.bodies], samples=2)
        document.CreatePackageThumbnailAttachment().ReadFromBuffer(list(shown))
        written = document.QueryWriter("3mf").WriteToBuffer()
        return bytes(written[1] if isinstance(written, tuple) else written)


@functools.cache
def _library() -> Any:
    """The library, loaded once a process."""
    from lib3mf import get_wrapper

    return get_wrapper()


def _transform(lib3mf: Any, motion: Sequence[float]) -> Any:
    """A motion as the format has it: rows of the matrix are columns, the shift comes last."""
    made = lib3mf.Transform()
    for row in range(3):
        for column in range(4):
            made.Fields[column][row] = motion[4 * row + column]
    return made


def _buffers(lib3mf: Any, positions: np.ndarray, triangles: np.ndarray) -> tuple[Any, Any]:
    """Vertices and triangles as the C structures the library takes, filled in one copy each."""
    points = (lib3mf.Position * len(positions)).from_buffer_copy(np.ascontiguousarray(positions, np.float32))
    corners = (lib3mf.Triangle * len(triangles)).from_buffer_copy(np.ascontiguousarray(triangles, np.uint32))
    return points, corners
