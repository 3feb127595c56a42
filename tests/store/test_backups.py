"""Copies of a campaign: kept, thinned out, listed and put back."""

from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
import sqlalchemy as sa

from bruiser.core.errors import Busy, Damaged, StoreError
from bruiser.store import schema
from bruiser.store.backups import (
    Backup,
    BackupSchedule,
    BackupWhy,
    backup_folder,
    clock_words,
    is_due,
    keep_backup,
    list_backups,
    read_schedule,
    to_thin,
    write_schedule,
)
from bruiser.store.opening import open_campaign
from bruiser.store.restoring import put_back

START = datetime(2026, 3, 1, 8, tzinfo=UTC)


def title(path):
    with open_campaign(path, read_only=True) as file, file.reading() as c:
        return c.execute(sa.select(schema.campaign.c.title)).scalar()


def retitle(path, text):
    with open_campaign(path) as file, file.writing() as c:
        c.execute(sa.update(schema.campaign).values(title=text))


def test_the_last_ten_stay_and_the_oldest_of_each_month():
    moments = [START + timedelta(days=3 * n) for n in range(30)]
    made = [
        Backup(path=Path(f"{n}"), made_at=m, why=BackupWhy.SCHEDULED, size=1)
        for n, m in enumerate(moments)
    ]
    gone = to_thin(made, moments[-1])
    kept = [b for b in made if b not in gone]
    assert kept[-10:] == made[-10:]
    oldest = {}
    for backup in made:
        oldest.setdefault(backup.made_at.month, backup)
    assert set(oldest.values()) <= set(kept)
    assert len(kept) == len(set(made[-10:]) | set(oldest.values()))


def test_a_copy_is_kept_listed_and_put_back(usual_file):
    before = title(usual_file)
    with open_campaign(usual_file) as file:
        kept = keep_backup(usual_file, BackupWhy.ASKED, file.copy_to, START)
    retitle(usual_file, "changed")
    assert [b.path for b in list_backups(usual_file)] == [kept.path]
    there = put_back(usual_file, kept.path)
    assert title(usual_file) == before
    assert title(there) == "changed"
    assert list_backups(usual_file)[0].why is BackupWhy.RESTORE


def names(path):
    return {b.path.name for b in list_backups(path)}


def test_a_clock_set_back_or_years_ahead_takes_no_copy_away_that_was_just_made(usual_file):
    now = START
    for n in range(14):
        keep_backup(usual_file, BackupWhy.ASKED, now=now + timedelta(hours=n))
    back = keep_backup(usual_file, BackupWhy.ASKED, now=START - timedelta(days=21))
    assert list_backups(usual_file)[0].path == back.path
    merged = keep_backup(usual_file, BackupWhy.MERGE, now=START - timedelta(days=20))
    before = names(usual_file)
    ahead = keep_backup(usual_file, BackupWhy.SCHEDULED, now=START + timedelta(days=4_000))
    assert len(before - names(usual_file)) <= 1
    assert {back.path.name, merged.path.name} <= names(usual_file)
    assert "time that has not come yet" in clock_words(list_backups(usual_file), START)
    assert is_due(usual_file, START + timedelta(days=1))
    after = keep_backup(usual_file, BackupWhy.SCHEDULED, now=START + timedelta(days=1))
    assert [b.path for b in list_backups(usual_file)[:2]] == [after.path, ahead.path]
    for n in range(12):
        keep_backup(usual_file, BackupWhy.ASKED, now=START + timedelta(days=1, hours=n))
    assert merged.path.name in names(usual_file)


def test_copies_of_earlier_versions_stand_before_numbered_ones(usual_file):
    made = keep_backup(usual_file, BackupWhy.ASKED, now=START)
    old = made.path.with_name("2031-01-01T00-00-00-2 asked.bruiser")
    made.path.rename(old)
    again = keep_backup(usual_file, BackupWhy.ASKED, now=START)
    assert [b.path for b in list_backups(usual_file)] == [again.path, old]


def test_a_damaged_campaign_makes_way_for_its_copy_and_is_kept(usual_file):
    before = title(usual_file)
    kept = keep_backup(usual_file, BackupWhy.ASKED)
    with usual_file.open("r+b") as file:
        file.seek(4096)
        file.write(b"\xff" * 60_000)
    aside = put_back(usual_file, kept.path)
    assert title(usual_file) == before
    assert aside.exists()
    assert aside != usual_file


def test_nothing_is_put_back_over_an_open_campaign_or_from_what_is_none(usual_file, tmp_path):
    kept = keep_backup(usual_file, BackupWhy.ASKED)
    with open_campaign(usual_file), pytest.raises(Busy):
        put_back(usual_file, kept.path)
    other = tmp_path / "other.bruiser"
    other.write_text("no campaign")
    with pytest.raises(Damaged):
        put_back(usual_file, other)
    assert not list(usual_file.parent.glob(".*restoring*"))


def test_the_schedule_is_kept_and_asks_only_for_what_changed(usual_file):
    now = datetime.now(UTC)
    assert read_schedule(usual_file).every_days == 1
    assert is_due(usual_file, now)
    keep_backup(usual_file, BackupWhy.SCHEDULED, now=now + timedelta(seconds=1))
    assert not is_due(usual_file, now + timedelta(days=2))
    retitle(usual_file, "changed")
    later = usual_file.stat().st_mtime + 10
    import os

    os.utime(usual_file, (later, later))
    assert not is_due(usual_file, now + timedelta(hours=2))
    assert is_due(usual_file, now + timedelta(days=2))
    write_schedule(usual_file, BackupSchedule(every_days=0))
    assert not is_due(usual_file, now + timedelta(days=2))
    (backup_folder(usual_file) / "schedule.json").write_text("{")
    assert read_schedule(usual_file).every_days == 1


def test_a_full_disk_leaves_no_half_copy(usual_file, file_size_limit):
    file_size_limit(40_000)
    with pytest.raises(StoreError, match="No copy"):
        keep_backup(usual_file, BackupWhy.ASKED)
    file_size_limit(None)
    assert not list(backup_folder(usual_file).iterdir())
