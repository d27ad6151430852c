"""A picture under a sketch, to be traced: where it lies, how large it is, how strongly it shows."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from ..errors import BadInput
from .curves import Vec
from .curves.base import LIMIT

MOST_TEXT = 1_600_000  # characters of a picture that a sketch holds
Place = Annotated[float, Field(ge=-LIMIT, le=LIMIT, allow_inf_nan=False)]


class Underlay(BaseModel):
    """``data``: the picture, base 64; ``wide``, ``high``: pixels; ``x``, ``y``: where its middle lies, mm; ``scale``:
    mm a pixel; ``turn``: rad, leftwards; ``strength``: 1 shows it as it is.
    """

    model_config = ConfigDict(frozen=True, extra="forbid")

    name: str = Field(default="", max_length=120)
    media: Literal["image/png", "image/jpeg"]
    data: str = Field(min_length=1, max_length=MOST_TEXT)
    wide: int = Field(ge=1, le=4000)
    high: int = Field(ge=1, le=4000)
    x: Place = 0.0
    y: Place = 0.0
    scale: float = Field(gt=0, le=1e4, allow_inf_nan=False)
    turn: float = Field(default=0.0, ge=-400, le=400, allow_inf_nan=False)
    strength: float = Field(default=0.6, ge=0.05, le=1, allow_inf_nan=False)

    def scaled(self, a: Vec, b: Vec, apart: float) -> Underlay:
        """Set to scale: two places of it (as it lies now) that are ``apart`` mm in truth; the
        first stays where it is.
        """
        now = math.dist(a, b)
        if now < 1e-6:
            raise BadInput("Both points lie on one spot: pick two that are far from each other.")
        k = apart / now
        if not 1e-6 <= self.scale * k <= 1e4:
            raise BadInput("At that length the picture would be far too small or too large.")
        x, y = a[0] + (self.x - a[0]) * k, a[1] + (self.y - a[1]) * k
        if max(abs(x), abs(y)) > LIMIT:
            raise BadInput("At that length the picture would lie too far away.")
        return self.model_copy(update={"scale": self.scale * k, "x": x, "y": y})
