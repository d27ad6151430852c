"""What engines have in common: steps that take workers down are barred, and the request is answered without them."""

from __future__ import annotations

import time
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, cast

from ..core.errors import Stopped, Trouble
from .blobs import Blobs
from .board import Bars
from .contract import Answer, Heard, Lane, Request, WorkerTrouble

RETRIES = 10  # steps that may take a worker down in one build before it is given up


@dataclass(frozen=True)
class Asked:
    """A request, about which model, by whom, under which ticket."""

    request: Request[Any]
    model: str
    who: str
    ticket: str
    lane: Lane


class Answering:
    """Answers requests by ``once``, which may lose its worker."""

    def __init__(self, blobs: Blobs, board: Bars, limit: float) -> None:
        self.blobs, self.board, self.limit = blobs, board, limit
        self.heard: Heard = lambda kind, lane, end, seconds: None

    def once(self, asked: Asked, barred: Mapping[str, str]) -> Any:
        """One try without the steps that are barred. Raises what the handler raised, ``WorkerTrouble`` where no answer
        came back.
        """
        raise NotImplementedError

    def submit(
        self, request: Request[Answer], model_id: str, *, ticket: str = "", patient: bool = False, who: str = ""
    ) -> Answer:
        """See ``Engine.submit``."""
        lane: Lane = "patient" if patient else request.lane()
        asked = Asked(request, model_id, who or model_id, ticket, lane)
        began, end = time.perf_counter(), "failed"
        try:
            answer = self._answer(asked)
            end = "ok"
            return cast(Answer, answer)
        except Stopped:
            end = "stopped"
            raise
        except Trouble:
            end = "refused"
            raise
        finally:
            self.heard(request.kind, lane, end, time.perf_counter() - began)

    def _answer(self, asked: Asked) -> Any:
        fell = False
        here: dict[str, str] = {}  # what took its whole time is not waited for again by who waited for it once
        for _ in range(RETRIES):
            try:
                return self.once(asked, {**self.board.bars_for(asked.model), **here})
            except WorkerTrouble as trouble:
                if trouble.reason == "stopped":
                    raise Stopped("Stopped.") from None
                key = str(trouble.note.get("key") or "")
                if key:
                    says = fate(trouble.reason, self.limit, str(trouble.note.get("title", "")))
                    self.board.fell(key, trouble.reason, says, asked.model)
                    fell = True
                    if trouble.reason == "timeout":
                        here[key] = says
                elif trouble.reason != "killed":  # a kill has nothing to do with what was asked
                    raise
        if not fell:  # no step is to blame: workers are killed, or cannot even start
            raise Trouble(
                "The geometry workers of this server keep ending before they begin. Nothing that was saved is lost; "
                "tell whoever runs it, and try again in a while."
            )
        raise Trouble("Too many steps of this part cannot be computed; change the last one.")


def fate(reason: str, limit: float, what: str) -> str:
    """What to say of work that did not come back."""
    if reason == "timeout":
        return f"{what} took longer than {limit:.0f} s and was stopped. Make it simpler or its numbers less extreme."
    return f"{what} could not be computed: the geometry worker gave up on it. Change its numbers or picks a little."
