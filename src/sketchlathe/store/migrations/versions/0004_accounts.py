"""Accounts that can be shut, links for a new password, what browser somebody is signed in with."""

import sqlalchemy as sa
from alembic import op

revision = "0004"
down_revision = "0003"


def upgrade() -> None:
    op.add_column("people", sa.Column("locked", sa.DateTime(timezone=True), nullable=True))
    op.add_column("sign_ins", sa.Column("browser", sa.String(200), nullable=False, server_default=""))
    op.create_table(
        "reset_links",
        sa.Column("id", sa.String(64), primary_key=True),
        sa.Column(
            "person_id", sa.String(32), sa.ForeignKey("people.id", ondelete="CASCADE"), nullable=False, index=True
        ),
        sa.Column("until", sa.DateTime(timezone=True), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("reset_links")
    op.drop_column("sign_ins", "browser")
    op.drop_column("people", "locked")
