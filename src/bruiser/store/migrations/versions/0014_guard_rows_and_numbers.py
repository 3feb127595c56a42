"""Numbers are finite and in the range of their kind by the schema; on a server rows are guarded."""

from pathlib import Path

from alembic import op

revision = "0014_guard_rows_and_numbers"
down_revision = "0013_say_who_did_it"
branch_labels = None
depends_on = None

RANGES = {
    "bench": (
        ("stroke_m", 0.0, 1e07),
        ("rate_m_s", 0.0, 1e09),
        ("capacity_n", 0.0, 1e09),
        ("resolution_n", 0.0, 1e09),
        ("sample_rate_hz", 0.0, 1e09),
        ("compliance_m_per_n", -1e09, 1e09),
        ("guard_energy_j", -1e12, 1e12),
        ("factor", 0.0, 1e15),
    ),
    "campaign": (("offcut_minimum_m", 0.0, 1e07),),
    "claim": (
        ("share", 0.0, 1e15),
        ("load_n", -1e09, 1e09),
    ),
    "cord_reading": (("length_m", 0.0, 1e07),),
    "criterion": (("threshold", -1e15, 1e15),),
    "design_factor": (("value", -1e15, 1e15),),
    "finding": (("peak_load_n", 0.0, 1e09),),
    "fixture": (("diameter_m", 0.0, 1e07),),
    "knot_inspection": (("untie_s", 0.0, 1e09),),
    "load_check": (
        ("known_n", 0.0, 1e09),
        ("read_n", -1e09, 1e09),
    ),
    "lot": (
        ("diameter_m", 0.0, 1e07),
        ("rated_strength_n", 0.0, 1e09),
        ("reference_tension_n", -1e09, 1e09),
        ("mass_per_length_kg_m", 0.0, 1e07),
        ("static_elongation", -1e15, 1e15),
        ("soak_s", 0.0, 1e09),
        ("keep_s", 0.0, 1e09),
        ("thickness_m", 0.0, 1e07),
    ),
    "pull": (
        ("sample_rate_hz", 0.0, 1e09),
        ("rate_m_s", 0.0, 1e09),
        ("capacity_n", 0.0, 1e09),
        ("resolution_n", 0.0, 1e09),
    ),
    "reading": (
        ("load_n", -1e09, 1e09),
        ("value", -1e15, 1e15),
    ),
    "room_day": (
        ("temperature_c", -1e15, 1e15),
        ("humidity", 0.0, 1e15),
    ),
    "specimen": (
        ("span_m", 0.0, 1e07),
        ("pin_diameter_m", 0.0, 1e07),
        ("set_load_n", 0.0, 1e09),
    ),
    "stock_entry": (("change_m", -1e07, 1e07),),
    "tail": (("length_m", 0.0, 1e07),),
    "tail_draw": (
        ("draw_m", 0.0, 1e07),
        ("u_m", 0.0, 1e07),
    ),
}
"""The least and the most of every real number, by table and column."""


def upgrade() -> None:
    if op.get_bind().dialect.name == "postgresql":
        _on_a_server()
    else:
        _in_a_file()


def _in_a_file() -> None:
    """Add the checks to the tables as they stand; what was stored before stays as it is.

    Source: "Making other kinds of table schema changes" in SQLite's ALTER TABLE documentation,
    which names adding CHECK constraints as safe in this way.
    """
    run = op.get_bind().exec_driver_sql
    number = int(run("PRAGMA schema_version").scalar_one())
    run("PRAGMA writable_schema = ON")
    for table, columns in RANGES.items():
        checks = ", ".join(f"CHECK ({c} BETWEEN {low!r} AND {high!r})" for c, low, high in columns)
        sql = run("SELECT sql FROM sqlite_master WHERE name = ?", (table,)).scalar()
        head, bracket, tail = str(sql).rpartition(")")
        run(
            "UPDATE sqlite_master SET sql = ? WHERE type = 'table' AND name = ?",
            (f"{head.rstrip()}, {checks}{bracket}{tail}", table),
        )
    run(f"PRAGMA schema_version = {number + 1}")
    run("PRAGMA writable_schema = OFF")


def _on_a_server() -> None:
    run = op.get_bind().exec_driver_sql
    for table, columns in RANGES.items():
        for column, low, high in columns:
            run(
                f"ALTER TABLE {table} ADD CONSTRAINT {table}_{column}_in_range "
                f"CHECK ({column} BETWEEN {low!r} AND {high!r}) NOT VALID"
            )
    script = (Path(__file__).parents[1] / "server_0014.sql").read_text(encoding="utf-8")
    run(script, execution_options={"no_parameters": True})
