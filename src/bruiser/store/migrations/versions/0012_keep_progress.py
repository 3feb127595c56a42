"""Keep how far every specimen has got, and which revision of the campaign last changed it."""

from pathlib import Path

from alembic import op

revision = "0012_keep_progress"
down_revision = "0011_part_the_surgeons_knots"
branch_labels = None
depends_on = None

STATEMENTS = (
    """CREATE TABLE progress (
        specimen_id TEXT PRIMARY KEY, lot_id TEXT NOT NULL, role TEXT NOT NULL,
        method TEXT NOT NULL, place INTEGER NOT NULL, code TEXT NOT NULL, stage TEXT NOT NULL,
        pull_id TEXT, started_at TEXT, ended_at TEXT, simulated INTEGER NOT NULL,
        revision INTEGER NOT NULL
    ) STRICT""",
    """CREATE TABLE tally (
        lot_id TEXT NOT NULL, role TEXT NOT NULL, method TEXT NOT NULL, stage TEXT NOT NULL,
        count INTEGER NOT NULL, revision INTEGER NOT NULL,
        PRIMARY KEY (lot_id, role, method, stage)
    ) STRICT""",
    "CREATE TABLE revision (name TEXT PRIMARY KEY, number INTEGER NOT NULL) STRICT",
    """INSERT INTO progress
        SELECT s.id, s.lot_id, s.role, s.method, s.queue_position, s.code,
            CASE WHEN p.id IS NULL THEN 'planned'
                WHEN f.withdrawn = 0 THEN
                    CASE WHEN f.gave = 'void' THEN 'void' ELSE 'inspected' END
                WHEN p.ended_at IS NULL THEN 'running' ELSE 'pulled' END,
            p.id, p.started_at, p.ended_at, p.remains IS NOT NULL, 1
        FROM specimen s
        LEFT JOIN pull p ON p.id = (SELECT id FROM pull WHERE specimen_id = s.id
            ORDER BY started_at DESC, id DESC LIMIT 1)
        LEFT JOIN finding f ON f.id = (SELECT id FROM finding WHERE pull_id = p.id
            ORDER BY entry DESC LIMIT 1)""",
    """INSERT INTO tally SELECT lot_id, role, method, stage, count(*), 1 FROM progress
        GROUP BY lot_id, role, method, stage""",
    "INSERT INTO revision VALUES ('', 1)",
    "CREATE INDEX progress_queue ON progress (stage, place, code)",
    "CREATE INDEX progress_order ON progress (place, code)",
    "CREATE INDEX progress_tally ON progress (lot_id, role, method, stage)",
    "CREATE INDEX progress_simulated ON progress (simulated)",
    "CREATE INDEX progress_revision ON progress (revision)",
    "CREATE INDEX progress_pull ON progress (pull_id)",
    "CREATE INDEX progress_started ON progress (started_at)",
    "CREATE INDEX tally_revision ON tally (revision)",
    "CREATE INDEX specimen_by_replaced ON specimen (replaces_id)",
    "CREATE INDEX specimen_by_lot ON specimen (lot_id, knot_a_id, knot_b_id)",
    "CREATE INDEX specimen_by_second_lot ON specimen (lot_b_id)",
    "CREATE INDEX specimen_by_knot ON specimen (knot_a_id)",
    "CREATE INDEX specimen_by_second_knot ON specimen (knot_b_id)",
    "CREATE INDEX stock_entry_sums ON stock_entry (hank_id, change_m)",
    "CREATE INDEX stock_entry_by_specimen ON stock_entry (specimen_id)",
    "CREATE INDEX pull_unended ON pull (started_at) WHERE ended_at IS NULL",
    "CREATE INDEX pull_by_technician ON pull (technician)",
    "CREATE INDEX pull_by_instrument ON pull (instrument)",
    "CREATE INDEX finding_by_time ON finding (made_at)",
    "CREATE INDEX finding_by_superseded ON finding (supersedes)",
    "CREATE INDEX preparation_with_trial ON preparation (specimen_id) WHERE trial IS NOT NULL",
    "CREATE INDEX taken_back_key ON taken_back (row_key)",
)


def upgrade() -> None:
    if op.get_bind().dialect.name == "postgresql":
        # Campaigns on a server begin here, with all tables of this version.
        script = (Path(__file__).parents[1] / "server_0012.sql").read_text(encoding="utf-8")
        op.get_bind().exec_driver_sql(script, execution_options={"no_parameters": True})
        return
    for statement in STATEMENTS:
        op.execute(statement)
