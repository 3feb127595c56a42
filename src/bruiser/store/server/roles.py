"""What readers, technicians and checkers may do, by the database's own roles."""

from __future__ import annotations

import sqlalchemy as sa
from sqlalchemy.engine import Connection

READER, TECHNICIAN, CHECKER = "bruiser_reader", "bruiser_technician", "bruiser_checker"
ROLES = (READER, TECHNICIAN, CHECKER)
_CHECKERS_OWN = ("guide_step",)
"""Tables only a checker writes into: a guide checked, a guide released."""

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
        run(f"GRANT INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO {role}")
        run(f"GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO {role}")
        run(f"REVOKE INSERT, UPDATE, DELETE ON alembic_version FROM {role}")
    if TECHNICIAN in there:
        for table in _CHECKERS_OWN:
            run(f"REVOKE INSERT, UPDATE, DELETE ON {table} FROM {TECHNICIAN}")
