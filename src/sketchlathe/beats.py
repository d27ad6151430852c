"""Under which names machines of workers say in Redis that they are there."""

from __future__ import annotations

import contextlib

HEAD = "lathe:"
SERVES = {"short": ("ask",), "long": ("long", "patient")}  # the lanes that each sort of consumer works for


def beat_of(group: str, lane: str) -> str:
    """Where the beats of a group's consumer for a lane are."""
    return f"{HEAD}beat:{group}:{lane}"


def gone(url: str, group: str, sort: str) -> None:
    """Say of a consumer that it is gone, so that whoever waits for it need not find that out by its silence. Redis may
    be away, then they do.
    """
    import redis

    with (
        contextlib.suppress(redis.RedisError),
        contextlib.closing(redis.Redis.from_url(url, socket_connect_timeout=1, socket_timeout=1)) as client,
    ):
        client.delete(*(beat_of(group, lane) for lane in SERVES[sort]))
