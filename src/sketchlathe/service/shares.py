"""Nobody's work stands in the way of everybody else's: how much of it one person may have under way at once."""

from __future__ import annotations

import threading
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager

from ..core.errors import Trouble
from ..workers.contract import Lane

MOST: dict[Lane, int] = {"ask": 12, "long": 3}
_SAYS = {
    "ask": "Too much of yours is being built at once: wait a moment, then ask for it again.",
    "long": "Three things of yours that take long are under way already: wait for one of them, or stop it.",
}


class TooMuch(Trouble):
    """A person has as much under way as one may have."""


class Shares:
    """What each person has under way."""

    def __init__(self) -> None:
        self._under_way: Counter[tuple[str, Lane]] = Counter()
        self._lock = threading.Lock()

    @contextmanager
    def share(self, person: str, lane: Lane) -> Iterator[None]:
        """For as long as one thing of a person's is worked at. Raises ``TooMuch``. What nobody waits for is limited by
        itself (see ``studies``).
        """
        key = person, lane
        with self._lock:
            if person and lane in MOST and self._under_way[key] >= MOST[lane]:
                raise TooMuch(_SAYS[lane])
            self._under_way[key] += 1
        try:
            yield
        finally:
            with self._lock:
                self._under_way[key] -= 1
                if not self._under_way[key]:
                    del self._under_way[key]
