"""One bad value is named and set aside; the rest opens, and can be rescued."""

import sqlite3
from contextlib import closing

import numpy as np
import pytest

from bruiser.core.errors import Damaged
from bruiser.core.trace import trace_of
from bruiser.store import pulls
from bruiser.store.checked_rows import SetAside
from bruiser.store.opening import open_campaign
from bruiser.workshop.exchange.rescuing import check_campaign, rescue_campaign
from bruiser.workshop.guide.book import read_guide_book
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import Workshop

GUARDS = "SELECT name, sql FROM sqlite_master WHERE type = 'trigger'"


def spoil(path, sql):
    """Change the file by other means: without its checks and guards."""
    with closing(sqlite3.connect(path)) as raw:
        raw.execute("PRAGMA ignore_check_constraints = ON")
        guards = raw.execute(GUARDS).fetchall()
        for name, _ in guards:
            raw.execute(f"DROP TRIGGER {name}")
        for statement in sql if isinstance(sql, list) else [sql]:
            raw.execute(statement)
        for _, text in guards:
            raw.execute(text)
        raw.commit()


BAD = [
    ("UPDATE lot SET diameter_m = -0.008 WHERE name = 'T6'", "lot", "diameter_m"),
    ("UPDATE lot SET name = printf('%.*c', 600, 'x') WHERE name = 'T6'", "lot", "name"),
    ("UPDATE lot SET name = CAST(x'ff41' AS TEXT) WHERE name = 'T6'", "lot", "name"),
    ("UPDATE knot SET choices = '{' WHERE structure = 'sheet-bend'", "knot", ""),
    ("UPDATE specimen SET layout = 'moebius' WHERE code = (SELECT max(code) FROM specimen)",
     "specimen", ""),
    ("UPDATE specimen SET queue_position = -1 WHERE code = (SELECT max(code) FROM specimen)",
     "specimen", "queue_position"),
    ("UPDATE pull SET \"end\" = 'vanished' WHERE id = (SELECT min(id) FROM pull)", "pull", ""),
    ("UPDATE pull SET started_at = 'noon' WHERE id = (SELECT min(id) FROM pull)", "pull",
     "started_at"),
    ("UPDATE trace_analysis SET result = replace(result, '\"peak_n\"', '\"pe\u00e4k\"')",
     "trace_analysis", ""),
    ("UPDATE finding SET gave = 'exploded' WHERE id = (SELECT min(id) FROM finding)", "finding",
     ""),
    ("UPDATE finding SET place = 'moon' WHERE place IS NOT NULL", "finding", ""),
    ("UPDATE knot_inspection SET jam_level = 'welded'", "knot_inspection", ""),
    ("UPDATE tail_draw SET draw_m = -1", "tail_draw", "draw_m"),
    ("UPDATE tail SET length_m = 9e999", "tail", "length_m"),
    ("UPDATE hank SET kind = 'heap'", "hank", ""),
    ("UPDATE stock_entry SET move = 'eaten'", "stock_entry", ""),
    ("UPDATE criterion SET lot_ids = '[1]'", "criterion", ""),
    ("UPDATE claim SET kind = 'boast'", "claim", ""),
    ("UPDATE bench SET methods = 'x'", "bench", ""),
    ("UPDATE reading SET takes = 'tea'", "reading", ""),
    ("UPDATE preparation SET sheet = '{\"ticked\": 5}'", "preparation", "ticked"),
    ("INSERT INTO own_structure VALUES ('mine', 'no toml [', '', '2026-10-01')",
     "own_structure", ""),
    ("INSERT INTO use_profile VALUES ('u', 'k', '2026-10-01', '{}', 0)", "use_profile", ""),
    ("INSERT INTO rating_limits VALUES ('r', '2026-10-01', 1, '[]', '', '')", "rating_limits", ""),
]  # fmt: skip


@pytest.mark.parametrize(
    ("sql", "table", "field"),
    [
        pytest.param(*bad, id=f"{bad[1]} {bad[2]}", marks=() if n % 3 == 0 else pytest.mark.slow)
        for n, bad in enumerate(BAD)
    ],
)
def test_a_bad_value_is_named_and_the_rest_opens(usual_file, tmp_path, sql, table, field):
    spoil(usual_file, sql)
    with open_campaign(usual_file) as file:
        shop = Workshop(file)
        book = read_logbook(shop)
        assert book.entries
        read_guide_book(shop)
        assert book.lots
        found = list(file.set_aside.values())
    assert found, "nothing was set aside"
    named = [row for row in found if row.table == table]
    assert named
    assert not field or {row.field.split(".")[0] for row in named} == {field}
    said = check_campaign(usual_file)
    assert not said.sound
    assert {str(row) for row in named} <= {str(row) for row in said.rows}
    kept = rescue_campaign(usual_file, tmp_path / "rescued.bruiser")
    # A text with odd bytes comes over, a mark where they stood.
    assert kept.lost.get(table, 0) >= len(named) or "CAST" in sql
    assert check_campaign(tmp_path / "rescued.bruiser").sound


def test_a_sound_campaign_sets_nothing_aside_and_is_rescued_whole(usual_file, tmp_path):
    assert check_campaign(usual_file).sound
    kept = rescue_campaign(usual_file, tmp_path / "again.bruiser")
    assert not any(kept.lost.values())


def test_progress_changed_by_other_means_is_noticed_and_right_in_a_rescued_copy(
    usual_file, tmp_path
):
    spoil(usual_file, "UPDATE progress SET stage = 'planned' WHERE place = 1")
    said = check_campaign(usual_file)
    assert [row.table for row in said.rows] == ["progress", "tally"]
    rescue_campaign(usual_file, tmp_path / "rescued.bruiser")
    assert check_campaign(tmp_path / "rescued.bruiser").sound


def test_what_a_row_rests_on_may_be_gone(usual_file):
    spoil(usual_file, ["PRAGMA foreign_keys = OFF", "DELETE FROM lot WHERE name = 'T6'"])
    found = check_campaign(usual_file)
    assert {row.table for row in found.rows} >= {"specimen", "pull"}
    assert any(row.why == "its lot is not there." for row in found.rows)


def test_a_trace_that_cannot_be_read_is_named_by_its_pull(usual_file, tmp_path):
    with open_campaign(usual_file) as file, file.writing() as c:
        ids = c.exec_driver_sql("SELECT id FROM pull ORDER BY id").scalars().all()[:2]
        for pull_id in ids:
            pulls.append_samples(c, pull_id, trace_of(np.arange(20.0), np.arange(20.0)))
    spoil(usual_file, f"UPDATE trace_chunk SET data = x'00' WHERE pull_id = '{ids[0]}'")
    found = check_campaign(usual_file)
    assert [(row.table, row.row) for row in found.rows] == [("trace_chunk", ids[0])]
    kept = rescue_campaign(usual_file, tmp_path / "r.bruiser")
    assert (kept.kept["trace_chunk"], kept.lost["trace_chunk"]) == (1, 1)


@pytest.mark.slow
def test_pages_that_were_overwritten_cost_only_what_stood_on_them(demo_file, tmp_path):
    size = demo_file.stat().st_size
    with demo_file.open("r+b") as file:
        file.seek(size // 4096 // 2 * 4096)
        file.write(b"\x00" * 4096 * 3)
    found = check_campaign(demo_file)
    assert not found.sound
    kept = rescue_campaign(demo_file, tmp_path / "r.bruiser")
    assert kept.kept["finding"] > 200
    assert check_campaign(tmp_path / "r.bruiser").sound


def test_what_is_no_campaign_is_not_rescued(tmp_path):
    path = tmp_path / "x.bruiser"
    path.write_text("no")
    with pytest.raises(Damaged):
        rescue_campaign(path, tmp_path / "r.bruiser")
    assert not (tmp_path / "r.bruiser").exists()


def test_a_row_set_aside_is_said_in_one_line():
    row = SetAside(table="lot", row="l1", field="diameter_m", why="“-1” is too small.")
    assert str(row) == "table lot, row l1, field diameter_m: “-1” is too small."
