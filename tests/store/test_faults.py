"""Killed at any moment, without room, or without leave: what was stored stays, and it is said."""

import os
import random
import signal
import subprocess
import sys
import time
from shutil import copyfile

import pytest

from bruiser.core.errors import BruiserError, StoreError
from bruiser.formats.sheets import text_sheet
from bruiser.store.backups import list_backups
from bruiser.store.opening import open_campaign
from bruiser.store.tables import read_tables
from bruiser.workshop.exchange.bring_in_command import bring_in, look_at_table, recognised
from bruiser.workshop.exchange.merge_files import merge_into
from bruiser.workshop.exchange.packages import export_package
from bruiser.workshop.exchange.rescuing import check_campaign
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop

CHILD = """
import sys
from pathlib import Path
import numpy as np
from bruiser.core.trace import trace_of
from bruiser.formats.sheets import text_sheet
from bruiser.store import pulls
from bruiser.workshop.exchange.bring_in_command import bring_in, look_at_table, recognised
from bruiser.workshop.exchange.merge_files import merge_into
from bruiser.store.opening import open_campaign
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop

path, other = Path(sys.argv[1]), Path(sys.argv[2])
shop = open_workshop(path)
pull = read_logbook(shop).entries[0].pull.id
print("ready", flush=True)
for n in range(100_000):
    with shop.file.writing() as c:
        pulls.append_samples(c, pull, trace_of(np.full(50, n), np.full(50, n), first=50 * n))
    print("stored", n, flush=True)
    if n % 7 == 3:
        rows = "".join(f"t{n}-{k},R8,bowline,{5 + k / 10},broke\\n" for k in range(8))
        book = read_logbook(shop)
        sheet = text_sheet("pull,cordage,knot,peak (kN),finding\\n" + rows, "t")
        plan = look_at_table(shop, book, sheet, recognised(sheet, book), "t")
        bring_in(shop, plan, "t")
        print("brought", n, flush=True)
    if n % 11 == 5:
        with open_campaign(other, read_only=True) as source:
            merge_into(shop.file, source)
        print("merged", n, flush=True)
"""


def killed(path, other, after_s):
    """Run the child, kill it after a while, and return what it said was done."""
    child = subprocess.Popen(
        [sys.executable, "-c", CHILD, str(path), str(other)],
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
        env={**os.environ, "PYTHONPATH": os.pathsep.join(sys.path)},
    )
    assert child.stdout.readline() == "ready\n"
    time.sleep(after_s)
    child.send_signal(signal.SIGKILL)
    out, err = child.communicate(timeout=60)
    assert not err
    return [line.split() for line in out.splitlines() if len(line.split()) == 2]


def kill_and_look(usual_campaign, tmp_path, count, seed):
    rng = random.Random(seed)
    other = tmp_path / "other.bruiser"
    copyfile(usual_campaign, other)
    with open_campaign(other) as file, file.writing() as c:
        c.exec_driver_sql("UPDATE specimen SET id = id || '-b', code = code || '-b' "
                          "WHERE id NOT IN (SELECT specimen_id FROM pull) AND id NOT IN "
                          "(SELECT specimen_id FROM tail) AND id NOT IN "
                          "(SELECT specimen_id FROM preparation) AND id NOT IN "
                          "(SELECT coalesce(specimen_id, '') FROM stock_entry)")  # fmt: skip
    for n in range(count):
        path = tmp_path / f"killed{n}.bruiser"
        copyfile(usual_campaign, path)
        said = killed(path, other, rng.uniform(0.0, 1.2))
        stored = [int(k) for what, k in said if what == "stored"]
        brought = [int(k) for what, k in said if what == "brought"]
        with open_campaign(path) as file, file.reading() as c:
            rows = read_tables(c)
            chunks = (
                c.exec_driver_sql("SELECT first_seq FROM trace_chunk ORDER BY 1").scalars().all()
            )
        assert chunks == [50 * k for k in range(len(chunks))]
        assert len(chunks) >= len(stored)
        codes = {row["code"] for row in rows["specimen"]}
        for k in brought:
            assert {f"t{k}-{j}" for j in range(8)} <= codes
        some = {code.split("-")[0] for code in codes if code.startswith("t")}
        assert all(sum(c.startswith(f"{t}-") for c in codes) == 8 for t in some)
        assert check_campaign(path).sound
        for backup in list_backups(path):
            assert check_campaign(backup.path).sound


@pytest.mark.long
def test_killed_at_random_moments_nothing_stored_is_lost(usual_campaign, tmp_path):
    kill_and_look(usual_campaign, tmp_path, 2, seed=20261128)


@pytest.mark.slow
def test_killed_at_fifty_random_moments(usual_campaign, tmp_path):
    kill_and_look(usual_campaign, tmp_path, 50, seed=7)


TABLE = "pull,cordage,knot,peak (kN),finding\n" + "".join(
    f"{n},R8,bowline,{5 + n / 10},broke\n" for n in range(400)
)


@pytest.mark.parametrize("room", [0, 2_000, 30_000, 90_000, 200_000])
def test_without_room_nothing_half_is_stored_and_it_is_said(
    usual_file, tmp_path, room, file_size_limit
):

    shop = open_workshop(usual_file)
    book = read_logbook(shop)
    sheet = text_sheet(TABLE, "t")
    plan = look_at_table(shop, book, sheet, recognised(sheet, book), "t")
    before = len(book.entries)
    file_size_limit(room)
    said = ""
    try:
        bring_in(shop, plan, "t")
    except StoreError as error:
        said = str(error)
    finally:
        file_size_limit(None)
    assert not said or "room" in said or "disk" in said
    refused = bool(said)
    assert len(read_logbook(shop).entries) == (before if refused else before + 400)
    shop.close()
    assert check_campaign(usual_file).sound


def test_an_export_without_room_leaves_nothing(usual_file, tmp_path, file_size_limit):
    with open_campaign(usual_file, read_only=True) as file:
        file_size_limit(3_000)
        with pytest.raises(StoreError, match="could not be written"):
            export_package(file, tmp_path / "p")
        file_size_limit(None)
    assert not [p for p in tmp_path.iterdir() if p.name.startswith((".p", "p"))]


def test_a_merge_without_room_changes_nothing(usual_file, demo_file, file_size_limit):
    with open_campaign(usual_file) as file, open_campaign(demo_file, read_only=True) as other:
        with file.reading() as c:
            before = read_tables(c)
        file_size_limit(1_000_000)
        with pytest.raises(BruiserError):
            merge_into(file, other)
        file_size_limit(None)
        with file.reading() as c:
            assert read_tables(c) == before
    assert check_campaign(usual_file).sound


def test_a_folder_that_cannot_be_written_is_said_and_the_campaign_shown(usual_file, tmp_path):
    if os.geteuid() == 0:
        pytest.skip("nothing is forbidden to root")
    tmp_path.chmod(0o500)
    try:
        with open_campaign(usual_file) as file:
            assert file.read_only
            assert "copy it to a place of your own" in file.why_read_only
    finally:
        tmp_path.chmod(0o700)
