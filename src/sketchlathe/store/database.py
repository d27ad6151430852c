"""Connections and transactions."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import orjson
from sqlalchemy import create_engine, event, text
from sqlalchemy.exc import DisconnectionError, OperationalError
from sqlalchemy.orm import Session, sessionmaker
from sqlalchemy.pool import ConnectionPoolEntry

from ..core.plain_json import dumped

IDLE = 2.0  # seconds
MIGRATIONS = Path(__file__).parent / "migrations"
ONE_AT_A_TIME = 5_283_114
"""Of PostgreSQL's advisory locks, that of whoever brings the tables up."""


class Database:
    """One PostgreSQL database. ``with database.transaction() as session`` commits at the end or not at all."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.engine = create_engine(
            url, pool_size=10, max_overflow=30, connect_args={"connect_timeout": 5},
            json_serializer=dumped, json_deserializer=orjson.loads,
        )  # fmt: skip
        event.listen(self.engine, "checkout", self._still_there)
        event.listen(self.engine, "checkin", _used_now)
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)
        self._glances = sessionmaker(
            self.engine.execution_options(isolation_level="AUTOCOMMIT"), expire_on_commit=False, autoflush=False
        )

    def _still_there(self, connection: Any, record: ConnectionPoolEntry, proxy: Any) -> None:
        """A connection that has lain for a while is tried before it is given out: the database may have been started
        anew. One that was used just now is taken as it is, which saves every request a way there and back.
        """
        if time.monotonic() - record.info.get("used", -IDLE) < IDLE:
            return
        try:
            alive = self.engine.dialect.do_ping(connection)
        except self.engine.dialect.loaded_dbapi.Error as problem:
            if not self.engine.dialect.is_disconnect(problem, connection, None):
                raise
            alive = False
        if not alive:
            raise DisconnectionError

    @contextmanager
    def transaction(self) -> Iterator[Session]:
        """A session that is committed when the block ends and rolled back when it raises."""
        with self._sessions() as session, session.begin():
            yield session

    @contextmanager
    def glance(self) -> Iterator[Session]:
        """A session for a single question: without a transaction around it, which takes two more ways to the database
        and back.
        """
        with self._glances() as session:
            yield session

    def migrate(self, version: str = "head") -> None:
        """Bring the tables to a version, the newest where nothing is said. Raises ``OperationalError``."""
        if version == "head" and self._version() == _newest():
            return
        from alembic import command  # takes a moment to load, and hardly ever has anything to do
        from alembic.config import Config

        config = Config()
        config.set_main_option("script_location", str(MIGRATIONS))
        config.attributes["engine"] = self.engine
        command.upgrade(config, version)

    def _version(self) -> str | None:
        """Of the tables; None where there are none yet."""
        with self.glance() as session:
            if session.scalar(text("select to_regclass('alembic_version')")) is None:
                return None
            version: str | None = session.scalar(text("select version_num from alembic_version"))
            return version

    def answers(self) -> bool:
        """Whether the database is there."""
        try:
            with self.transaction() as session:
                session.execute(text("select 1"))
        except OperationalError:
            return False
        return True

    def await_answer(self, seconds: float) -> bool:
        """Whether the database is there within so many seconds: at a start of everything it may come last."""
        until = time.monotonic() + seconds
        while not self.answers():
            if time.monotonic() > until:
                return False
            time.sleep(0.2)
        return True

    def close(self) -> None:
        """Give all connections back."""
        self.engine.dispose()


def _newest() -> str:
    """The version that the newest migration leads to: their files begin with it."""
    return max(path.name[:4] for path in (MIGRATIONS / "versions").glob("[0-9]*.py"))


def _used_now(connection: Any, record: ConnectionPoolEntry) -> None:
    record.info["used"] = time.monotonic()
