"""The logbook asked by queries answers what one read whole does, and notices what others change."""

from dataclasses import replace

import pytest

from bruiser.core.records.preparation import PrepStep
from bruiser.core.records.stock import Hank, HankKind, StockEntry, StockMove
from bruiser.store.guide_schema import metadata
from bruiser.store.progress import BESIDE, WHOSE, changed_since, newest_revision, settle_all
from bruiser.workshop.desk import lot_entry
from bruiser.workshop.desk.lot_commands import EditLot, ReceiveHank
from bruiser.workshop.findings.excluding import exclude_pull
from bruiser.workshop.findings.inspecting import accept_draft, draft_of
from bruiser.workshop.logbook import followed, live
from bruiser.workshop.logbook.commands import DropSpecimen, MoveInQueue, PlanSpecimen
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import open_workshop
from bruiser.workshop.plan.queueing import record_step
from tests.alike import assert_alike, whole
from tests.servers import home_daily_on_a_file  # noqa: F401  (on a server in full runs)


@pytest.fixture
def shop(usual_place):
    opened = open_workshop(usual_place)
    yield opened
    opened.close()


def corrected(shop, entry, note):
    draft = draft_of(entry, shop.units)
    draft.note, draft.correction = note, "looked at once more"
    assert not accept_draft(shop, entry, draft)


def inspected_rope(book):
    return next(e for e in book.at(Stage.INSPECTED) if e.specimen.knot_a is None)


def test_the_usual_campaign_answers_alike(shop):
    assert assert_alike(shop).entries


def test_the_demo_answers_alike(shipped_demo):
    opened = open_workshop(shipped_demo, read_only=True)
    assert len(assert_alike(opened).entries) > 300
    opened.close()


@pytest.mark.slow
def test_with_little_room_the_answers_are_the_same(shop, monkeypatch):
    monkeypatch.setattr(live, "ROOM", 5)
    monkeypatch.setattr(live, "AT_ONCE", 3)
    assert_alike(shop)
    assert len(shop.reader._kept) <= 5


def test_only_what_was_touched_is_read_again(shop, monkeypatch):
    book = read_logbook(shop)
    every = book.entries
    read, load = [], live.load_entries

    def loaded(connection, books, of=None):
        read.extend(of)
        return load(connection, books, of)

    monkeypatch.setattr(live, "load_entries", loaded)
    entry = inspected_rope(book)
    corrected(shop, entry, "seen again")
    now = read_logbook(shop)
    assert shop.reader.touched.specimens == {entry.specimen.id}
    assert len(now.entries) == len(every)
    assert read == [entry.specimen.id]
    assert now.entry(entry.specimen.id).finding.note == "seen again"
    assert_alike(shop)


def test_the_queue_stays_as_it_was_read_while_nothing_of_it_changes(shop):
    book = read_logbook(shop)
    corrected(shop, inspected_rope(book), "seen again")
    now = read_logbook(shop)
    assert now.queued is book.queued
    first = now.queued[0]
    record_step(shop, [now.entry(first.specimen_id).specimen], PrepStep.TIED, "TV")
    later = read_logbook(shop)
    assert later.queued == now.queued
    assert later.queued is not now.queued
    assert later.waiting[0].begun


def test_specimens_alike_share_their_kind(shop, usual_place):
    first = read_logbook(shop).at(Stage.PLANNED)[0].specimen
    for n in range(3):
        made = replace(first, id=f"n{n}", code=f"S-99{n}", pair=f"pair {n}", replaces_id=None)
        shop.do(PlanSpecimen(made))
    alike = [w for w in read_logbook(shop).waiting if w.specimen_id in ("n0", "n1", "n2")]
    assert [w.pair for w in alike] == ["pair 0", "pair 1", "pair 2"]
    assert all(w.kind.knot_a == first.knot_a and w.kind.tails == first.tails for w in alike)
    anew = open_workshop(usual_place, read_only=True)
    kinds = [w.kind for w in read_logbook(anew).waiting if w.specimen_id.startswith("n")]
    assert len(kinds) == 3
    assert len({id(kind) for kind in kinds}) == 1
    anew.close()


def test_of_many_that_changed_all_are_read(shop, monkeypatch):
    monkeypatch.setattr(followed, "NAMED", 1)
    assert len(read_logbook(shop).waiting) > 2
    ids = [q.specimen_id for q in read_logbook(shop).queued]
    shop.do(MoveInQueue(tuple((key, 900 - n) for n, key in enumerate(ids))))
    assert_alike(shop)


def test_every_kind_of_change_is_followed(shop):
    book = read_logbook(shop)
    assert book.lines
    waiting = book.at(Stage.PLANNED)
    hank = Hank(
        id="late", lot_id=waiting[0].specimen.lot.stock_id, label="late", kind=HankKind.HANK
    )
    received = StockEntry(
        id="line", hank_id="late", made_at=shop.now(), move=StockMove.RECEIVED, change_m=40.0
    )
    deeds = (
        lambda: corrected(shop, inspected_rope(read_logbook(shop)), "a"),
        lambda: exclude_pull(shop, inspected_rope(read_logbook(shop)), "bent pin"),
        lambda: shop.do(MoveInQueue(((waiting[0].specimen.id, 900),))),
        lambda: shop.do(ReceiveHank(hank, received)),
        lambda: shop.do(PlanSpecimen(replace(waiting[0].specimen, id="new", code="S-999"))),
        lambda: lot_entry.cut(shop, "new", hank.id, 2.0),
        lambda: record_step(shop, [waiting[0].specimen], PrepStep.TIED, "TV"),
        lambda: shop.do(DropSpecimen(waiting[-1].specimen)),
        *[shop.undo] * 7,
        *[shop.redo] * 3,
    )
    for deed in deeds:
        deed()
        assert_alike(shop)


def test_another_window_sees_what_was_written(shop, usual_place):
    other = open_workshop(usual_place, read_only=True)
    before = read_logbook(other)
    entry = inspected_rope(before)
    assert before.lines
    corrected(shop, entry, "by the first window")
    now = read_logbook(other)
    assert now.revision > before.revision
    assert other.reader.touched.specimens == {entry.specimen.id}
    assert now.by_pull[entry.pull.id].finding.note == "by the first window"
    assert assert_alike(other).entries == whole(shop).entries
    other.close()


def test_who_still_looks_at_an_older_revision_leaves_nothing_behind(shop):
    older = read_logbook(shop)
    lot = older.lots[0]
    shop.reader._kept.clear()
    shop.do(EditLot(replace(lot, archived=True)))
    read_logbook(shop)
    assert older.of_lots([lot.id])
    assert not any(e.specimen.lot.id == lot.id for e in shop.reader._kept.values())
    assert all(e.specimen.lot.archived for e in read_logbook(shop).of_lots([lot.id]))
    assert_alike(shop)


def test_nothing_changed_is_no_new_revision(shop):
    with shop.file.reading() as connection:
        known = newest_revision(connection)
        assert not changed_since(connection, known)
    with shop.file.writing():
        pass
    assert read_logbook(shop).revision == known


def test_progress_made_anew_is_the_same(shop):
    rows = "SELECT specimen_id, lot_id, role, method, place, code, stage, pull_id FROM progress"
    with shop.file.writing() as connection:
        kept = set(connection.exec_driver_sql(rows))
        settle_all(connection)
        assert set(connection.exec_driver_sql(rows)) == kept
    assert_alike(shop)


def test_a_lot_renamed_is_renamed_in_every_line(shop):
    book = read_logbook(shop)
    lot = inspected_rope(book).specimen.lot
    assert any(line.lot == lot.name for line in book.lines)
    shop.do(EditLot(replace(lot, name="another name")))
    lines = [line for line in read_logbook(shop).lines if line.lot_id == lot.id]
    assert {line.lot for line in lines} == {"another name"}
    assert_alike(shop)


def test_whatever_is_stored_raises_the_revision_of_its_table():
    """All but samples, which come while a pull runs, what an undo took back, and who did it."""
    beside = {"trace_chunk", "taken_back", "act", "act_row", "hold"}
    assert {*WHOSE, *BESIDE} == {*metadata.tables} - beside
