"""What is asked, cordage on hand, and knots with their variants."""

import json
import uuid

import sqlalchemy as sa
from alembic import op

revision = "0002_ask_stock_and_choose"
down_revision = "0001_begin"
branch_labels = None
depends_on = None

COLUMNS = (
    "ALTER TABLE campaign ADD COLUMN trade TEXT NOT NULL DEFAULT 'general'",
    "ALTER TABLE campaign ADD COLUMN offcut_minimum_m REAL NOT NULL DEFAULT 0.5",
    "ALTER TABLE lot ADD COLUMN designation TEXT NOT NULL DEFAULT ''",
    "ALTER TABLE lot ADD COLUMN diameter_means TEXT NOT NULL DEFAULT 'nominal'",
    "ALTER TABLE lot ADD COLUMN reference_tension_n REAL",
    "ALTER TABLE lot ADD COLUMN mass_per_length_kg_m REAL",
    "ALTER TABLE lot ADD COLUMN static_elongation REAL",
    "ALTER TABLE lot ADD COLUMN age TEXT NOT NULL DEFAULT ''",
    "ALTER TABLE lot ADD COLUMN history TEXT NOT NULL DEFAULT ''",
    "ALTER TABLE lot ADD COLUMN conditioning TEXT NOT NULL DEFAULT ''",
    "ALTER TABLE lot ADD COLUMN stock_lot_id TEXT REFERENCES lot (id)",
    "ALTER TABLE lot ADD COLUMN archived INTEGER NOT NULL DEFAULT 0",
    "ALTER TABLE lot DROP COLUMN length_on_hand_m",
    "ALTER TABLE knot ADD COLUMN choices TEXT NOT NULL DEFAULT '{}'",
    "ALTER TABLE knot ADD COLUMN archived INTEGER NOT NULL DEFAULT 0",
)

TABLES = (
    """CREATE TABLE hank (
        id TEXT PRIMARY KEY, lot_id TEXT NOT NULL REFERENCES lot (id), label TEXT NOT NULL,
        kind TEXT NOT NULL CHECK (kind IN ('hank', 'spool', 'offcut')), UNIQUE (lot_id, label)
    ) STRICT""",
    """CREATE TABLE stock_entry (
        id TEXT PRIMARY KEY, hank_id TEXT NOT NULL REFERENCES hank (id), made_at TEXT NOT NULL,
        move TEXT NOT NULL, change_m REAL NOT NULL,
        specimen_id TEXT REFERENCES specimen (id), note TEXT NOT NULL
    ) STRICT""",
    """CREATE TABLE campaign_use (
        use TEXT PRIMARY KEY, position INTEGER NOT NULL
    ) STRICT""",
    """CREATE TABLE criterion (
        id TEXT PRIMARY KEY, made_at TEXT NOT NULL, measure TEXT NOT NULL,
        threshold REAL NOT NULL, need INTEGER NOT NULL, of INTEGER NOT NULL,
        at_least INTEGER NOT NULL, lot_ids TEXT NOT NULL, knot_ids TEXT NOT NULL,
        comment TEXT NOT NULL, supersedes TEXT REFERENCES criterion (id),
        withdrawn INTEGER NOT NULL, CHECK (need BETWEEN 1 AND of)
    ) STRICT""",
    """CREATE TABLE claim (
        id TEXT PRIMARY KEY, made_at TEXT NOT NULL, kind TEXT NOT NULL,
        knot_id TEXT REFERENCES knot (id), other_knot_id TEXT REFERENCES knot (id),
        lot_id TEXT REFERENCES lot (id), share REAL, wraps INTEGER, load_n REAL,
        supersedes TEXT REFERENCES claim (id), withdrawn INTEGER NOT NULL
    ) STRICT""",
    """CREATE TABLE design_factor (
        id TEXT PRIMARY KEY, made_at TEXT NOT NULL, value REAL NOT NULL CHECK (value >= 1),
        source TEXT NOT NULL CHECK (source <> ''), withdrawn INTEGER NOT NULL
    ) STRICT""",
    """CREATE TABLE cord_reading (
        id TEXT PRIMARY KEY, knot_id TEXT NOT NULL REFERENCES knot (id),
        lot_id TEXT NOT NULL REFERENCES lot (id), length_m REAL NOT NULL CHECK (length_m > 0),
        made_at TEXT NOT NULL, note TEXT NOT NULL
    ) STRICT""",
    """CREATE TABLE own_structure (
        key TEXT PRIMARY KEY, text TEXT NOT NULL, based_on TEXT NOT NULL, made_at TEXT NOT NULL
    ) STRICT""",
    "CREATE INDEX stock_entry_by_hank ON stock_entry (hank_id)",
    *(
        f"""CREATE TRIGGER {table}_is_append_only BEFORE UPDATE ON {table}
        BEGIN SELECT RAISE (ABORT, '{table} is append-only'); END"""
        for table in ("stock_entry", "criterion", "claim", "design_factor")
    ),
)


def upgrade() -> None:
    connection = op.get_bind()
    on_hand = connection.execute(
        sa.text("SELECT id, length_on_hand_m FROM lot WHERE length_on_hand_m > 0")
    ).all()
    made_at = connection.execute(sa.text("SELECT created_at FROM campaign")).scalar() or ""
    for statement in (*COLUMNS, *TABLES):
        op.execute(statement)
    for lot_id, length_m in on_hand:
        hank = str(uuid.uuid5(uuid.NAMESPACE_OID, f"hank of {lot_id}"))
        connection.execute(
            sa.text("INSERT INTO hank VALUES (:h, :l, '1', 'hank')"), {"h": hank, "l": lot_id}
        )
        connection.execute(
            sa.text("INSERT INTO stock_entry VALUES (:e, :h, :t, 'received', :m, NULL, :n)"),
            {
                "e": str(uuid.uuid5(uuid.NAMESPACE_OID, f"received {lot_id}")),
                "h": hank,
                "t": made_at,
                "m": length_m,
                "n": "carried over: one length was on record",
            },
        )
    # A round-turn bowline was a structure of its own; it is a variant of the bowline.
    connection.execute(
        sa.text(
            "UPDATE knot SET structure = 'bowline', variant = 'round turn (double)', "
            "name = 'Bowline', choices = :c WHERE structure = 'double-bowline'"
        ),
        {"c": json.dumps({"turns": "round-turn"})},
    )
