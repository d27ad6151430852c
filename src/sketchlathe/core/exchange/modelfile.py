"""The model itself: its documented JSON."""

from __future__ import annotations

import json
import re
from typing import ClassVar

from ..errors import BadInput
from ..model.document import Model, read_model
from .base import FORMATS, Export, Format

MAX_BYTES = 20_000_000
MAX_DEPTH = 60


@FORMATS.add
class ModelFile(Format):
    """Everything that can be edited again."""

    kind: ClassVar[str] = "model"
    word: ClassVar[str] = "Model file"
    ending: ClassVar[str] = "json"
    media: ClassVar[str] = "application/json"
    hint: ClassVar[str] = "everything, to be brought in and edited again"
    order: ClassVar[int] = 4
    needs_solid: ClassVar[bool] = False

    def write(self, export: Export) -> bytes:
        return dump_model(export.model)


def dump_model(model: Model) -> bytes:
    """A model as its file."""
    return (json.dumps(model.as_json(), indent=1, ensure_ascii=False) + "\n").encode()


def load_model(data: bytes) -> Model:
    """A model from its file. Raises ``BadInput`` saying what is wrong with it."""
    if len(data) > MAX_BYTES:
        raise BadInput(
            f"This file is too large: {len(data) // 1_000_000} MB, at most {MAX_BYTES // 1_000_000} MB can be read."
        )
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise BadInput("This is not a model file: it is not text.") from error
    if _depth(text) > MAX_DEPTH:
        raise BadInput("This is not a sound model file: it is nested too deeply.")
    try:
        raw = json.loads(text, parse_constant=_no_constant)
    except (json.JSONDecodeError, RecursionError) as error:
        place = f" at line {error.lineno}" if isinstance(error, json.JSONDecodeError) else ""
        raise BadInput(f"This file is cut short or damaged: it cannot be read{place}.") from error
    return read_model(raw)


def _no_constant(word: str) -> float:
    raise BadInput(f"This is not a sound model file: it has “{word}” where a number belongs.")


# a text in quotes (or the rest, where it does not end), or a bracket: each letter is looked at once
_TOKENS = re.compile(r'"[^"\\]*(?:\\.?[^"\\]*)*(?:"|\Z)|[\[{\]}]', re.DOTALL)


def _depth(text: str) -> int:
    """How deeply brackets nest. Those in texts do not count: a file that was brought in is packed with them."""
    depth = deepest = 0
    for token in _TOKENS.finditer(text):
        letter = token.group() if token.end() - token.start() == 1 else ""
        if letter and letter in "[{":
            depth += 1
            deepest = max(deepest, depth)
        elif letter and letter in "]}":
            depth -= 1
    return deepest
