"""What web processes and worker machines tell each other through Redis: who is there, what is asked, what came of it.

Nothing in it has to last: people's models are in the database, and whoever waits for an answer asks again when Redis
comes back empty.
"""

from __future__ import annotations

import hashlib
import json
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any, cast

import redis
from celery import Celery  # type: ignore[import-untyped]
from celery.app.amqp import AMQP  # type: ignore[import-untyped]
from kombu.connection import Connection
from redis.backoff import ExponentialBackoff
from redis.retry import Retry

from ..beats import HEAD, beat_of
from ..core.errors import Trouble
from .board import EVERYBODY, FALL, to_bar
from .contract import Lane
from .program import program

BEAT, SILENT = 0.7, 3  # s between two beats of a machine; s after which one without is taken for gone
KEPT = 2 * 3600  # s: nothing that is asked takes longer
BARRED = 24 * 3600  # s after which a barred step gets another chance
STOP = f"{HEAD}stop"  # where it is told which tickets are stopped
TASK = "lathe.work"

AWAY = "The queue of this server does not answer just now. Nothing that was saved is lost: try again in a moment."


class QueueGone(Trouble):
    """Redis does not answer."""


def connect(url: str) -> redis.Redis:
    """A client that tries again for a moment before it says that Redis is gone."""
    return redis.Redis.from_url(
        url, decode_responses=True, socket_connect_timeout=2, socket_timeout=10, health_check_interval=15,
        retry=Retry(ExponentialBackoff(cap=0.5, base=0.02), 4),
        retry_on_error=[redis.ConnectionError, redis.TimeoutError],
    )  # fmt: skip


@contextmanager
def answering() -> Iterator[None]:
    """Raises ``QueueGone`` where Redis does not answer."""
    try:
        yield
    except redis.RedisError as error:
        raise QueueGone(AWAY) from error


class _Soon(Connection):
    """A connection that is tried again soon: Celery's waits 2 s, 4, 6 and so on, and meanwhile a machine that says it
    is there takes nothing.
    """

    def _ensure_connection(self, *args: Any, **kwargs: Any) -> Any:
        waits = {"interval_start": 0.1, "interval_step": 0.1, "interval_max": 1.0}
        return super()._ensure_connection(*args, **{**waits, **kwargs})  # type: ignore[no-untyped-call]


class _Queues(AMQP):  # type: ignore[misc]
    Connection = _Soon


def celery_app(url: str) -> Celery:
    """The queues. Answers do not come back through Celery: each has a list of its own in Redis, which costs less."""
    app = Celery("lathe", broker=url, set_as_current=False, amqp=_Queues)
    app.conf.update(
        task_ignore_result=True,
        accept_content=["json"],
        task_acks_late=False,  # whoever waits sees that a machine is gone, and asks another one: once
        worker_prefetch_multiplier=1,
        worker_hijack_root_logger=False,
        worker_send_task_events=False,
        broker_connection_retry_on_startup=True,
        broker_connection_max_retries=None,  # for as long as it takes
        broker_connection_timeout=3,
        broker_pool_limit=32,
        task_publish_retry_policy={"max_retries": 3, "interval_start": 0, "interval_step": 0.2, "interval_max": 0.5},
        broker_transport_options={
            "global_keyprefix": HEAD, "visibility_timeout": KEPT, "priority_steps": [0, 1, 2, 3],
            "queue_order_strategy": "priority", "socket_connect_timeout": 2, "health_check_interval": 15,
        },
    )  # fmt: skip
    return app


def queue_of(group: str, lane: Lane) -> str:
    """The queue of a group of workers for a lane."""
    return f"{group}.{lane}"


class Group:
    """A group of workers as its last beat told: ``instance`` is new whenever its process is, ``mark`` at every beat."""

    def __init__(self, name: str, told: dict[str, Any]) -> None:
        self.name, self.mark = name, str(told.get("mark", ""))
        self.instance, self.places, self.load = str(told["instance"]), int(told["places"]), int(told["load"])


def groups(client: redis.Redis, lane: Lane) -> list[Group]:
    """Those that are there for a lane."""
    names = sorted(cast(set[str], client.smembers(f"{HEAD}groups:{lane}")))
    if not names:
        return []
    beats = cast(list[str | None], client.mget([beat_of(name, lane) for name in names]))
    gone = [name for name, beat in zip(names, beats) if beat is None]
    if gone:
        client.srem(f"{HEAD}groups:{lane}", *gone)
    return [Group(name, json.loads(beat)) for name, beat in zip(names, beats) if beat is not None]


class Presence:
    """Who is there by our own clock: Redis drops beats by one that somebody may put back, and then keeps those of a
    machine that is gone.
    """

    def __init__(self, client: redis.Redis) -> None:
        self._client = client
        self._seen: dict[tuple[str, Lane], tuple[str, float]] = {}

    def groups(self, lane: Lane) -> list[Group]:
        """Those whose last beat is not old."""
        now, there = time.monotonic(), []
        for group in groups(self._client, lane):
            mark, since = self._seen.get((group.name, lane), ("", now))
            if mark != group.mark:
                self._seen[group.name, lane] = group.mark, now
            elif now - since > SILENT:
                continue
            there.append(group)
        return there


def group_for(there: list[Group], model_id: str) -> Group:
    """The group that works for a model: always the same one while it is there, and only the models of one that goes
    move to others (highest random weight; Thaler and Ravishankar, IEEE/ACM Trans. Netw. 6, 1998).
    """
    return max(there, key=lambda g: hashlib.blake2b(f"{g.name} {model_id}".encode(), digest_size=8).digest())


def beat(
    client: redis.Redis, name: str, lanes: list[Lane], instance: str, places: int, load: Callable[[], int]
) -> None:
    """Say that a group is there."""
    told = json.dumps({"instance": instance, "places": places, "load": load(), "mark": uuid.uuid4().hex[:8]})
    with client.pipeline(transaction=False) as pipe:
        for lane in lanes:
            pipe.sadd(f"{HEAD}groups:{lane}", name)
            pipe.set(beat_of(name, lane), told, ex=SILENT)
        pipe.execute()


def leave(client: redis.Redis, name: str, lanes: list[Lane]) -> None:
    """Say that a group goes."""
    client.delete(*(beat_of(name, lane) for lane in lanes))


class Ask:
    """One thing asked of a group: where its answer comes, who took it, whether it is still wanted."""

    def __init__(self, client: redis.Redis, job: str = "") -> None:
        self._client, self.job = client, job or uuid.uuid4().hex

    def _key(self, what: str) -> str:
        return f"{HEAD}{what}:{self.job}"

    def register(self, ticket: str) -> None:
        """It is asked; what waits under the same ticket is not wanted any longer."""
        with self._client.pipeline(transaction=False) as pipe:
            pipe.set(self._key("asked"), "1", ex=KEPT)
            if ticket:
                pipe.set(f"{HEAD}ticket:{ticket}", self.job, ex=KEPT, get=True)
            told = pipe.execute()
        older = told[1] if ticket else None
        if older and not self._client.exists(f"{HEAD}taken:{older}"):
            Ask(self._client, older).give_up()

    def take(self) -> bool:
        """For a worker: whether this is to be done, here and now; each thing is done once, and while it is wanted."""
        if not self.is_known() or not self._client.set(self._key("taken"), "1", nx=True, ex=KEPT):
            return False
        return not self._client.exists(self._key("void"))

    def answer(self, packed: dict[str, Any]) -> None:
        """What came of it, for whoever waits."""
        with self._client.pipeline(transaction=True) as pipe:
            pipe.rpush(self._key("answer"), json.dumps(packed, separators=(",", ":")))
            pipe.expire(self._key("answer"), 300)
            pipe.execute()

    def give_up(self) -> None:
        """Nobody wants it any longer: whoever waits hears that it was stopped."""
        self.void()
        self.answer({"lost": "stopped", "note": {}})

    def void(self) -> None:
        """It is not to be begun."""
        self._client.set(self._key("void"), "1", ex=KEPT)

    def wait(self, seconds: int) -> dict[str, Any] | None:
        """The answer, if it comes within so many seconds."""
        told = cast(Any, self._client.blpop([self._key("answer")], timeout=seconds))
        return json.loads(told[1]) if told else None

    def is_known(self) -> bool:
        """Whether Redis still knows that it was asked: one that was started again may not."""
        return bool(self._client.exists(self._key("asked")))

    def done(self, ticket: str) -> None:
        """It has been answered."""
        self._client.delete(self._key("asked"), self._key("answer"), self._key("taken"))
        if ticket and self._client.get(f"{HEAD}ticket:{ticket}") == self.job:
            self._client.delete(f"{HEAD}ticket:{ticket}", f"{HEAD}at:{ticket}")


class SharedBoard:
    """Bars that everybody knows; those of another program are not believed (see ``Board``)."""

    def __init__(self, client: redis.Redis) -> None:
        self._client = client
        mark = hashlib.blake2b(program().encode(), digest_size=6).hexdigest()
        self._bars, self._falls = f"{HEAD}bars:{mark}", f"{HEAD}falls:{mark}"

    def _all(self) -> dict[str, str]:
        try:
            return cast(dict[str, str], self._client.hgetall(self._bars))
        except redis.RedisError:
            return {}

    def bars_for(self, model_id: str) -> dict[str, str]:
        """See ``Bars``. None are known while Redis does not answer."""
        found = {tuple(field.split(" ", 1)): says for field, says in self._all().items()}
        return {key: says for (key, whose), says in found.items() if whose in (EVERYBODY, model_id)}

    def fell(self, key: str, reason: str, says: str, model_id: str) -> None:
        """See ``Bars``."""
        falls = f"{self._falls}:{key}"
        with answering():
            self._client.hincrbyfloat(falls, model_id, FALL.get(reason, 0.5))
            told = cast(dict[str, str], self._client.hgetall(falls))
            for whose in to_bar({model: float(fell) for model, fell in told.items()}, model_id):
                self._client.hset(self._bars, f"{key} {whose}", says)
            for name in (self._bars, falls):
                self._client.expire(name, BARRED)

    def is_bar(self, message: str) -> bool:
        """See ``Bars``."""
        return message in self._all().values()
