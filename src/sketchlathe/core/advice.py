"""Advice on a step, with its remedy."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from typing_extensions import TypedDict


class AdviceTold(TypedDict):
    """Advice as the screen is told of it."""

    text: str
    fix: str
    fields: dict[str, Any]
    edits: list[dict[str, Any]]
    settled: dict[str, Any]


@dataclass(frozen=True)
class Advice:
    """Something to look at, with a one-click remedy where there is one: fields to set on the step, or edits to make.

    ``settled``: fields that say the same without any doubt, for a person who has looked and finds it right.
    """

    text: str
    fix: str = ""
    fields: Mapping[str, Any] = field(default_factory=dict)
    edits: tuple[Mapping[str, Any], ...] = ()
    settled: Mapping[str, Any] = field(default_factory=dict)

    def as_json(self) -> AdviceTold:
        """Plain data, for the screen."""
        return {
            "text": self.text,
            "fix": self.fix,
            "fields": dict(self.fields),
            "edits": [dict(e) for e in self.edits],
            "settled": dict(self.settled),
        }
