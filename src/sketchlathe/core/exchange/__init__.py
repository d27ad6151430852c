"""Open formats in and out: one module each. A format declares its name, ending and media type, and writes bytes."""

from .base import FORMATS, Export, Format, file_stem

__all__ = ["FORMATS", "Export", "Format", "file_stem"]
