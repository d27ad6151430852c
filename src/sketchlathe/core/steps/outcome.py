"""What becomes of a new shape: the blank that all shape-making steps share."""

from __future__ import annotations

from typing import Literal

from ..blanks import Blank

Result = Literal["add", "cut", "overlap", "separate"]
RESULT = Blank(
    "choice",
    "result",
    "What becomes of the new shape.",
    {
        "add": "adding material",
        "cut": "cutting away",
        "overlap": "keeping the overlap",
        "separate": "as a separate body",
    },
)

ON = Blank("bodies", "bodies", "Which bodies it works on; all that it meets when none is picked.", optional=True)
