"""Readings of methods, tying sheets and trials, photos, and findings that say more."""

from alembic import op

revision = "0006_run_methods_and_keep_photos"
down_revision = "0005_record_more_channels"
branch_labels = None
depends_on = None

STATEMENTS = (
    "ALTER TABLE preparation ADD COLUMN sheet TEXT",
    "ALTER TABLE preparation ADD COLUMN trial TEXT",
    "ALTER TABLE finding ADD COLUMN by TEXT NOT NULL DEFAULT ''",
    "ALTER TABLE finding ADD COLUMN lengths TEXT NOT NULL DEFAULT '[]'",
    "ALTER TABLE finding ADD COLUMN forms TEXT NOT NULL DEFAULT '[]'",
    "ALTER TABLE finding ADD COLUMN against_trace TEXT NOT NULL DEFAULT ''",
    "ALTER TABLE tail_draw ADD COLUMN u_m REAL",
    "ALTER TABLE tail_draw ADD COLUMN how TEXT NOT NULL DEFAULT 'rule'",
    """CREATE TABLE reading (
        id TEXT PRIMARY KEY, pull_id TEXT NOT NULL REFERENCES pull (id), made_at TEXT NOT NULL,
        takes TEXT NOT NULL, number INTEGER NOT NULL, load_n REAL NOT NULL, value REAL,
        "end" TEXT, level TEXT, note TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX reading_by_pull ON reading (pull_id)",
    """CREATE TRIGGER reading_is_append_only BEFORE UPDATE ON reading
    BEGIN SELECT RAISE (ABORT, 'reading is append-only'); END""",
    """CREATE TABLE photo (
        id TEXT PRIMARY KEY, pull_id TEXT NOT NULL REFERENCES pull (id), made_at TEXT NOT NULL,
        name TEXT NOT NULL, width INTEGER NOT NULL, height INTEGER NOT NULL, jpeg BLOB NOT NULL
    ) STRICT""",
    "CREATE INDEX photo_by_pull ON photo (pull_id)",
    """CREATE TRIGGER photo_stays_as_taken BEFORE UPDATE ON photo
    BEGIN SELECT RAISE (ABORT, 'a photo is not changed'); END""",
)


def upgrade() -> None:
    for statement in STATEMENTS:
        op.execute(statement)
