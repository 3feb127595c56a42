"""Webbing has a thickness; a specimen keeps what is done to it on purpose."""

from alembic import op

revision = "0010_plan_states"
down_revision = "0009_keep_what_is_taken_back"
branch_labels = None
depends_on = None

STATEMENTS = (
    "ALTER TABLE lot ADD COLUMN thickness_m REAL",
    "ALTER TABLE specimen ADD COLUMN state TEXT NOT NULL DEFAULT '{}'",
)


def upgrade() -> None:
    for statement in STATEMENTS:
        op.execute(statement)
