"""Random commands with undo and redo, over every command there is: what was seen comes back."""

import random
import tempfile
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import HealthCheck, Phase, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, precondition, rule

import bruiser.workshop.guide.publishing
from bruiser.core.errors import BruiserError, Refused
from bruiser.core.records.bench_book import Fixture, RoomDay
from bruiser.store import campaigns
from bruiser.workshop.bench.recording import record_by_hand, record_from_file
from bruiser.workshop.desk import brief_commands, knot_commands
from bruiser.workshop.desk import lot_commands as lots
from bruiser.workshop.desk.knot_entry import archive
from bruiser.workshop.findings import photos as photo_commands
from bruiser.workshop.findings.history import history
from bruiser.workshop.findings.tracing import (
    analyses_of,
)
from bruiser.workshop.groups.gathering import gather
from bruiser.workshop.guide.book import read_guide_book
from bruiser.workshop.logbook import commands
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.workshop import create_workshop
from bruiser.workshop.plan import bench_entry
from bruiser.workshop.results.lot_results import lot_results
from tests.alike import assert_alike, whole
from tests.build import ROW, SPECIMEN, Ticking
from tests.servers import home  # noqa: F401  (on a file and on a server)
from tests.workshop.logbook.deeds import Deeds, deed_of, every_command


def answers(workshop):
    """What every query answers, as one text: not the rows, nor the record of what was undone."""
    logbook = whole(workshop)
    traces = [analyses_of(workshop, e.pull.id) for e in logbook.entries if e.pull is not None]
    book = read_guide_book(workshop)
    state = [(e.specimen.code, logbook.state(e), e.window, e.sheet) for e in logbook.entries]
    pictures = [
        photo_commands.read_picture(workshop, p.id) for e in logbook.entries for p in e.photos
    ]
    return repr((workshop.campaign, logbook, traces, book, gather(logbook), state, pictures))


COMMANDS = sorted(every_command(), key=lambda kind: kind.__name__)


class Undoing(RuleBasedStateMachine):
    def __init__(self):
        super().__init__()
        self.folder = tempfile.TemporaryDirectory()
        ticking = Ticking()
        self.w = create_workshop(
            Path(self.folder.name, "a.bruiser"), ROW, now=ticking.now, new_id=ticking.new_id
        )
        self.seen: list[str | None] = []

    def teardown(self):
        self.w.close()
        self.folder.cleanup()

    @initialize(seed=st.integers(0, 2**32))
    def begin(self, seed):
        """Some stock, knots and pulls to work on."""
        rng = random.Random(seed)
        for kind in (
            lots.AddLot,
            lots.ReceiveHank,
            knot_commands.AddKnot,
            *[commands.PlanSpecimen] * 3,
        ):
            self.w.do(Deeds(self.w, rng).make(kind))
        self._pull(2)
        self.seen = [None] * len(self.w._done)

    def _pull(self, count):
        rows = "\n".join(f"{n / 10},{n * 20 if n < 200 else 0},{n}" for n in range(260))
        path = Path(self.folder.name, "logger.csv")
        path.write_text("time_s,load_N,travel_mm\n" + rows)
        for entry in read_logbook(self.w).at(Stage.PLANNED)[:count]:
            record_from_file(self.w, entry.specimen, path, rate_m_s=0.008, capacity_n=2e4)

    @rule(
        deeds=st.lists(
            st.tuples(st.sampled_from(COMMANDS), st.integers(0, 2**32)), min_size=1, max_size=6
        )
    )
    def do(self, deeds):
        for kind, seed in deeds:
            command = Deeds(self.w, random.Random(seed)).make(kind)
            if command is not None:
                self._do(command)
        assert_alike(self.w)

    def _do(self, command):
        before = answers(self.w)
        try:
            self.w.do(command)
        except BruiserError:
            assert answers(self.w) == before
            return
        if command.undoable:
            self.seen.append(before)
        else:
            self.seen = [None] * len(self.seen)

    @rule()
    def pull_the_next(self):
        """No command: what was seen before it cannot come back whole, but nothing gets stuck."""
        self._pull(1)
        self.seen = [None] * len(self.seen)

    @precondition(lambda self: self.seen)
    @rule()
    def undo(self):
        before, expected = answers(self.w), self.seen.pop()
        depth = len(self.w._done)
        try:
            self.w.undo()
        except Refused:
            assert expected is None
            assert answers(self.w) == before
        else:
            assert expected is None or answers(self.w) == expected
        assert len(self.w._done) == depth - 1 == len(self.seen)

    @precondition(lambda self: self.seen)
    @rule()
    def undo_and_redo(self):
        before, expected = answers(self.w), self.seen[-1]
        try:
            self.w.undo()
        except Refused:
            assert expected is None
            self.seen.pop()
        else:
            self.w.redo()
        assert answers(self.w) == before
        assert_alike(self.w)
        for entry in read_logbook(self.w).entries:
            history(self.w, entry)

    @precondition(lambda self: len(self.seen) > 3)
    @rule()
    def undo_all_and_redo_all(self):
        before, first = answers(self.w) + rated(self.w), self.seen[0]
        while self.w.undo_title is not None:
            try:
                self.w.undo()
            except Refused:
                assert None in self.seen
        if None not in self.seen:
            assert answers(self.w) == first
            while self.w.redo():
                pass
            assert answers(self.w) + rated(self.w) == before
        else:
            while self.w.redo():
                pass
            self.seen = [None] * len(self.w._done)


def rated(workshop):
    logbook = read_logbook(workshop)
    inspected = {e.specimen.lot.id for e in logbook.at(Stage.INSPECTED)}
    return repr([lot_results(logbook, lot) for lot in logbook.lots if lot.id in inspected])


def machine(examples, steps):
    case = Undoing.TestCase
    case.settings = settings(
        max_examples=examples,
        stateful_step_count=steps,
        suppress_health_check=list(HealthCheck),
        phases=(Phase.generate,),
    )
    return case("runTest")


@pytest.mark.long
def test_undo_means_back():
    machine(4, 25).runTest()


@pytest.mark.slow
def test_undo_means_back_over_eight_long_runs():
    machine(8, 300).runTest()


def test_every_command_takes_part():
    assert bruiser.workshop.guide.publishing
    missing = [k.__name__ for k in every_command() if not hasattr(Deeds, deed_of(k))]
    assert missing == []


def test_a_correction_taken_back_leaves_the_first_finding(workshop):
    entry = read_logbook(workshop).at(Stage.INSPECTED)[0]
    other = replace(entry.finding, id="new", peak_load_n=1.0, supersedes=entry.finding.id)
    workshop.do(commands.AcceptFinding(other))
    workshop.undo()
    assert read_logbook(workshop).by_pull[entry.pull.id].finding == entry.finding


def test_what_rests_on_a_step_refuses_its_undo_and_the_one_before_it_is_next(stocked):
    fixture = Fixture(
        id="f", kind="pin", name="pin", material="steel", finish="smooth", diameter_m=0.012
    )
    stocked.do(bench_entry.AddFixture(fixture))
    stocked.do(commands.PlanSpecimen(replace(SPECIMEN, id="s9", code="S-009", fixture=fixture)))
    record_by_hand(stocked, read_logbook(stocked).entries[-1].specimen, 0.008, 2e4)
    with pytest.raises(Refused, match="needed by what was stored since: 1 pull") as refused:
        stocked.undo()
    assert refused.value.remedy == "It stands."
    with pytest.raises(Refused, match="1 specimen"):
        stocked.undo()
    assert len(read_logbook(stocked).entries) == 2
    with pytest.raises(Refused, match="1 pull"):
        stocked.do(commands.DropSpecimen(read_logbook(stocked).entries[-1].specimen))


def test_archiving_under_another_trade_keeps_the_stored_name(stocked):
    stocked.do(brief_commands.EditCampaign(replace(stocked.campaign, trade="sailing")))
    (shown,) = read_logbook(stocked).knots
    archive(stocked, shown)
    with stocked.file.reading() as connection:
        (stored,) = campaigns.load_knots(connection)
    assert (stored.name, stored.archived) == ("Bowline", True)


def test_what_is_stored_counts_as_stored_though_it_cannot_be_shown(stocked):
    told = []

    def broken(_changes):
        raise ZeroDivisionError

    stocked.listen(broken)
    stocked.on_not_shown = told.append
    stocked.do(bench_entry.NoteRoom(RoomDay("2026-02-01", 18.0, 0.5)))
    assert [type(e) for e in told] == [ZeroDivisionError]
    assert stocked.undo_title == "note the room"
    stocked.undo()
    assert read_logbook(stocked).bench_book.days == ()
