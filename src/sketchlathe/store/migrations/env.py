"""Alembic's entry: run the migrations over the engine that ``Database.migrate`` hands in."""

from __future__ import annotations

from alembic import context
from sqlalchemy import text

from sketchlathe.store.database import ONE_AT_A_TIME
from sketchlathe.store.tables import Base

with context.config.attributes["engine"].begin() as connection:
    # processes that start together: the first does it, the others wait and find it done
    connection.execute(text("select pg_advisory_xact_lock(:which)"), {"which": ONE_AT_A_TIME})
    context.configure(connection=connection, target_metadata=Base.metadata)
    with context.begin_transaction():
        context.run_migrations()
