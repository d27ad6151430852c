"""What is asked of workers, as data, and what does the asking: the same for every engine.

A request is a frozen model that says all its handler needs; documents in it go by their digests (see ``blobs``). So it
can be put into a queue, sent to another machine, and asked again after a worker's death. Handlers are in ``builds``,
``looking``, ``trying``, ``files``, ``prints``; the process that asks never loads them, or the kernel.
"""

from __future__ import annotations

from collections.abc import Callable
from contextvars import ContextVar
from typing import Any, ClassVar, Generic, Literal, Protocol, TypeVar

from pydantic import BaseModel, ConfigDict

from .blobs import Blobs
from .board import Bars

Answer = TypeVar("Answer")
Lane = Literal["ask", "long", "patient"]
"""``ask``: somebody waits for a moment. ``long``: somebody waits, and knows that it takes; such work is in nobody's
way. ``patient``: nobody waits; it runs when the machine has nothing else to do.
"""


request_id: ContextVar[str] = ContextVar("request_id", default="")
"""What the work that is asked for now is done for, in the logs of both sides."""
Heard = Callable[[str, str, str, float], None]
"""Hears of every job that ended: its kind, its lane, how it ended (ok, refused, stopped, failed), how long it took,
s.
"""


EDIT, PREVIEW, EXPORT, BACKGROUND = range(4)
"""How urgent a request is among those of its lane: what an edit changed comes before what is only tried."""


class Request(BaseModel, Generic[Answer]):
    """One thing that workers can be asked. ``kind`` names its handler; ``Answer`` is what comes back: plain data."""

    model_config = ConfigDict(frozen=True, extra="forbid", arbitrary_types_allowed=True)

    kind: ClassVar[str]
    usual: ClassVar[Lane] = "ask"
    urgency: ClassVar[int] = PREVIEW

    def lane(self) -> Lane:
        """Where it is worked at, unless whoever asks has time."""
        return self.usual


class OfPart(Request[Answer]):
    """Something about a part of a model: ``document`` is the digest of the model's JSON text."""

    document: str
    part: str


class WorkerTrouble(Exception):
    """A job that did not come back. ``reason``: crashed, killed (by somebody else), timeout, stopped. ``note`` says
    where the work was.
    """

    def __init__(self, reason: str, note: dict[str, Any]) -> None:
        super().__init__(reason)
        self.reason = reason
        self.note = note


class Engine(Protocol):
    """Does what is asked, somewhere. Every engine passes the same contract test (tests/web/test_engine.py)."""

    blobs: Blobs
    board: Bars
    limit: float  # s of computing for each step
    heard: Heard

    def submit(
        self, request: Request[Answer], model_id: str, *, ticket: str = "", patient: bool = False, who: str = ""
    ) -> Answer:
        """The answer to a request about a model; whatever a handler raises is raised here. ``who``: the person who
        asks; turns are theirs, not their models' (those of ``model_id`` where nobody is said). A step that takes its
        worker down again and again is barred, and the request answered without it. A newer request under a ticket
        replaces one that waits. Raises ``Stopped`` where somebody stopped it, ``WorkerTrouble`` where it cannot be had.
        """

    def stop(self, ticket: str) -> None:
        """Stop what runs under a ticket."""

    def progress(self, ticket: str) -> dict[str, Any]:
        """Where the work under a ticket is: {step, title, number, count}; empty if none runs."""

    def busy(self, model_id: str) -> bool:
        """Whether whoever works for a model has something to do."""

    @property
    def lanes(self) -> int:
        """How many patient requests are worked at at once."""

    def rest(self) -> None:
        """Nothing patient is to come: whoever works at such things may go."""

    def close(self) -> None:
        """Stop everything."""
