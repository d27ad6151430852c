"""Alembic's entry: run the migrations over the engine that ``Database.migrate`` hands in."""

from __future__ import annotations

from alembic import context

from sketchlathe.store.tables import Base

with context.config.attributes["engine"].begin() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata)
    with context.begin_transaction():
        context.run_migrations()
