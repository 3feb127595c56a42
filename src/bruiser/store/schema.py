"""Tables of the campaign file as the queries see them; migrations make them.

``docs/file-format.md`` describes every column.
"""

from __future__ import annotations

from sqlalchemy import BLOB, INTEGER, REAL, TEXT, Column, MetaData, Table

APPLICATION_ID = 0x42525531
HEAD = "0014_guard_rows_and_numbers"

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
    Column("trade", TEXT, nullable=False),
    Column("offcut_minimum_m", REAL, nullable=False),
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
    Column("cord_model", TEXT, nullable=False),
    Column("designation", TEXT, nullable=False),
    Column("diameter_means", TEXT, nullable=False),
    Column("reference_tension_n", REAL),
    Column("mass_per_length_kg_m", REAL),
    Column("static_elongation", REAL),
    Column("age", TEXT, nullable=False),
    Column("history", TEXT, nullable=False),
    Column("conditioning", TEXT, nullable=False),
    Column("soak_s", REAL),
    Column("keep_s", REAL),
    Column("stock_lot_id", TEXT),
    Column("archived", INTEGER, nullable=False),
    Column("thickness_m", REAL),
)

knot = Table(
    "knot",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("structure", TEXT, nullable=False),
    Column("variant", TEXT, nullable=False),
    Column("name", TEXT, nullable=False),
    Column("family", TEXT, nullable=False),
    Column("choices", TEXT, nullable=False),
    Column("archived", INTEGER, nullable=False),
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
    Column("method", TEXT, nullable=False),
    Column("method_values", TEXT, nullable=False),
    Column("direction", TEXT, nullable=False),
    Column("dressing", TEXT, nullable=False),
    Column("fixture_id", TEXT),
    Column("lot_b_id", TEXT),
    Column("pair", TEXT, nullable=False),
    Column("replaces_id", TEXT),
    Column("state", TEXT, nullable=False),
)

preparation = Table(
    "preparation",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("specimen_id", TEXT, nullable=False),
    Column("made_at", TEXT, nullable=False),
    Column("step", TEXT, nullable=False),
    Column("by", TEXT, nullable=False),
    Column("note", TEXT, nullable=False),
    Column("withdrawn", INTEGER, nullable=False),
    Column("sheet", TEXT),
    Column("trial", TEXT),
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
    Column("extra", BLOB),
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
    Column("by", TEXT, nullable=False),
    Column("lengths", TEXT, nullable=False),
    Column("forms", TEXT, nullable=False),
    Column("against_trace", TEXT, nullable=False),
)

tail_draw = Table(
    "tail_draw",
    metadata,
    Column("finding_id", TEXT, primary_key=True),
    Column("key", TEXT, primary_key=True),
    Column("draw_m", REAL, nullable=False),
    Column("u_m", REAL),
    Column("how", TEXT, nullable=False),
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

reading = Table(
    "reading",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("pull_id", TEXT, nullable=False),
    Column("made_at", TEXT, nullable=False),
    Column("takes", TEXT, nullable=False),
    Column("number", INTEGER, nullable=False),
    Column("load_n", REAL, nullable=False),
    Column("value", REAL),
    Column("end", TEXT),
    Column("level", TEXT),
    Column("note", TEXT, nullable=False),
)

photo = Table(
    "photo",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("pull_id", TEXT, nullable=False),
    Column("made_at", TEXT, nullable=False),
    Column("name", TEXT, nullable=False),
    Column("width", INTEGER, nullable=False),
    Column("height", INTEGER, nullable=False),
    Column("jpeg", BLOB, nullable=False),
)

exclusion = Table(
    "exclusion",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("pull_id", TEXT, nullable=False),
    Column("made_at", TEXT, nullable=False),
    Column("excluded", INTEGER, nullable=False),
    Column("reason", TEXT, nullable=False),
    Column("by", TEXT, nullable=False),
)

hank = Table(
    "hank",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("lot_id", TEXT, nullable=False),
    Column("label", TEXT, nullable=False),
    Column("kind", TEXT, nullable=False),
)

stock_entry = Table(
    "stock_entry",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("hank_id", TEXT, nullable=False),
    Column("made_at", TEXT, nullable=False),
    Column("move", TEXT, nullable=False),
    Column("change_m", REAL, nullable=False),
    Column("specimen_id", TEXT),
    Column("note", TEXT, nullable=False),
)

campaign_use = Table(
    "campaign_use",
    metadata,
    Column("use", TEXT, primary_key=True),
    Column("position", INTEGER, nullable=False),
)

criterion = Table(
    "criterion",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("made_at", TEXT, nullable=False),
    Column("measure", TEXT, nullable=False),
    Column("threshold", REAL, nullable=False),
    Column("need", INTEGER, nullable=False),
    Column("of", INTEGER, nullable=False),
    Column("at_least", INTEGER, nullable=False),
    Column("lot_ids", TEXT, nullable=False),
    Column("knot_ids", TEXT, nullable=False),
    Column("comment", TEXT, nullable=False),
    Column("supersedes", TEXT),
    Column("withdrawn", INTEGER, nullable=False),
)

claim = Table(
    "claim",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("made_at", TEXT, nullable=False),
    Column("kind", TEXT, nullable=False),
    Column("knot_id", TEXT),
    Column("other_knot_id", TEXT),
    Column("lot_id", TEXT),
    Column("share", REAL),
    Column("wraps", INTEGER),
    Column("load_n", REAL),
    Column("supersedes", TEXT),
    Column("withdrawn", INTEGER, nullable=False),
)

design_factor = Table(
    "design_factor",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("made_at", TEXT, nullable=False),
    Column("value", REAL, nullable=False),
    Column("source", TEXT, nullable=False),
    Column("withdrawn", INTEGER, nullable=False),
)

cord_reading = Table(
    "cord_reading",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("knot_id", TEXT, nullable=False),
    Column("lot_id", TEXT, nullable=False),
    Column("length_m", REAL, nullable=False),
    Column("made_at", TEXT, nullable=False),
    Column("note", TEXT, nullable=False),
)

own_structure = Table(
    "own_structure",
    metadata,
    Column("key", TEXT, primary_key=True),
    Column("text", TEXT, nullable=False),
    Column("based_on", TEXT, nullable=False),
    Column("made_at", TEXT, nullable=False),
)

bench = Table(
    "bench",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("name", TEXT, nullable=False),
    Column("stroke_m", REAL, nullable=False),
    Column("rate_m_s", REAL, nullable=False),
    Column("capacity_n", REAL, nullable=False),
    Column("resolution_n", REAL, nullable=False),
    Column("sample_rate_hz", REAL, nullable=False),
    Column("compliance_m_per_n", REAL, nullable=False),
    Column("accuracy_class", TEXT, nullable=False),
    Column("calibrated_on", TEXT, nullable=False),
    Column("calibration_due", TEXT, nullable=False),
    Column("keep_away", TEXT, nullable=False),
    Column("guard", TEXT, nullable=False),
    Column("guard_energy_j", REAL),
    Column("estop_checked_on", TEXT, nullable=False),
    Column("methods", TEXT, nullable=False),
    Column("factor", REAL, nullable=False),
)

fixture = Table(
    "fixture",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("kind", TEXT, nullable=False),
    Column("name", TEXT, nullable=False),
    Column("material", TEXT, nullable=False),
    Column("finish", TEXT, nullable=False),
    Column("diameter_m", REAL, nullable=False),
)

room_day = Table(
    "room_day",
    metadata,
    Column("day", TEXT, primary_key=True),
    Column("temperature_c", REAL, nullable=False),
    Column("humidity", REAL, nullable=False),
)

load_check = Table(
    "load_check",
    metadata,
    Column("id", TEXT, primary_key=True),
    Column("made_at", TEXT, nullable=False),
    Column("bench", TEXT, nullable=False),
    Column("known_n", REAL, nullable=False),
    Column("read_n", REAL, nullable=False),
    Column("by", TEXT, nullable=False),
)

taken_back = Table(
    "taken_back",
    metadata,
    Column("n", INTEGER, primary_key=True),
    Column("made_at", TEXT, nullable=False),
    Column("table_name", TEXT, nullable=False),
    Column("row_key", TEXT, nullable=False),
    Column("about", TEXT, nullable=False),
    Column("body", TEXT, nullable=False),
    Column("again_at", TEXT),
)
