"""The socket of an open sketch: drags and dimension previews, newest first, one answer a message."""

from __future__ import annotations

import json
import threading
from collections import Counter
from typing import Any
from urllib.parse import urlsplit

import orjson
from flask import current_app, request
from flask_login import current_user
from flask_sock import Sock

from ..core.errors import BadInput, Trouble
from ..service import modelling, sketching
from ..service.modelling import Opened
from ..store import Database

sock = Sock()


@sock.route("/models/<model_id>/sketches/<step_id>/live")
def live(ws: Any, model_id: str, step_id: str) -> None:
    """Messages: {"n", "do": "grab"|"to"|"drop"|"dimension", ...}; answers carry the same n."""
    host = urlsplit(request.headers.get("Origin", "")).netloc
    if not current_user.is_authenticated or host != request.host:
        ws.close(1008, "not allowed")
        return
    person = str(current_user.id)
    if not _seats.take(person):
        ws.close(1013, "too many open sketches")  # the page drags by requests then
        return
    try:
        conversation = _Conversation(current_app.extensions["database"], person, model_id, step_id)
        while True:
            text = ws.receive()
            if text is None:
                return
            ws.send(orjson.dumps(conversation.answer(text)).decode())
    finally:
        _seats.leave(person)


class _Seats:
    """Each socket holds a thread of the server: so many at once, so many a person."""

    def __init__(self, most: int, each: int) -> None:
        self._most, self._each = most, each
        self._taken: Counter[str] = Counter()
        self._lock = threading.Lock()

    def take(self, person: str) -> bool:
        with self._lock:
            free = self._taken.total() < self._most and self._taken[person] < self._each
            if free:
                self._taken[person] += 1
            return free

    def leave(self, person: str) -> None:
        with self._lock:
            self._taken[person] -= 1
            if self._taken[person] <= 0:
                del self._taken[person]

    @property
    def taken(self) -> int:
        return self._taken.total()


SOCKETS, EACH = 80, 6
_seats = _Seats(SOCKETS, EACH)


def taken() -> int:
    """How many sockets are open."""
    return _seats.taken


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
