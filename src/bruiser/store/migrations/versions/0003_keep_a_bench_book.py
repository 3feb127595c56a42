"""The bench book: benches, fixtures, and the room by day."""

from alembic import op

revision = "0003_keep_a_bench_book"
down_revision = "0002_ask_stock_and_choose"
branch_labels = None
depends_on = None

TABLES = (
    """CREATE TABLE bench (
        id TEXT PRIMARY KEY, name TEXT NOT NULL UNIQUE,
        stroke_m REAL NOT NULL CHECK (stroke_m > 0), rate_m_s REAL NOT NULL CHECK (rate_m_s > 0),
        capacity_n REAL NOT NULL CHECK (capacity_n > 0),
        resolution_n REAL NOT NULL CHECK (resolution_n > 0),
        sample_rate_hz REAL NOT NULL CHECK (sample_rate_hz > 0),
        compliance_m_per_n REAL NOT NULL, accuracy_class TEXT NOT NULL,
        calibrated_on TEXT NOT NULL, calibration_due TEXT NOT NULL, keep_away TEXT NOT NULL,
        guard TEXT NOT NULL, guard_energy_j REAL, estop_checked_on TEXT NOT NULL,
        methods TEXT NOT NULL
    ) STRICT""",
    """CREATE TABLE fixture (
        id TEXT PRIMARY KEY, kind TEXT NOT NULL CHECK (kind IN ('pin', 'host', 'plate', 'edge')),
        name TEXT NOT NULL, material TEXT NOT NULL, finish TEXT NOT NULL,
        diameter_m REAL NOT NULL CHECK (diameter_m > 0)
    ) STRICT""",
    """CREATE TABLE room_day (
        day TEXT PRIMARY KEY, temperature_c REAL NOT NULL, humidity REAL NOT NULL
    ) STRICT""",
)


def upgrade() -> None:
    for statement in TABLES:
        op.execute(statement)
