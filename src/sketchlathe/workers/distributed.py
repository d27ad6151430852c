"""The engine of several machines: requests go through Celery's queues in Redis to groups of workers (see ``machine``).

A model goes to the same group as long as that is there, for its warm cache. A group that falls silent loses what it was
asked to the next one, once; whoever waits does that, so nothing is done that nobody waits for.
"""

from __future__ import annotations

import contextlib
import json
import time
from collections.abc import Mapping
from typing import Any, cast

import redis
from kombu.exceptions import OperationalError

from ..beats import HEAD
from ..core.errors import Trouble
from . import exchange, wire
from .answering import Answering, Asked
from .blobs import Blobs
from .contract import Lane, WorkerTrouble, request_id
from .exchange import STOP, Ask, QueueGone, answering

PATIENCE = 12.0  # s that somebody waits for a group, or for Redis, to be there again
NOBODY = "No geometry worker is there just now. Nothing that was saved is lost: try again in a moment."


class DistributedEngine(Answering):
    """Requests worked at by whoever serves the queues."""

    def __init__(self, url: str, blobs: Blobs, limit: float = 60.0) -> None:
        self._redis = exchange.connect(url)
        self._presence = exchange.Presence(self._redis)
        self._celery = exchange.celery_app(url)
        super().__init__(blobs, exchange.SharedBoard(self._redis), limit)

    def once(self, asked: Asked, barred: Mapping[str, str]) -> Any:
        """See ``Answering.once``."""
        lost, until = 0, time.monotonic() + PATIENCE
        while lost < 2:
            try:
                packed = self._sent(asked, barred)
            except QueueGone:
                if time.monotonic() > until:
                    raise
                time.sleep(0.2)
                continue
            if packed is not None:
                return wire.unpack(packed, self.blobs)
            lost += 1
        raise WorkerTrouble("killed", {})

    def _sent(self, asked: Asked, barred: Mapping[str, str]) -> dict[str, Any] | None:
        """What came back; None where the group was lost. Raises ``QueueGone`` where Redis was, or has forgotten."""
        group = self._group(asked.model, asked.lane)
        with answering():
            ask = Ask(self._redis)
            ask.register(asked.ticket)
            message = {
                "job": ask.job, "ask": wire.pack_request(asked.request), "model": asked.model, "ticket": asked.ticket,
                "lane": asked.lane, "who": asked.who, "bars": dict(barred), "for": request_id.get(),
                "limit": self.limit, "blobs": self.blobs.place,
            }  # fmt: skip
            try:
                self._celery.send_task(
                    exchange.TASK, args=[message], task_id=ask.job, queue=exchange.queue_of(group.name, asked.lane),
                    priority=asked.request.urgency, retry=True,
                )  # fmt: skip
            except OperationalError as error:
                raise QueueGone(exchange.AWAY) from error
        try:
            return self._awaited(ask, group, asked.lane)
        finally:
            with contextlib.suppress(redis.RedisError):
                ask.done(asked.ticket)

    def _awaited(self, ask: Ask, group: exchange.Group, lane: Lane) -> dict[str, Any] | None:
        while True:
            with answering():
                packed = ask.wait(1)
                if packed is not None:
                    return packed
                if not ask.is_known():
                    raise QueueGone(exchange.AWAY)
                now = {g.name: g.instance for g in self._presence.groups(lane)}
                if now.get(group.name) != group.instance:
                    ask.void()
                    return ask.wait(1)  # what it sent at the last moment

    def _group(self, model_id: str, lane: Lane) -> exchange.Group:
        until = time.monotonic() + PATIENCE
        while True:
            with answering():
                there = self._presence.groups(lane)
            if there:
                return exchange.group_for(there, model_id)
            if time.monotonic() > until:
                raise Trouble(NOBODY)
            time.sleep(0.2)

    def stop(self, ticket: str) -> None:
        """See ``Engine.stop``."""
        with answering():
            job = cast(str | None, self._redis.get(f"{HEAD}ticket:{ticket}"))
            if job:
                Ask(self._redis, job).give_up()
                self._redis.publish(STOP, ticket)

    def progress(self, ticket: str) -> dict[str, Any]:
        """See ``Engine.progress``."""
        with answering():
            told = cast(str | None, self._redis.get(f"{HEAD}at:{ticket}"))
        return dict(json.loads(told)) if told else {}

    def busy(self, model_id: str) -> bool:
        """See ``Engine.busy``."""
        with answering():
            there = self._presence.groups("ask")
        return bool(there) and exchange.group_for(there, model_id).load > 0

    @property
    def lanes(self) -> int:
        """See ``Engine.lanes``."""
        with answering():
            return max(1, sum(group.places for group in self._presence.groups("patient")))

    def rest(self) -> None:
        """See ``Engine.rest``. Machines let patient workers go by themselves."""

    def close(self) -> None:
        """See ``Engine.close``. The machines stay."""
        self._redis.close()
        self._celery.close()
