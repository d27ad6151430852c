"""The engine of one machine: pools of processes beside the server."""

from __future__ import annotations

import time
from typing import Any

from ..core.errors import Stopped, Trouble
from . import jobs
from .blobs import Blobs
from .board import Board
from .contract import Answer, Heard, Lane, Request, WorkerTrouble, request_id
from .pool import LocalWorkers

RETRIES = 10  # steps that may take a worker down in one build before it is given up


class LocalEngine:
    """Requests worked at by ``LocalWorkers``."""

    def __init__(self, workers: LocalWorkers, blobs: Blobs, limit: float = 60.0) -> None:
        self._workers, self.blobs, self.limit = workers, blobs, limit
        self.board = Board()
        self.heard: Heard = lambda kind, lane, end, seconds: None

    def submit(self, request: Request[Answer], model_id: str, *, ticket: str = "", patient: bool = False) -> Answer:
        """See ``Engine.submit``."""
        lane: Lane = "patient" if patient else request.lane()
        began, end = time.perf_counter(), "failed"
        try:
            answer = self._answer(request, model_id, ticket, lane)
            end = "ok"
            return answer
        except Stopped:
            end = "stopped"
            raise
        except Trouble:
            end = "refused"
            raise
        finally:
            self.heard(request.kind, lane, end, time.perf_counter() - began)

    def _answer(self, request: Request[Answer], model_id: str, ticket: str, lane: Lane) -> Answer:
        for _ in range(RETRIES):
            try:
                answer: Answer = self._workers.run(
                    model_id, jobs.call, request, str(self.blobs.folder), self.board.bars, request_id.get(),
                    ticket=ticket, limit=self.limit, lane=lane,
                )  # fmt: skip
                return answer
            except WorkerTrouble as trouble:
                if trouble.reason == "stopped":
                    raise Stopped("Stopped.") from None
                key = str(trouble.note.get("key") or "")
                if key:
                    says = fate(trouble.reason, self.limit, str(trouble.note.get("title", "")))
                    self.board.fell(key, trouble.reason, says)
                elif trouble.reason != "killed":  # a kill has nothing to do with what was asked
                    raise
        raise Trouble("Too many steps of this part cannot be computed; change the last one.")

    def stop(self, ticket: str) -> None:
        """See ``Engine.stop``."""
        self._workers.stop_ticket(ticket)

    def progress(self, ticket: str) -> dict[str, Any]:
        """See ``Engine.progress``."""
        return self._workers.progress(ticket)

    def busy(self, model_id: str) -> bool:
        """See ``Engine.busy``."""
        return self._workers.busy(model_id)

    @property
    def lanes(self) -> int:
        """See ``Engine.lanes``."""
        return self._workers.lanes

    def rest(self) -> None:
        """See ``Engine.rest``."""
        self._workers.rest()

    def close(self) -> None:
        """See ``Engine.close``."""
        self._workers.close()


def fate(reason: str, limit: float, what: str) -> str:
    """What to say of work that did not come back."""
    if reason == "timeout":
        return f"{what} took longer than {limit:.0f} s and was stopped. Make it simpler or its numbers less extreme."
    return f"{what} could not be computed: the geometry worker gave up on it. Change its numbers or picks a little."
