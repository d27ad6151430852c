"""What all who ask must know of each other: steps that take workers down, and what to say of them."""

from __future__ import annotations

import threading
from typing import Protocol

FALL = {"timeout": 1.0, "crashed": 0.5, "killed": 0.25}
"""What a worker's end says against the step it was in; at 1 the step is barred. Somebody's kill counts little."""


class Bars(Protocol):
    """What is barred, and why."""

    @property
    def bars(self) -> dict[str, str]:
        """What to say of each barred step, by the step's key."""

    def fell(self, key: str, reason: str, says: str) -> None:
        """A worker ended in a step; the second time the step is barred, with ``says`` for whoever asks for it."""

    def is_bar(self, message: str) -> bool:
        """Whether a message is one of a barred step."""


class Board:
    """Bars, kept in memory: they are forgotten with the server, so that a better program gets another chance."""

    def __init__(self) -> None:
        self._bars: dict[str, str] = {}
        self._falls: dict[str, float] = {}
        self._lock = threading.Lock()

    @property
    def bars(self) -> dict[str, str]:
        """What to say of each barred step, by the step's key."""
        with self._lock:
            return dict(self._bars)

    def fell(self, key: str, reason: str, says: str) -> None:
        """A worker ended in a step; the second time the step is barred, with ``says`` for whoever asks for it."""
        with self._lock:
            fell = self._falls[key] = self._falls.get(key, 0.0) + FALL.get(reason, 0.5)
            if fell >= 1.0:
                self._bars[key] = says
                self._falls.pop(key, None)

    def is_bar(self, message: str) -> bool:
        """Whether a message is one of a barred step."""
        with self._lock:
            return message in self._bars.values()
