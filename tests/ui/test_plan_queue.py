"""The plan's states and queue in the window: ticks, numbers, steps recorded, order changed."""

import pytest
from PyQt6.QtCore import Qt

from bruiser.app.window import MainWindow
from bruiser.core.records.methods import METHOD_LIST, METHODS, STRAIGHT
from bruiser.ui.kit.rows_table import RowsTable
from bruiser.ui.stations.plan.view import PANELS
from bruiser.workshop.logbook.entries import Stage
from bruiser.workshop.logbook.workshop import open_workshop


@pytest.fixture
def window(dressed, qtbot, usual_file):
    made = MainWindow(open_workshop(usual_file))
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    made.go_to("plan")
    yield made
    made.close()


def tick(ticks, *names):
    rows = [ticks.list.item(n) for n in range(ticks.list.count())]
    for name in names:
        next(r for r in rows if r.text().startswith(name)).setCheckState(Qt.CheckState.Checked)


def settle(window, qtbot):
    qtbot.waitUntil(lambda: not window.tasks.busy, timeout=20_000)


def test_every_method_but_the_straight_pull_can_be_ticked_with_its_numbers(window, qtbot):
    page = window.pages["plan"].matrix
    page.picks.pick("how")
    states = page.states
    tick(page.lots, "T6")
    tick(page.knots, "Bowline", "Clove hitch")
    shown = [states.methods.list.item(n).text() for n in range(states.methods.list.count())]
    assert shown == [m for m in METHODS if m != STRAIGHT]
    tick(states.methods, *shown)
    for method in METHOD_LIST:
        if not method.parameters:
            continue
        states.of.pick(method.key)
        fields = [f for f in states.numbers if f.isVisible()]
        assert [f.label.words for f in fields] == [p.label for p in method.parameters]
        assert [f.entry.accessibleName() for f in fields] == [p.label for p in method.parameters]
        assert states.ends_when.words == f"Ends when {method.ends_when}."
    assert "Over an edge: tick its edge" in page.short.words
    settle(window, qtbot)


def test_a_method_without_its_fixture_is_not_queued(window, qtbot):
    page = window.pages["plan"].matrix
    tick(page.lots, "T6")
    tick(page.knots, "Bowline")
    page.picks.pick("how")
    tick(page.states.methods, "over an edge")
    assert page.short.words.startswith("Over an edge: tick its edge")
    assert not page.queue.isEnabled()
    settle(window, qtbot)


def test_numbers_that_contradict_are_said_at_their_field(window):
    page = window.pages["plan"].matrix
    page.picks.pick("how")
    states = page.states
    tick(states.methods, "cycles")
    states.of.pick("cycles")
    for text, wrong in (("40", "below the upper level"), ("x", "number"), ("10", "")):
        states.numbers[0].fill(text)
        states._on_numbers()
        assert wrong in states.numbers[0].complaint.lower() or not wrong
    assert window.plan.draft.methods[0].value("low") == 0.10


def test_cells_that_make_no_sense_are_not_there(window):
    page = window.pages["plan"].matrix
    tick(page.lots, "T6", "R8")
    tick(page.knots, "Bowline", "Sheet bend")
    page.picks.pick("how")
    tick(page.states.lots_b, "R8")
    names, rows = window.plan.matrix()
    assert names == ("R8", "T6")
    unlike = next(r for r in rows if "to R8" in r.name)
    assert [bool(c.key) for c in unlike.cells] == [False, True]
    assert not any("to R8" in r.name for r in rows if r.name.startswith("Bowline"))
    figure = page.matrix.figure
    assert all(spot.key for spot in figure.spots)


def test_the_queue_is_selected_prepared_dropped_and_shuffled(window, qtbot):
    panels = window.pages["plan"].panels
    assert list(PANELS)[1] == "queue"
    panels.pick("queue")
    panel = window.pages["plan"].queue
    desk = window.plan.queue_desk
    assert not panel.drop.isEnabled()
    first, second = desk.rows().keys[:2]
    panel.table.selectRow(0)
    assert panel.table.keys == (first,)
    said = []
    desk.failed.connect(said.append)
    panel.steps[next(iter(panel.steps))].click()
    assert "Say who" in str(said[0])
    panel.by.fill("TV")
    panel.steps[next(iter(panel.steps))].click()
    assert desk.rows()[0][1][3] == "tied"
    assert panel.table.keys == (first,)
    panel.drop.click()
    assert "was begun" in str(said[1])
    panel.table.selectRow(1)
    panel.drop.click()
    assert second not in list(desk.rows().keys)
    window.undo()
    assert second in list(desk.rows().keys)
    assert "S-056 void, not replaced" in panel.void.words
    panel.replace.click()
    assert len(window.logbook.at(Stage.PLANNED)) == 6
    assert not panel.void.isVisible()
    panel.seed.fill("4")
    before = list(desk.rows().keys)
    panel.shuffle.click()
    assert sorted(key for key, _ in desk.rows()) == sorted(before)
    panel.seed.fill("x")
    panel.shuffle.click()
    settle(window, qtbot)


def test_two_thousand_rows_scroll_without_being_built(dressed, qtbot):
    table = RowsTable("t", "rows", ("a", "b"), (1, 3))
    qtbot.addWidget(table)
    table.resize(400, 300)
    rows = [(str(n), (f"S-{n}", "Bowline, both ends")) for n in range(2_000)]
    table.show_rows(rows)
    table.show()
    table.selectRow(1_500)
    table.scrollToBottom()
    assert table.keys == ("1500",)
    table.show_rows(rows[1_000:])
    assert table.keys == ("1500",)
    assert table.model().rowCount() == 1_000
    assert table.model().headerData(1, Qt.Orientation.Horizontal) == "b"
    assert table.columnWidth(1) > 2 * table.columnWidth(0)


def test_the_bench_page_says_its_formula_and_the_pull_page_its_energy(window, qtbot):
    window.pages["plan"].panels.pick("bench")
    settle(window, qtbot)
    from bruiser.ui.kit.parts import Words

    formula = window.findChild(Words, "plan.bench.formula")
    assert "sqrt(2 E / m)" in formula.words
    window.go_to("pull")
    rule = window.findChild(Words, "pull.rule")
    assert "When it parts: about" in rule.words
    assert "No distance makes this safe" in rule.words
    assert "Keep-away rule" in rule.words
