"""3MF (3MF Consortium, core specification 1.3), written by lib3mf: one object a body, in mm, with names."""

from __future__ import annotations

from typing import Any, ClassVar

import numpy as np

from .base import FORMATS, Export, Format, require_solid


@FORMATS.add
class ThreeMf(Format):
    """Bodies as separate objects with units and names."""

    kind: ClassVar[str] = "3mf"
    word: ClassVar[str] = "3MF"
    ending: ClassVar[str] = "3mf"
    media: ClassVar[str] = "model/3mf"
    hint: ClassVar[str] = "units, names and separate bodies; the best for printing"
    order: ClassVar[int] = 1

    def write(self, export: Export) -> bytes:
        import lib3mf
        from lib3mf import get_wrapper

        from ..solid.meshing import for_export

        require_solid(export)
        wrapper: Any = get_wrapper()
        document = wrapper.CreateModel()
        document.SetUnit(lib3mf.ModelUnit.MilliMeter)
        document.GetMetaDataGroup().AddMetaData("", "Title", export.model.name, "xs:string", True)
        for number, body in enumerate(export.bodies, 1):
            mesh = for_export(body.shape, export.chord, export.angle)
            thing = document.AddMeshObject()
            single = len(export.bodies) == 1
            thing.SetName(export.part.name if single else f"{export.part.name}, body {number}")
            thing.SetGeometry(*_buffers(lib3mf, mesh.positions, mesh.triangles))
            document.AddBuildItem(thing, wrapper.GetIdentityTransform())
        written = document.QueryWriter("3mf").WriteToBuffer()
        return bytes(written[1] if isinstance(written, tuple) else written)


def _buffers(lib3mf: Any, positions: np.ndarray, triangles: np.ndarray) -> tuple[Any, Any]:
    """Vertices and triangles as the C structures the library takes, filled in one copy each."""
    points = (lib3mf.Position * len(positions)).from_buffer_copy(np.ascontiguousarray(positions, np.float32))
    corners = (lib3mf.Triangle * len(triangles)).from_buffer_copy(np.ascontiguousarray(triangles, np.uint32))
    return points, corners
