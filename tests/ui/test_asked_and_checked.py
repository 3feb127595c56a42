"""Criteria as Results says them, and the queue as the bench book judges it."""

import re

import pytest

from bruiser.core.planning.bench_checks import CheckVerdict, Say, worst
from bruiser.ui.stations.plan.bench_presenter import BenchPresenter
from bruiser.ui.stations.results.presenter import ResultsPresenter
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.live import read_logbook
from bruiser.workshop.plan.bench_queue import check_queue

SAY = Say(lambda x: f"{x:.0f} N", lambda x: f"{1000 * x:.0f} mm")


@pytest.fixture
def results(workshop, tasks, qtbot):
    presenter = ResultsPresenter(workshop, tasks)
    presenter.take_up(read_logbook(workshop))

    def of(name):
        lots = {lot.name: lot.id for lot in presenter.logbook.lots}
        presenter.show_lot(lots[name])
        qtbot.waitUntil(lambda: not tasks.busy)
        return presenter

    return of


def asked(presenter):
    return [line for line in presenter.sheet().lines if "Asked:" in line.text]


def test_every_verdict_stands_with_its_pulls(results):
    presenter = results("R8")
    first, second = asked(presenter)
    assert first.text.startswith("Asked: Holds 60 % of baseline or more, in all of 4 pulls.")
    assert second.text.startswith("Asked: Breaks at the test knot at 55 %")
    codes = {e.specimen.code for e in presenter.logbook.entries}
    for line in (first, second):
        said = re.findall(r"S-\d+", presenter.sheet().behind[line.behind].heading)
        assert said
        assert set(said) <= codes
        for word in ("passed", "failed", "cannot say"):
            told = sum(int(n) for n in re.findall(rf"(\d+) {word}", line.text))
            listed = re.findall(rf"{word} ([^;\n]+)", presenter.sheet().behind[line.behind].heading)
            assert told == sum(len(part.split(", ")) for part in listed)


def test_a_changed_wording_is_told_in_another_tone(results):
    presenter = results("R8")
    first, second = asked(presenter)
    assert (first.tone, second.tone) == ("ink", "ochre")
    assert "Written after 2 of these pulls." in second.text
    assert "it was: breaks at the test knot at 55 % of baseline or more, in 2 of 4" in second.text


def test_a_lot_that_no_criterion_covers_has_nothing_to_say(results):
    assert asked(results("T6")) == []
    assert asked(results("R8")) != []


def test_the_queue_is_checked_kind_by_kind_worst_first(workshop):
    logbook = read_logbook(workshop)
    (bench,) = logbook.bench_book.benches
    groups = check_queue(logbook, bench, SAY, bench.estop_checked_on)
    waiting = [e.specimen.code for e in logbook.at(Stage.PLANNED)]
    told = re.findall(r"S-\d+", " ".join(g.about for g in groups))
    assert sorted(told) == sorted(waiting)
    order = [list(CheckVerdict).index(worst(list(g.checks))) for g in groups]
    assert order == sorted(order, reverse=True)
    for group in groups:
        ranks = [list(CheckVerdict).index(c.verdict) for c in group.checks]
        assert ranks == sorted(ranks, reverse=True)


def test_without_a_bench_the_book_asks_for_one(workshop, tasks, qtbot):
    presenter = BenchPresenter(workshop, tasks)
    presenter.take_up(read_logbook(workshop))
    qtbot.waitUntil(lambda: not tasks.busy)
    assert presenter.verdict()[0] is CheckVerdict.CAUTION
    presenter.drop()
    presenter.take_up(read_logbook(workshop))
    verdict, words = presenter.verdict()
    assert verdict is CheckVerdict.CAUTION
    assert "Write a bench into the book" in words
    assert presenter.benches() == [("", "a new bench")]
    assert presenter.texts() == {}
