"""A file that somebody gave views or triggers is refused and left as it was."""

import sqlite3
from contextlib import closing

import pytest

from bruiser.core.errors import Damaged
from bruiser.store.opening import create_campaign, open_campaign

STRANGE = {
    "trigger": "CREATE TRIGGER t AFTER INSERT ON finding "
    "BEGIN UPDATE finding SET peak_load_n = 1; END",
    "guard": "CREATE TRIGGER t BEFORE UPDATE ON lot BEGIN SELECT RAISE (ABORT, 'x'); "
    "DELETE FROM pull; END",
    "view": "CREATE VIEW extra AS WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x+1 FROM n) "
    "SELECT x FROM n",
    "virtual": "CREATE VIRTUAL TABLE words USING fts5(a)",
}


@pytest.fixture
def campaign(tmp_path):
    path = tmp_path / "ridge.bruiser"
    create_campaign(path).close()
    return path


@pytest.mark.parametrize("kind", STRANGE)
def test_what_no_campaign_has_is_named_and_the_file_left_as_it_was(campaign, kind):
    with closing(sqlite3.connect(campaign)) as connection:
        connection.execute(STRANGE[kind])
        connection.commit()
        connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    before = campaign.read_bytes()
    beside = sorted(p.name for p in campaign.parent.iterdir())
    with pytest.raises(Damaged, match="which no campaign has"):
        open_campaign(campaign)
    assert campaign.read_bytes() == before
    assert sorted(p.name for p in campaign.parent.iterdir()) == beside


def test_a_view_that_stands_for_a_table_is_never_read(campaign):
    with closing(sqlite3.connect(campaign)) as connection:
        connection.execute("ALTER TABLE lot RENAME TO lot_kept")
        connection.execute(
            "CREATE VIEW lot AS WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x+1 FROM n) "
            "SELECT x AS id FROM n"
        )
        connection.commit()
    with pytest.raises(Damaged, match="holds a view “lot”"):
        open_campaign(campaign)


def test_what_a_journal_brings_is_seen_too(campaign, tmp_path):
    holder = sqlite3.connect(campaign, isolation_level=None)
    holder.execute("PRAGMA wal_autocheckpoint = 0")
    holder.execute(STRANGE["trigger"])
    copy = tmp_path / "copy.bruiser"
    for tail in ("", "-wal"):
        copy.with_name(f"copy.bruiser{tail}").write_bytes(
            campaign.with_name(f"ridge.bruiser{tail}").read_bytes()
        )
    holder.close()
    with pytest.raises(Damaged):
        open_campaign(copy).close()
