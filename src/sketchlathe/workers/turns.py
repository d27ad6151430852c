"""Whose turn it is at a worker: what somebody waits for most first, and of each one's work one thing at a time."""

from __future__ import annotations

import threading
import time
from collections import Counter

PATIENCE = 3.0  # s after which what waits is as urgent as an edit: nothing waits for ever


class Turn:
    """Somebody's place in the queue."""

    def __init__(self, who: str, urgency: int) -> None:
        self.who, self.urgency, self.since = who, urgency, time.monotonic()
        self.came = threading.Event()
        self.dropped = False


class Turns:
    """The queue before one worker."""

    def __init__(self) -> None:
        self._waiting: list[Turn] = []
        self._taken = False
        self._lock = threading.Lock()

    def ask(self, who: str, urgency: int) -> Turn:
        """A turn, which has come when its event is set. ``urgency``: 0 for the most urgent."""
        turn = Turn(who, urgency)
        with self._lock:
            if self._taken:
                self._waiting.append(turn)
            else:
                self._taken = True
                turn.came.set()
        return turn

    def leave(self, turn: Turn) -> None:
        """A turn is over: the next one's has come."""
        with self._lock:
            following = self._next()
            self._taken = following is not None
        if following is not None:
            following.came.set()

    def drop(self, turn: Turn) -> bool:
        """Take out somebody who still waits; false where the turn has come."""
        with self._lock:
            if turn not in self._waiting:
                return False
            self._waiting.remove(turn)
            turn.dropped = True
        turn.came.set()
        return True

    def _next(self) -> Turn | None:
        """The most urgent; among those the first of everybody's before the second of anybody's."""
        ahead: Counter[str] = Counter()
        best, rank, now = None, (0, 0), time.monotonic()
        for turn in self._waiting:  # in the order in which they came
            urgency = 0 if now - turn.since > PATIENCE else turn.urgency
            mine = urgency, ahead[turn.who]
            ahead[turn.who] += 1
            if best is None or mine < rank:
                best, rank = turn, mine
        if best is not None:
            self._waiting.remove(best)
        return best
