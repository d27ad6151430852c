"""Classes: people in them, exercises with sets of numbers, what was tried, what was handed in."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0009"
down_revision = "0008"

TIME = sa.DateTime(timezone=True)


def _to(table: str, *, name: str, null: bool = False, gone: str = "CASCADE") -> sa.Column[str]:
    """A column that refers to a row elsewhere."""
    return sa.Column(name, sa.String(32), sa.ForeignKey(f"{table}.id", ondelete=gone or None), nullable=null)


def upgrade() -> None:
    op.create_table(
        "classes",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("name", sa.String(120), nullable=False),
        sa.Column("code", sa.String(40), nullable=False, unique=True),
        sa.Column("joining", sa.Boolean, nullable=False),
        sa.Column("made", TIME, nullable=False),
        sa.Column("kept_until", TIME),
    )
    op.create_table(
        "members",
        sa.Column("class_id", sa.String(32), sa.ForeignKey("classes.id", ondelete="CASCADE"), primary_key=True),
        sa.Column(
            "person_id", sa.String(32), sa.ForeignKey("people.id", ondelete="CASCADE"), primary_key=True, index=True
        ),
        sa.Column("role", sa.String(12), nullable=False),
        sa.Column("joined", TIME, nullable=False),
    )
    op.create_table(
        "exercises",
        sa.Column("id", sa.String(32), primary_key=True),
        _to("classes", name="class_id"),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("title", sa.String(120), nullable=False),
        sa.Column("words", sa.Text, nullable=False),
        _to("people", name="maker_id", null=True, gone=""),
        sa.Column("units", sa.String(4), nullable=False),
        sa.Column("document", JSONB, nullable=False),
        sa.Column("terms", JSONB, nullable=False),
        sa.Column("task", sa.LargeBinary),
        sa.Column("task_media", sa.String(40), nullable=False),
        sa.Column("opens", TIME),
        sa.Column("ends", TIME),
        sa.Column("given", TIME),
        sa.Column("made", TIME, nullable=False),
    )
    op.create_table(
        "number_sets",
        sa.Column("exercise_id", sa.String(32), sa.ForeignKey("exercises.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer, primary_key=True),
        sa.Column("numbers", JSONB, nullable=False),
        sa.Column("answers", JSONB, nullable=False),
        sa.Column("then", JSONB),
    )
    op.create_table(
        "doings",
        sa.Column("id", sa.String(32), primary_key=True),
        _to("exercises", name="exercise_id"),
        _to("people", name="person_id"),
        sa.Column("set_number", sa.Integer, nullable=False),
        _to("models", name="model_id", null=True, gone="SET NULL"),
        sa.Column("opened", TIME, nullable=False),
        sa.Column("right", TIME),
        sa.Column("then_right", TIME),
        sa.Column("points", sa.String(40), nullable=False),
        sa.Column("remark", sa.Text, nullable=False),
        sa.Column("marked", TIME),
        sa.UniqueConstraint("exercise_id", "person_id"),
    )
    op.create_table(
        "attempts",
        sa.Column("id", sa.String(32), primary_key=True),
        _to("doings", name="doing_id"),
        sa.Column("at", TIME, nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("phase", sa.String(8), nullable=False),
        sa.Column("right", sa.Boolean, nullable=False),
        sa.Column("shares", JSONB, nullable=False),
        sa.Column("slip", sa.String(60)),
        sa.Column("reason", sa.Text, nullable=False),
    )
    op.create_table(
        "hand_ins",
        sa.Column("id", sa.String(32), primary_key=True),
        _to("doings", name="doing_id"),
        sa.Column("at", TIME, nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("part_id", sa.String(20), nullable=False),
        sa.Column("document", JSONB, nullable=False),
        sa.Column("figures", JSONB, nullable=False),
        sa.Column("right", sa.Boolean, nullable=False),
        sa.Column("late", sa.Boolean, nullable=False),
        sa.Column("withdrawn", TIME),
        sa.Column("shows", JSONB, nullable=False),
    )
    for table, column in (
        ("exercises", "class_id"), ("doings", "exercise_id"), ("doings", "person_id"), ("doings", "model_id"),
        ("attempts", "doing_id"), ("hand_ins", "doing_id"),
    ):  # fmt: skip
        op.create_index(f"ix_{table}_{column}", table, [column])

    op.add_column("studies", sa.Column("about", sa.String(32), nullable=False, server_default=""))
    op.create_index("ix_studies_about", "studies", ["about"])


def downgrade() -> None:
    op.drop_index("ix_studies_about", "studies")
    op.drop_column("studies", "about")
    for table in ("hand_ins", "attempts", "doings", "number_sets", "exercises", "members", "classes"):
        op.drop_table(table)
