"""STEP (ISO 10303-242, "AP242"): the exact solids, with names."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import ClassVar

from ..errors import CannotBuild
from .base import FORMATS, Export, Format, alike, require_solid


@FORMATS.add
class Step(Format):
    """Exact solids for other programs."""

    kind: ClassVar[str] = "step"
    word: ClassVar[str] = "STEP"
    ending: ClassVar[str] = "step"
    media: ClassVar[str] = "model/step"
    hint: ClassVar[str] = "the exact solid with names and colours, for other modelling programs"
    order: ClassVar[int] = 3

    def write(self, export: Export) -> bytes:
        from ..solid.stepfile import StepSolid, write_step

        require_solid(export)
        solids = [
            StepSolid(
                group.shape, export.name_of_alike(group.bodies), export.colour_of(group.bodies[0]),
                tuple(zip((export.name_of(b) for b in group.bodies), group.motions)),
            )
            for group in alike(export)
        ]  # fmt: skip
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "out.step"
            if not write_step(solids, export.part.name, str(path)):
                raise CannotBuild("This part could not be written as STEP.")
            return path.read_bytes()
