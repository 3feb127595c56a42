"""Specimens with method, dressing, fixture and pair; conditioning windows; what was prepared."""

from alembic import op

revision = "0004_plan_with_methods"
down_revision = "0003_keep_a_bench_book"
branch_labels = None
depends_on = None

STATEMENTS = (
    "ALTER TABLE lot ADD COLUMN soak_s REAL",
    "ALTER TABLE lot ADD COLUMN keep_s REAL",
    "ALTER TABLE specimen ADD COLUMN method TEXT NOT NULL DEFAULT 'ramp to failure'",
    "ALTER TABLE specimen ADD COLUMN method_values TEXT NOT NULL DEFAULT '{}'",
    "ALTER TABLE specimen ADD COLUMN direction TEXT NOT NULL DEFAULT ''",
    "ALTER TABLE specimen ADD COLUMN dressing TEXT NOT NULL DEFAULT 'dressed'",
    "ALTER TABLE specimen ADD COLUMN fixture_id TEXT REFERENCES fixture (id)",
    "ALTER TABLE specimen ADD COLUMN lot_b_id TEXT REFERENCES lot (id)",
    "ALTER TABLE specimen ADD COLUMN pair TEXT NOT NULL DEFAULT ''",
    "ALTER TABLE specimen ADD COLUMN replaces_id TEXT REFERENCES specimen (id)",
    "UPDATE specimen SET method = 'straight pull' WHERE role = 'baseline'",
    """CREATE TABLE preparation (
        id TEXT PRIMARY KEY, specimen_id TEXT NOT NULL REFERENCES specimen (id),
        made_at TEXT NOT NULL, step TEXT NOT NULL, by TEXT NOT NULL, note TEXT NOT NULL,
        withdrawn INTEGER NOT NULL
    ) STRICT""",
    "CREATE INDEX preparation_by_specimen ON preparation (specimen_id)",
    """CREATE TRIGGER preparation_is_append_only BEFORE UPDATE ON preparation
    BEGIN SELECT RAISE (ABORT, 'preparation is append-only'); END""",
)


def upgrade() -> None:
    for statement in STATEMENTS:
        op.execute(statement)
