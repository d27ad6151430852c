"""STL, binary: an 80-byte header, a count, 50 bytes a triangle (3D Systems, 1989)."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from .base import FORMATS, Export, Format, require_solid

_TRIANGLE = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


@FORMATS.add
class Stl(Format):
    """Triangles in mm, all bodies in one."""

    kind: ClassVar[str] = "stl"
    word: ClassVar[str] = "STL"
    ending: ClassVar[str] = "stl"
    media: ClassVar[str] = "model/stl"
    hint: ClassVar[str] = "triangles in mm, for any slicing program"
    order: ClassVar[int] = 2

    def write(self, export: Export) -> bytes:
        from ..solid.meshing import for_export

        require_solid(export)
        parts = []
        for body in export.bodies:
            mesh = for_export(body.shape, export.chord, export.angle)
            corners = mesh.positions[mesh.triangles]
            out = np.zeros(len(corners), _TRIANGLE)
            facet = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
            out["normal"] = facet / np.maximum(np.linalg.norm(facet, axis=1), 1e-30)[:, None]
            out["corners"] = corners
            parts.append(out)
        triangles = np.concatenate(parts)
        return b"Sketch Lathe, mm".ljust(80, b" ") + np.uint32(len(triangles)).tobytes() + triangles.tobytes()
