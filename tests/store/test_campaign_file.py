import re
import sqlite3
import zlib
from contextlib import closing
from importlib import import_module
from pathlib import Path

import numpy as np
import pytest
import sqlalchemy as sa
from hypothesis import given, settings
from hypothesis import strategies as st

from bruiser.core.errors import Damaged, ReadOnly, StoreError, TooNew
from bruiser.core.records.bench_book import BenchBook
from bruiser.core.trace import Channel, trace_of
from bruiser.store import campaigns, pulls, schema
from bruiser.store.backups import BackupWhy, list_backups
from bruiser.store.bench_books import load_bench_book
from bruiser.store.guides import load_guides, load_limits, load_profiles
from bruiser.store.opening import create_campaign, open_campaign
from bruiser.store.stock import load_stock
from bruiser.store.traces import decode_trace, encode_trace


def test_a_new_file_has_the_tables_the_queries_expect(tmp_path):
    with create_campaign(tmp_path / "new.bruiser") as file, file.reading() as connection:
        inspector = sa.inspect(connection)
        for table in schema.metadata.sorted_tables:
            found = {c["name"]: c["nullable"] for c in inspector.get_columns(table.name)}
            assert set(found) == {c.name for c in table.columns}
        strict = connection.exec_driver_sql("SELECT name FROM pragma_table_list WHERE strict = 1")
        assert {r[0] for r in strict} >= set(schema.metadata.tables)
        foreign = connection.exec_driver_sql("PRAGMA foreign_keys").scalar()
        assert foreign == 1


def test_making_over_an_existing_file_is_refused(usual_file):
    before = usual_file.read_bytes()
    with pytest.raises(StoreError, match="exists"):
        create_campaign(usual_file)
    assert usual_file.read_bytes() == before


@pytest.mark.parametrize("content", [b"", b"hello" * 100, b"SQLite format 3\x00" + bytes(200)])
def test_what_is_no_campaign_is_refused_and_left_alone(tmp_path, content):
    path = tmp_path / "other.bruiser"
    path.write_bytes(content)
    with pytest.raises(Damaged, match="not"):
        open_campaign(path)
    assert path.read_bytes() == content
    assert [p.name for p in tmp_path.iterdir()] == ["other.bruiser"]


def test_a_missing_file_is_said_to_be_missing(tmp_path):
    with pytest.raises(StoreError, match="no file"):
        open_campaign(tmp_path / "none.bruiser")


def test_a_damaged_file_is_refused_and_left_alone(usual_file):
    raw = bytearray(usual_file.read_bytes())
    raw[4096:60_000] = b"\xa5" * (60_000 - 4096)
    usual_file.write_bytes(raw)
    with pytest.raises(Damaged):
        open_campaign(usual_file)
    assert usual_file.read_bytes() == raw


def test_a_newer_file_is_refused_and_left_alone(usual_file):
    with sqlite3.connect(usual_file) as raw:
        raw.execute("UPDATE alembic_version SET version_num = '9999_later'")
    raw.close()
    before = usual_file.read_bytes()
    with pytest.raises(TooNew, match="newer"):
        open_campaign(usual_file)
    assert usual_file.read_bytes() == before


def test_a_second_window_opens_it_read_only(usual_file):
    with open_campaign(usual_file) as first, open_campaign(usual_file) as second:
        assert (first.read_only, second.read_only) == (False, True)
        with second.reading() as connection:
            assert connection.execute(sa.select(schema.lot)).first() is not None
        with pytest.raises(ReadOnly, match="read-only"), second.writing():
            pass
    with open_campaign(usual_file) as again:
        assert not again.read_only


def test_an_older_file_is_backed_up_and_upgraded(tmp_path):
    path = tmp_path / "old.bruiser"
    with sqlite3.connect(path) as raw:
        raw.execute(f"PRAGMA application_id = {schema.APPLICATION_ID}")
        raw.execute("CREATE TABLE alembic_version (version_num TEXT NOT NULL)")
    raw.close()
    with open_campaign(path) as file, file.reading() as connection:
        assert sa.inspect(connection).has_table("finding")
    assert [b.why for b in list_backups(path)] == [BackupWhy.UPGRADE]


def test_findings_are_append_only(usual_file):
    with (
        open_campaign(usual_file) as file,
        pytest.raises(StoreError, match="append-only"),
        file.writing() as connection,
    ):
        connection.execute(sa.update(schema.finding).values(peak_load_n=1.0))


def test_a_failed_transaction_leaves_nothing_half(usual_file):
    with open_campaign(usual_file) as file:
        with pytest.raises(StoreError), file.writing() as connection:
            connection.execute(sa.update(schema.campaign).values(title="half"))
            connection.execute(sa.insert(schema.lot).values(id="x"))
        with file.reading() as connection:
            assert connection.execute(sa.select(schema.campaign.c.title)).scalar() != "half"


loads = st.lists(st.one_of(st.floats(-2e5, 2e5), st.just(float("nan"))), min_size=1, max_size=300)


@given(loads)
@settings(max_examples=60)
def test_samples_come_back_as_they_were(values):
    load = np.array(values)
    travel = np.linspace(0, 1, len(load))
    back = decode_trace(*encode_trace(trace_of(load, travel)), len(load))
    np.testing.assert_allclose(back[Channel.LOAD], load, atol=5.1e-4)
    np.testing.assert_allclose(back[Channel.TRAVEL], travel, atol=5.1e-7)
    assert set(back) == {Channel.LOAD, Channel.TRAVEL}


SHORT, _ = encode_trace(trace_of(np.zeros(3), np.zeros(3)))


@pytest.mark.parametrize(
    "data", [b"junk", SHORT, zlib.compress(bytes(16)), zlib.compress(bytes(64))]
)
def test_a_spoilt_chunk_is_reported(data):
    with pytest.raises(Damaged):
        decode_trace(data, None, 4)


def test_a_chunk_from_before_a_channel_was_known_is_read_without_it():
    data, extra = encode_trace(
        trace_of(np.zeros(5), np.zeros(5), load2_n=np.arange(5.0), tail_m=np.ones(5))
    )
    older = zlib.compress(zlib.decompress(extra)[: 4 * 5])
    found = decode_trace(data, older, 5)
    assert set(found) == {Channel.LOAD, Channel.TRAVEL, Channel.LOAD2}
    np.testing.assert_allclose(found[Channel.LOAD2], np.arange(5.0))


def test_every_migration_file_leads_to_the_head():
    folder = Path(schema.__file__).parent / "migrations" / "versions"
    assert max(p.stem for p in folder.glob("0*.py")) == schema.HEAD


def test_a_file_of_the_first_version_is_backed_up_and_brought_up_to_date(tmp_path):
    path = tmp_path / "first.bruiser"
    first = import_module("bruiser.store.migrations.versions.0001_begin")
    with sqlite3.connect(path) as plain:
        for statement in first.TABLES:
            plain.execute(statement)
        plain.executescript(
            """CREATE TABLE alembic_version (version_num TEXT NOT NULL);
            INSERT INTO alembic_version VALUES ('0001_begin');
            INSERT INTO campaign VALUES ('c', 'Old', 'S', 'Q', 0, 'kN', 'mm', '2026-01-01');
            INSERT INTO lot VALUES ('l', 'P8', 'polyester', 'braid', 0.008, 'dry', 13000.0,
                'minimum', 50.0, '');
            INSERT INTO knot VALUES ('k', 'double-bowline', 'plain', 'Double bowline', 'end loop');
"""
        )
        plain.execute(f"PRAGMA application_id = {schema.APPLICATION_ID}")
    plain.close()
    with open_campaign(path) as file, file.reading() as connection:
        (lot,) = campaigns.load_lots(connection)
        (knot,) = campaigns.load_knots(connection)
        on_hand = load_stock(connection)
    assert (lot.name, lot.diameter_means, lot.archived) == ("P8", "nominal", False)
    assert on_hand.on_hand_m("l") == pytest.approx(50.0)
    assert (knot.structure, dict(knot.choices)) == ("bowline", {"turns": "round-turn"})
    assert [b.why for b in list_backups(path)] == [BackupWhy.UPGRADE]


def without_ranges(plain):
    """Take the checks of version 14 off again, as that version put them on."""
    rows = plain.execute("SELECT name, sql FROM sqlite_master WHERE type = 'table'").fetchall()
    plain.execute("PRAGMA writable_schema = ON")
    for name, sql in rows:
        bare = re.sub(r", CHECK \(\w+ BETWEEN [-\d.]+ AND [\d.]+\)", "", sql)
        plain.execute("UPDATE sqlite_master SET sql = ? WHERE name = ?", (bare, name))
    plain.commit()
    plain.execute("PRAGMA writable_schema = RESET")


def stepped_back(path, revision):
    """A new file as an older version would have left it: later steps taken off again."""
    create_campaign(path).close()
    undone = {
        "0013": "DROP TABLE act_row; DROP TABLE act; DROP TABLE hold;",
        "0012": """DROP TABLE progress; DROP TABLE tally; DROP TABLE revision;
            DROP INDEX preparation_with_trial; DROP INDEX taken_back_key;
            DROP INDEX specimen_by_replaced; DROP INDEX specimen_by_lot;
            DROP INDEX specimen_by_second_lot; DROP INDEX specimen_by_knot;
            DROP INDEX specimen_by_second_knot; DROP INDEX stock_entry_by_specimen;
            DROP INDEX pull_unended; DROP INDEX stock_entry_sums;
            DROP INDEX pull_by_technician; DROP INDEX pull_by_instrument;
            DROP INDEX finding_by_superseded; DROP INDEX finding_by_time;""",
        "0011": "UPDATE knot SET structure = 'surgeons-bend' WHERE structure = 'surgeons-join';",
        "0010": """ALTER TABLE lot DROP COLUMN thickness_m;
            ALTER TABLE specimen DROP COLUMN state;""",
        "0009": "DROP TABLE taken_back;",
        "0008": """DROP TABLE guide_step; DROP TABLE guide; DROP TABLE use_profile;
            DROP TABLE rating_limits;""",
        "0007": "DROP TABLE exclusion;",
        "0006": """DROP TABLE reading; DROP TABLE photo;
            ALTER TABLE preparation DROP COLUMN sheet; ALTER TABLE preparation DROP COLUMN trial;
            ALTER TABLE finding DROP COLUMN by; ALTER TABLE finding DROP COLUMN lengths;
            ALTER TABLE finding DROP COLUMN forms; ALTER TABLE finding DROP COLUMN against_trace;
            ALTER TABLE tail_draw DROP COLUMN u_m; ALTER TABLE tail_draw DROP COLUMN how;""",
        "0005": """DROP TABLE load_check; ALTER TABLE bench DROP COLUMN factor;
            ALTER TABLE trace_chunk DROP COLUMN extra;""",
        "0004": """DROP TABLE preparation;
            ALTER TABLE lot DROP COLUMN soak_s; ALTER TABLE lot DROP COLUMN keep_s;
            ALTER TABLE specimen DROP COLUMN method; ALTER TABLE specimen DROP COLUMN method_values;
            ALTER TABLE specimen DROP COLUMN direction; ALTER TABLE specimen DROP COLUMN dressing;
            ALTER TABLE specimen DROP COLUMN fixture_id; ALTER TABLE specimen DROP COLUMN lot_b_id;
            ALTER TABLE specimen DROP COLUMN pair; ALTER TABLE specimen DROP COLUMN replaces_id;""",
        "0003": "DROP TABLE bench; DROP TABLE fixture; DROP TABLE room_day;",
    }
    with closing(sqlite3.connect(path)) as plain:
        without_ranges(plain)
        for step, script in undone.items():
            if step > revision[:4]:
                plain.executescript(script)
        plain.execute("UPDATE alembic_version SET version_num = ?", (revision,))
        plain.commit()
    return path


def test_a_file_without_a_bench_book_gets_one(tmp_path):
    path = stepped_back(tmp_path / "second.bruiser", "0002_ask_stock_and_choose")
    with open_campaign(path) as file, file.reading() as connection:
        assert load_bench_book(connection) == BenchBook()
    assert [b.why for b in list_backups(path)] == [BackupWhy.UPGRADE]


def test_a_file_from_before_guides_has_the_limits_and_uses_shipped(tmp_path):
    path = stepped_back(tmp_path / "seventh.bruiser", "0007_exclude_pulls")
    with open_campaign(path) as file, file.reading() as connection:
        assert load_limits(connection) == []
        assert load_profiles(connection) == []
        assert load_guides(connection) == []
    assert [b.why for b in list_backups(path)] == [BackupWhy.UPGRADE]


def test_specimens_from_before_methods_are_ramps_and_straight_pulls(tmp_path):
    path = stepped_back(tmp_path / "third.bruiser", "0003_keep_a_bench_book")
    with closing(sqlite3.connect(path)) as plain:
        plain.executescript(
            """INSERT INTO campaign VALUES ('c', 'Old', 'S', 'Q', 0, 'kN', 'mm', '2026', 'x', 0.5);
            INSERT INTO lot VALUES ('l', 'P8', 'polyester', 'braid', 0.008, 'dry', NULL, 'unknown',
                '', '', 'nominal', NULL, NULL, NULL, '', '', '', NULL, 0);
            INSERT INTO knot VALUES ('k', 'bowline', 'plain', 'Bowline', 'end loop', '{}', 0);
            INSERT INTO specimen VALUES ('b', 'S-1', 'baseline', 'l', 'baseline', 1, 0.4,
                NULL, NULL, 0.0, 0.0, 1, '');
            INSERT INTO specimen VALUES ('s', 'S-2', 'knot', 'l', 'loop_pair', 2, 0.4,
                'k', 'k', 0.012, 0.0, 1, '');"""
        )
    with open_campaign(path) as file, file.reading() as connection:
        lots = {x.id: x for x in campaigns.load_lots(connection)}
        knots = {x.id: x for x in campaigns.load_knots(connection)}
        found = campaigns.load_specimens(connection, lots, knots, {})
    assert [s.method.key for s in found] == ["straight pull", "ramp to failure"]
    assert {s.dressing for s in found} == {"dressed"}
    assert lots["l"].soak_s is None


def test_traces_from_before_further_channels_are_read_as_they_were(tmp_path):
    path = stepped_back(tmp_path / "fourth.bruiser", "0004_plan_with_methods")
    data, _ = encode_trace(trace_of(np.arange(20.0), np.arange(20.0) / 1e3))
    with closing(sqlite3.connect(path)) as plain:
        plain.execute("PRAGMA foreign_keys = OFF")
        plain.execute("INSERT INTO trace_chunk VALUES ('p', 0, 20, ?)", (data,))
        plain.commit()
    with open_campaign(path) as file, file.reading() as connection:
        samples = pulls.load_samples(connection, "p")
        assert load_bench_book(connection).checks == ()
    np.testing.assert_allclose(samples.load_n, np.arange(20.0))
    assert set(samples.channels) == {Channel.LOAD, Channel.TRAVEL}


def test_the_parallel_join_of_an_older_file_follows_its_own_entry(tmp_path):
    path = stepped_back(tmp_path / "old.bruiser", "0010_plan_states")
    with closing(sqlite3.connect(path)) as plain:
        plain.execute(
            "INSERT INTO knot VALUES ('j', 'surgeons-bend', 'plain', 'Surgeon''s join', 'bend', "
            "'{}', 0)"
        )
        plain.commit()
    with open_campaign(path) as file, file.reading() as connection:
        found = {k.id: k.structure for k in campaigns.load_knots(connection)}
    assert found["j"] == "surgeons-join"
