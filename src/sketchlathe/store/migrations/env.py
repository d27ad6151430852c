"""Alembic's entry: run the migrations over the engine that ``Database.migrate`` hands in."""

from __future__ import annotations

from alembic import context
from sqlalchemy import text

from sketchlathe.store.tables import Base

_ONE_AT_A_TIME = 5_283_114  # of PostgreSQL's advisory locks: any number that nothing else here uses

with context.config.attributes["engine"].begin() as connection:
    # processes that start together: the first does it, the others wait and find it done
    connection.execute(text("select pg_advisory_xact_lock(:which)"), {"which": _ONE_AT_A_TIME})
    context.configure(connection=connection, target_metadata=Base.metadata)
    with context.begin_transaction():
        context.run_migrations()
