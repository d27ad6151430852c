"""Advice on a step, with its remedy."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True)
class Advice:
    """Something to look at, with a one-click remedy where there is one: fields to set on the step."""

    text: str
    fix: str = ""
    fields: Mapping[str, Any] = field(default_factory=dict)
