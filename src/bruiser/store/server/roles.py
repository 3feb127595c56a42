"""What readers, technicians and checkers may do, by the database's own roles."""

from __future__ import annotations

import sqlalchemy as sa
from sqlalchemy.engine import Connection

READER, TECHNICIAN, CHECKER = "bruiser_reader", "bruiser_technician", "bruiser_checker"
ROLES = (READER, TECHNICIAN, CHECKER)
_CHECKERS_OWN = ("guide_step",)
"""Tables only a checker writes into: a guide checked, a guide released."""
_CHANGED = (
    "lot", "knot", "specimen", "tail", "hank", "campaign_use", "cord_reading", "own_structure",
    "bench", "fixture", "room_day", "progress", "tally", "revision", "hold",
)  # fmt: skip
"""Tables whose rows are changed and removed in the course of work, by statements of undo too."""
_END_OF_PULL = (
    "ended_at", '"end"', "samples_lost", "remains", "sample_rate_hz",
)  # fmt: skip
"""What is still said of a pull once it was begun; nothing else of it changes."""
_DROPPED = ("pull", "photo", "trace_chunk", "stock_entry")
"""Tables of which rows are taken away, under guards: a pull with findings stays by its references,
samples of a pull that was inspected and cuts of a hank by triggers."""

_THERE = sa.text("SELECT rolname FROM pg_roles WHERE rolname = ANY(:names)")
_MAY_MAKE = sa.text("SELECT rolsuper OR rolcreaterole FROM pg_roles WHERE rolname = current_user")


def give_rights(connection: Connection) -> None:
    """Give the three roles their rights on the tables; makes the roles where this user may.

    Where they are missing and may not be made, the owner alone can use the campaign.
    """
    there = set(connection.execute(_THERE, {"names": list(ROLES)}).scalars())
    may_make = connection.execute(_MAY_MAKE).scalar()
    for role in ROLES:
        if role not in there and may_make:
            connection.exec_driver_sql(f"CREATE ROLE {role} NOLOGIN")
            there.add(role)
    run = connection.exec_driver_sql
    for role in there:
        run(f"GRANT USAGE ON SCHEMA public TO {role}")
        run(f"GRANT SELECT ON ALL TABLES IN SCHEMA public TO {role}")
    for role in sorted(there & {TECHNICIAN, CHECKER}):
        run(f"REVOKE INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public FROM {role}")
        run(f"GRANT INSERT ON ALL TABLES IN SCHEMA public TO {role}")
        run(f"GRANT UPDATE, DELETE ON {', '.join(_CHANGED)} TO {role}")
        run(f"GRANT UPDATE ON campaign TO {role}")
        run(f"GRANT UPDATE ({', '.join(_END_OF_PULL)}) ON pull TO {role}")
        run(f"GRANT DELETE ON {', '.join(_DROPPED)} TO {role}")
        run(f"GRANT UPDATE (again_at) ON taken_back TO {role}")
        run(f"GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO {role}")
        run(f"REVOKE INSERT ON alembic_version, campaign FROM {role}")
    if TECHNICIAN in there:
        for table in _CHECKERS_OWN:
            run(f"REVOKE INSERT ON {table} FROM {TECHNICIAN}")
