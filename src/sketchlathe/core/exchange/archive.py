"""One archive (zip) of a model: its file, a picture of the part, its steps and parameters as tables."""

from __future__ import annotations

import io
import zipfile
from typing import ClassVar

from .base import FORMATS, Export, Format, plain_name
from .modelfile import dump_model
from .png import draw
from .tables import ParameterTable, StepTable

MODEL = "model.json"


@FORMATS.add
class Archive(Format):
    """Everything, with pictures."""

    kind: ClassVar[str] = "archive"
    word: ClassVar[str] = "Archive"
    ending: ClassVar[str] = "zip"
    media: ClassVar[str] = "application/zip"
    hint: ClassVar[str] = "the model file with pictures and tables; can be brought in again"
    order: ClassVar[int] = 5
    needs_solid: ClassVar[bool] = False

    def write(self, export: Export) -> bytes:
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr(MODEL, dump_model(export.model))
            archive.writestr(f"pictures/{plain_name(export.part.name)}.png", draw(export, 960, 600))
            archive.writestr("parameters.csv", ParameterTable().write(export))
            archive.writestr("steps.csv", StepTable().write(export))
        return out.getvalue()
