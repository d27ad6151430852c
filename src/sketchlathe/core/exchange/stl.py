"""STL (1989): binary, an 80-byte header, a count, 50 bytes a triangle; or as text."""

from __future__ import annotations

from typing import ClassVar

import numpy as np

from .base import FORMATS, Export, Format, plain_name, require_solid

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
    meshed: ClassVar[bool] = True

    def write(self, export: Export) -> bytes:
        facets = _facets(export)
        return b"Sketch Lathe, mm".ljust(80, b" ") + np.uint32(len(facets)).tobytes() + facets.tobytes()


@FORMATS.add
class StlText(Format):
    """The same, to be read by people and old programs."""

    kind: ClassVar[str] = "stl-text"
    word: ClassVar[str] = "STL, text"
    ending: ClassVar[str] = "stl"
    media: ClassVar[str] = "model/stl"
    hint: ClassVar[str] = "the same as text, for old programs"
    order: ClassVar[int] = 6
    meshed: ClassVar[bool] = True

    def write(self, export: Export) -> bytes:
        facet = (
            "facet normal %.6e %.6e %.6e\n outer loop\n  vertex %.7e %.7e %.7e\n  vertex %.7e %.7e %.7e\n"
            "  vertex %.7e %.7e %.7e\n endloop\nendfacet\n"
        )
        found = _facets(export)
        numbers = np.concatenate([found["normal"], found["corners"].reshape(-1, 9)], axis=1).astype(float)
        name = plain_name(export.part.name)
        body = (facet * len(numbers)) % tuple(numbers.ravel().tolist())
        return f"solid {name}\n{body}endsolid {name}\n".encode("ascii")


def _facets(export: Export) -> np.ndarray:
    """Normals and corners of all triangles of all bodies."""
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
    return np.concatenate(parts)
