"""Connections and transactions."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, text
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session, sessionmaker


class Database:
    """One PostgreSQL database. ``with database.transaction() as session`` commits at the end or not at all."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.engine = create_engine(
            url, pool_size=10, max_overflow=30, pool_pre_ping=True, connect_args={"connect_timeout": 5}
        )
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)

    @contextmanager
    def transaction(self) -> Iterator[Session]:
        """A session that is committed when the block ends and rolled back when it raises."""
        with self._sessions() as session, session.begin():
            yield session

    def migrate(self, version: str = "head") -> None:
        """Bring the tables to a version, the newest where nothing is said."""
        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        config.attributes["engine"] = self.engine
        command.upgrade(config, version)

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
