"""A campaign read whole, and whether the one that is asked by queries answers the same."""

from bruiser.core.records.preparation import PrepStep
from bruiser.core.records.records import Role
from bruiser.store.lines import LineOrder, LineQuery
from bruiser.store.progress import wrong_progress, wrong_tally
from bruiser.store.questions import EntryQuery
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.logbook.whole import load_logbook

PULLED = (Stage.PULLED, Stage.INSPECTED, Stage.VOID)


def whole(workshop):
    """Everything that is in an open campaign now."""
    with workshop.file.reading() as connection:
        return load_logbook(connection, workshop.campaign.trade)


def queries(book):
    """Questions about the specimens that are there."""
    lots = [lot.id for lot in book.lots]
    yield from (EntryQuery(stages=(stage,)) for stage in Stage)
    yield from (EntryQuery(lot_ids=(lot,)) for lot in lots)
    yield EntryQuery(stages=PULLED, lot_ids=tuple(lots[:2]))
    yield from (EntryQuery(lot_ids=tuple(lots[:1]), role=role) for role in Role)
    yield from (EntryQuery(knot_id=knot.id) for knot in book.knots)
    yield EntryQuery(methods=("ramp to failure", "cyclic load"))
    yield EntryQuery(with_trial=True)
    yield EntryQuery(noted="block")
    yield EntryQuery(stages=(Stage.PLANNED,), noted="block")
    yield from (EntryQuery(stages=(Stage.PLANNED,), step=step) for step in PrepStep)


def list_queries(book):
    """Ways to list specimens."""
    lot_id = book.lots[0].id if book.lots else ""
    for n, order in enumerate(LineOrder):
        yield LineQuery(order=order, falling=n % 2 == 0, lot_id=lot_id if n % 3 == 0 else "")
    yield LineQuery(stages=(Stage.PULLED, Stage.RUNNING))
    yield LineQuery(stages=(Stage.INSPECTED,), gave="broke", order=LineOrder.BENCH)
    for who in book.technicians():
        yield LineQuery(technician=who, order=LineOrder.PEAK)


def kinds_of_answers(book):
    """What each kind of question is answered with, by the question."""
    lots, knots = [lot.id for lot in book.lots], [knot.id for knot in book.knots]
    yield "every", tuple(book.every())
    for asked in queries(book):
        yield asked, book.find(asked)
        yield (asked, "last"), book.find(asked, last=3)
    yield "lines", book.lines
    for asked in list_queries(book):
        ids = book.line_ids(asked)
        yield asked, ids
    page = book.line_ids(LineQuery())[-7:]
    yield "page", book.lines_of(page)
    yield "queued", book.queued
    yield "waiting", book.waiting
    yield "unsettled", book.unsettled
    yield "guide", book.guide
    yield "trials", book.trial_rows()
    yield "data", sorted(book.data_lines())
    yield "newest", {line.specimen_id for line in book.newest_found(4)}
    yield "tally", {r for r in book.tally.rows if r.count}
    yield "simulated", book.simulated
    yield "to replace", book.to_replace()
    yield "codes", dict(book.codes())
    yield "last place", (book.last_place(), book.last_place(pulled=True), book.last_number())
    yield "times", {step: sorted(times) for step, times in book.recorded_times().items()}
    yield "kinds", book.kinds(lots)
    yield "pairs", book.pulled_pairs()
    yield "ledger", book.ledger([hank.id for hank in book.stock.hanks])
    yield "left", {hank.id: round(book.stock.left_m(hank.id), 9) for hank in book.stock.hanks}
    yield "who", (book.instruments(), book.technicians())
    for stage in (None, *Stage):
        yield (
            f"pulls {stage}",
            (
                book.pulls_of((), (), stage=stage),
                book.pulls_of(lots[:1], (), stage=stage),
                book.pulls_of((), knots[:1], stage=stage),
                book.pulls_of(lots, knots, before="2026-09-20", stage=stage),
            ),
        )
    yield "next", (book.next_to_pull(), book.next_to_inspect())
    taken = [q.specimen_id for q in book.queued[:2]]
    for now in ("", "2026-09-20T08:00:00+00:00", "2030-01-01T00:00:00+00:00"):
        yield f"next at {now}", book.next_to_pull(now, taken)


def assert_alike(workshop):
    """Ask the file and everything read from it the same; returns what was read."""
    live, known = read_logbook(workshop), whole(workshop)
    for (asked, answer), (_, right) in zip(
        kinds_of_answers(live), kinds_of_answers(known), strict=True
    ):
        assert answer == right, asked
    for entry in known.entries:
        s = entry.specimen
        assert live.entry(s.id) == entry
        assert live.was_replaced(s.id) == known.was_replaced(s.id)
        assert live.state(entry) == known.state(entry)
        if entry.pull is not None:
            assert live.by_pull[entry.pull.id] == entry
    with workshop.file.reading() as connection:
        assert not wrong_progress(connection)
        assert not wrong_tally(connection)
    return known
