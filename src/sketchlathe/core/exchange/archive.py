"""One archive (zip) of a model: its file, a picture of the part, its steps and parameters as tables."""

from __future__ import annotations

import io
import zipfile
from typing import ClassVar

from ..errors import BadInput
from ..model.document import Model
from ..zips import DAMAGED
from .base import FORMATS, Export, Format, plain_name
from .modelfile import MAX_BYTES, dump_model, load_model
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


def load_archive(data: bytes) -> Model:
    """The model of an archive. Raises ``BadInput`` saying what is wrong with it."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            info = archive.getinfo(MODEL)
            if info.file_size > MAX_BYTES:
                raise BadInput(
                    f"The model in this archive has {info.file_size // 1_000_000} MB, more than can be read."
                )
            return load_model(archive.read(info))
    except KeyError:
        raise BadInput(f"This zip file is not an archive of a model: there is no {MODEL} in it.") from None
    except DAMAGED as error:
        raise BadInput("This archive is damaged, or cut short: it cannot be unpacked.") from error
