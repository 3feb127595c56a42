from dataclasses import replace

import pytest

from bruiser.core.errors import Damaged, Refused, StoreError
from bruiser.workshop.desk.knot_commands import AddKnot
from bruiser.workshop.desk.lot_commands import AddLot
from bruiser.workshop.logbook.commands import Changes, DropSpecimen, PlanSpecimen
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import create_workshop, open_workshop
from tests.build import KNOT, LOT, ROW, SPECIMEN
from tests.servers import home  # noqa: F401  (on a file and on a server)


def filled(workshop):
    for command in (AddLot(LOT), AddKnot(KNOT), PlanSpecimen(SPECIMEN)):
        workshop.do(command)
    return workshop


def test_what_is_entered_reads_back_unchanged(fresh):
    logbook = read_logbook(filled(fresh))
    assert (logbook.lots, logbook.knots) == ((LOT,), (KNOT,))
    assert logbook.entries[0].specimen == SPECIMEN
    assert logbook.entries[0].stage is Stage.PLANNED
    assert logbook.next_to_pull().specimen == SPECIMEN
    assert logbook.next_to_inspect() is None
    assert fresh.campaign == ROW


def test_planning_is_undone_and_done_again(fresh):
    filled(fresh)
    assert fresh.undo_title == "plan the specimen"
    fresh.undo()
    assert read_logbook(fresh).entries == ()
    assert fresh.redo_title == "plan the specimen"
    fresh.redo()
    assert read_logbook(fresh).entries[0].specimen == SPECIMEN
    fresh.do(DropSpecimen(SPECIMEN))
    assert read_logbook(fresh).entries == ()
    fresh.undo()
    assert len(read_logbook(fresh).entries) == 1


def test_a_new_deed_ends_what_could_be_redone(fresh):
    filled(fresh)
    fresh.undo()
    fresh.do(PlanSpecimen(replace(SPECIMEN, id="s2", code="S-002")))
    assert fresh.redo() is None
    assert fresh.redo_title is None


def test_listeners_hear_what_changed(fresh):
    heard: list[Changes] = []
    fresh.listen(heard.append)
    filled(fresh)
    assert [sorted(c.tables) for c in heard] == [["lot"], ["knot"], ["specimen"]]
    assert heard[-1].ids == ("s1",)


def test_a_refused_deed_stores_nothing_and_is_not_remembered(fresh):
    filled(fresh)
    twin = replace(SPECIMEN, id="s2")
    with pytest.raises(StoreError, match=r"UNIQUE|unique"):
        fresh.do(PlanSpecimen(twin))
    assert len(read_logbook(fresh).entries) == 1
    fresh.undo()
    assert read_logbook(fresh).entries == ()


def test_a_pulled_specimen_cannot_be_dropped(workshop):
    pulled = next(e for e in read_logbook(workshop).entries if e.pull is not None)
    with pytest.raises(Refused, match="1 pull"):
        workshop.do(DropSpecimen(pulled.specimen))
    assert read_logbook(workshop).by_pull[pulled.pull.id].finding == pulled.finding


def test_a_file_without_its_campaign_row_is_closed_again(tmp_path):
    from bruiser.store.opening import create_campaign

    path = tmp_path / "bare.bruiser"
    create_campaign(path).close()
    with pytest.raises(Damaged, match="no campaign"):
        open_workshop(path)
    create_workshop(tmp_path / "other.bruiser", ROW).close()


def test_siblings_share_lot_and_knots(workshop):
    logbook = read_logbook(workshop)
    one = next(e for e in logbook.at(Stage.INSPECTED) if e.specimen.knot_b is not None)
    siblings = logbook.siblings(one.specimen)
    assert one in siblings
    assert {(e.specimen.lot, e.specimen.knot_a, e.specimen.knot_b) for e in siblings} == {
        (one.specimen.lot, one.specimen.knot_a, one.specimen.knot_b)
    }
