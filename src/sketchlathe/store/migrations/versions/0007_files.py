"""Files that were brought into models, apart from the documents. Documents of before keep theirs until they change."""

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"


def upgrade() -> None:
    op.create_table(
        "files",
        sa.Column("digest", sa.String(32), primary_key=True),
        sa.Column("text", sa.Text, nullable=False),
        sa.Column("size", sa.Integer, nullable=False),
        sa.Column("used", sa.DateTime(timezone=True), nullable=False),
    )
    op.create_table(
        "model_files",
        sa.Column("model_id", sa.String(32), sa.ForeignKey("models.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("digest", sa.String(32), sa.ForeignKey("files.digest"), primary_key=True, index=True),
    )


def downgrade() -> None:
    raise RuntimeError("Documents refer to these files: restore a backup instead.")
