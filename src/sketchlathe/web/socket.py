"""The socket of an open sketch: drags and dimension previews, newest first, one answer a message."""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any
from urllib.parse import urlsplit

import orjson
from flask import current_app, request
from flask_login import current_user
from flask_sock import Sock

from ..core.errors import BadInput, Trouble
from ..service import accounts, modelling, sketching
from ..service.modelling import Opened
from ..store import Database
from .signed_in import DEMO

sock = Sock()


@sock.route("/models/<model_id>/sketches/<step_id>/live")
def live(ws: Any, model_id: str, step_id: str) -> None:
    """Messages: {"n", "do": "grab"|"to"|"drop"|"dimension", ...}; answers carry the same n."""
    host = urlsplit(request.headers.get("Origin", "")).netloc
    if not current_user.is_authenticated or host != request.host:
        ws.close(1008, "not allowed")
        return
    person = str(current_user.id)
    with _seat(person) as free:
        if not free:
            ws.close(1013, "too many open sketches")  # the page drags by requests then
            return
        conversation = _Conversation(current_app.extensions["database"], person, model_id, step_id)
        asked = time.monotonic()
        while True:
            text = ws.receive()
            if text is None:
                return
            if time.monotonic() - asked > TRUSTED:
                asked = time.monotonic()
                if not _still_in():
                    ws.close(1008, "signed out")
                    return
            ws.send(orjson.dumps(conversation.answer(text)).decode())


TRUSTED = 3.0  # s for which a browser that was signed in is taken to be so still


def _still_in() -> bool:
    """Whether whoever opened the socket is signed in still: accounts are shut, browsers signed out from afar."""
    if current_user.token == DEMO:
        return True
    return accounts.signed_in_name(current_app.extensions["database"], current_user.id, current_user.token) is not None


SOCKETS, EACH = 80, 6
"""Each socket holds a thread of its process: so many at once, so many a person."""
_seats = threading.BoundedSemaphore(SOCKETS)


@contextmanager
def _seat(person: str) -> Iterator[bool]:
    """A seat for a person for as long as it lasts; false where none is free."""
    commons, gauges = current_app.extensions["builder"].commons, current_app.extensions["gauges"]
    if not _seats.acquire(blocking=False):
        yield False
        return
    try:
        held = commons.take(person, "socket", EACH)
        if not held:
            yield False
            return
        gauges.sockets.inc()
        try:
            yield True
        finally:
            gauges.sockets.dec()
            commons.leave(person, "socket", held)
    finally:
        _seats.release()


class _Conversation:
    def __init__(self, database: Database, person: str, model_id: str, step_id: str) -> None:
        self._database, self._person = database, person
        self._model_id, self._step_id = model_id, step_id
        self._drag: sketching.DragSession | None = None
        self._last = -1

    def _open(self) -> Opened:
        return modelling.open_model(self._database, self._person, self._model_id)

    def answer(self, text: str) -> dict[str, Any]:
        """The answer to one message; a bad one is answered with a sentence, never dropped."""
        number = None
        try:
            message = json.loads(text)
            if not isinstance(message, dict) or not isinstance(message.get("n"), int) or not 0 <= message["n"] < 2**53:
                raise BadInput("That message could not be understood.")
            number = message["n"]
            if number <= self._last:
                return {"n": number, "late": True}
            self._last = number
            return {"n": number, **self._do(message)}
        except Trouble as problem:
            return {"n": number, "message": problem.message}
        except (ValueError, RecursionError, OverflowError, TypeError):
            return {"n": number, "message": "That message could not be understood."}

    def _do(self, message: dict[str, Any]) -> dict[str, Any]:
        match message.get("do"):
            case "grab":
                self._drag = sketching.DragSession(
                    self._open(), self._step_id, str(message.get("ref")), _pair(message.get("at"))
                )
                return {}
            case "to" if self._drag is not None:
                return {"view": self._drag.to(*_pair(message.get("at")))}
            case "drop" if self._drag is not None:
                coordinates, self._drag = self._drag.coordinates(), None
                return {"coordinates": coordinates}
            case "dimension":
                refs = message.get("on")
                if not isinstance(refs, list) or len(refs) > 4:
                    raise BadInput("What is picked could not be understood.")
                picked = tuple(str(r) for r in refs)
                rim = str(message.get("rim", ""))
                at = _pair(message.get("at"))
                return {"dimension": sketching.dimension(self._open(), self._step_id, picked, at, rim)}
            case "preview":
                return {"preview": sketching.preview(self._open(), self._step_id, message.get("draw"))}
            case "stretch":
                at = _pair(message.get("at"))
                return {"stretch": sketching.stretch(self._open(), self._step_id, str(message.get("ref")), at)}
        raise BadInput("Nothing is being dragged.")


def _pair(raw: Any) -> tuple[float, float]:
    if not isinstance(raw, list) or len(raw) != 2 or not all(isinstance(v, int | float) and abs(v) < 1e7 for v in raw):
        raise BadInput("A place in the sketch is two numbers.")
    return float(raw[0]), float(raw[1])
