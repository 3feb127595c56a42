"""A campaign of every version that was released opens, whole, and says what it said.

The samples are the SQL of small campaigns as each version wrote them; a new version adds its own.
"""

import sqlite3
from contextlib import closing
from pathlib import Path

import pytest

from bruiser.core.records.records import Gave, JamLevel
from bruiser.store.backups import BackupWhy, list_backups
from bruiser.store.opening import open_campaign
from bruiser.store.schema import HEAD
from bruiser.workshop.exchange.rescuing import check_campaign
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.traces import read_trace
from bruiser.workshop.logbook.workshop import Workshop

SAMPLES = sorted((Path(__file__).parents[1] / "data" / "versions").glob("*.sql"))
MIGRATIONS = Path(__file__).parents[2] / "src/bruiser/store/migrations/versions"


def test_there_is_a_sample_of_every_version():
    assert [p.stem for p in SAMPLES] == sorted(p.stem for p in MIGRATIONS.glob("0*.py"))


@pytest.mark.parametrize("sample", SAMPLES, ids=lambda p: p.stem)
def test_a_campaign_of_this_version_opens_whole(sample, tmp_path):
    path = tmp_path / "old.bruiser"
    with closing(sqlite3.connect(path)) as raw:
        raw.executescript(sample.read_text(encoding="utf-8"))
    with open_campaign(path) as file:
        shop = Workshop(file)
        book = read_logbook(shop)
        assert not file.set_aside
        plain, knotted, waiting = book.entries
        assert (plain.finding.gave, plain.finding.peak_load_n) == (Gave.BROKE, 21_000.0)
        assert (knotted.finding.place, knotted.finding.supersedes) == ("nip_b", "f2")
        assert knotted.finding.inspections[0].jam_level is JamLevel.TOOL
        assert knotted.finding.draws[0].draw_m == 0.012
        assert len(knotted.history) == 2
        assert waiting.pull is None
        assert list(read_trace(shop, knotted.pull).load_n) == [0.0, 100.0, 9000.5, 3.0]
    assert check_campaign(path).sound
    upgraded = [BackupWhy.UPGRADE] if sample.stem != HEAD else []
    assert [b.why for b in list_backups(path)] == upgraded
