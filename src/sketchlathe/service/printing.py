"""The printer as the service sees it: asked over HTTP; one that does not answer is a state, not an error."""

from __future__ import annotations

import hashlib
import http.client
import json
import threading
import time
from collections.abc import Iterator
from typing import Any

from ..core.errors import Refused, Trouble


def _mark(person_id: str) -> str:
    """By what the printer knows whose a job is; it tells nobody who that is."""
    return hashlib.blake2b(person_id.encode(), digest_size=10).hexdigest()


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

    def upload(self, program: bytes, person_id: str) -> dict[str, Any]:
        """A person's program into its queue. Raises ``Trouble`` in words when it vanishes half-way: nothing is queued
        then.
        """
        return self._ask("POST", "/jobs", program, timeout=30.0, owner=_mark(person_id))

    def act(self, path: str) -> dict[str, Any]:
        """A new spool, a played fault."""
        return self._ask("POST", path, b"")

    def act_on(self, job: str, deed: str, person_id: str) -> dict[str, Any]:
        """Pause, resume or cancel a job of one's own."""
        state = self.state(fresh=0.0)
        jobs = [state.get("job"), *state.get("waiting", ()), *state.get("ended", ())]
        if not any(j and j["id"] == job and j.get("owner") == _mark(person_id) for j in jobs):
            raise Refused("That is not a job of yours, or it is gone.")
        return self._ask("POST", f"/jobs/{job}/{deed}", b"")

    def seen_by(self, person_id: str, state: dict[str, Any]) -> dict[str, Any]:
        """Its state as a person may see it: others' jobs are there, without their names."""
        mine = _mark(person_id)

        def shown(job: dict[str, Any] | None) -> dict[str, Any] | None:
            if job is None:
                return None
            own = job.get("owner") == mine
            return {**job, "owner": "", "mine": own, "name": job["name"] if own else "somebody else's part"}

        return {
            **state,
            "job": shown(state.get("job")),
            "waiting": [shown(j) for j in state.get("waiting", ())],
            "ended": [shown(j) for j in state.get("ended", ()) if j.get("owner") == mine],
        }

    def changes(self, person_id: str, seconds: float = 55.0, every: float = 0.5) -> Iterator[dict[str, Any] | None]:
        """Its state, as a person may see it, whenever it is another one; ``None`` in between, for some time."""
        end, last = time.monotonic() + seconds, None
        while time.monotonic() < end:
            now = self.seen_by(person_id, self.state())
            yield now if now != last else None
            last = now
            time.sleep(every)

    def _ask(
        self, method: str, path: str, body: bytes | None = None, timeout: float = 4.0, owner: str = ""
    ) -> dict[str, Any]:
        connection = http.client.HTTPConnection(self._host, self._port, timeout=timeout)
        try:
            connection.request(method, path, body, {"X-Owner": owner} if owner else {})
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
