"""Addresses that somebody has checked. Accounts of before keep their way in: theirs count as checked."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"


def upgrade() -> None:
    op.add_column("people", sa.Column("address_checked", sa.DateTime(timezone=True), nullable=True))
    op.execute("update people set address_checked = created")


def downgrade() -> None:
    op.drop_column("people", "address_checked")
