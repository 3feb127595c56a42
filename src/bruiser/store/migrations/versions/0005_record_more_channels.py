"""Further channels of a trace, the cell's calibration factor, and checks with a known load."""

from alembic import op

revision = "0005_record_more_channels"
down_revision = "0004_plan_with_methods"
branch_labels = None
depends_on = None

STATEMENTS = (
    "ALTER TABLE trace_chunk ADD COLUMN extra BLOB",
    "ALTER TABLE bench ADD COLUMN factor REAL NOT NULL DEFAULT 1.0",
    """CREATE TABLE load_check (
        id TEXT PRIMARY KEY, made_at TEXT NOT NULL, bench TEXT NOT NULL,
        known_n REAL NOT NULL CHECK (known_n > 0), read_n REAL NOT NULL, by TEXT NOT NULL
    ) STRICT""",
    """CREATE TRIGGER load_check_is_append_only BEFORE UPDATE ON load_check
    BEGIN SELECT RAISE (ABORT, 'load_check is append-only'); END""",
)


def upgrade() -> None:
    for statement in STATEMENTS:
        op.execute(statement)
