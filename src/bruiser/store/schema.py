"""Tables of the campaign file as the queries see them; migrations make them.

``docs/file-format.md`` describes every column.
"""

from __future__ import annotations

from sqlalchemy import BLOB, INTEGER, REAL, TEXT, Column, MetaData, Table

APPLICATION_ID = 0x42525531
HEAD = "0001_begin"

metadata = MetaData()

campaign = Table(
    "campaign",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("title", TEXT, nullable=False),
    Column("station", TEXT, nullable=False),
    Column("question", TEXT, nullable=False),
    Column("synthetic", INTEGER, nullable=False),
    Column("force_unit", TEXT, nullable=False),
    Column("length_unit", TEXT, nullable=False),
    Column("created_at", TEXT, nullable=False),
)

lot = Table(
    "lot",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("name", TEXT, nullable=False),
    Column("material", TEXT, nullable=False),
    Column("construction", TEXT, nullable=False),
    Column("diameter_m", REAL, nullable=False),
    Column("condition", TEXT, nullable=False),
    Column("rated_strength_n", REAL),
    Column("rating_means", TEXT, nullable=False),
    Column("length_on_hand_m", REAL),
    Column("cord_model", TEXT, nullable=False),
)

knot = Table(
    "knot",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("structure", TEXT, nullable=False),
    Column("variant", TEXT, nullable=False),
    Column("name", TEXT, nullable=False),
    Column("family", TEXT, nullable=False),
)

specimen = Table(
    "specimen",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("code", TEXT, nullable=False),
    Column("role", TEXT, nullable=False),
    Column("lot_id", TEXT, nullable=False),
    Column("layout", TEXT, nullable=False),
    Column("queue_position", INTEGER, nullable=False),
    Column("span_m", REAL, nullable=False),
    Column("knot_a_id", TEXT),
    Column("knot_b_id", TEXT),
    Column("pin_diameter_m", REAL, nullable=False),
    Column("set_load_n", REAL, nullable=False),
    Column("seed", INTEGER, nullable=False),
    Column("note", TEXT, nullable=False),
)

tail = Table(
    "tail",
    metadata,
    Column("specimen_id", TEXT, primary_key=True),
    Column("key", TEXT, primary_key=True),
    Column("length_m", REAL, nullable=False),
)

pull = Table(
    "pull",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("specimen_id", TEXT, nullable=False),
    Column("started_at", TEXT, nullable=False),
    Column("instrument", TEXT, nullable=False),
    Column("sample_rate_hz", REAL, nullable=False),
    Column("rate_m_s", REAL, nullable=False),
    Column("capacity_n", REAL, nullable=False),
    Column("resolution_n", REAL, nullable=False),
    Column("technician", TEXT, nullable=False),
    Column("ended_at", TEXT),
    Column("end", TEXT),
    Column("remains", TEXT),
    Column("samples_lost", INTEGER, nullable=False),
)

trace_chunk = Table(
    "trace_chunk",
    metadata,
    Column("pull_id", TEXT, primary_key=True),
    Column("first_seq", INTEGER, primary_key=True),
    Column("count", INTEGER, nullable=False),
    Column("data", BLOB, nullable=False),
)

trace_analysis = Table(
    "trace_analysis",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("pull_id", TEXT, nullable=False),
    Column("made_at", TEXT, nullable=False),
    Column("method", TEXT, nullable=False),
    Column("result", TEXT, nullable=False),
)

finding = Table(
    "finding",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("entry", INTEGER, nullable=False),
    Column("pull_id", TEXT, nullable=False),
    Column("made_at", TEXT, nullable=False),
    Column("gave", TEXT, nullable=False),
    Column("place", TEXT),
    Column("peak_load_n", REAL, nullable=False),
    Column("untied_how", TEXT, nullable=False),
    Column("note", TEXT, nullable=False),
    Column("void_reason", TEXT, nullable=False),
    Column("supersedes", TEXT),
    Column("reason", TEXT, nullable=False),
    Column("withdrawn", INTEGER, nullable=False),
)

tail_draw = Table(
    "tail_draw",
    metadata,
    Column("finding_id", TEXT, primary_key=True),
    Column("key", TEXT, primary_key=True),
    Column("draw_m", REAL, nullable=False),
)

knot_inspection = Table(
    "knot_inspection",
    metadata,
    Column("finding_id", TEXT, primary_key=True),
    Column("end", TEXT, primary_key=True),
    Column("jam_level", TEXT, nullable=False),
    Column("untie_s", REAL),
    Column("gave_up", INTEGER, nullable=False),
)
