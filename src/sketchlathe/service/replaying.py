"""Replay as a study: a picture of every revision, put together as an animated picture to hand in."""

from __future__ import annotations

from typing import Any

from ..core.errors import BadInput, Trouble
from ..core.inspect.film import HEIGHT, WIDTH, Frame, film
from ..store import Database
from . import looking, modelling
from .modelling import Opened
from .studies import Turn, Work

MOST_FRAMES = 150


def asked_of(opened: Opened, raw: dict[str, Any]) -> dict[str, Any]:
    """What is asked of a film: from which revision to which, as ``gif`` or ``png``. Raises ``BadInput``."""
    first, last, kind = raw.get("first", 1), raw.get("last", opened.revision), raw.get("kind", "gif")
    numbers = all(isinstance(n, int) and not isinstance(n, bool) for n in (first, last))
    if not numbers or not 1 <= first <= last <= opened.revision or kind not in ("gif", "png"):
        raise BadInput(f"A film goes from one revision to a later one, 1 to {opened.revision}, as gif or png.")
    return {"first": first, "last": last, "kind": kind}


def frames_of(first: int, last: int) -> list[int]:
    """The revisions that are shown: all of them, or so many that lie evenly, first and last included."""
    count = last - first + 1
    if count <= MOST_FRAMES:
        return list(range(first, last + 1))
    return [first + round(k * (count - 1) / (MOST_FRAMES - 1)) for k in range(MOST_FRAMES)]


def replay(database: Database) -> Work:
    """The work of a film over a database."""

    def work(turn: Turn) -> bool:
        asked, found, blobs = turn.asked, turn.found, turn.builder.blobs
        wanted = frames_of(asked["first"], asked["last"])
        person = turn.person_id
        said = modelling.summaries(database, turn.opened.id, wanted)
        found["of"] = len(wanted)
        shots = found.setdefault("shots", [])
        while len(shots) < len(wanted):
            if turn.ended.is_set():
                return False
            shots.append(_shot(turn, database, person, wanted[len(shots)]))
            found["done"] = len(shots)
            turn.keep()
        frames: list[Frame] = []
        for number, key in zip(wanted, shots):
            picture = blobs.raw(key) if key else None
            if key and picture is None:  # trimmed meanwhile: drawn again
                shots[wanted.index(number)] = _shot(turn, database, person, number)
                picture = blobs.raw(shots[wanted.index(number)])
            frames.append(Frame(picture, number, said.get(number, "")))
        data = film(frames, asked["kind"])
        found["file"] = blobs.keep_raw(data)
        found["bytes"] = len(data)
        return True

    return work


def _shot(turn: Turn, database: Database, person: str, number: int) -> str:
    """The key of the picture of one revision; empty where there is nothing to be seen."""
    opened = modelling.look_at(database, person, turn.opened.id, number)
    part = next((p for p in opened.model.there if p.id == turn.part_id), None)
    if part is None:
        return ""
    turn.tickets.add(turn.id)
    try:
        picture = looking.picture(turn.builder, opened, part.id, (WIDTH, HEIGHT), patient=True)
    except Trouble:
        return ""
    return turn.builder.blobs.keep_raw(picture)
