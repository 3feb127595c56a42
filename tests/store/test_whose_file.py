"""The open file moved, deleted, replaced, linked, write-protected or full."""

import os
import shutil
import signal
import sqlite3
import subprocess
import sys
import textwrap
from contextlib import closing, suppress

import pytest
import sqlalchemy as sa
from tests.store.test_campaign_file import stepped_back

from bruiser.core.errors import Busy, Damaged, Full, Gone, ReadOnly, StoreError
from bruiser.store import schema
from bruiser.store.driver_errors import translate
from bruiser.store.opening import create_campaign, open_campaign


def title(file):
    with file.reading() as connection:
        return connection.execute(sa.select(schema.campaign.c.title)).scalar()


def write(file, text):
    with file.writing() as connection:
        connection.execute(sa.update(schema.campaign).values(title=text))


@pytest.fixture
def two(usual_file, tmp_path):
    """The open demo, and the path of another campaign."""
    other = tmp_path / "other.bruiser"
    shutil.copyfile(usual_file, other)
    with open_campaign(other) as file:
        write(file, "the other one")
    with open_campaign(usual_file) as file:
        write(file, "mine")
        yield file, other


def moved(file, other):
    file.path.rename(file.path.with_name("elsewhere.bruiser"))


def deleted(file, other):
    file.path.unlink()


def replaced(file, other):
    other.replace(file.path)


@pytest.mark.parametrize(
    ("happens", "said"),
    [(moved, "it was moved, to .*elsewhere"), (deleted, "deleted"), (replaced, "in its place")],
)
def test_nothing_is_written_elsewhere_and_all_is_saved_under_a_new_name(two, happens, said):
    file, other = two
    happens(file, other)
    there = file.path.read_bytes() if file.path.exists() else None
    with pytest.raises(Gone, match=said):
        write(file, "lost")
    with pytest.raises(Gone):
        file.look()
    assert (file.path.read_bytes() if file.path.exists() else None) == there
    assert title(file) == "mine"
    target = file.path.with_name("rescued.bruiser")
    file.save_as(target)
    assert file.path == target
    write(file, "goes on")
    with open_campaign(target) as second:
        assert second.read_only
        assert title(second) == "goes on"


def test_a_file_copied_over_the_open_one_is_noticed_though_it_has_its_inode(two):
    file, other = two
    with other.open("rb") as source, file.path.open("r+b") as target:
        target.truncate()
        shutil.copyfileobj(source, target)
    there = file.path.read_bytes()
    with pytest.raises(Gone, match="copied over"):
        write(file, "lost")
    assert file.path.read_bytes() == there


def killed_while_open(path):
    """Another process that had the file open, wrote into it, and was killed."""
    script = """
        import os, signal, sys
        import sqlalchemy as sa
        from pathlib import Path
        from bruiser.store import schema
        from bruiser.store.opening import open_campaign
        file = open_campaign(Path(sys.argv[1]))
        with file.writing() as connection:
            connection.execute(sa.update(schema.campaign).values(title="in the journal"))
        os.kill(os.getpid(), signal.SIGKILL)
    """
    done = subprocess.run([sys.executable, "-c", textwrap.dedent(script), str(path)], check=False)
    assert done.returncode == -signal.SIGKILL
    assert path.with_name(f"{path.name}-wal").stat().st_size > 0


def test_a_journal_left_by_a_kill_is_read(usual_file):
    killed_while_open(usual_file)
    with open_campaign(usual_file) as file:
        assert (title(file), file.notes) == ("in the journal", [])
    assert not usual_file.with_name(f"{usual_file.name}-wal").exists()


def test_a_journal_is_never_applied_to_a_backup_copied_over_the_file(usual_file, tmp_path):
    backup = tmp_path / "backup.bruiser"
    shutil.copyfile(usual_file, backup)
    with closing(sqlite3.connect(backup)) as plain:
        plain.execute("UPDATE campaign SET title = 'backup'")
        plain.commit()
    killed_while_open(usual_file)
    shutil.copyfile(backup, usual_file)
    with open_campaign(usual_file) as file:
        assert title(file) == "backup"
        assert "journal is kept as" in file.notes[0]
    kept = usual_file.with_name(f"{usual_file.name}-journal-of-another-1")
    assert b"in the journal" in kept.read_bytes()


@pytest.mark.parametrize("link", [os.symlink, os.link])
def test_a_second_name_of_the_file_leads_to_the_same_lock(usual_file, tmp_path, link):
    other = tmp_path / "sub"
    other.mkdir()
    link(usual_file, other / "linked.bruiser")
    with open_campaign(usual_file) as file, open_campaign(other / "linked.bruiser") as second:
        assert second.read_only
        assert "Another window" in second.why_read_only
        with pytest.raises(ReadOnly, match="Another window"):
            write(second, "x")
        write(file, "first")
    with open_campaign(other / "linked.bruiser") as file:
        assert not file.read_only
        assert title(file) == "first"


def test_the_lock_dies_with_its_process(usual_file):
    killed_while_open(usual_file)
    usual_file.with_name(f"{usual_file.name}.lock").write_text("of another user")
    with open_campaign(usual_file) as file:
        assert not file.read_only


def without_overriding(path):
    """What somebody who may only read sees of a file; root lets go of its powers first."""
    script = """
        import ctypes, sys
        from pathlib import Path
        word, overriding = ctypes.c_uint32, 0b1111
        header, data = (word * 2)(0x20080522, 0), (word * 6)()
        libc = ctypes.CDLL(None)
        libc.capget(header, data)
        data[0] &= ~overriding
        data[1] &= ~overriding
        assert libc.capset(header, data) == 0
        from bruiser.store.opening import open_campaign
        import sqlalchemy as sa
        from bruiser.store import schema
        with open_campaign(Path({path!r})) as file, file.reading() as connection:
            print(file.read_only, "|", file.why_read_only, "|", *file.notes, "|",
                  connection.execute(sa.select(schema.campaign.c.title)).scalar())
    """
    text = textwrap.dedent(script).format(path=str(path))
    done = subprocess.run([sys.executable, "-c", text], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    return [part.strip() for part in done.stdout.split("|")]


@pytest.fixture
def guarded():
    """A folder that can be reached and read, and not written."""
    import tempfile
    from pathlib import Path

    folder = Path(tempfile.mkdtemp(prefix="bruiser-guarded-"))
    yield folder
    folder.chmod(0o755)
    shutil.rmtree(folder)


def guard(folder):
    for path in folder.iterdir():
        path.chmod(0o444)
    folder.chmod(0o555)


def test_what_cannot_be_written_is_read_and_says_why(guarded, usual_file):
    shutil.copyfile(usual_file, guarded / "demo.bruiser")
    guard(guarded)
    read_only, why, notes, seen = without_overriding(guarded / "demo.bruiser")
    assert (read_only, notes) == ("True", "")
    assert "cannot be written" in why
    assert "Trial" in seen


def test_a_journal_on_a_medium_that_cannot_be_written_is_read_too(guarded, usual_file):
    killed_while_open(usual_file)
    for tail in ("", "-wal"):
        shutil.copyfile(f"{usual_file}{tail}", guarded / f"demo.bruiser{tail}")
    guard(guarded)
    assert without_overriding(guarded / "demo.bruiser")[3] == "in the journal"


def test_an_older_file_that_cannot_be_written_is_shown_upgraded_and_left_alone(guarded):
    path = stepped_back(guarded / "old.bruiser", "0007_exclude_pulls")
    with closing(sqlite3.connect(path)) as plain:
        values = "'c', 'Old', 'S', 'Q', 0, 'kN', 'mm', '', '', 0.5"
        plain.execute(f"INSERT INTO campaign VALUES ({values})")
        plain.commit()
    guard(guarded)
    before = path.read_bytes()
    _, why, notes, seen = without_overriding(path)
    assert seen == "Old"
    assert "older version" in notes
    assert "window" not in why
    assert path.read_bytes() == before


def test_an_older_file_opened_for_reading_is_shown_from_a_copy(tmp_path):
    path = stepped_back(tmp_path / "old.bruiser", "0007_exclude_pulls")
    before = path.read_bytes()
    with open_campaign(path, read_only=True) as file:
        assert file.read_only
        assert "a copy of it" in file.notes[0]
    assert path.read_bytes() == before


def test_an_upgrade_whose_backup_fails_leaves_the_file_as_it_was(tmp_path, file_size_limit):
    path = stepped_back(tmp_path / "old.bruiser", "0007_exclude_pulls")
    before = path.read_bytes()
    file_size_limit(40_000)
    with pytest.raises(StoreError, match="copied before it is upgraded"):
        open_campaign(path)
    file_size_limit(None)
    assert path.read_bytes() == before
    assert not list(tmp_path.rglob("*before*"))
    with open_campaign(path) as file:
        assert not file.read_only


def test_an_upgrade_that_fails_is_said_in_words(tmp_path):
    path = stepped_back(tmp_path / "old.bruiser", "0007_exclude_pulls")
    with closing(sqlite3.connect(path)) as plain:
        plain.execute("CREATE TABLE guide (wrong INTEGER)")
    with pytest.raises(StoreError, match="could not be upgraded"):
        open_campaign(path)
    assert len(list(tmp_path.rglob("* before-upgrade.bruiser"))) == 1


def provoked(sql, arguments=(), *, before=()):
    with closing(sqlite3.connect(":memory:")) as plain:
        plain.execute("CREATE TABLE t (a TEXT UNIQUE, b BLOB)")
        for line in before:
            plain.execute(line)
        try:
            plain.execute(sql, arguments)
        except sqlite3.Error as error:
            return translate(error)
    raise AssertionError("it did not fail")


def test_what_the_driver_raised_is_known_by_its_code_and_not_by_its_words(tmp_path, usual_file):
    insert = "INSERT INTO t VALUES (?, ?)"
    full = provoked(insert, ("x", b"0" * 100_000), before=["PRAGMA max_page_count = 3"])
    assert isinstance(full, Full)
    twice = ["INSERT INTO t VALUES ('full load, locked, malformed', '')"]
    twin = provoked(insert, ("full load, locked, malformed", b""), before=twice)
    assert type(twin) is StoreError
    assert "UNIQUE" in str(twin)
    assert isinstance(provoked(insert, ("x", b""), before=["PRAGMA query_only = 1"]), ReadOnly)
    with closing(sqlite3.connect(usual_file, isolation_level=None, timeout=0)) as one:
        one.execute("BEGIN EXCLUSIVE")
        with closing(sqlite3.connect(usual_file, isolation_level=None, timeout=0)) as two:
            with pytest.raises(sqlite3.OperationalError) as busy:
                two.execute("BEGIN IMMEDIATE")
            assert isinstance(translate(busy.value), Busy)
    junk = tmp_path / "junk"
    junk.write_bytes(b"x" * 5000)
    with closing(sqlite3.connect(junk)) as one, pytest.raises(sqlite3.DatabaseError) as bad:
        one.execute("SELECT * FROM sqlite_master")
    assert isinstance(translate(bad.value), Damaged)


def test_a_full_disk_stores_nothing_and_says_so(tmp_path, file_size_limit):
    with create_campaign(tmp_path / "a.bruiser") as file:
        journal = tmp_path / "a.bruiser-wal"
        file_size_limit(journal.stat().st_size + 8192)
        with pytest.raises(StoreError, match="disk"), file.writing() as connection:
            for n in range(200):
                connection.execute(
                    sa.insert(schema.own_structure).values(
                        key=str(n), text="x" * 4000, based_on="", made_at=""
                    )
                )
        file_size_limit(None)
        with file.reading() as connection:
            assert connection.execute(sa.select(schema.own_structure)).first() is None
    with suppress(FileNotFoundError):
        (tmp_path / "b.bruiser").unlink()
    file_size_limit(10_000)
    with pytest.raises(StoreError):
        create_campaign(tmp_path / "b.bruiser")
    file_size_limit(None)
    assert not list(tmp_path.glob("b.*"))
