"""Work in the background that outlives its process; copies that know what they are copies of."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0003"
down_revision = "0002"


def upgrade() -> None:
    op.add_column("models", sa.Column("origin", JSONB, nullable=True))
    op.create_table(
        "studies",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column(
            "model_id", sa.String(32), sa.ForeignKey("models.id", ondelete="CASCADE"), nullable=False, index=True
        ),
        sa.Column("person_id", sa.String(32), sa.ForeignKey("people.id"), nullable=False),
        sa.Column("part_id", sa.String(20), nullable=False),
        sa.Column("sort", sa.String(12), nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("asked", JSONB, nullable=False),
        sa.Column("found", JSONB, nullable=False),
        sa.Column("state", sa.String(12), nullable=False, index=True),
        sa.Column("beat", sa.DateTime(timezone=True), nullable=False),
        sa.Column("made", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("studies")
    op.drop_column("models", "origin")
