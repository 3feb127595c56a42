"""Pulls left out of the results, with the reason."""

from alembic import op

revision = "0007_exclude_pulls"
down_revision = "0006_run_methods_and_keep_photos"
branch_labels = None
depends_on = None

STATEMENTS = (
    """CREATE TABLE exclusion (
        id TEXT PRIMARY KEY, pull_id TEXT NOT NULL REFERENCES pull (id), made_at TEXT NOT NULL,
        excluded INTEGER NOT NULL, reason TEXT NOT NULL, by TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX exclusion_by_pull ON exclusion (pull_id)",
    """CREATE TRIGGER exclusion_is_append_only BEFORE UPDATE ON exclusion
    BEGIN SELECT RAISE (ABORT, 'exclusion is append-only'); END""",
)


def upgrade() -> None:
    for statement in STATEMENTS:
        op.execute(statement)
