"""People, projects, models, revisions."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0001"
down_revision = None

_time = sa.DateTime(timezone=True)


def upgrade() -> None:
    op.create_table(
        "people",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("email", sa.String(200), nullable=False, unique=True),
        sa.Column("password_hash", sa.String(200), nullable=False),
        sa.Column("created", _time, nullable=False),
    )
    op.create_table(
        "projects",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("owner_id", sa.String(32), sa.ForeignKey("people.id"), nullable=False, index=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("created", _time, nullable=False),
        sa.Column("binned", _time),
    )
    op.create_table(
        "models",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("owner_id", sa.String(32), sa.ForeignKey("people.id"), nullable=False, index=True),
        sa.Column("project_id", sa.String(32), sa.ForeignKey("projects.id"), nullable=False, index=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("units", sa.String(4), nullable=False),
        sa.Column("steps", sa.Integer, nullable=False),
        sa.Column("document", JSONB, nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("history", JSONB, nullable=False),
        sa.Column("created", _time, nullable=False),
        sa.Column("changed", _time, nullable=False),
        sa.Column("binned", _time),
        sa.Column("picture", sa.LargeBinary),
        sa.Column("picture_revision", sa.Integer, nullable=False),
    )
    op.create_index("models_by_name", "models", [sa.text("lower(name)")])
    op.create_table(
        "revisions",
        sa.Column("model_id", sa.String(32), sa.ForeignKey("models.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("person_id", sa.String(32), sa.ForeignKey("people.id"), nullable=False),
        sa.Column("at", _time, nullable=False),
        sa.Column("sort", sa.String(12), nullable=False),
        sa.Column("summary", sa.Text, nullable=False),
        sa.Column("forward", JSONB, nullable=False),
        sa.Column("backward", JSONB, nullable=False),
    )


def downgrade() -> None:
    for table in ("revisions", "models", "projects", "people"):
        op.drop_table(table)
