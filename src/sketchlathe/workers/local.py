"""The engine of one machine: pools of processes beside the server."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from . import jobs
from .answering import Answering, Asked
from .blobs import Blobs
from .board import Board
from .contract import request_id
from .pool import LocalWorkers


class LocalEngine(Answering):
    """Requests worked at by ``LocalWorkers``."""

    def __init__(self, workers: LocalWorkers, blobs: Blobs, limit: float = 60.0) -> None:
        super().__init__(blobs, Board(), limit)
        self._workers = workers

    def once(self, asked: Asked, barred: Mapping[str, str]) -> Any:
        """See ``Answering.once``."""
        return self._workers.run(
            asked.model, jobs.call, asked.request, self.blobs.place, dict(barred), request_id.get(),
            ticket=asked.ticket, limit=self.limit, lane=asked.lane, urgency=asked.request.urgency, who=asked.who,
        )  # fmt: skip

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
