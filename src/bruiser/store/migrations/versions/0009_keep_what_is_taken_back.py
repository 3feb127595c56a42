"""Keep rows of append-only tables that an undo took back."""

from alembic import op

revision = "0009_keep_what_is_taken_back"
down_revision = "0008_rate_and_publish"
branch_labels = None
depends_on = None

STATEMENTS = (
    """CREATE TABLE taken_back (
        n INTEGER PRIMARY KEY, made_at TEXT NOT NULL, table_name TEXT NOT NULL,
        row_key TEXT NOT NULL, about TEXT NOT NULL, body TEXT NOT NULL, again_at TEXT
    ) STRICT""",
    "CREATE INDEX taken_back_about ON taken_back (about)",
)


def upgrade() -> None:
    for statement in STATEMENTS:
        op.execute(statement)
