"""Rating limits, uses, and published guides."""

from alembic import op

revision = "0008_rate_and_publish"
down_revision = "0007_exclude_pulls"
branch_labels = None
depends_on = None

STATEMENTS = (
    """CREATE TABLE rating_limits (
        id TEXT PRIMARY KEY, made_at TEXT NOT NULL, version INTEGER NOT NULL UNIQUE,
        body TEXT NOT NULL, comment TEXT NOT NULL, by TEXT NOT NULL
    ) STRICT""",
    """CREATE TABLE use_profile (
        id TEXT PRIMARY KEY, key TEXT NOT NULL, made_at TEXT NOT NULL, body TEXT NOT NULL,
        withdrawn INTEGER NOT NULL
    ) STRICT""",
    """CREATE TABLE guide (
        id TEXT PRIMARY KEY, revision INTEGER NOT NULL UNIQUE, made_at TEXT NOT NULL,
        data_revision TEXT NOT NULL, body TEXT NOT NULL
    ) STRICT""",
    """CREATE TABLE guide_step (
        id TEXT PRIMARY KEY, guide_id TEXT NOT NULL REFERENCES guide (id), made_at TEXT NOT NULL,
        step TEXT NOT NULL CHECK (step IN ('checked', 'released')), by TEXT NOT NULL,
        reasons TEXT NOT NULL, html BLOB, pdf BLOB
    ) STRICT""",
    *(
        f"""CREATE TRIGGER {table}_is_append_only BEFORE UPDATE ON {table}
        BEGIN SELECT RAISE (ABORT, '{table} is append-only'); END"""
        for table in ("rating_limits", "use_profile", "guide", "guide_step")
    ),
)


def upgrade() -> None:
    for statement in STATEMENTS:
        op.execute(statement)
