"""The printer as the service sees it: asked over HTTP; one that does not answer is a state, not an error."""

from __future__ import annotations

import http.client
import json
import threading
import time
from collections.abc import Iterator
from typing import Any

from ..core.errors import Refused, Trouble


class PrinterLink:
    """One printer on loopback."""

    def __init__(self, port: int, host: str = "127.0.0.1") -> None:
        self._host, self._port = host, port
        self._lock = threading.RLock()
        self._seen: tuple[float, dict[str, Any]] = (0.0, {})

    def state(self, fresh: float = 0.3) -> dict[str, Any]:
        """What it is doing; ``{"state": "lost"}`` while it does not answer. Asked at most every ``fresh`` seconds."""
        with self._lock:
            at, found = self._seen
            if time.monotonic() - at < fresh and found:
                return found
            try:
                found = self._ask("GET", "/state", timeout=1.0)
            except Trouble:
                found = {"state": "lost", "job": None, "waiting": [], "ended": [], "name": "Practice printer"}
            self._seen = (time.monotonic(), found)
            return found

    def upload(self, program: bytes) -> dict[str, Any]:
        """A program into its queue. Raises ``Trouble`` in words when it vanishes half-way: nothing is queued then."""
        return self._ask("POST", "/jobs", program, timeout=30.0)

    def act(self, path: str) -> dict[str, Any]:
        """Pause, resume, cancel, a new spool, a played fault."""
        return self._ask("POST", path, b"")

    def changes(self, seconds: float = 55.0, every: float = 0.5) -> Iterator[dict[str, Any] | None]:
        """Its state whenever it is another one, ``None`` in between, for some time."""
        end, last = time.monotonic() + seconds, None
        while time.monotonic() < end:
            now = self.state()
            yield now if now != last else None
            last = now
            time.sleep(every)

    def _ask(self, method: str, path: str, body: bytes | None = None, timeout: float = 4.0) -> dict[str, Any]:
        connection = http.client.HTTPConnection(self._host, self._port, timeout=timeout)
        try:
            connection.request(method, path, body)
            answer = connection.getresponse()
            data = json.loads(answer.read() or b"{}")
        except (OSError, http.client.HTTPException, ValueError) as error:
            raise Trouble("The printer does not answer. Nothing was sent to it; try again when it is back.") from error
        finally:
            connection.close()
        with_message = data.get("message", "The printer refused.") if isinstance(data, dict) else "The printer refused."
        if answer.status >= 400:
            raise Refused(f"Printer: {with_message}")
        with self._lock:
            self._seen = (0.0, {})
        return dict(data)
