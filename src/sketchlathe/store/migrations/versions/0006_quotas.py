"""How much one person may have, where it is not what everybody may; who somebody is at a sign-in provider."""

import sqlalchemy as sa
from alembic import op

revision = "0006"
down_revision = "0005"


def upgrade() -> None:
    op.add_column("people", sa.Column("quota_models", sa.Integer, nullable=True))
    op.add_column("people", sa.Column("quota_mb", sa.Integer, nullable=True))
    op.add_column("people", sa.Column("subject", sa.String(400), nullable=True, unique=True))


def downgrade() -> None:
    for column in ("quota_models", "quota_mb", "subject"):
        op.drop_column("people", column)
