"""New things of a sketch: their ids, curves read from data."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from ...errors import BadInput
from ...sketch.curves import CURVES, Curve
from ..document import Model
from ..sound import problem_in


class Numbering:
    """Hands out ids while a sketch is changed; ``model`` knows them afterwards."""

    def __init__(self, model: Model) -> None:
        self.model = model

    def __call__(self, prefix: str) -> str:
        ids, self.model = self.model.fresh(prefix)
        return ids[0]


def parsed_curve(raw: dict[str, Any]) -> Curve:
    """A curve from its data; what is wrong with it in words."""
    try:
        return CURVES.parse(raw)
    except ValidationError as error:
        raise BadInput(f"{problem_in(error)}.") from error
