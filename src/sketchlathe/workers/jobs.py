"""The door to what runs in workers: handlers of requests, and the desk they work at."""

from __future__ import annotations

import importlib
import json
import os
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any, TypeVar

from ..core.errors import Trouble
from . import cpu_limit
from .blob_places import blobs_at
from .blobs import Blobs
from .contract import Answer, Request

if TYPE_CHECKING:
    from ..core.making.results import PartBuild
    from ..core.model.document import Model, Part

Asked = TypeVar("Asked", bound=Request[Any])
HANDLERS: dict[type[Request[Any]], Callable[[Any, Desk], Any]] = {}


@dataclass
class Desk:
    """What a handler has at hand: where blobs are kept, which steps are barred and what to say of them, where to note
    how far it is (nowhere, where that is empty).
    """

    blobs: Blobs
    barred: dict[str, str] = field(default_factory=dict)
    note: str = ""

    def model(self, document: str) -> Model:
        """The model with this digest; the last few are kept."""
        from .caches import model_of

        return model_of(document, self.blobs.document_of)

    def built(self, document: str, part: str, *, before: str = "") -> tuple[Model, Part, PartBuild]:
        """A part built as far as this worker has not built it before; ``before``: only up to that step."""
        from .caches import built_part

        return built_part(self, document, part, before=before)

    def say(self, title: str, number: int, count: int, **more: Any) -> None:
        """Say where the work is, so that whoever watches knows it after a crash; the next step
        has its time from here.
        """
        from .caches import write_note

        cpu_limit.renew()
        write_note(self.note, {"title": title, "number": number, "count": count, **more})


Handler = Callable[[Asked, Desk], Answer]


def handles(request: type[Request[Answer]]) -> Callable[[Handler[Any, Answer]], Handler[Any, Answer]]:
    """Declares what answers a kind of request."""

    def declare(handler: Handler[Any, Answer]) -> Handler[Any, Answer]:
        HANDLERS[request] = handler
        return handler

    return declare


def call(asked: Request[Answer], blobs: str, barred: dict[str, str], asked_for: str, note: str) -> Answer:
    """Answer a request (in a worker). ``blobs``: where they are. ``asked_for``: the id of the request of a browser
    that it is done for.
    """
    if type(asked) not in HANDLERS:  # the forkserver was started for something else, or failed to load what it should
        importlib.import_module("sketchlathe.workers.preload")
    began = time.perf_counter()
    end = "failed"
    try:
        answer: Answer = HANDLERS[type(asked)](asked, Desk(blobs_at(blobs), barred, note))
        end = "ok"
        return answer
    except Trouble:
        end = "refused"
        raise
    finally:
        if os.environ.get("LATHE_LOG") == "json":
            facts = {"who": "lathe.worker", "pid": os.getpid(), "request": asked_for, "kind": asked.kind, "end": end,
                     "ms": round(1e3 * (time.perf_counter() - began), 1)}  # fmt: skip
            print(json.dumps(facts), file=sys.stderr, flush=True)


__all__ = ["HANDLERS", "Desk", "call", "handles"]
