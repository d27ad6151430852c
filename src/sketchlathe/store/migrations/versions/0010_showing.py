"""Models shown to others: to whom and for what; what people say about them."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0010"
down_revision = "0009"

TIME = sa.DateTime(timezone=True)


def _to(table: str, name: str, *, null: bool = False, gone: str | None = "CASCADE") -> sa.Column[str]:
    return sa.Column(name, sa.String(32), sa.ForeignKey(f"{table}.id", ondelete=gone), nullable=null, index=True)


def upgrade() -> None:
    op.create_table(
        "showings",
        sa.Column("id", sa.String(32), primary_key=True),
        _to("models", "model_id"),
        sa.Column("sort", sa.String(8), nullable=False),
        sa.Column("address", sa.String(200), nullable=False, index=True),
        _to("people", "person_id", null=True),
        _to("classes", "class_id", null=True),
        _to("showings", "through_id", null=True),
        sa.Column("lets", sa.String(8), nullable=False),
        sa.Column("until", TIME),
        sa.Column("made", TIME, nullable=False),
    )
    op.create_table(
        "comments",
        sa.Column("id", sa.String(32), primary_key=True),
        _to("models", "model_id"),
        _to("comments", "answers_id", null=True),
        _to("people", "person_id", null=True, gone="SET NULL"),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("at", TIME, nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("about", JSONB, nullable=False),
        sa.Column("text", sa.Text, nullable=False),
        sa.Column("settled", TIME),
    )
