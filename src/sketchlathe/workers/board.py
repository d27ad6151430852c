"""What all who ask must know of each other: steps that take workers down, and what to say of them."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Mapping
from typing import Protocol

FALL = {"timeout": 0.5, "crashed": 0.5, "killed": 0.25}
"""What a worker's end says against the step it was in; at 1 the step is barred. Somebody's kill counts little."""
EVERYBODY = ""
KNOWN = 5000  # steps of which falls are remembered


class Bars(Protocol):
    """What is barred for whom, and why.

    A step is known by what it is made of, so thirty people who copy one drawing have the same: what falls in one model
    is barred there. Only what fell in two of them is barred for everybody.
    """

    def bars_for(self, model_id: str) -> dict[str, str]:
        """What to say of each step that is barred in a model, by the step's key."""

    def fell(self, key: str, reason: str, says: str, model_id: str) -> None:
        """A worker ended in a step; the second time the step is barred, with ``says`` for whoever asks for it."""

    def is_bar(self, message: str) -> bool:
        """Whether a message is one of a barred step."""


class Board:
    """Bars, kept in memory: they are forgotten with the server, so that a better program gets another chance."""

    def __init__(self) -> None:
        self._bars: dict[tuple[str, str], str] = {}  # (key, model or everybody)
        self._falls: OrderedDict[str, dict[str, float]] = OrderedDict()  # by key, by model
        self._lock = threading.Lock()

    def bars_for(self, model_id: str) -> dict[str, str]:
        """See ``Bars``."""
        with self._lock:
            return {key: says for (key, whose), says in self._bars.items() if whose in (EVERYBODY, model_id)}

    def fell(self, key: str, reason: str, says: str, model_id: str) -> None:
        """See ``Bars``."""
        with self._lock:
            falls = self._falls.setdefault(key, {})
            self._falls.move_to_end(key)
            while len(self._falls) > KNOWN:
                self._falls.popitem(last=False)
            falls[model_id] = falls.get(model_id, 0.0) + FALL.get(reason, 0.5)
            for whose in to_bar(falls, model_id):
                self._bars[key, whose] = says

    def is_bar(self, message: str) -> bool:
        """See ``Bars``."""
        with self._lock:
            return message in self._bars.values()


def to_bar(falls: Mapping[str, float], model_id: str) -> list[str]:
    """For whom a step is barred, by how much it fell in which models, once it fell in ``model_id``."""
    own = [model_id] if falls[model_id] >= 1.0 else []
    return own + ([EVERYBODY] if len(falls) > 1 and sum(falls.values()) >= 1.0 else [])
