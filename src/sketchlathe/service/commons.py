"""What all web processes must know of each other: how much each person has under way, what was built last.

Nobody's work stands in the way of everybody else's: one person may have only so much of it under way at once. One web
process keeps that in memory; several keep it in Redis, where what a process held that died is free again soon.
"""

from __future__ import annotations

import contextlib
import json
import threading
import time
import uuid
from collections import Counter, OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any, cast

import redis

from ..beats import HEAD
from ..core.errors import Trouble
from ..workers.exchange import connect

MOST = {"ask": 12, "long": 3, "aside": 8}
"""``aside``: pictures and figures beside what one works at; a browser asks six things at a time."""
_SAYS = {
    "ask": "Too much of yours is being built at once: wait a moment, then ask for it again.",
    "aside": "Too many pictures of yours are being made at once: wait a moment.",
    "long": "Three things of yours that take long are under way already: wait for one of them, or stop it.",
}
NOTES = 2000  # that one process keeps
HELD, RENEWED = 30, 10.0  # s that a share is held without being renewed; s between two renewals
DAY = 24 * 3600
PRESENT = 15  # s that somebody is somewhere without saying so again


class TooMuch(Trouble):
    """A person has as much under way as one may have."""


class Commons:
    """Those of a single web process."""

    def __init__(self) -> None:
        self._under_way: Counter[tuple[str, str]] = Counter()
        self._notes: OrderedDict[str, Any] = OrderedDict()
        self._here: OrderedDict[str, dict[str, tuple[float, dict[str, Any]]]] = OrderedDict()
        self._lock = threading.Lock()

    def take(self, person: str, what: str, most: int) -> str:
        """One more thing of a person's is under way: what it is given back by, empty if that is too much."""
        with self._lock:
            if self._under_way[person, what] >= most:
                return ""
            self._under_way[person, what] += 1
        return "held"

    def leave(self, person: str, what: str, held: str) -> None:
        """It is over."""
        with self._lock:
            self._under_way[person, what] -= 1
            if self._under_way[person, what] <= 0:
                del self._under_way[person, what]

    def note(self, key: str, value: Any) -> None:
        """Keep plain data for whoever asks, of this process or another; nothing is lost with it."""
        with self._lock:
            self._notes[key] = value
            self._notes.move_to_end(key)
            while len(self._notes) > NOTES:
                self._notes.popitem(last=False)

    def noted(self, key: str) -> Any:
        """What was noted; None where nothing is known."""
        with self._lock:
            return self._notes.get(key)

    def here(self, where: str, who: str, told: dict[str, Any] | None) -> dict[str, dict[str, Any]]:
        """Somebody says that they are somewhere (None: that they leave); who is there, with what each told last. Who
        says nothing for a while is not there.
        """
        with self._lock:
            there = {w: (at, t) for w, (at, t) in self._here.get(where, {}).items() if time.monotonic() - at < PRESENT}
            there.pop(who, None)
            if told is not None:
                there[who] = time.monotonic(), told
            self._here[where] = there
            self._here.move_to_end(where)
            while len(self._here) > NOTES:
                self._here.popitem(last=False)
            return {w: t for w, (_, t) in there.items()}

    @contextmanager
    def share(self, person: str, lane: str) -> Iterator[None]:
        """For as long as one thing of a person's is worked at. Raises ``TooMuch``. What nobody waits for is limited by
        itself (see ``studies``).
        """
        if not person or lane not in MOST:
            yield
            return
        held = self.take(person, lane, MOST[lane])
        if not held:
            raise TooMuch(_SAYS[lane])
        try:
            yield
        finally:
            self.leave(person, lane, held)


_TAKE = """
local now = tonumber(redis.call('TIME')[1])
redis.call('ZREMRANGEBYSCORE', KEYS[1], '-inf', now)
if redis.call('ZCARD', KEYS[1]) >= tonumber(ARGV[1]) then return 0 end
redis.call('ZADD', KEYS[1], now + tonumber(ARGV[3]), ARGV[2])
redis.call('EXPIRE', KEYS[1], 2 * tonumber(ARGV[3]))
return 1
"""
_RENEW = """
local now = tonumber(redis.call('TIME')[1])
redis.call('ZADD', KEYS[1], 'XX', now + tonumber(ARGV[2]), ARGV[1])
redis.call('EXPIRE', KEYS[1], 2 * tonumber(ARGV[2]))
"""


class SharedCommons(Commons):
    """Those of several web processes. While Redis is away nobody is held up."""

    def __init__(self, url: str) -> None:
        super().__init__()
        self._redis = connect(url)
        self._take, self._renew = (self._redis.register_script(text) for text in (_TAKE, _RENEW))
        self._held: set[tuple[str, str]] = set()
        threading.Thread(target=self._renewing, daemon=True).start()

    @staticmethod
    def _key(person: str, what: str) -> str:
        return f"{HEAD}share:{what}:{person}"

    def take(self, person: str, what: str, most: int) -> str:
        """See ``Commons.take``."""
        key, held = self._key(person, what), uuid.uuid4().hex
        try:
            if not self._take(keys=[key], args=[most, held, HELD]):
                return ""
        except redis.RedisError:
            return "away"
        with self._lock:
            self._held.add((key, held))
        return held

    def leave(self, person: str, what: str, held: str) -> None:
        """See ``Commons.leave``."""
        key = self._key(person, what)
        with self._lock:
            self._held.discard((key, held))
        with contextlib.suppress(redis.RedisError):
            self._redis.zrem(key, held)

    def note(self, key: str, value: Any) -> None:
        """See ``Commons.note``."""
        with contextlib.suppress(redis.RedisError):
            self._redis.set(f"{HEAD}note:{key}", json.dumps(value), ex=DAY)

    def noted(self, key: str) -> Any:
        """See ``Commons.noted``."""
        with contextlib.suppress(redis.RedisError):
            return json.loads(cast(str | None, self._redis.get(f"{HEAD}note:{key}")) or "null")
        return None

    def _renewing(self) -> None:
        wait = threading.Event()
        while not wait.wait(RENEWED):
            with self._lock:
                held = list(self._held)
            with contextlib.suppress(redis.RedisError):
                for key, mine in held:
                    self._renew(keys=[key], args=[mine, HELD])

    def here(self, where: str, who: str, told: dict[str, Any] | None) -> dict[str, dict[str, Any]]:
        """See ``Commons.here``. Without Redis nobody else is seen."""
        key = f"{HEAD}here:{where}"
        try:
            now = self._redis.time()[0]
            with self._redis.pipeline() as pipe:
                if told is None:
                    pipe.hdel(key, who)
                else:
                    pipe.hset(key, who, json.dumps([now, told]))
                pipe.expire(key, PRESENT)
                pipe.hgetall(key)
                found = {w: json.loads(text) for w, text in pipe.execute()[-1].items()}
        except redis.RedisError:
            return {who: told} if told is not None else {}
        gone = [w for w, (at, _) in found.items() if now - at >= PRESENT]
        if gone:
            with contextlib.suppress(redis.RedisError):
                self._redis.hdel(key, *gone)
        return {w: t for w, (_, t) in found.items() if w not in gone}
