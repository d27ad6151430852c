"""Requests and answers as they travel between machines: JSON, and what is large by its key among the blobs."""

from __future__ import annotations

import json
import traceback
from typing import Any

from ..core import errors
from ..core.errors import Trouble
from . import requests
from .blobs import Blobs
from .contract import Request, WorkerTrouble

LARGE = 32_000  # bytes; what is larger goes among the blobs
_KINDS: dict[str, type[Request[Any]]] = {
    kind.kind: kind
    for kind in vars(requests).values()
    if isinstance(kind, type) and issubclass(kind, Request) and hasattr(kind, "kind")
}
_TROUBLES = {name: kind for name, kind in vars(errors).items() if isinstance(kind, type) and issubclass(kind, Trouble)}


class Broken(Exception):
    """What a handler was not meant to raise: a fault of ours, with where it was."""


def pack_request(request: Request[Any]) -> dict[str, Any]:
    """A request as plain data."""
    return {"kind": request.kind, "fields": request.model_dump(mode="json")}


def read_request(packed: dict[str, Any]) -> Request[Any]:
    """The request that was packed."""
    return _KINDS[packed["kind"]].model_validate(packed["fields"])


def pack_answer(answer: Any, blobs: Blobs) -> dict[str, Any]:
    """An answer as a little plain data. Raises ``Trouble`` where what is large cannot be kept."""
    if isinstance(answer, bytes):
        return {"bytes": blobs.keep_raw(answer)}
    text = json.dumps(answer, separators=(",", ":"))
    return {"large": blobs.keep_raw(text.encode())} if len(text) > LARGE else {"plain": text}


def pack_problem(problem: BaseException) -> dict[str, Any]:
    """What was raised in place of an answer."""
    if isinstance(problem, WorkerTrouble):
        return {"lost": problem.reason, "note": problem.note}
    if isinstance(problem, Trouble):
        more = {k: v for k, v in vars(problem).items() if k not in ("message", "where") and _is_plain(v)}
        return {"trouble": type(problem).__name__, "message": problem.message, "where": problem.where, "more": more}
    return {"broken": "".join(traceback.format_exception(problem))[-4000:]}


def _is_plain(value: Any) -> bool:
    try:
        json.dumps(value)
    except (TypeError, ValueError):
        return False
    return True


def unpack(packed: dict[str, Any], blobs: Blobs) -> Any:
    """The answer; raises what was raised in its place."""
    if "plain" in packed:
        return json.loads(packed["plain"])
    if "large" in packed:
        return json.loads(blobs.bytes_of(packed["large"]))
    if "bytes" in packed:
        return blobs.bytes_of(packed["bytes"])
    if "lost" in packed:
        raise WorkerTrouble(packed["lost"], packed["note"])
    if "trouble" in packed:
        problem = _TROUBLES.get(packed["trouble"], Trouble)(packed["message"], where=packed["where"])
        for name, value in packed["more"].items():
            setattr(problem, name, tuple(value) if isinstance(value, list) else value)
        raise problem
    raise Broken(packed.get("broken", "no reason was given"))
