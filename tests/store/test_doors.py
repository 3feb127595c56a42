"""What comes into the store: finite numbers in range, whole texts, into tables that are ours."""

import math
import sqlite3
import threading
from contextlib import closing
from dataclasses import replace

import psycopg
import pytest
import sqlalchemy as sa
from tests.build import LOT, ROW

from bruiser.core.errors import AlteredSchema, BruiserError, Busy, InputError, StoreError
from bruiser.core.trace import trace_of
from bruiser.store import pulls, schema
from bruiser.store.campaigns import insert_campaign, insert_lot
from bruiser.store.expected_schema import expected_schema, schema_of
from bruiser.store.opening import create_campaign, open_campaign
from bruiser.store.ranges import check_number, range_of
from bruiser.store.server import connecting
from bruiser.store.server.campaign_server import WRITE_KEY
from bruiser.store.server.opening import create_on_server, open_server
from bruiser.store.server.roles import TECHNICIAN
from bruiser.store.tables import TABLES
from bruiser.store.undo_log import APPEND_ONLY
from bruiser.workshop.exchange.rescuing import rescue_campaign
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop

ODD = (math.inf, -math.inf, math.nan, 1e300)


@pytest.mark.parametrize("value", ODD)
def test_no_number_that_is_none_comes_in_by_any_statement(tmp_path, value):
    with create_campaign(tmp_path / "c.bruiser") as file:
        with file.writing() as c:
            insert_campaign(c, ROW)
            insert_lot(c, LOT)
        for statement in (
            sa.update(schema.lot).values(rated_strength_n=value),
            sa.insert(schema.room_day).values(day="2026-01-01", temperature_c=value, humidity=0.5),
        ):
            with pytest.raises(InputError), file.writing() as c:
                c.execute(statement)
        if not math.isnan(value):
            sql = "UPDATE lot SET rated_strength_n = " + ("-" if value < 0 else "") + "1e999"
            with pytest.raises(StoreError, match="CHECK"), file.writing() as c:
                c.exec_driver_sql(sql)
        with file.reading() as c:
            assert c.execute(sa.select(schema.lot.c.rated_strength_n)).scalar() != value


def test_every_real_column_is_bounded_in_the_file():
    for table in TABLES.values():
        sql = expected_schema()[f"table {table.name}"]
        for column in table.columns:
            if isinstance(column.type, sa.REAL):
                assert f"CHECK({column.name} BETWEEN " in sql, (table.name, column.name)
                low, high = range_of(column.name)
                assert low < high < math.inf


@pytest.mark.parametrize(("name", "value"), [("peak_load_n", -1.0), ("archived", 2), ("of", 0)])
def test_a_number_out_of_its_range_names_its_field(name, value):
    with pytest.raises(InputError) as wrong:
        check_number(name, value)
    assert wrong.value.where == name


def test_a_nul_is_refused_at_the_door(tmp_path):
    with create_campaign(tmp_path / "c.bruiser") as file:
        with pytest.raises(InputError, match="NUL"), file.writing() as c:
            insert_lot(c, replace(LOT, name="red\x00 line"))
        with file.reading() as c:
            assert c.execute(sa.select(schema.lot)).first() is None


def test_the_schema_shipped_is_what_the_migrations_make(tmp_path):
    create_campaign(tmp_path / "c.bruiser").close()
    with closing(sqlite3.connect(tmp_path / "c.bruiser")) as plain:
        assert schema_of(plain) == expected_schema()


CHUNKS = "first_seq INTEGER NOT NULL, count INTEGER NOT NULL, data BLOB NOT NULL, extra BLOB"
SWALLOWS = (
    "ALTER TABLE trace_chunk RENAME TO old",
    f"CREATE TABLE trace_chunk (pull_id TEXT NOT NULL, {CHUNKS}, "
    "UNIQUE (pull_id) ON CONFLICT IGNORE) STRICT",
    "INSERT INTO trace_chunk SELECT pull_id, first_seq, count, data, extra FROM old",
    "DROP TABLE old",
)
NO_GUARD = ("DROP TRIGGER finding_is_append_only",)
LAX = ("DROP INDEX progress_pull", "CREATE INDEX progress_pull ON progress (lot_id)")


@pytest.mark.parametrize("script", [SWALLOWS, NO_GUARD, LAX])
def test_a_file_whose_tables_are_not_ours_is_left_alone_and_its_rows_rescued(
    script, usual_file, tmp_path
):
    with closing(sqlite3.connect(usual_file)) as plain:
        for statement in script:
            plain.execute(statement)
        plain.commit()
    before = usual_file.read_bytes()
    with pytest.raises(AlteredSchema, match="other than a campaign has it"):
        open_campaign(usual_file)
    assert usual_file.read_bytes() == before
    target = tmp_path / "clean.bruiser"
    rescue_campaign(usual_file, target)
    shop = open_workshop(target)
    assert read_logbook(shop).entries
    shop.close()


def test_a_chunk_that_was_swallowed_is_noticed_at_once(usual_file):
    shop = open_workshop(usual_file)
    pull = next(e.pull for e in read_logbook(shop).entries if e.pull)
    with shop.file.writing() as c:
        c.exec_driver_sql(
            "CREATE TEMP TRIGGER eats BEFORE INSERT ON main.trace_chunk "
            "BEGIN SELECT RAISE(IGNORE); END"
        )
    chunk = trace_of([1.0, 2.0], [0.0, 0.0], first=10_000_000)
    with pytest.raises(StoreError, match="Of 2 samples 0"), shop.file.writing() as c:
        pulls.append_samples(c, pull.id, chunk)
    shop.close()


def test_two_campaigns_put_into_one_database_at_once_one_is_whole_the_other_told(
    server, usual_file, demo_file, tmp_path
):
    for delay_s in (0.0, 0.05, 0.3):
        address, said = server.empty(), []

        def put(path, wait_s, address=address, said=said):
            threading.Event().wait(wait_s)
            with open_campaign(path, read_only=True) as file:
                try:
                    create_on_server(address, file)
                except BruiserError as error:
                    said.append(error)

        both = [
            threading.Thread(target=put, args=(usual_file, 0.0)),
            threading.Thread(target=put, args=(demo_file, delay_s)),
        ]
        for one in both:
            one.start()
        for one in both:
            one.join()
        assert len(said) == 1
        assert isinstance(said[0], (StoreError, Busy))
        with open_server(address, tmp_path) as found, found.reading() as c:
            titles = c.execute(sa.select(schema.campaign.c.title)).scalars().all()
            count = c.execute(sa.select(sa.func.count()).select_from(schema.pull)).scalar()
        assert len(titles) == 1
        with open_campaign(usual_file) as one, one.reading() as c:
            usual = c.execute(sa.select(sa.func.count()).select_from(schema.pull)).scalar()
        with open_campaign(demo_file) as one, one.reading() as c:
            demo = c.execute(sa.select(sa.func.count()).select_from(schema.pull)).scalar()
        assert count in (usual, demo)
        server.forget(address)


def test_what_fails_while_it_fills_takes_only_itself_away(server):
    address = server.empty()
    server.run_sql(
        "CREATE VIEW theirs AS SELECT 1 AS one", "CREATE SEQUENCE counted",
        database=address.database,
    )  # fmt: skip

    def fill(connection):
        insert_campaign(connection, ROW)
        raise OSError("the file is broken")

    with pytest.raises(OSError, match="broken"):
        create_on_server(address, fill)
    assert server.ask("SELECT one FROM theirs", database=address.database) == ["1"]
    assert server.ask("SELECT nextval('counted')", database=address.database) == ["1"]
    query = "SELECT count(*) FROM pg_tables WHERE schemaname = 'public'"
    assert server.ask(query, database=address.database) == ["0"]
    server.forget(address)


CHUNK = (
    "INSERT INTO trace_chunk (pull_id, first_seq, count, data) "
    "SELECT pull_id, 0, 1, '' FROM finding LIMIT 1; DELETE FROM trace_chunk"
)


def test_a_technician_changes_and_removes_only_what_work_needs(server, usual_on_server):
    address = server.copy_of(usual_on_server)
    kept = (*APPEND_ONLY, "act", "act_row", "guide", "guide_step", "load_check", "taken_back")
    database = address.database
    for table in kept:
        for right in ("UPDATE", "DELETE"):
            query = f"SELECT has_table_privilege('{TECHNICIAN}', '{table}', '{right}')"
            allowed = (table, right) == ("stock_entry", "DELETE")
            assert server.ask(query, database=database) == [str(allowed)], (table, right)
    server.run_sql("DROP ROLE IF EXISTS tove", f"CREATE ROLE tove LOGIN IN ROLE {TECHNICIAN}")
    line = server.line(database, "tove")
    refused = (
        "DELETE FROM finding", "UPDATE finding SET by = 'me'", "DELETE FROM act",
        "UPDATE act SET by = 'me'", "UPDATE pull SET technician = 'me'",
        CHUNK, "UPDATE trace_chunk SET data = ''", "DELETE FROM campaign",
        "SELECT set_config('bruiser.taking_back', 'on', false); DELETE FROM finding",
    )  # fmt: skip
    for statement in refused:
        with psycopg.connect(line) as theirs, pytest.raises(psycopg.Error):
            theirs.execute(statement)
    with psycopg.connect(line) as theirs:
        place = theirs.execute("SELECT rowid FROM trace_analysis LIMIT 1").fetchone()
        theirs.execute("SELECT bruiser_take_back('trace_analysis', %s, 'now')", place)
        said = "SELECT table_name FROM taken_back ORDER BY n DESC LIMIT 1"
        assert theirs.execute(said).fetchone() == ("trace_analysis",)
    # Even the owner goes by the door.
    with pytest.raises(psycopg.errors.IntegrityConstraintViolation):
        server.run_sql("DELETE FROM finding", database=database)
    server.run_sql("DROP OWNED BY tove", database=database)
    server.run_sql("DROP ROLE tove")
    server.forget(address)


def test_who_holds_the_writers_lock_is_named_and_can_be_ended(
    server, usual_on_server, tmp_path, monkeypatch
):
    monkeypatch.setattr(connecting, "_SESSION", ("SET lock_timeout = '300ms'",))
    address = server.copy_of(usual_on_server)
    server.run_sql("DROP ROLE IF EXISTS tove", f"CREATE ROLE tove LOGIN IN ROLE {TECHNICIAN}")
    with psycopg.connect(server.line(address.database, "tove"), autocommit=True) as theirs:
        theirs.execute("SELECT pg_advisory_lock(%s)", (WRITE_KEY,))
        with open_server(address, tmp_path) as opened:
            with pytest.raises(Busy, match="“tove”") as told, opened.writing():
                pass
            number = str(theirs.info.backend_pid)
            assert f"pg_terminate_backend({number})" in told.value.remedy
            server.run_sql(f"SELECT pg_terminate_backend({number})", database=address.database)
            with opened.writing() as connection:
                connection.execute(sa.select(schema.campaign)).first()
    server.run_sql("DROP OWNED BY tove", database=address.database)
    server.run_sql("DROP ROLE tove")
    server.forget(address)
