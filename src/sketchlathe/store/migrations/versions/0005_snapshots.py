"""Whole documents among the revisions, so that an old one is brought back quickly."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0005"
down_revision = "0004"


def upgrade() -> None:
    op.create_table(
        "snapshots",
        sa.Column("model_id", sa.String(32), sa.ForeignKey("models.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer(), primary_key=True),
        sa.Column("document", JSONB(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("snapshots")
