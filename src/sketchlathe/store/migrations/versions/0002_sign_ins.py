"""Signed-in browsers are known to the server, so that signing out ends them."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"


def upgrade() -> None:
    op.create_table(
        "sign_ins",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column(
            "person_id", sa.String(32), sa.ForeignKey("people.id", ondelete="CASCADE"), nullable=False, index=True
        ),
        sa.Column("at", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("sign_ins")
