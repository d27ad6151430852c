"""Studies: work in the background that goes on when the person, or the server, has gone away meanwhile.

A study is a row: what was asked, what was found so far, whose turn it is. Threads of any web process take turns at the
rows that wait, the one that waited longest first, so that one person's long study does not hold up another's short one.
A process that dies leaves a row that has no beat any more; whoever looks at it, and every start, takes it over.
"""

from __future__ import annotations

import contextlib
import logging
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import timedelta
from typing import Any

from sqlalchemy import ColumnElement, delete, or_, select, update

from ..core.errors import Stopped, Trouble
from ..store import Database, Study
from ..store.tables import now
from . import modelling
from .building import Builder
from .modelling import Opened

SILENT = timedelta(seconds=45)  # without a beat for so long, nobody is at it any more
BEAT = 5.0  # seconds between two beats
TURN = 15.0  # seconds at one study while others wait
_log = logging.getLogger("lathe.studies")


@dataclass
class Turn:
    """What a study's work is given: the part as it was when it was asked, and where to put what it finds."""

    id: str
    opened: Opened
    person_id: str
    part_id: str
    asked: dict[str, Any]
    found: dict[str, Any]
    builder: Builder
    keep: Callable[[], None]
    ended: threading.Event = field(default_factory=threading.Event)  # stopped by somebody, or another study's turn
    tickets: set[str] = field(default_factory=set)  # what runs for it
    sort: str = ""
    about: str = ""

    def is_of(self, model_id: str, part_id: str, sort: str, about: str) -> bool:
        """Whether this is what is done for that study."""
        mine = (self.opened.id, self.part_id, self.sort, self.about)
        return mine == (model_id, part_id, sort, about)


Work = Callable[[Turn], bool]
"""Does a piece of a study, or all of it: True when there is nothing more to do."""


class Studies:
    """The studies of one web process. Threads come when there is something to do, and go when there is not."""

    def __init__(self, database: Database, builder: Builder, sorts: dict[str, Work]) -> None:
        self._database, self._builder, self._sorts = database, builder, sorts
        self._thread: threading.Thread | None = None
        self._lock = threading.Lock()
        self._at: Turn | None = None
        self._closed = False

    def begin(
        self,
        opened: Opened,
        person_id: str,
        part_id: str,
        sort: str,
        asked: dict[str, Any],
        known: dict[str, Any] | None = None,
        about: str = "",
    ) -> dict[str, Any]:
        """Begin a study of a part; an older one of its sort is forgotten. ``known``: what is found already.

        Of studies that are ``about`` something beside the part (its id) only one about the same is.
        """
        opened.model.part(part_id)
        self.stop(opened.id, part_id, sort, about)
        with self._database.transaction() as session:
            session.execute(delete(Study).where(*_which(opened.id, part_id, sort, about)))
            row = Study(
                model_id=opened.id, person_id=person_id, part_id=part_id, sort=sort, revision=opened.revision,
                about=about, asked=asked, found=known or {},
            )  # fmt: skip
            session.add(row)
            session.flush()
            told = _told(row)
        self.wake()
        return told

    def find(self, model_id: str, part_id: str, sort: str) -> dict[str, Any] | None:
        """The newest study of a part, as far as it is; one that nobody works at any more is taken over."""
        with self._database.transaction() as session:
            query = select(Study).where(*_which(model_id, part_id, sort, ""))
            row = session.scalar(query.order_by(Study.made.desc()).limit(1))
            told = _told(row) if row is not None else None
        if told is not None and told["state"] in ("waiting", "running"):
            self.wake()
        return told

    def about(self, what: str) -> dict[str, Any] | None:
        """The newest study about something beside a part, as far as it is."""
        with self._database.transaction() as session:
            query = select(Study).where(Study.about == what).order_by(Study.made.desc()).limit(1)
            row = session.scalar(query)
            return _told(row) if row is not None else None

    def stop(self, model_id: str, part_id: str, sort: str, about: str = "") -> None:
        """Stop a study; what it found stays."""
        with self._database.transaction() as session:
            session.execute(
                update(Study)
                .where(*_which(model_id, part_id, sort, about))
                .where(Study.state.in_(("waiting", "running")))
                .values(state="stopped")
            )
        at = self._at
        if at is not None and at.is_of(model_id, part_id, sort, about):
            at.ended.set()
            for ticket in list(at.tickets):
                self._builder.stop(ticket)

    def wake(self) -> None:
        """See whether there is something to do."""
        with self._lock:
            if not self._closed and (self._thread is None or not self._thread.is_alive()):
                self._thread = threading.Thread(target=self._run, name="studies", daemon=True)
                self._thread.start()

    def close(self) -> None:
        """Leave off; what is not done is taken over at the next start."""
        self._closed = True
        if self._at is not None:
            self._at.ended.set()

    def _run(self) -> None:
        try:
            while not self._closed and (row := self._taken()) is not None:
                self._turn(row)
        except Exception:
            if not self._closed:
                _log.exception("a study was left; the next look at it takes it over")
        finally:
            self._at = None
            self._builder.engine.rest()

    def _taken(self) -> Study | None:
        """The row that waited longest, now this process's."""
        with self._database.transaction() as session:
            # a beat of the future is one from before the clock was put back
            silent = or_(Study.beat < now() - SILENT, Study.beat > now() + SILENT)
            free = or_(Study.state == "waiting", (Study.state == "running") & silent)
            query = select(Study).where(free).order_by(Study.beat).limit(1).with_for_update(skip_locked=True)
            row = session.scalar(query)
            if row is not None:
                row.state, row.beat = "running", now()
        return row

    def _turn(self, row: Study) -> None:
        """Work at a study until it is done, stopped, or another one's turn."""
        try:
            opened = modelling.look_at(self._database, row.person_id, row.model_id, row.revision)
        except Trouble as problem:
            self._put(row.id, {"problem": problem.message}, "failed")
            return
        found = dict(row.found)
        turn = Turn(
            row.id,
            opened,
            row.person_id,
            row.part_id,
            row.asked,
            found,
            self._builder,
            lambda: self._put(row.id, found, None),
            sort=row.sort,
            about=row.about,
        )
        self._at = turn
        watch = threading.Thread(target=self._watch, args=(turn,), daemon=True)
        watch.start()
        began = time.monotonic()
        state = "failed"
        try:
            done = self._sorts[row.sort](turn)
            state = "done" if done else "waiting"
        except Stopped:
            state = "waiting"
        except Trouble as problem:
            found["problem"] = problem.message
        except Exception:
            found["problem"] = "Something went wrong here, and it is our fault. What was found is kept."
            _log.exception("study %s", row.id)
        finally:
            found["seconds"] = round(found.get("seconds", 0.0) + time.monotonic() - began, 1)
            turn.ended.set()
            if not self._closed or state == "done":
                self._put(row.id, found, state)

    def _watch(self, turn: Turn) -> None:
        """Give a study its beats; end its turn when it was stopped, or when others have waited long enough."""
        began = time.monotonic()
        while not turn.ended.wait(BEAT if time.monotonic() - began > 2 * BEAT else 1.0):
            with contextlib.suppress(Exception), self._database.transaction() as session:
                session.execute(update(Study).where(Study.id == turn.id, Study.state == "running").values(beat=now()))
                state = session.scalar(select(Study.state).where(Study.id == turn.id))
                others = session.scalar(select(Study.id).where(Study.state == "waiting").limit(1))
                if state != "running" or (others and time.monotonic() - began > TURN):
                    turn.ended.set()

    def _put(self, study_id: str, found: dict[str, Any], state: str | None) -> None:
        """Keep what was found; one that was stopped meanwhile stays so."""
        with self._database.transaction() as session:
            values: dict[str, Any] = {"found": found, "beat": now()}
            session.execute(update(Study).where(Study.id == study_id).values(**values))
            if state is not None:
                session.execute(update(Study).where(Study.id == study_id, Study.state == "running").values(state=state))


def _which(model_id: str, part_id: str, sort: str, about: str) -> tuple[ColumnElement[bool], ...]:
    return Study.model_id == model_id, Study.part_id == part_id, Study.sort == sort, Study.about == about


def _told(row: Study) -> dict[str, Any]:
    return {"state": row.state, "revision": row.revision, "asked": row.asked, **row.found}
