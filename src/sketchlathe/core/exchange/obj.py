"""OBJ: vertices and triangles in mm, one named object a body."""

from __future__ import annotations

from typing import ClassVar

from .base import FORMATS, Export, Format, plain_name, require_solid


@FORMATS.add
class Obj(Format):
    """Triangles as text, with names."""

    kind: ClassVar[str] = "obj"
    word: ClassVar[str] = "OBJ"
    ending: ClassVar[str] = "obj"
    media: ClassVar[str] = "model/obj"
    hint: ClassVar[str] = "triangles in mm as text, for drawing and rendering programs"
    order: ClassVar[int] = 7
    meshed: ClassVar[bool] = True

    def write(self, export: Export) -> bytes:
        from ..solid.meshing import for_export

        require_solid(export)
        out, first = ["# Sketch Lathe, mm\n"], 1
        for body in export.bodies:
            mesh = for_export(body.shape, export.chord, export.angle)
            out.append(f"o {plain_name(export.name_of(body))}\n")
            out.append(
                ("v %.7g %.7g %.7g\n" * len(mesh.positions)) % tuple(mesh.positions.astype(float).ravel().tolist())
            )
            corners = mesh.triangles.astype(int) + first
            out.append(("f %d %d %d\n" * len(corners)) % tuple(corners.ravel().tolist()))
            first += len(mesh.positions)
        return "".join(out).encode("ascii")
